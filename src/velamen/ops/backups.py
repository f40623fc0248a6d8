"""Backups: written while everything runs, and restored beside the database that stands, which is kept."""

from __future__ import annotations

import os
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, SetupError, say
from velamen.ops.database import PrivateDatabase
from velamen.ops.install import prepare
from velamen.ops.serve import ADDRESS, environment, only_one

DATABASE = VAR / "database"


def backup(target: str) -> int:
    """Writes a backup of all that is in the database, pictures too; the exit status."""
    prepare("web")
    path = Path(target).absolute()
    if path.is_dir() or not path.parent.is_dir():
        raise SetupError(f"{path} cannot be written: name a file in a folder that is there.")
    with _address() as address:
        status = _run("write", path, address)
    if status == 0:
        say(f"Backup: {path}, {path.stat().st_size / 1e6:.1f} MB")
    return status


def restore(source: str) -> int:
    """Restores a backup; the database that stood before is kept beside it. The exit status."""
    prepare("web")
    path = Path(source).absolute()
    if not path.is_file():
        raise SetupError(f"There is no backup {path}.")
    if "VELAMEN_DATABASE_URL" in os.environ:
        return _run("read", path, os.environ["VELAMEN_DATABASE_URL"])
    (VAR / "run").mkdir(parents=True, exist_ok=True)
    with only_one():
        made = PrivateDatabase(VAR / "restored")
        made.remove()
        try:
            made.start()
            status = _run("read", path, made.url)
            made.stop()
            if status == 0:
                _put_in_place(made)
        finally:
            made.remove()
    return status


def _put_in_place(made: PrivateDatabase) -> None:
    if DATABASE.exists():
        before = VAR / f"database-before-{time.strftime('%Y%m%d-%H%M%S')}"
        DATABASE.rename(before)
        say(f"The database that stood before is in {before}; delete it once all is well.")
    made.folder.rename(DATABASE)
    say("Restored. ./velamen start serves it.")


@contextmanager
def _address() -> Iterator[str]:
    """The address of the database: of the one that runs, or of one begun for as long as this takes."""
    if "VELAMEN_DATABASE_URL" in os.environ:
        yield os.environ["VELAMEN_DATABASE_URL"]
    elif ADDRESS.exists():
        yield ADDRESS.read_text()
    else:
        (VAR / "run").mkdir(parents=True, exist_ok=True)
        with only_one():
            database = PrivateDatabase(DATABASE)
            if not database.data.is_dir():
                raise SetupError("There is no database yet: ./velamen start makes one.")
            database.start()
            try:
                yield database.url
            finally:
                database.stop()


def _run(do: str, path: Path, address: str) -> int:
    made = {**environment(0), "VELAMEN_DATABASE_URL": address}
    command = [str(PYTHON), "-m", "velamen.web.backup", do, str(path)]
    return subprocess.run(command, env=made, cwd=ROOT, check=False).returncode
