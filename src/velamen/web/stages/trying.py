"""A try-out worked out in the background, variant by variant, each in turn with what other shops ask for."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Callable
from threading import Lock, Thread

from django.db import connection

from velamen.core.building.packed import opened
from velamen.core.edits.stack.makeup import wanted_piece
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.reading import write_job
from velamen.core.outputs.picture import Box
from velamen.core.variants.tryouts import PIXELS, Tried, Variant, close_box, common_box, variants
from velamen.web.jobs.models import Job
from velamen.web.jobs.try_outs import TriedVariant, TryOut, forget_old
from velamen.web.work import tasks
from velamen.web.work.outside import Asker, ask_for, outside

LARGE = 1200  # px
FAULT = "The variants could not be worked out. Try other values."
log = logging.getLogger(__name__)

_running: set[str] = set()  # tokens of those that this process works on
_guard = Lock()


def begun(job: Job, document: Document, piece: str, asked: list[tuple[str, str]]) -> TryOut:
    """A try-out on the newest revision of a job. Raises BadInput with what is wrong with it."""
    found = variants(document, piece, asked)
    forget_old(job)
    return TryOut.objects.create(
        token=secrets.token_urlsafe(9), job=job, revision=job.head, piece=piece, asked=asked, count=len(found),
        name=wanted_piece(document, piece).name,
    )  # fmt: skip


def variants_of(run: TryOut) -> list[Variant]:
    """The variants of a try-out, with the values that they set."""
    return variants(run.revision.read(), run.piece, [(key, text) for key, text in run.asked])


def carry_on(run: TryOut, asker: Asker) -> None:
    """Has a try-out worked out where nobody does so yet, after a restart too."""
    with _guard:
        if run.ready or run.wrong or run.token in _running:
            return
        _running.add(run.token)
    Thread(target=_background, args=(run, asker), name=f"try-out {run.pk}", daemon=True).start()


def picture_over(run: TryOut, nth: int, box: Box, pixels: int = LARGE) -> bytes:
    """The picture of one variant over a box in mm."""
    asked = [(key, text) for key, text in run.asked]
    document = write_job(run.revision.read())
    return outside(f"Drawing {run.name}", tasks.variant_view, document, run.piece, asked, nth, box, pixels)


def _background(run: TryOut, asker: Asker) -> None:
    ask_for(asker)
    try:
        _told(run, lambda: _work(run))
    finally:
        with _guard:
            _running.discard(run.token)
        connection.close()


def _told(run: TryOut, work: Callable[[], None]) -> None:
    """Has a try-out say why there is no answer, where there is none."""
    try:
        work()
    except BadInput as error:
        run.wrong = str(error)
    except Exception:
        log.exception("A try-out failed")
        run.wrong = FAULT
    TryOut.objects.filter(pk=run.pk).update(wrong=run.wrong, ready=run.ready)


def _work(run: TryOut) -> None:
    """Builds every variant, then draws all of them at one scale."""
    found: list[tuple[bytes, Tried]] = []
    for nth in range(run.count):
        found.append(_built(run, nth))
        figures = _figures(found[-1][1])
        TriedVariant.objects.update_or_create(try_out=run, nth=nth, defaults={"figures": figures})
    box = common_box([one.box for _, one in found])
    close = close_box(opened(found[0][0]), run.piece, box)
    for nth, (build, _) in enumerate(found):
        whole, near = (
            outside(f"Drawing {run.name}", tasks.build_picture, build, one, PIXELS) for one in (box, close)
        )
        TriedVariant.objects.filter(try_out=run, nth=nth).update(
            box=list(box), close_box=list(close), picture=whole, close=near
        )
    run.ready = True


def _built(run: TryOut, nth: int) -> tuple[bytes, Tried]:
    asked = [(key, text) for key, text in run.asked]
    return outside(f"Trying {run.name}", tasks.variant, write_job(run.revision.read()), run.piece, asked, nth)


def _figures(one: Tried) -> dict[str, float]:
    """What the table of variants shows of one."""
    return {
        "stitches": one.figures.stitches, "seconds": one.figures.seconds, "stops": one.figures.stops,
        "thread": one.thread, "warnings": one.warnings, "held": one.held,
    }  # fmt: skip
