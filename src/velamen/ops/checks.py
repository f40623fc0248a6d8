"""The test command: linting, types, import rules and every test, over a throw-away database."""

from __future__ import annotations

import os
import secrets
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, say
from velamen.ops.database import PrivateDatabase
from velamen.ops.install import prepare
from velamen.ops.process import spawn

CHECKS = (
    ("Lint", ["-m", "ruff", "check", "."]),
    ("Format", ["-m", "ruff", "format", "--check", "-q", "."]),
    ("Import rules", ["-c", "from importlinter.cli import lint_imports_command; lint_imports_command()"]),
)


# By the ends of their names, which deals long and short ones out evenly.
CORE = sorted((str(one.relative_to(ROOT)) for one in (ROOT / "tests" / "core").glob("test_*.py")),
              key=lambda name: name[::-1])  # fmt: skip
PROPERTIES = [one for one in CORE if "hypothesis" in (ROOT / one).read_text(encoding="utf-8")]
# Run side by side, on two processors too: a browser waits much, and so does who kills a server.
SHARES = [["tests/browser"], CORE[::2], CORE[1::2], ["tests/web"], ["tests/ops"]]


def _held(shares: list[list[str]], environment: dict[str, str], folder: Path) -> bool:
    """Whether all tests of all shares held, each run by a process of its own with a test database of its own.

    The progress of the first is shown; once through, it tries fresh examples of the properties too. Types are
    told beside several.
    """
    command = [str(PYTHON), "-m", "pytest"]
    beside = [[*command, *share] for share in shares[1:]]
    if beside:
        beside.append([str(PYTHON), "-m", "mypy"])
    logs = [folder / f"tests-{nth}.log" for nth in range(1, len(beside) + 1)]
    others = []
    for nth, (asked, log) in enumerate(zip(beside, logs, strict=True), 1):
        own = {**environment, "VELAMEN_DATABASE_URL": environment["VELAMEN_DATABASE_URL"].replace("?", f"_{nth}?")}
        with log.open("wb") as out:
            others.append(spawn(asked, cwd=ROOT, env=own, stdout=out, stderr=out))
    try:
        held = [subprocess.run([*command, *shares[0]], cwd=ROOT, env=environment, check=False).returncode == 0]
        if len(shares) > 1:
            held.append(_fresh_examples_hold(command, environment))
        for other, log in zip(others, logs, strict=True):
            held.append(other.wait() == 0)
            print(log.read_text(errors="replace"), flush=True)
    finally:
        for other in others:
            if other.poll() is None:
                other.terminate()
    return all(held)


def _fresh_examples_hold(command: list[str], environment: dict[str, str]) -> bool:
    """Whether properties hold for examples that no run has tried; the seed is told, so that they can be had again."""
    seed = secrets.randbelow(1_000_000)
    say(f"Fresh examples, seed {seed}")
    asked = [*command, *PROPERTIES, "-m", "hypothesis and not steady", f"--hypothesis-seed={seed}"]
    return subprocess.run(asked, cwd=ROOT, env={**environment, "VELAMEN_FRESH": "1"}, check=False).returncode == 0


def run_tests(arguments: list[str]) -> int:
    """Runs everything and returns the exit status. arguments: for pytest, which then runs alone."""
    prepare("test")
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(143))
    failed = []
    if not arguments:
        for name, command in CHECKS:
            begun = time.monotonic()
            done = subprocess.run([PYTHON, *command], cwd=ROOT, capture_output=True, text=True, check=False)
            verdict = "held" if done.returncode == 0 else "FAILED"
            say(f"{name}: {verdict} ({time.monotonic() - begun:.1f} s)")
            if done.returncode:
                failed.append(name)
                print(done.stdout[-6000:], done.stderr[-3000:])
    (VAR / "static").mkdir(parents=True, exist_ok=True)
    folder = Path(tempfile.mkdtemp(prefix="test-database-", dir=VAR))
    folder.chmod(0o755)
    database = PrivateDatabase(folder, throwaway=True)
    try:
        database.start()
        environment = {
            **os.environ,
            "VELAMEN_DATABASE_URL": database.url,
            "VELAMEN_SECRET_KEY": "only-for-tests",
            "DJANGO_SETTINGS_MODULE": "velamen.web.settings",
            "VELAMEN_STATIC_STORAGE": "django.contrib.staticfiles.storage.StaticFilesStorage",
        }
        say("Tests")
        if not _held([arguments] if arguments else SHARES, environment, folder):
            failed.append("Tests")
    finally:
        database.remove()
    if failed:
        say("Failed: " + ", ".join(failed))
    return 1 if failed else 0
