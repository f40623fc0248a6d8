"""Installs what is missing: Debian packages, the virtual environment, pinned requirements."""

from __future__ import annotations

import fcntl
import filecmp
import importlib.util
import os
import shutil
import subprocess
import sys
import sysconfig
from collections.abc import Callable
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, VENV, SetupError, say

GROUPS = ("core", "web", "test")


def _program(*names: str) -> Callable[[], bool]:
    path = os.environ.get("PATH", "") + ":/usr/sbin:/usr/local/sbin"
    return lambda: any(shutil.which(name, path=path) for name in names)


def _header() -> bool:
    return Path(sysconfig.get_paths()["include"], "Python.h").exists()


def _client_library() -> bool:
    if not shutil.which("pkg-config"):
        return False
    found = subprocess.run(["pkg-config", "--exists", "libmariadb"], check=False)
    return found.returncode == 0


# Debian package and how to see that it is there, by requirement group.
PACKAGES: dict[str, dict[str, Callable[[], bool]]] = {
    "core": {"python3-venv": lambda: importlib.util.find_spec("ensurepip") is not None},
    "web": {
        "mariadb-server-core": _program("mariadbd"),
        "mariadb-client-core": _program("my_print_defaults"),  # the set-up script of the server calls it
        "pkg-config": _program("pkg-config"),
        "libmariadb-dev": _client_library,
        "gcc": _program("gcc"),
        "python3-dev": _header,
    },
    "test": {"chromium-headless-shell": _program("chromium-headless-shell")},
}


def prepare(upto: str) -> None:
    """Makes everything ready for a group: "core" for files, "web" to serve, "test" to test."""
    if sys.version_info < (3, 11):  # noqa: UP036 (the system Python may be older than the project's)
        raise SetupError(f"Python 3.11 or newer is needed, this is {sys.version.split()[0]}.")
    groups = GROUPS[: GROUPS.index(upto) + 1]
    VAR.mkdir(exist_ok=True)
    with (VAR / "install.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        _debian(groups)
        _environment()
        _requirements([group for group in groups if not _stands(group)])


def _debian(groups: tuple[str, ...]) -> None:
    missing = [name for group in groups for name, there in PACKAGES[group].items() if not there()]
    if not missing:
        return
    if os.geteuid() != 0 or not shutil.which("apt-get"):
        raise SetupError(
            "These Debian packages are missing: " + " ".join(missing) + "\n"
            "Install them as root, then run this again:  apt-get install " + " ".join(missing)
        )
    say("Installing Debian packages: " + " ".join(missing))
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    log = VAR / "apt.log"
    with log.open("wb") as out:
        for command in (
            ["apt-get", "update"],
            ["apt-get", "install", "-y", "--no-install-recommends", *missing],
        ):
            if subprocess.run(command, stdout=out, stderr=out, env=environment, check=False).returncode:
                tail = log.read_text(errors="replace").splitlines()[-12:]
                raise SetupError("Debian packages could not be installed:\n" + "\n".join(tail))


def _environment() -> None:
    if PYTHON.exists() and subprocess.run([PYTHON, "-c", ""], check=False).returncode == 0:
        return
    say("Making the virtual environment")
    shutil.rmtree(VENV, ignore_errors=True)
    subprocess.run([sys.executable, "-m", "venv", VENV], check=True)


def _wanted(group: str) -> Path:
    return ROOT / "requirements" / f"{group}.txt"


def _stamp(group: str) -> Path:
    return VENV / f"installed-{group}.txt"


def _stands(group: str) -> bool:
    return _stamp(group).exists() and filecmp.cmp(_wanted(group), _stamp(group), shallow=False)


def _requirements(groups: list[str]) -> None:
    """Installs groups at once. pip takes ten times as long, but knows settings of a machine that uv does not read."""
    if not groups:
        return
    names = [line.split("==")[0] for group in groups for line in _wanted(group).read_text().split()]
    say(f"Installing {', '.join(names)}")
    asked: list[str | Path] = [part for group in groups for part in ("-r", _wanted(group))]
    pip: list[str | Path] = [PYTHON, "-m", "pip", "install", "-q", "--disable-pip-version-check"]
    uv: list[str | Path] = [PYTHON, "-m", "uv", "pip", "install", "-q", "--compile-bytecode", "--python", PYTHON]
    quick = not _fault([*pip, "-r", _wanted("installer")]) and not _fault([*uv, *asked])
    if not quick and (fault := _fault([*pip, *asked])):
        raise SetupError("Python packages could not be installed:\n" + fault[-2000:])
    for group in groups:
        shutil.copyfile(_wanted(group), _stamp(group))


def _fault(command: list[str | Path]) -> str:
    """What a command says as it fails; nothing if it does not."""
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    return (done.stderr or "It says nothing.") if done.returncode else ""
