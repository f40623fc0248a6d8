"""Start and stop: the database and the web server, brought up and down together."""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, SetupError, say
from velamen.ops.database import PrivateDatabase, load_secrets
from velamen.ops.install import prepare
from velamen.ops.process import end, listening, spawn

PID = VAR / "run" / "start.pid"


class _Ended(Exception):
    """Somebody asked for the end."""


def start() -> int:
    """Sets everything up, serves until interrupted, then ends both servers."""
    prepare("web")
    port = int(os.environ.get("VELAMEN_PORT", "8000"))
    PID.parent.mkdir(parents=True, exist_ok=True)
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _raise_ended)
    database: PrivateDatabase | None = None
    server: subprocess.Popen[bytes] | None = None
    with _only_one():
        try:
            if listening(port):
                raise SetupError(f"Port {port} is taken: set VELAMEN_PORT to another one.")
            made = environment(port)
            if "VELAMEN_DATABASE_URL" not in os.environ:
                say("Starting the database")
                database = PrivateDatabase(VAR / "database")
                database.start()
                made["VELAMEN_DATABASE_URL"] = database.url
            prepare_shop(made)
            say("Starting the web server")
            server = serve(port, made)
            say(f"\nVelamen runs at http://127.0.0.1:{port}")
            say(f"Sign in as  maren  with the password  {made['VELAMEN_DEMO_PASSWORD']}")
            say("Ctrl-C ends it.")
            while server.poll() is None and (database is None or database.process.poll() is None):  # type: ignore[union-attr]
                time.sleep(0.25)
            raise SetupError("A server ended by itself; its log is in var/.")
        except _Ended:
            say("\nEnding")
            return 0
        finally:
            for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
                signal.signal(number, signal.SIG_IGN)
            if server is not None:
                running = server
                end(running.pid, lambda: running.poll() is None, 10.0)
            if database is not None:
                database.stop()
            PID.unlink(missing_ok=True)


def stop() -> int:
    """Ends a running start from elsewhere."""
    try:
        pid = int(PID.read_text())
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except (OSError, ValueError):
        say("Velamen is not running.")
        return 0
    if b"velamen.ops" not in command:
        say("Velamen is not running.")
        PID.unlink(missing_ok=True)
        return 0
    end(pid, lambda: PID.exists() and Path(f"/proc/{pid}").exists())
    say("Velamen has ended.")
    return 0


def _raise_ended(*_: object) -> None:
    raise _Ended


@contextlib.contextmanager
def _only_one() -> Iterator[None]:
    with (VAR / "run" / "start.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise SetupError("Velamen is already running here: ./velamen stop ends it.") from None
        PID.write_text(str(os.getpid()))
        yield


def environment(port: int) -> dict[str, str]:
    """What a web server on a port needs to know, its secrets among it."""
    made = load_secrets(VAR / "secrets.json")
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "velamen.web.settings",
        "VELAMEN_SECRET_KEY": made["django"],
        "VELAMEN_DEMO_PASSWORD": made["demo"],
        "VELAMEN_PORT": str(port),
    }


def prepare_shop(made: dict[str, str]) -> None:
    """Migrations, static files and the demo shop. Raises SetupError where they fail."""
    done = subprocess.run([PYTHON, "-m", "velamen.web.prepare"], env=made, cwd=ROOT, check=False)
    if done.returncode:
        raise SetupError("The shop could not be prepared.")


def serve(port: int, made: dict[str, str]) -> subprocess.Popen[bytes]:
    """The web server, once it answers. Raises SetupError with the end of its log where it does not."""
    log = (VAR / "web.log").open("ab")
    server = spawn(
        [
            str(PYTHON), "-m", "gunicorn", "velamen.web.wsgi", "--bind", f"127.0.0.1:{port}",
            "--worker-class", "gthread", "--workers", "1", "--threads", "8", "--timeout", "120",
            "--no-control-socket", "--worker-tmp-dir", "/dev/shm" if os.path.isdir("/dev/shm") else "/tmp",
        ],
        env=made, cwd=ROOT, stdout=log, stderr=log,
    )  # fmt: skip
    until = time.monotonic() + 60
    while time.monotonic() < until and server.poll() is None:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=5):
                return server
        except (OSError, urllib.error.URLError):
            time.sleep(0.05)
    end(server.pid, lambda: server.poll() is None, 5.0)
    tail = (VAR / "web.log").read_text(errors="replace").splitlines()[-15:]
    raise SetupError("The web server did not start:\n" + "\n".join(tail))
