"""Set-up, database and serving: runs on a bare Python, before anything is installed."""

from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
VAR = ROOT / "var"
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"


class SetupError(RuntimeError):
    """Set-up cannot go on. The message is for the person at the terminal."""


def say(line: str) -> None:
    """One line of progress."""
    print(line, flush=True)
