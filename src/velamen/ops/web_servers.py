"""The web servers: a front that takes requests in, and workers of the application behind it."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from functools import partial
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, SetupError
from velamen.ops.kept import Kept
from velamen.ops.logs import opened
from velamen.ops.process import end, spawn

MOST_WORKERS = 4  # where nothing else is said; each takes 150 to 300 MB
THREADS = "24"  # of a worker: those that wait for another process cost nothing
PATIENCE = 60.0  # seconds for the first answer
LEFT = 35.0  # seconds for answers under way


def wanted_workers() -> int:
    """How many workers the environment asks for, as many as processors otherwise."""
    text = os.environ.get("VELAMEN_WORKERS", "")
    if not text:
        return max(1, min(os.cpu_count() or 1, MOST_WORKERS))
    if not (text.isascii() and text.isdigit() and 0 < int(text[:3]) <= 64):
        raise SetupError(f"VELAMEN_WORKERS is {text[:40]!r}: set it to a number from 1 to 64.")
    return int(text)


class WebServers:
    """The front on a port of loopback, and workers at sockets that only this user reaches."""

    def __init__(self, port: int, made: dict[str, str]) -> None:
        self._port, self._made = port, made
        self._folder = Path(tempfile.mkdtemp(prefix="velamen-"))  # a short path: sockets allow no long ones
        self._sockets = [self._folder / f"{nth}.sock" for nth in range(1, wanted_workers() + 1)]
        self._kept: list[Kept] = []

    def begin(self) -> list[Kept]:
        """Begins all of them, and waits until they answer. Raises SetupError with the end of the log otherwise."""
        first, *others = self._sockets
        self._kept = [Kept("web server", self._front), Kept("worker 1", partial(self._worker, first))]
        self._await(self._answers)
        # The first one answers for all until they are there.
        self._kept += [Kept(f"worker {one.stem}", partial(self._worker, one)) for one in others]
        return self._kept

    def end(self) -> None:
        """Ends the front, then the workers; answers under way are finished."""
        running = [one.process for one in self._kept]
        for process in running:
            end(process.pid, lambda process=process: process.poll() is None, LEFT)  # type: ignore[misc]
        shutil.rmtree(self._folder, ignore_errors=True)

    def _worker(self, socket: Path) -> subprocess.Popen[bytes]:
        return self._spawn(
            "gunicorn", "velamen.web.wsgi", "--bind", f"unix:{socket}", "--umask", "0077",
            "--worker-class", "gthread", "--workers", "1", "--threads", THREADS, "--timeout", "120",
            "--graceful-timeout", "30", "--no-control-socket",
            "--worker-tmp-dir", "/dev/shm" if os.path.isdir("/dev/shm") else "/tmp",
        )  # fmt: skip

    def _front(self) -> subprocess.Popen[bytes]:
        return self._spawn("velamen.front", "--port", str(self._port), *map(str, self._sockets))

    def _spawn(self, *arguments: str) -> subprocess.Popen[bytes]:
        with opened(VAR / "web.log") as log:
            return spawn([str(PYTHON), "-m", *arguments], env=self._made, cwd=ROOT, stdout=log, stderr=log)

    def _answers(self) -> bool:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self._port}/healthz", timeout=5):
                return True
        except (OSError, urllib.error.URLError):
            return False

    def _await(self, ready: Callable[[], bool]) -> None:
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until and all(one.process.poll() is None for one in self._kept):
            if ready():
                return
            time.sleep(0.05)
        self.end()
        tail = (VAR / "web.log").read_text(errors="replace").splitlines()[-15:]
        raise SetupError("The web servers did not start:\n" + "\n".join(tail))
