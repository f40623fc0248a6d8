"""Set-up and processes: what a hard kill leaves is found, and children end with their parent."""

import os
import signal
import socket
import subprocess
import sys
import time

import pytest

from velamen.ops import SetupError, install
from velamen.ops.__main__ import main
from velamen.ops.database import PrivateDatabase, load_secrets
from velamen.ops.process import end, free_port, leftovers, listening, spawn


def alive(pid):
    try:
        with open(f"/proc/{pid}/stat") as stat:
            return stat.read().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def test_leftovers_are_found_by_program_and_folder(tmp_path):
    process = spawn(["sleep", "60"], cwd=tmp_path)
    try:
        assert leftovers("sleep", tmp_path) == [process.pid]
        assert leftovers("sleep", tmp_path.parent) == [] and leftovers("cat", tmp_path) == []
    finally:
        end(process.pid, lambda: process.poll() is None)
    assert process.poll() is not None and leftovers("sleep", tmp_path) == []


def test_children_end_when_their_parent_is_killed_hard(tmp_path):
    code = "from velamen.ops.process import spawn; print(spawn(['sleep', '60']).pid, flush=True); import time; time.sleep(60)"
    parent = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    child = int(parent.stdout.readline())
    assert alive(child)
    parent.send_signal(signal.SIGKILL)
    parent.wait()
    until = time.monotonic() + 10
    while alive(child) and time.monotonic() < until:
        time.sleep(0.05)
    assert not alive(child)


def test_ports():
    port = free_port()
    assert not listening(port)
    with socket.socket() as server:
        server.bind(("127.0.0.1", port))
        server.listen()
        assert listening(port)


def test_database_recovers_from_a_hard_kill_in_a_folder_only_its_owner_may_enter(tmp_path):
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    database = PrivateDatabase(closed / "database")
    database.start()
    try:
        # Committed work, then SIGKILL: the next start must bring it back.
        _run(database, "CREATE TABLE kept (word VARCHAR(20)); INSERT INTO kept VALUES ('Ormsel');")
        os.kill(database.process.pid, signal.SIGKILL)
        database.process.wait()
        again = PrivateDatabase(closed / "database")
        again.start()
        try:
            assert _run(again, "SELECT word FROM kept;") == "Ormsel"
            _run(again, "DROP TABLE kept;")
        finally:
            again.stop()
        # Somebody else's start finds a server left running and ends it first.
        left = PrivateDatabase(closed / "database")
        left.start()
        other = PrivateDatabase(closed / "database")
        other.start()
        assert left.process.wait(timeout=10) is not None
        other.stop()
    finally:
        database.stop()
    assert "[ERROR]" not in (closed / "database" / "server.log").read_text()


def _run(database, commands):
    import MySQLdb

    connection = MySQLdb.connect(
        host="127.0.0.1", port=database.port, user="velamen", password=database._password(), database="velamen"
    )
    try:
        cursor, rows = connection.cursor(), []
        for command in filter(str.strip, commands.split(";")):
            cursor.execute(command)
            rows = cursor.fetchall()
        connection.commit()
        return rows[0][0] if rows else None
    finally:
        connection.close()


def test_secrets_are_made_once_and_kept_private(tmp_path):
    first = load_secrets(tmp_path / "secrets.json")
    assert load_secrets(tmp_path / "secrets.json") == first
    assert (tmp_path / "secrets.json").stat().st_mode & 0o077 == 0


def test_help_and_unknown_commands(capsys):
    assert main(["--help"]) == 0 and main(["start", "--help"]) == 0
    text = capsys.readouterr().out
    assert all(word in text for word in ("start", "stop", "test", "build", "quick", "bench", "VELAMEN_PORT"))
    assert main(["embroider"]) == 2
    assert "There is no command 'embroider'" in capsys.readouterr().err


def test_missing_packages_are_named_to_people_who_cannot_install_them(monkeypatch):
    monkeypatch.setattr(install.os, "geteuid", lambda: 1000)
    monkeypatch.setitem(install.PACKAGES, "core", {"python3-venv": lambda: True, "sailcloth-dev": lambda: False})
    with pytest.raises(SetupError, match="apt-get install sailcloth-dev"):
        install._debian(("core",))
    install._debian(("web", "test"))  # all there: nothing is said and nothing installed


@pytest.mark.parametrize(("fails", "asked"), [((), ["pip", "uv"]), (("uv",), ["pip", "uv", "pip"])])
def test_requirements_are_installed_by_pip_where_the_fast_installer_cannot(monkeypatch, tmp_path, fails, asked):
    called = []

    def fault(command):
        called.append(command[2])
        return "no such place" if command[2] in fails else ""

    monkeypatch.setattr(install, "VENV", tmp_path)
    monkeypatch.setattr(install, "_fault", fault)
    install._requirements(["core"])
    assert called == asked and install._stands("core") and not install._stands("web")
    monkeypatch.setattr(install, "_fault", lambda _: "the registry is away")
    with pytest.raises(SetupError, match="the registry is away"):
        install._requirements(["web"])
    assert not install._stands("web")
