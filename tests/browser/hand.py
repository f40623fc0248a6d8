"""A hand on mouse and keyboard that counts what it does, as practitioners count it."""

from browser.pages import drawn, edited


class Hand:
    """What somebody does on a page: each click, choice, typed field, key and file is one act."""

    def __init__(self, page):
        self.page = page
        self.acts = 0

    def click(self, role, name, exact=True):
        self.acts += 1
        self.page.get_by_role(role, name=name, exact=exact).first.click()

    def open(self, text):
        """A folded part by its words."""
        self.acts += 1
        self.page.locator("summary", has_text=text).first.click()

    def fill(self, label, text, within="body"):
        self.acts += 1
        field = self.page.locator(within).get_by_role("textbox", name=label).first
        field.fill(text)
        field.blur()

    def choose(self, label, value, within="body"):
        self.acts += 1
        self.page.locator(within).get_by_label(label).first.select_option(value)

    def tick(self, label):
        self.acts += 1
        self.page.get_by_label(label).first.check()

    def press(self, key):
        self.acts += 1
        self.page.keyboard.press(key)

    def at(self, x, y, of="#board"):
        """A click so many px off the middle of something."""
        self.acts += 1
        box = self.page.locator(of).bounding_box()
        self.page.mouse.click(box["x"] + box["width"] / 2 + x, box["y"] + box["height"] / 2 + y)

    def begin(self, name, base, artwork=None):
        """A new job, with artwork by name and text."""
        self.page.goto("/")
        self.click("link", "New job")
        self.fill("Name", name)
        self.choose("Sewn on", base)
        if artwork:
            self.acts += 1
            file = {"name": artwork[0], "mimeType": "image/svg+xml", "buffer": artwork[1].encode()}
            self.page.get_by_label("Artwork").set_input_files(file)
        self.click("button", "Begin")
        self.page.wait_for_load_state()

    def bring_in(self):
        self.click("button", "Bring in", exact=False)  # with how many parts
        self.page.wait_for_selector("#board")

    def edit(self, act, *asked):
        """An act on the board, and its answer."""
        with edited(self.page):
            act(*asked)

    def stage(self, name):
        self.page.wait_for_load_state("networkidle")  # what a page still asks for would be broken off
        self.click("link", name, exact=False)

    def build(self):
        self.stage("Build")
        drawn(self.page)

    def take_hoop(self):
        """The hoop that Build offers where the design has outgrown its field."""
        with self.page.expect_navigation():
            self.click("button", "Take the", exact=False)
        drawn(self.page)

    def add(self, ground, count):
        """Something round the design on Build; count: pieces in the stack then."""
        self.open("Add a ground, border or patch")
        with self.page.expect_response(lambda answer: answer.url.endswith("/stack/")):
            self.click("button", ground)
        self.page.locator(".stack-piece").nth(count - 1).wait_for()
        drawn(self.page)
