"""A backup: every row as it lies in the tables, at one moment, in a ZIP; and how it comes back.

about.json says which migrations the tables stood at and how many rows each has; rows/TABLE.jsonl has a row a line.
A backup of an older version comes back at its own migrations, and is then brought to the present ones.
"""

from __future__ import annotations

import base64
import json
import os
import sys
import zipfile
from collections.abc import Iterator
from datetime import datetime
from itertools import islice
from pathlib import Path
from typing import Any

import django
from django.core.management import call_command
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder

FORMAT = 1
LEFT_OUT = ("django_session", "accounts_session", "axes_", "django_migrations", "auth_permission",
            "django_content_type")  # fmt: skip
AT_ONCE = 200  # rows
ABOUT = "about.json"
TOLD = {"accounts_shop": "shops", "jobs_job": "jobs", "jobs_revision": "versions", "jobs_source": "files"}


class NoBackup(RuntimeError):
    """A file that cannot be restored. The message is for the person at the terminal."""


def write(path: Path) -> dict[str, int]:
    """Writes a backup, whole or not at all; rows by table. The application may run meanwhile."""
    part = path.with_name(path.name + ".part")
    part.unlink(missing_ok=True)
    part.touch(mode=0o600)
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as target, connection.cursor() as one:
            one.execute("SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ")
            one.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT")
            counts = {table: _write_table(target, one, table) for table in _tables()}
            about = {"velamen_backup": FORMAT, "migrations": _migrations(), "rows": counts}
            target.writestr(ABOUT, json.dumps(about, indent=1))
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    return counts


def read(path: Path) -> dict[str, int]:
    """Brings a backup into an empty database; rows by table. Raises NoBackup with what is wrong."""
    if _tables():
        raise NoBackup("The database is not empty: restore into an empty one.")
    try:
        with zipfile.ZipFile(path) as source:
            if source.testzip() is not None:
                raise NoBackup(f"{path} is damaged: take another backup.")
            about = json.loads(source.read(ABOUT))
            if about.get("velamen_backup") != FORMAT:
                raise NoBackup(f"{path} is of another format: restore it with the version that wrote it.")
            _migrate_to(about["migrations"])
            counts = {table: _read_table(source, table) for table in about["rows"]}
    except (zipfile.BadZipFile, KeyError, ValueError) as error:
        raise NoBackup(f"{path} is no backup of Velamen, or a damaged one ({error}).") from None
    if counts != about["rows"]:
        raise NoBackup(f"{path} has not all the rows that it tells of: take another backup.")
    call_command("migrate", verbosity=0, interactive=False)
    return counts


def _tables() -> list[str]:
    """Tables whose rows are kept, by name."""
    with connection.cursor() as cursor:
        return sorted(one for one in connection.introspection.table_names(cursor) if not one.startswith(LEFT_OUT))


def _migrations() -> dict[str, str]:
    """The newest migration of every application that stands in the tables."""
    done = MigrationRecorder(connection).migration_qs.order_by("pk").values_list("app", "name")
    return dict(done)


def _migrate_to(wanted: dict[str, str]) -> None:
    for app, name in wanted.items():
        call_command("migrate", app, name, verbosity=0, interactive=False)


def _write_table(target: zipfile.ZipFile, cursor: Any, table: str) -> int:
    """Rows of a table, by its first column so that a few are held at once."""
    count = 0
    with target.open(f"rows/{table}.jsonl", "w", force_zip64=True) as out:
        for names, row in _rows(cursor, table):
            out.write(json.dumps(dict(zip(names, map(_plain, row), strict=True))).encode() + b"\n")
            count += 1
    return count


def _rows(cursor: Any, table: str) -> Iterator[tuple[list[str], tuple[Any, ...]]]:
    name = connection.ops.quote_name(table)
    after = 0
    while True:
        cursor.execute(f"SELECT * FROM {name} WHERE id > %s ORDER BY id LIMIT %s", [after, AT_ONCE])
        names = [one[0] for one in cursor.description]
        rows = cursor.fetchall()
        if not rows:
            return
        yield from ((names, row) for row in rows)
        after = rows[-1][names.index("id")]


def _read_table(source: zipfile.ZipFile, table: str) -> int:
    count = 0
    with source.open(f"rows/{table}.jsonl") as lines, connection.cursor() as cursor:
        cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
        cursor.execute(f"DELETE FROM {connection.ops.quote_name(table)}")
        while rows := [json.loads(line) for line in islice(lines, AT_ONCE)]:
            names = list(rows[0])
            columns = ", ".join(map(connection.ops.quote_name, names))
            marks = ", ".join(["%s"] * len(names))
            cursor.executemany(
                f"INSERT INTO {connection.ops.quote_name(table)} ({columns}) VALUES ({marks})",
                [[_typed(row[name]) for name in names] for row in rows],
            )
            count += len(rows)
        cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
    return count


def _plain(value: Any) -> Any:
    """A value as JSON has it: bytes and times told as such."""
    if isinstance(value, bytes):
        return {"bytes": base64.b64encode(value).decode()}
    if isinstance(value, datetime):
        return {"time": value.isoformat()}
    return value


def _typed(value: Any) -> Any:
    if isinstance(value, dict):
        return base64.b64decode(value["bytes"]) if "bytes" in value else datetime.fromisoformat(value["time"])
    return value


def main(arguments: list[str]) -> int:
    """write FILE or read FILE; the exit status."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "velamen.web.settings")
    django.setup()
    do, path = arguments
    try:
        counts = write(Path(path)) if do == "write" else read(Path(path))
    except (NoBackup, OSError) as error:
        print(error, file=sys.stderr)
        return 1
    print(", ".join(f"{counts.get(table, 0)} {words}" for table, words in TOLD.items()))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
