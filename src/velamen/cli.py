"""The commands that need no server: build, quick, recover, bench and docs."""

from __future__ import annotations

import argparse
import resource
import signal
import sys
import time
import traceback
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from velamen.core.errors import BadInput

if TYPE_CHECKING:
    from velamen.core.job.document import Repeat

SECONDS = 30  # from artwork to files
MEMORY = 3_000_000_000  # bytes
OFTEN = 0.5  # seconds between two lines of how far it is
SIMPLER = "Simplify the outlines, or leave out some of them."


def limit() -> None:
    """Ends what takes too long, from now on, or needs too much memory, with a sentence."""

    def ended(*_: object) -> None:
        raise BadInput(f"That takes more than {SECONDS} seconds. {SIMPLER}")

    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, resource.getrlimit(resource.RLIMIT_DATA)[1]))
    signal.signal(signal.SIGALRM, ended)
    signal.setitimer(signal.ITIMER_REAL, SECONDS)


def parser() -> argparse.ArgumentParser:
    """Arguments of all commands."""
    top = argparse.ArgumentParser(prog="velamen")
    commands = top.add_subparsers(dest="command", required=True)
    build = commands.add_parser("build", help="files out of a job")
    build.add_argument("job", type=Path, metavar="JOB.json")
    build.add_argument("--out", type=Path, required=True, help="folder for the files")
    quick = commands.add_parser("quick", help="files straight from artwork")
    quick.add_argument("art", type=Path, metavar="ART.svg|ART.dxf|ART.png")
    quick.add_argument(
        "--construct", default="", help="construction of every region; left out, as new areas are sewn"
    )
    quick.add_argument("--base", default="firm_woven", help="what it is sewn on")
    quick.add_argument("--width", type=float, default=0.0, help="of a picture that is traced, in mm")
    quick.add_argument("--colours", type=int, default=0, help="of a picture; as many as it shows otherwise")
    quick.add_argument("--unit", default="", help="of a DXF that does not say its own: mm, cm or in")
    quick.add_argument("--hoop", help="sewing field; the smallest that fits otherwise")
    quick.add_argument("--set", action="append", default=[], metavar="KEY=VALUE", help="an own value")
    quick.add_argument("--repeat", default="", metavar="COLUMNSxROWS", help="copies in the hoop, as 3x2")
    quick.add_argument("--job", type=Path, metavar="FILE", help="also write the job")
    quick.add_argument("--out", type=Path, required=True, help="folder for the files")
    recover = commands.add_parser("recover", help="shapes out of a stitch file")
    recover.add_argument("stitches", type=Path, metavar="STITCHES.csv|STITCHES.gcode")
    recover.add_argument("--unit", default="", help="of a list that does not say its own: mm, 0.1mm, cm or in")
    recover.add_argument("--columns", default="", metavar="X,Y,COMMAND", help="names or numbers of its columns")
    recover.add_argument("--cut", default="", metavar="ID,ID", help="satins whose cut line is written too, as s7,s9")
    recover.add_argument("--out", type=Path, required=True, help="folder for segments.json and shapes.svg")
    bench = commands.add_parser("bench", help="speed of the stitching, as ratios")
    bench.add_argument("--json", action="store_true", help="figures as JSON")
    docs = commands.add_parser("docs", help="the generated pages of docs/")
    docs.add_argument("--out", type=Path, default=Path("docs"), help="folder for the pages")
    return top


PICTURES = Path(__file__).parent / "web" / "static" / "velamen" / "stitches"
TEXTURES = PICTURES.parent / "textures"
TILES = PICTURES.parent / "surfaces"


def main(arguments: list[str] | None = None) -> int:
    """Runs a command. 0 done, 2 bad input (one sentence on stderr), 1 a fault of ours."""
    options = parser().parse_args(arguments)
    try:
        if options.command in ("build", "quick"):
            with _told():
                return _build(options) if options.command == "build" else _quick(options)
        if options.command == "recover":
            return _recover(options)
        if options.command == "docs":
            return _docs(options)
        from velamen.bench import main as bench

        return bench(as_json=options.json)
    except BadInput as error:
        print(error, file=sys.stderr)
        return 2
    except MemoryError:
        print(f"That needs more than {MEMORY // 10**9} GB of memory. {SIMPLER}", file=sys.stderr)
        return 2
    except Exception:
        traceback.print_exc()
        return 1


@contextmanager
def _told() -> Iterator[None]:
    """Has a terminal show how far it is; anything else that reads what is said hears no such thing."""
    from velamen.core.building.progress import telling

    if not sys.stderr.isatty():
        yield
        return
    shown = time.monotonic()

    def told(share: float, what: str) -> None:
        nonlocal shown
        if time.monotonic() - shown > OFTEN:
            shown = time.monotonic()
            print(f"\r{share:4.0%}  {what[:60]}\033[K", end="", file=sys.stderr, flush=True)

    try:
        with telling(told):
            yield
    finally:
        print("\r\033[K", end="", file=sys.stderr, flush=True)


def _build(options: argparse.Namespace) -> int:
    from velamen.core.job.reading import read_job
    from velamen.core.outputs.folder import write_folder

    write_folder(read_job(_read(options.job)), options.out)
    return 0


def _quick(options: argparse.Namespace) -> int:
    from velamen.core.artwork.read import is_picture, read_artwork
    from velamen.core.constructions import construction, usual
    from velamen.core.edits.shapes.bring_in import bring_in, fitting_hoop
    from velamen.core.edits.shapes.import_parts import check_width, picture_artwork
    from velamen.core.job.document import Job, brief_for, change
    from velamen.core.job.reading import check_job, write_job
    from velamen.core.materials.library import shipped
    from velamen.core.outputs.folder import write_folder

    construct = options.construct or usual("area").name
    own = {}
    for pair in options.set:
        key, sign, value = pair.partition("=")
        if not sign:
            raise BadInput(f"--set {pair!r} has no value: write KEY=VALUE.")
        own[key.strip()] = value.strip()
    check_width(options.width)
    if options.job and not options.job.parent.is_dir():
        raise BadInput(f"There is no folder {options.job.parent}: make it first, or write the job elsewhere.")
    data = _read(options.art)
    if is_picture(data):
        artwork = picture_artwork(data, options.width, options.colours)
    else:
        artwork = read_artwork(data, options.unit, construction(construct).lines)
    hoop = options.hoop or fitting_hoop(artwork, shipped()) or "h360x200"
    empty = Job(name=options.art.stem[:80], brief=brief_for(options.base, hoop))
    job = check_job(change(bring_in(empty, artwork, construct, own), repeat=_repeat(options.repeat)))
    write_folder(job, options.out)
    for note in artwork.notes:
        print(note, file=sys.stderr)
    if options.job:
        _write(options.job, write_job(job))
    return 0


def _repeat(text: str) -> Repeat | None:
    """Copies in the hoop out of COLUMNSxROWS."""
    from velamen.core.job.document import Repeat

    if not text:
        return None
    columns, sign, rows = text.lower().replace("×", "x").partition("x")
    if not sign or not columns.strip().isdecimal() or not rows.strip().isdecimal():
        raise BadInput(f"--repeat {text!r} is no grid: write columns and rows, as 3x2.")
    if max(len(columns), len(rows)) > 6:
        raise BadInput(f"--repeat {text!r} has too many copies for one hoop.")
    return Repeat(int(columns), int(rows))


def _docs(options: argparse.Namespace) -> int:
    from velamen.core.constructions import constructions
    from velamen.core.outputs.picture import surface_png
    from velamen.core.outputs.reference import rules_page, settings_page
    from velamen.core.outputs.stitch_picture import gallery_page, stitch_picture, texture_picture
    from velamen.core.relief.surface import SURFACES
    from velamen.core.stitching.stagger import staggers

    pages = {"rules.md": rules_page(), "settings.md": settings_page(), "stitches.md": gallery_page()}
    for name, text in pages.items():
        (options.out / name).write_text(text, encoding="utf-8")
    PICTURES.mkdir(exist_ok=True)
    for kind in constructions().values():
        (PICTURES / f"{kind.name}.svg").write_text(stitch_picture(kind), encoding="utf-8")
    TEXTURES.mkdir(exist_ok=True)
    for key in staggers():
        (TEXTURES / f"{key}.svg").write_text(texture_picture(key), encoding="utf-8")
    TILES.mkdir(exist_ok=True)
    for name in SURFACES:
        (TILES / f"{name}.png").write_bytes(surface_png(name))
    return 0


def _recover(options: argparse.Namespace) -> int:
    from velamen.core.outputs.recovered import write_cut, write_recovered
    from velamen.core.recovery.cut_line import chosen, cut_line
    from velamen.core.recovery.proposals import proposals_of
    from velamen.core.recovery.read import read_stitches
    from velamen.core.recovery.segments import segments_of

    segments = segments_of(read_stitches(_read(options.stitches), options.unit, options.columns))
    names = [name.strip() for name in options.cut.split(",") if name.strip()]
    area = cut_line(chosen(segments, names)) if names else None
    try:
        write_recovered(segments, proposals_of(segments), options.out)
        if area is not None:
            write_cut(area, options.stitches.stem, options.out)
    except OSError as error:
        raise BadInput(f"The files cannot be written to {options.out}: {error.strerror or error}.") from None
    return 0


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror or error}.") from None


def _write(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise BadInput(f"{path} cannot be written: {error.strerror or error}.") from None


if __name__ == "__main__":
    if sys.argv[1:2] in (["build"], ["quick"], ["recover"]):
        limit()
    sys.exit(main())
