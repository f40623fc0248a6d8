"""Start and stop: the database and the web server, brought up and down together."""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, SetupError, say
from velamen.ops.database import PrivateDatabase, load_secrets
from velamen.ops.install import prepare
from velamen.ops.kept import Kept
from velamen.ops.logs import turn_over
from velamen.ops.process import end, listening
from velamen.ops.web_servers import WebServers

LOGS = (VAR / "web.log", VAR / "database" / "server.log")
PID = VAR / "run" / "start.pid"
ADDRESS = VAR / "run" / "database"  # of the database that runs, for a backup
PATIENCE = 5.0  # seconds for a port to become free


class _Ended(Exception):
    """Somebody asked for the end."""


def start() -> int:
    """Sets everything up, serves until interrupted, then ends both servers."""
    port = wanted_port()
    prepare("web")
    PID.parent.mkdir(parents=True, exist_ok=True)
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _raise_ended)
    database: PrivateDatabase | None = None
    served: WebServers | None = None
    kept: list[Kept] = []
    with only_one():
        try:
            if not _free(port):
                raise SetupError(f"Port {port} is taken: set VELAMEN_PORT to another one.")
            made = environment(port)
            if "VELAMEN_DATABASE_URL" not in os.environ:
                say("Starting the database")
                database = PrivateDatabase(VAR / "database")
                kept.append(Kept("database", database.start))
                made["VELAMEN_DATABASE_URL"] = database.url
            _tell_address(made["VELAMEN_DATABASE_URL"])
            prepare_shop(made)
            say("Starting the web servers")
            served = WebServers(port, made)
            kept += served.begin()
            say(f"\nVelamen runs at http://127.0.0.1:{port}")
            say(f"Sign in as  maren  with the password  {made['VELAMEN_DEMO_PASSWORD']}")
            say("Ctrl-C ends it.")
            while True:
                time.sleep(0.25)
                for one in kept:
                    one.look()
                for log in LOGS:
                    turn_over(log)
        except _Ended:
            say("\nEnding")
            return 0
        finally:
            for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
                signal.signal(number, signal.SIG_IGN)
            if served is not None:
                served.end()
            if database is not None:
                database.stop()
            ADDRESS.unlink(missing_ok=True)
            PID.unlink(missing_ok=True)


def _tell_address(address: str) -> None:
    ADDRESS.unlink(missing_ok=True)
    ADDRESS.touch(mode=0o600)
    ADDRESS.write_text(address)


def wanted_port() -> int:
    """The port to serve on, as the environment says."""
    text = os.environ.get("VELAMEN_PORT", "8000")
    if not (text.isascii() and text.isdigit() and 0 < int(text[:6]) < 65536):
        raise SetupError(f"VELAMEN_PORT is {text[:40]!r}: set it to a number from 1 to 65535.")
    return int(text)


def _free(port: int) -> bool:
    """Whether nobody answers on a port; what a server just ended leaves behind has some seconds to go."""
    until = time.monotonic() + PATIENCE
    while listening(port):
        if time.monotonic() > until:
            return False
        time.sleep(0.25)
    return True


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
def only_one() -> Iterator[None]:
    """Nobody else starts or restores meanwhile. Raises SetupError where somebody does already."""
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
