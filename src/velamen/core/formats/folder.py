"""A folder of files out of a job, written whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from velamen.core.building import Build, build_job
from velamen.core.errors import BadInput
from velamen.core.formats.cut_file import cut_svg
from velamen.core.formats.report import report_json
from velamen.core.formats.stitch_list import stitch_list
from velamen.core.job import Job


def files_of(build: Build) -> dict[str, bytes]:
    """Every file of a build by name."""
    return {
        "stitches.csv": stitch_list(build.plan).encode(),
        "cut.svg": cut_svg(build).encode(),
        "report.json": report_json(build),
    }


def write_folder(job: Job, folder: Path) -> None:
    """Builds a job and writes its files; an older file stays until its successor is complete."""
    if not job.pieces:
        raise BadInput("The job has no pieces: give at least one shape a construction.")
    contents = files_of(build_job(job))
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in contents.items():
            with tempfile.NamedTemporaryFile(dir=folder, delete=False) as part:
                part.write(data)
            os.chmod(part.name, 0o644)
            os.replace(part.name, folder / name)
    except OSError as error:
        raise BadInput(f"The files cannot be written to {folder}: {error.strerror or error}.") from None
