"""What can be handed to another process: functions of the core, told how far they are.

Documents go as they are written, builds packed, so that nothing here needs the web.
"""

from __future__ import annotations

from velamen.core.artwork.read import read_artwork
from velamen.core.artwork.svg import Artwork
from velamen.core.artwork.tracing.colours import Palette, palette
from velamen.core.artwork.tracing.picture import Picture, read_picture
from velamen.core.artwork.tracing.trace import Traced, TraceSettings, tracing
from velamen.core.artwork.typeface import read_typeface
from velamen.core.building.build import build_job, take_up
from velamen.core.building.packed import opened, packed
from velamen.core.building.progress import Told, telling
from velamen.core.edits.brief.artwork_file import bring_in_file
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import mended, mends_of
from velamen.core.job.reading import stored_job, write_job
from velamen.core.outputs.differences import Differences, differences
from velamen.core.outputs.folder import file_of
from velamen.core.outputs.picture import Box
from velamen.core.recovery.recovered import Recovered, recovered
from velamen.core.variants.tryouts import Tried, pictured, tried, variants


def build(told: Told, document: bytes) -> bytes:
    """A job built, with its findings."""
    with telling(told):
        found = build_job(stored_job(document))
        _ = found.figures, found.findings
    return packed(found)


def file(told: Told, build: bytes, name: str) -> bytes:
    """A file of a build."""
    return file_of(opened(build), name)


def files(told: Told, build: bytes, names: list[str]) -> dict[str, bytes]:
    """Files of a build by name."""
    known = opened(build)
    found = {}
    for nth, name in enumerate(names):
        told(nth / len(names), name)
        found[name] = file_of(known, name)
    return found


def differing(told: Told, build: bytes, before: dict[str, bytes]) -> Differences:
    """What a build differs in from files written before."""
    known = opened(build)
    names = {one.piece.id: one.piece.name for one in known.pieces}
    return differences(before, {name: file_of(known, name) for name in before}, names)


def typeface(told: Told, data: bytes) -> str:
    """What a file of a typeface is called, once it has been drawn with."""
    name, _ = read_typeface(data)
    return name


def artwork(told: Told, data: bytes, unit: str) -> Artwork:
    """A vector file read."""
    return read_artwork(data, unit)


def stitch_file(told: Told, data: bytes, unit: str, columns: str) -> Recovered:
    """A stitch file taken apart."""
    return recovered(data, unit, columns)


def picture(told: Told, data: bytes) -> Picture:
    """A picture read."""
    return read_picture(data)


def brought_in(told: Told, document: bytes, data: bytes, whole_brief: bool, unit: str) -> tuple[bytes, list[str]]:
    """A document with the regions of a vector file, and what is to be said of it."""
    after, found = bring_in_file(stored_job(document), data, whole_brief, unit)
    return write_job(after), list(found.notes)


def traced(told: Told, picture: Picture, asked: TraceSettings) -> Traced | tuple[str, Palette]:
    """A picture traced; why it cannot be, with its colours, where it cannot."""
    steps = tracing(picture, asked)
    try:
        while True:
            share, what, found = next(steps)
            if found is not None:
                return found
            told(share, what)
    except BadInput as error:
        return str(error), palette(picture, asked.colours)


def mends(told: Told, build: bytes, code: str, piece: str) -> list[str]:
    """What the ways out of a finding say on their buttons."""
    known = opened(build)
    take_up(known)
    return mends_of(known, code, piece)


def mend(told: Told, document: bytes, code: str, piece: str, label: str) -> bytes:
    """A document after a way out of a finding was taken."""
    return write_job(mended(stored_job(document), code, piece, label))


def variant(told: Told, document: bytes, piece: str, asked: list[tuple[str, str]], nth: int) -> tuple[bytes, Tried]:
    """One variant of a try-out, built."""
    with telling(told):
        build, found = tried(variants(stored_job(document), piece, asked)[nth])
    return packed(build), found


def variant_view(
    told: Told, document: bytes, piece: str, asked: list[tuple[str, str]], nth: int, box: Box, pixels: int
) -> bytes:
    """The picture of one variant of a job over a box, built anew where it is not kept."""
    return pictured(tried(variants(stored_job(document), piece, asked)[nth])[0], box, pixels)


def build_picture(told: Told, build: bytes, box: Box, pixels: int) -> bytes:
    """The picture of a build over a box."""
    return pictured(opened(build), box, pixels)
