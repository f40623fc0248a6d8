"""A whole shop served from a folder of its own, as the start command does, and somebody who works in it by HTTP."""

from __future__ import annotations

import http.cookiejar
import re
import threading
import time
import urllib.parse
import urllib.request
from http.client import HTTPException

from velamen.ops import web_servers
from velamen.ops.database import PrivateDatabase
from velamen.ops.kept import Kept
from velamen.ops.process import free_port
from velamen.ops.serve import environment, prepare_shop


class Served:
    """Database, workers and front, kept up until it is left."""

    def __init__(self, folder, monkeypatch, workers=1):
        monkeypatch.setattr(web_servers, "VAR", folder)
        monkeypatch.setenv("VELAMEN_WORKERS", str(workers))
        monkeypatch.setenv("VELAMEN_KEPT", str(folder / "kept"))
        folder.chmod(0o755)
        self.database = PrivateDatabase(folder / "database")
        self.port = free_port()

    def __enter__(self):
        self.kept = [Kept("database", self.database.start)]
        self.made = {**environment(self.port), "VELAMEN_DATABASE_URL": self.database.url}
        prepare_shop(self.made)
        self.web = web_servers.WebServers(self.port, self.made)
        self.kept += self.web.begin()
        self.over, self.resting = threading.Event(), False
        self.keeper = threading.Thread(target=self._look, daemon=True)
        self.keeper.start()
        return self

    def _look(self):
        while not self.over.wait(0.05):  # what this thread has begun ends with it
            for one in () if self.resting else self.kept:
                one.look()

    def __exit__(self, *_):
        self.resting = True
        self.web.end()
        self.database.stop()
        self.over.set()
        self.keeper.join(60)

    def person(self):
        return Person(f"http://127.0.0.1:{self.port}", self.made["VELAMEN_DEMO_PASSWORD"])


class Person:
    """Maren, signed in."""

    def __init__(self, address, password):
        self.address, self.cookies = address, http.cookiejar.CookieJar()
        self.open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.cookies)).open
        self.get("/sign-in/")
        self.post("/sign-in/", username="maren", password=password)

    def _read(self, asked):
        try:
            return self.open(asked, timeout=30).read().decode(errors="replace")
        except HTTPException as error:  # cut off in the middle
            raise OSError(str(error)) from None

    def get(self, path):
        return self._read(self.address + path)

    def post(self, path, **fields):
        token = next(one.value for one in self.cookies if one.name == "csrftoken")
        data = urllib.parse.urlencode({**fields, "csrfmiddlewaretoken": token}).encode()
        headers = {"Referer": self.address, "X-CSRFToken": token}
        if path != "/sign-in/":
            headers["HX-Request"] = "true"
        asked = urllib.request.Request(self.address + path, data, headers)
        return self._read(asked)

    def revision(self, page):
        return int(re.search(r'name="revision"[^>]*value="(\d+)"', page)[1])

    def edit(self, job, revision, value):
        """Sets a value; the number of the version that is confirmed."""
        answer = self.post(
            f"/jobs/{job}/pieces/p1/value/", revision=revision, key="cover_width", cover_width=value, piece="p1"
        )
        return self.revision(answer)


def until(holds, seconds=60.0):
    """The first answer that is no error, tried again for as long as servers are begun again."""
    last = time.monotonic() + seconds
    while True:
        try:
            return holds()
        except OSError:
            if time.monotonic() > last:
                raise
            time.sleep(0.1)
