"""The test command: linting, types, import rules and every test, over a throw-away database."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR, say
from velamen.ops.database import PrivateDatabase
from velamen.ops.install import prepare

CHECKS = (
    ("Lint", ["-m", "ruff", "check", "."]),
    ("Format", ["-m", "ruff", "format", "--check", "-q", "."]),
    ("Types", ["-m", "mypy"]),
    ("Import rules", ["-c", "from importlinter.cli import lint_imports_command; lint_imports_command()"]),
)


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
        done_tests = subprocess.run([PYTHON, "-m", "pytest", *arguments], cwd=ROOT, env=environment, check=False)
        if done_tests.returncode:
            failed.append("Tests")
    finally:
        database.remove()
    if failed:
        say("Failed: " + ", ".join(failed))
    return 1 if failed else 0
