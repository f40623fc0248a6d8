"""The bench of edits: a throw-away shop served on a free port, edited in a browser."""

from __future__ import annotations

import os
import socket
import subprocess
import tempfile
from pathlib import Path

from velamen.ops import PYTHON, ROOT, VAR
from velamen.ops.database import PrivateDatabase
from velamen.ops.install import prepare
from velamen.ops.serve import environment, prepare_shop
from velamen.ops.web_servers import WebServers


def bench_edits() -> int:
    """Measures edits in a browser and returns the exit status."""
    prepare("test")
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        port = one.getsockname()[1]
    folder = Path(tempfile.mkdtemp(prefix="bench-database-", dir=VAR))
    folder.chmod(0o755)
    database = PrivateDatabase(folder, throwaway=True)
    server = None
    try:
        database.start()
        made = {**environment(port), "VELAMEN_DATABASE_URL": database.url}
        prepare_shop(made)
        server = WebServers(port, made)
        server.begin()
        command = [str(PYTHON), "-m", "velamen.edit_bench", f"http://127.0.0.1:{port}", made["VELAMEN_DEMO_PASSWORD"]]
        return subprocess.run(command, cwd=ROOT, env=os.environ, check=False).returncode
    finally:
        if server is not None:
            server.end()
        database.remove()
