"""Child processes that never outlive their parent, and leftovers of a hard kill."""

from __future__ import annotations

import ctypes
import os
import signal
import socket
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

PR_SET_PDEATHSIG = 1


def spawn(command: list[str], **options: Any) -> subprocess.Popen[bytes]:
    """Starts a child in its own session; the kernel ends it should this process be killed."""
    library = ctypes.CDLL(None, use_errno=True)

    def tie_to_parent() -> None:
        library.prctl(PR_SET_PDEATHSIG, signal.SIGTERM)

    return subprocess.Popen(
        command, start_new_session=True, preexec_fn=tie_to_parent, stdin=subprocess.DEVNULL, **options
    )


def end(pid: int, alive: Callable[[], bool], patience: float = 30.0) -> None:
    """Ends a process gently, then by force."""
    for number in (signal.SIGTERM, signal.SIGKILL):
        try:
            os.kill(pid, number)
        except ProcessLookupError:
            return
        until = time.monotonic() + patience
        while time.monotonic() < until:
            if not alive():
                return
            time.sleep(0.05)


def leftovers(program: str, folder: Path) -> list[int]:
    """Processes of a program whose working folder is `folder`: what a hard kill left behind."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdecimal():
            continue
        try:
            name = (entry / "comm").read_text().strip()
            if name.startswith(program[:15]) and (entry / "cwd").resolve() == folder.resolve():
                found.append(int(entry.name))
        except OSError:
            continue
    return found


def free_port() -> int:
    """A loopback port that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def listening(port: int) -> bool:
    """Whether somebody answers on a loopback port."""
    with socket.socket() as probe:
        probe.settimeout(1.0)
        return probe.connect_ex(("127.0.0.1", port)) == 0
