"""A folder of files out of a job, written whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from velamen.core.building.build import Build, build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.core.outputs.cut_file import cut_dxf, cut_svg
from velamen.core.outputs.gcode import gcode
from velamen.core.outputs.picture import preview_png
from velamen.core.outputs.report import report_json
from velamen.core.outputs.run_sheet import run_sheet
from velamen.core.outputs.stitch_list import stitch_list

WRITERS: dict[str, Callable[[Build], bytes]] = {
    "stitches.csv": lambda build: stitch_list(build.hooping).encode(),
    "stitches.gcode": lambda build: gcode(build).encode(),
    "cut.svg": lambda build: cut_svg(build).encode(),
    "cut.dxf": lambda build: cut_dxf(build).encode(),
    "runsheet.pdf": lambda build: run_sheet(build),
    "preview.png": lambda build: preview_png(build.hooped),
    "report.json": lambda build: report_json(build),
}


def file_of(build: Build, name: str) -> bytes:
    """One file of a build by its name in WRITERS."""
    return WRITERS[name](whole(build))


def files_of(build: Build) -> dict[str, bytes]:
    """Every file of a build by name."""
    return {name: write(whole(build)) for name, write in WRITERS.items()}


def whole(build: Build) -> Build:
    """The build itself where every piece could be built. Raises BadInput with why one could not."""
    if build.lost:
        raise BadInput(build.lost[0].why)
    return build


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
