"""A backup brings everything back, to the row; one that is damaged or in the way changes nothing."""

import contextlib
import json
import os
import subprocess
import sys
import zipfile

import pytest

from velamen.ops import SetupError, backups, logs
from velamen.ops.__main__ import main
from velamen.ops.database import PrivateDatabase
from velamen.ops.serve import environment, prepare_shop


@pytest.fixture(scope="module")
def shop(tmp_path_factory):
    """The address of a database with the demo shop, and a backup of it."""
    folder = tmp_path_factory.mktemp("shop")
    folder.chmod(0o755)
    database = PrivateDatabase(folder / "database", throwaway=True)
    database.start()
    made = {**environment(0), "VELAMEN_DATABASE_URL": database.url}
    prepare_shop(made)
    assert backed_up("write", folder / "shop.backup", database.url).returncode == 0
    yield database, folder / "shop.backup"
    database.remove()


@pytest.fixture(scope="module")
def empty(tmp_path_factory):
    """A database without a table, as long as nothing is restored into it: the last test here does."""
    folder = tmp_path_factory.mktemp("empty")
    folder.chmod(0o755)
    database = PrivateDatabase(folder / "database", throwaway=True)
    database.start()
    yield database
    database.remove()


def backed_up(do, path, address):
    made = {**os.environ, "VELAMEN_DATABASE_URL": address, "VELAMEN_SECRET_KEY": "x", "PYTHONPATH": "src"}
    command = [sys.executable, "-m", "velamen.web.backup", do, str(path)]
    return subprocess.run(command, env=made, capture_output=True, text=True)


def rows_of(path):
    with zipfile.ZipFile(path) as backup:
        return {name: backup.read(name) for name in backup.namelist() if name.startswith("rows/")}


def a_row_less(path, target):
    with zipfile.ZipFile(path) as now, zipfile.ZipFile(target, "w") as less:
        for name in now.namelist():
            text = now.read(name)
            less.writestr(name, b"".join(text.splitlines(keepends=True)[1:]) if "jobs_job." in name else text)


@pytest.mark.parametrize("harm", ["cut", "no zip", "another format"])
def test_what_is_damaged_is_told(shop, empty, tmp_path, harm):
    data, path = shop[1].read_bytes(), tmp_path / "harmed"
    path.write_bytes({"cut": data[:-400], "no zip": b"nothing"}.get(harm, data))
    if harm == "another format":
        with zipfile.ZipFile(path, "w") as target:
            target.writestr("about.json", '{"velamen_backup": 9}')
    done = backed_up("read", path, empty.url)
    assert done.returncode == 1 and done.stderr.count("\n") == 1 and str(path) in done.stderr


def test_a_restore_brings_all_rows_back_and_keeps_what_stood_before(shop, tmp_path, monkeypatch):
    var = tmp_path / "var"
    (var / "database").mkdir(parents=True)
    (var / "database" / "note").write_text("before")
    for folder in (tmp_path, var):
        folder.chmod(0o755)
    monkeypatch.setattr(backups, "VAR", var)
    monkeypatch.setattr(backups, "DATABASE", var / "database")
    monkeypatch.setattr(backups, "only_one", contextlib.nullcontext)
    monkeypatch.delenv("VELAMEN_DATABASE_URL", raising=False)
    a_row_less(shop[1], tmp_path / "less")
    assert backups.restore(str(tmp_path / "less")) == 1
    assert [one.name for one in var.iterdir() if one.name != "run"] == ["database"]
    assert backups.restore(str(shop[1])) == 0
    (before,) = var.glob("database-before-*")
    assert (before / "note").read_text() == "before"
    monkeypatch.setattr(backups, "ADDRESS", tmp_path / "none")
    assert backups.backup(str(tmp_path / "again")) == 0
    assert rows_of(tmp_path / "again") == rows_of(shop[1])
    assert (tmp_path / "again").stat().st_mode & 0o077 == 0 and not list(tmp_path.glob("*.part"))
    assert len(rows_of(shop[1])["rows/jobs_source.jsonl"]) > 10_000


def test_files_that_cannot_be_are_sentences(tmp_path):
    with pytest.raises(SetupError, match="There is no backup"):
        main(["restore", str(tmp_path / "none")])
    for target in (tmp_path, tmp_path / "none" / "file"):
        with pytest.raises(SetupError, match="name a file in a folder that is there"):
            main(["backup", str(target)])


def test_logs_turn_over_for_their_owner_alone(tmp_path, monkeypatch):
    monkeypatch.setattr(logs, "LARGEST", 100)
    path = tmp_path / "web.log"
    log = logs.opened(path)
    for nth in range(8):
        log.write(b"%d" % nth * 120)
        log.flush()
        logs.turn_over(path)
    assert path.stat().st_size == 0
    assert sorted(one.name for one in tmp_path.iterdir()) == ["web.log", *(f"web.log.{nth}" for nth in (1, 2, 3, 4))]
    assert [(tmp_path / f"web.log.{nth}").read_text()[0] for nth in (1, 2, 3, 4)] == ["7", "6", "5", "4"]
    assert all(one.stat().st_mode & 0o077 == 0 for one in tmp_path.iterdir())
    logs.turn_over(tmp_path / "none")


def test_a_backup_of_an_older_version_is_brought_to_the_present_one(shop, empty, tmp_path):
    """The tables of a version before there were roles, as its backup would tell them."""
    older = tmp_path / "older"
    with zipfile.ZipFile(shop[1]) as now, zipfile.ZipFile(older, "w") as target:
        about = json.loads(now.read("about.json"))
        about["migrations"] |= {"accounts": "0002_member_unit", "jobs": "0003_packed"}
        gone = (
            "accounts_invitation",
            "jobs_handedfile",
            "jobs_handedover",
            "jobs_needlelist",
            "jobs_order",
            "jobs_triedvariant",
            "jobs_tryout",
        )
        about["rows"] = {name: count for name, count in about["rows"].items() if name not in gone}
        unknown = {"accounts_member": ["role"], "accounts_shop": ["binned", "begun", "begun_from"],
                   "jobs_revision": ["burst"]}  # fmt: skip
        for name in about["rows"]:
            lines = [json.loads(line) for line in now.read(f"rows/{name}.jsonl").splitlines()]
            for line in lines:
                for column in unknown.get(name, []):
                    line.pop(column, None)
            target.writestr(f"rows/{name}.jsonl", "".join(json.dumps(line) + "\n" for line in lines))
        target.writestr("about.json", json.dumps(about))
    done = backed_up("read", older, empty.url)
    assert done.returncode == 0, done.stderr
    assert backed_up("write", tmp_path / "again", empty.url).returncode == 0
    (member,) = [json.loads(line) for line in rows_of(tmp_path / "again")["rows/accounts_member.jsonl"].splitlines()]
    assert member["role"] == "owner"
    again = backed_up("read", shop[1], empty.url)
    assert again.returncode == 1 and "not empty" in again.stderr
