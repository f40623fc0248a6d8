"""A browser, and a page on which maren of the Ormsel Loft is signed in."""

import os
import shutil

import pytest
from playwright.sync_api import expect, sync_playwright

# Playwright keeps an event loop; the database is only reached from the server's threads.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

expect.set_options(timeout=20_000)  # ms; a slow machine may still be painting after the usual 5 s


@pytest.fixture(scope="session")
def chromium():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
        )
        yield browser
        browser.close()


@pytest.fixture
def page(chromium, live_server, client, maren):
    client.force_login(maren)
    context = chromium.new_context(
        viewport={"width": 1280, "height": 800}, base_url=live_server.url, reduced_motion="reduce"
    )
    context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": live_server.url}])
    page = context.new_page()
    faults = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda line: line.type == "error" and faults.append(line.text))
    page.faults = faults
    yield page
    context.close()
