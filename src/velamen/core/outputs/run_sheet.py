"""runsheet.pdf: what the person at the machine needs, with a picture and an instruction for every stop."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import cache
from typing import Any
from xml.sax.saxutils import escape

from PIL import Image as Picture
from reportlab import rl_config
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader, simpleSplit
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from velamen.core.building.build import Build
from velamen.core.building.needs import needs_of
from velamen.core.job.document import HOLD, HOOPING, ORDERS
from velamen.core.outputs.picture import Easel, picture
from velamen.core.plan.figures import clock
from velamen.core.plan.stitch_plan import Halt, Load
from velamen.core.proofs.materials import sewn_of
from velamen.core.timeline.operation import Stop
from velamen.core.values.advice import NEEDLES, advice

rl_config.useA85 = 0  # pictures stand in the file as they are: as text they take a third more, and seconds
FACE, BOLD = "Sheet", "Sheet bold"
INK, SOFT, RULE = (colors.HexColor(one) for one in ("#23303a", "#5c6468", "#cfc8b6"))
WIDE = 176 * mm
WHOLE, STEP = 78 * mm, 52 * mm  # longest side of the pictures on paper
PIXELS, STEP_PIXELS = 900, 560
MANY, MANY_STEP, MANY_PIXELS = 150, 36 * mm, 200  # stops from which their pictures are smaller, a third less of paper
TITLE = 12  # points, from which words are bold


def run_sheet(build: Build) -> bytes:
    """The run sheet as PDF, A4."""
    _typeface()
    out = io.BytesIO()
    sheet = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=16 * mm, rightMargin=16 * mm, topMargin=14 * mm, bottomMargin=16 * mm,
        title=f"{build.job.name}: run sheet", author="Velamen", invariant=1,
    )  # fmt: skip
    gap, title = Spacer(1, 5 * mm), _style(12, 16)
    parts: list[Any] = [Paragraph(escape(build.job.name), _style(19, 23)), gap, _head(build), gap]
    parts += _off_machine("Before the first stitch", build.before_sewing)
    parts += _needed(build)
    parts += [Paragraph("At the machine", title), Spacer(1, 2 * mm)]
    parts += _in_order(build)
    parts += _off_machine("When all is sewn, out of the hoop", build.after_sewing)
    sheet.build(parts, onFirstPage=_foot, onLaterPages=_foot)
    return out.getvalue()


def _head(build: Build) -> Table:
    """The finished picture beside the set-up."""
    brief, library, figures = build.job.brief, build.library, build.hooping_figures
    advised = advice(brief, library, sewn_of(build.operations, build.plan))
    stabilizer = library.stabilizers[brief.stabilizer]
    rows = [
        ("Size", f"{figures.width:.1f} x {figures.height:.1f} mm"), ("Hoop", library.hoops[brief.hoop].name),
        ("Needle", dict(NEEDLES)[str(advised["needle"].value)]), ("Base", library.bases[brief.base].name),
        ("Stabilizer", f"{stabilizer.name} x{brief.stabilizer_layers}"),
        ("Topping", library.toppings[brief.topping].name), ("Hooping", dict(HOOPING)[brief.hooping]),
        ("Held by", dict(HOLD)[brief.hold]), ("Stitches", _spaced(figures.stitches)),
        ("Trims, stops", f"{figures.trims}, {figures.stops}"), ("Time", clock(figures.seconds)),
    ]  # fmt: skip
    if build.grid is not None and build.job.repeat is not None:
        grid, order = build.grid, dict(ORDERS)[build.job.repeat.order].lower()
        rows.insert(0, ("Copies", f"{grid.copies}: {grid.columns} x {grid.rows}, {grid.gap:.1f} mm apart, {order}"))
        rows.append(("Of one", f"{_spaced(build.figures.stitches)} stitches, {clock(build.figures.seconds)}"))
    facts = Table([[Paragraph(name, _style(9, 12, SOFT)), Paragraph(escape(value), _style(10, 12))]
                   for name, value in rows], colWidths=[24 * mm, 64 * mm])  # fmt: skip
    facts.setStyle(_ruled(above=False, space=1.5))
    whole = Table([[_Image(picture(build.hooped, None, PIXELS), WHOLE), facts]], colWidths=[86 * mm, 90 * mm])
    whole.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (0, 0), 0)]))
    return whole


def _needed(build: Build) -> list[Any]:
    """What all the pieces that are wanted need; nothing where nobody has said how many."""
    if not build.wanted:
        return []
    needs, library = needs_of(build, build.wanted), build.library
    last = f", the last with {needs.left}" if needs.left != needs.copies else ""
    stabilizer = library.stabilizers[build.job.brief.stabilizer].name
    rows = [
        ("Hoopings", f"{needs.hoopings} of {needs.copies}{last}", clock(needs.seconds)),
        ("Stabilizer", stabilizer, f"{needs.stabilizer:.2f} m²"),
        *(("Cloth", f"{library.cloths[one.key].name}, {one.pieces} of {one.width:.0f} x {one.height:.0f} mm",
           f"{one.area:.2f} m²") for one in needs.cloths),
        *(("Thread", f"{key} {library.threads[key].name}", f"{much:.1f} m") for key, much in needs.threads.items()),
        ("Bobbin", "thread", f"{needs.bobbin:.1f} m"),
    ]  # fmt: skip
    cells = [[Paragraph(name if nth == 0 or rows[nth - 1][0] != name else "", _style(9, 12, SOFT)),
              Paragraph(escape(what), _style(10, 12)), Paragraph(much, _style(10, 12))]
             for nth, (name, what, much) in enumerate(rows)]  # fmt: skip
    table = Table(cells, colWidths=[24 * mm, 112 * mm, 40 * mm], hAlign="LEFT")
    table.setStyle(_ruled(above=False, space=1.5))
    head = Paragraph(f"For {_spaced(needs.wanted)} pieces", _style(12, 16))
    return [KeepTogether([head, Spacer(1, 2 * mm), table]), Spacer(1, 5 * mm)]


def _in_order(build: Build) -> list[Any]:
    """Threads to take up and stops, in the order in which they come; a thread that comes back is told again."""
    longest, pixels = (STEP, STEP_PIXELS) if len(build.plan.stops) < MANY else (MANY_STEP, MANY_PIXELS)
    shown = build.hooped if build.followed is build.hooping else build
    easel = Easel(shown, pixels)
    found: list[tuple[int, Any]] = [(load.first, _load(build, load)) for load in build.followed.loads]
    for nth, halt in enumerate(shown.plan.stops, 1):
        image = _Image(easel.at(halt.row + 1), longest)
        found.append((halt.row, _stop(build, image, nth, halt)))
    return [part for _, part in sorted(found, key=lambda one: one[0])]


def _load(build: Build, load: Load) -> Table:
    """A thread to take up."""
    thread = build.library.threads[load.thread]
    swatch = Table([[""]], colWidths=[8 * mm], rowHeights=[4 * mm])
    swatch.setStyle(TableStyle([("BACKGROUND", (0, 0), (-1, -1), colors.HexColor(thread.colour)),
                                ("BOX", (0, 0), (-1, -1), 0.3, SOFT)]))  # fmt: skip
    again = ", once more" if load.again else ""
    sewn = int(build.followed.sewn[: load.first].sum())
    name = Paragraph(f"Thread {escape(f'{load.thread} {thread.name}')}{again}", _style(10.5, 14))
    row = Table([[swatch, name, Paragraph(f"from stitch {_spaced(sewn + 1)}", _style(9, 12, SOFT))]],
                colWidths=[12 * mm, 110 * mm, 54 * mm], hAlign="LEFT")  # fmt: skip
    row.setStyle(_ruled(above=True, space=3))
    row.keepWithNext = True  # never alone at the foot of a page
    return row


def _stop(build: Build, image: _Image, nth: int, halt: Halt) -> Flowable:
    """One stop: what lies there when the machine halts, and what to do."""
    sewn, stop = int(build.followed.sewn[: halt.row].sum()), halt.step
    after = f"After stitch {_spaced(sewn)}, about {clock(stop.seconds)}{_with(stop)}"
    title = (f"Stop {nth}: {stop.label}", _style(12, 15))
    words = [title, (stop.text, _style(10.5, 14)), (after, _style(9, 12, SOFT))]
    return _Beside(image, words)


def _off_machine(title: str, stops: Sequence[Stop]) -> list[Any]:
    """What hands do while the machine stands, in order; nothing where there is nothing."""
    if not stops:
        return []
    rows = []
    for stop in stops:
        about = Paragraph(escape(f"about {clock(stop.seconds)}{_with(stop)}"), _style(9, 12, SOFT))
        rows.append([Paragraph(escape(stop.text), _style(10.5, 14)), about])
    table = Table(rows, colWidths=[122 * mm, 54 * mm], hAlign="LEFT")
    table.setStyle(_ruled(above=True, space=4))
    return [KeepTogether([Paragraph(title, _style(12, 16)), table]), Spacer(1, 5 * mm)]


def _with(stop: Stop) -> str:
    return f", with {stop.does.tool}" if stop.does.tool else ""


def _spaced(count: int) -> str:
    return f"{count:,}".replace(",", " ")


def _ruled(*, above: bool, space: float) -> TableStyle:
    """Rows with a fine rule above or below, contents at the top."""
    rule = "LINEABOVE" if above else "LINEBELOW"
    return TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), (rule, (0, 0), (-1, -1), 0.4, RULE), ("LEFTPADDING", (0, 0), (0, -1), 0),
        ("TOPPADDING", (0, 0), (-1, -1), space), ("BOTTOMPADDING", (0, 0), (-1, -1), space),
    ])  # fmt: skip


class _Image(Flowable):  # type: ignore[misc]  # the library is untyped
    """A picture on paper, packed until its page is drawn: a sheet of six hundred stops has as many."""

    def __init__(self, shown: Picture.Image, longest: float) -> None:
        super().__init__()
        packed = io.BytesIO()
        shown.save(packed, "JPEG", quality=88)
        self.packed, share = packed.getvalue(), longest / max(shown.size)
        self.width, self.height = shown.width * share, shown.height * share

    def draw(self) -> None:
        reader = _AsPacked(io.BytesIO(self.packed))
        self.canv.drawImage(reader, 0, 0, self.width, self.height)
        reader.__dict__.clear()  # it holds itself, and the picture with it


class _AsPacked(ImageReader):  # type: ignore[misc]  # the library is untyped
    """A JPEG that is told from others by its own bytes: the library would unpack every picture for that."""

    _dataA = None  # the library asks for transparency under this name; a JPEG has none

    def getRGBData(self) -> bytes:  # the library's name
        return bytes(self.fp.getvalue())


class _Beside(Flowable):  # type: ignore[misc]  # the library is untyped
    """A picture and words beside it under a rule, never divided: six hundred tables and their text take seconds."""

    INSET, SPACE, GAP = 62 * mm, 6.0, 1.5 * mm  # where words begin; above and below; between words

    def __init__(self, image: _Image, words: Sequence[tuple[str, ParagraphStyle]]) -> None:
        super().__init__()
        self.image, self.words = image, words

    def wrap(self, width: float, height: float) -> tuple[float, float]:
        self.lines = [(simpleSplit(text, style.fontName, style.fontSize, WIDE - self.INSET), style)
                      for text, style in self.words]  # fmt: skip
        high = sum(len(lines) * style.leading + self.GAP for lines, style in self.lines) - self.GAP
        self.width, self.height = WIDE, max(self.image.height, high) + 2 * self.SPACE
        return self.width, self.height

    def draw(self) -> None:
        self.canv.setStrokeColor(RULE)
        self.canv.setLineWidth(0.4)
        self.canv.line(0, self.height, self.width, self.height)
        top = self.height - self.SPACE
        self.image.drawOn(self.canv, 0, top - self.image.height)
        for lines, style in self.lines:
            words = self.canv.beginText(self.INSET, top - style.fontSize)
            words.setFont(style.fontName, style.fontSize, style.leading)
            words.setFillColor(style.textColor)
            words.textLines(lines)
            self.canv.drawText(words)
            top -= len(lines) * style.leading + self.GAP


def _foot(canvas: Any, sheet: Any) -> None:
    canvas.setFont(FACE, 8)
    canvas.setFillColor(SOFT)
    canvas.drawRightString(A4[0] - 16 * mm, 9 * mm, f"{sheet.title}, page {sheet.page}")


@cache
def _style(size: float, leading: float, colour: Any = INK) -> ParagraphStyle:
    face = BOLD if size >= TITLE else FACE
    return ParagraphStyle(f"s{size}", fontName=face, fontSize=size, leading=leading, textColor=colour)


@cache
def _typeface() -> None:
    """The open typeface that comes with the PDF library, embedded."""
    for name, file in ((FACE, "Vera.ttf"), (BOLD, "VeraBd.ttf")):
        pdfmetrics.registerFont(TTFont(name, file))
