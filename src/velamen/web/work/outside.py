"""A task handed to another process: within limits, in turn, once for all who ask; it can be looked at and ended."""

from __future__ import annotations

import atexit
import multiprocessing
import resource
import signal
import time
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, CancelledError, Future, wait
from contextvars import ContextVar
from dataclasses import dataclass, field
from functools import cache
from multiprocessing.context import ForkServerContext
from pathlib import Path
from shutil import rmtree
from tempfile import mkdtemp
from threading import Lock, Thread
from typing import Any, NamedTuple, TypeVar
from uuid import uuid4

from django.conf import settings
from pebble import ProcessExpired, ProcessPool

from velamen.core.building.progress import Told, nobody
from velamen.core.errors import BadInput
from velamen.web.work.turns import Full, Turns

SECONDS = 30.0  # of a task
MEMORY = 2_000_000_000  # bytes of one
PLACES = 2  # tasks at once
WAITING = 12  # tasks of one shop that wait
TASKS = 40  # of a process, before another takes its place
AGAIN = 60.0  # seconds for which what was too heavy is not tried again
ASIDE = 2.0  # and what was ended, so that other parts of the page do not begin it anew
TOO_LONG = f"took more than {SECONDS:.0f} seconds and was ended"
TOO_LARGE = f"needs more than {MEMORY // 10**9} GB of memory and was ended"
ENDED = "was ended. Nothing was changed."
SIMPLER = "Simplify its outlines in Artwork, or leave out some of it. Nothing saved is lost."
T = TypeVar("T")


class TooHeavy(BadInput):
    """A task that reached a limit."""


class Ended(BadInput):
    """A task that a person has ended."""


class Asker(NamedTuple):
    """Who a task is done for."""

    shop: int
    person: int
    job: int | None


@dataclass
class Work:
    """A task on its way."""

    what: str  # in words, as "Building Otter crew blanket"
    asker: Asker  # who asked first
    report: Path  # where it tells how far it is
    waiting: list[tuple[Asker, Future[None]]] = field(default_factory=list)  # done: no longer
    answer: Future[Any] = field(default_factory=Future)
    running: Future[Any] | None = None
    ended: bool = False
    begun: float = field(default_factory=time.monotonic)

    @property
    def seconds(self) -> float:
        """For how long it has been on its way."""
        return time.monotonic() - self.begun

    @property
    def share(self) -> tuple[float, str]:
        """How much of it is done, 0 to 1, and what it is at."""
        try:
            share, _, at = self.report.read_text().partition(" ")
            return float(share), at
        except (OSError, ValueError):
            return 0.0, "" if self.running else "waiting for its turn"

    def joined(self, asker: Asker) -> Future[None]:
        """Somebody waits for it too, until what is given is done."""
        waiting: Future[None] = Future()
        self.waiting.append((asker, waiting))
        return waiting

    def left(self, person: Asker) -> None:
        """A person waits no longer; it is ended where nobody does."""
        with _guard:
            for asker, waiting in self.waiting:
                if asker[:2] == person[:2] and not waiting.done():
                    waiting.set_result(None)
            self.ended = all(waiting.done() for _, waiting in self.waiting)
        if self.ended:
            self.end()

    def end(self) -> None:
        """Ends it for all."""
        self.ended = True
        if self.running is not None:
            self.running.cancel()
        TURNS.look_again()


TURNS = Turns(PLACES, WAITING)
NOBODY = Asker(0, 0, None)
_asker: ContextVar[Asker] = ContextVar("asker", default=NOBODY)
_works: dict[str, Work] = {}
_not_again: dict[str, tuple[float, TooHeavy | Ended]] = {}  # until when, and why
_pools: list[ProcessPool] = []
_guard = Lock()


def ask_for(asker: Asker) -> None:
    """What this thread hands over from now on is done for somebody."""
    _asker.set(asker)


def works_of(asker: Asker) -> list[Work]:
    """What a person waits for: in one job, or in any where none is named, as on a page that leads to one."""
    with _guard:
        works = list(_works.values())
    return [
        work for work in works
        if any(one[:2] == asker[:2] and asker.job in (None, one.job) for one, left in work.waiting if not left.done())
    ]  # fmt: skip


def outside(what: str, task: Callable[..., T], *args: Any, once: str = "") -> T:
    """The answer of a task worked out in another process.

    what: the task in words; once: a name under which all who ask wait for the same answer.
    Raises TooHeavy at a limit, Ended where it was ended, BadInput as the task does.
    """
    if not settings.WORK_OUTSIDE:
        return task(nobody, *args)
    name = once or uuid4().hex
    with _guard:
        until, why = _not_again.get(name, (0.0, None))
        if why is not None and time.monotonic() < until:
            raise type(why)(str(why))
        work = _works.get(name)
        mine = work is None or work.ended
        if work is None or work.ended:
            work = _works[name] = Work(what, _asker.get(), _report())
        left = work.joined(_asker.get())
    if mine:
        Thread(target=_do, args=(work, name, task, args), daemon=True).start()
    wait([work.answer, left], return_when=FIRST_COMPLETED)
    if not work.answer.done():
        raise Ended(f"{what} {ENDED}")
    answer: T = work.answer.result()
    return answer


def stepwise(what: str, task: Callable[..., T], *args: Any) -> Iterator[tuple[float, str, T | None]]:
    """The same, told step by step: the share that is done, what it is at, and at last the answer.

    Whoever stops listening ends the task.
    """
    if not settings.WORK_OUTSIDE:
        steps: list[tuple[float, str, T | None]] = []
        answer = task(lambda share, at: steps.append((share, at, None)), *args)
        yield from steps
        yield 1.0, "", answer
        return
    work = Work(what, _asker.get(), _report())
    name = uuid4().hex
    with _guard:
        _works[name] = work
        work.joined(work.asker)
    Thread(target=_do, args=(work, name, task, args), daemon=True).start()
    told = ""
    try:
        while not work.answer.done():
            share, at = work.share
            if at != told:
                yield share, at, None
            told = at
            wait([work.answer], timeout=0.1)
        yield 1.0, "", work.answer.result()
    finally:
        work.end()


def _do(work: Work, name: str, task: Callable[..., Any], args: tuple[Any, ...]) -> None:
    """Does a task whose turn it becomes; its answer, or why there is none, is for all who wait for it."""
    try:
        with TURNS.place(work.asker.shop, lambda: work.ended) as taken:
            if not taken:
                raise CancelledError
            work.running = _pool().schedule(_within, args=(task, str(work.report), args), timeout=SECONDS)
            if work.ended:
                work.running.cancel()  # type: ignore[no-untyped-call]
            work.answer.set_result(work.running.result())
    except BaseException as error:
        told = _told(work.what, error)
        if isinstance(told, TooHeavy | Ended):
            pause = AGAIN if isinstance(told, TooHeavy) else ASIDE
            now = time.monotonic()
            with _guard:
                for old in [one for one, (until, _) in _not_again.items() if until < now]:
                    del _not_again[old]
                _not_again[name] = now + pause, told
        work.answer.set_exception(told)
    finally:
        with _guard:
            if _works.get(name) is work:
                del _works[name]
        work.report.unlink(missing_ok=True)


def _told(what: str, error: BaseException) -> BaseException:
    """What ended a task, as a sentence where a person can do something about it."""
    if isinstance(error, CancelledError):
        return Ended(f"{what} {ENDED}")
    if isinstance(error, TimeoutError):
        return TooHeavy(f"{what} {TOO_LONG}. {SIMPLER}")
    if isinstance(error, MemoryError | ProcessExpired):
        return TooHeavy(f"{what} {TOO_LARGE}. {SIMPLER}")
    if isinstance(error, Full):
        return BadInput("Your shop has too much under way at once: wait for some of it, or end it.")
    return error


def _report() -> Path:
    return _reports() / uuid4().hex


@cache
def _reports() -> Path:
    """Where tasks tell how far they are: a folder that only this user reads."""
    folder = Path(mkdtemp(prefix="velamen-"))
    atexit.register(rmtree, folder, ignore_errors=True)
    return folder


def _pool() -> ProcessPool:
    """The processes that do tasks; others where those have broken down."""
    with _guard:
        if _pools and not _pools[0].active:
            _pools.clear()
        if not _pools:
            _pools.append(_begun())
        return _pools[0]


def warm_up() -> None:
    """Has the processes begin and read the program, so that no first asker waits for that."""
    for _ in range(PLACES):
        _pool().schedule(nobody, args=(0.0, ""))


def _begun() -> ProcessPool:
    context: ForkServerContext = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["velamen.web.work.tasks"])
    return ProcessPool(max_workers=PLACES, max_tasks=TASKS, context=context, initializer=_limited)


def _limited() -> None:
    """Limits of a process that does tasks; interrupts from a terminal are for the servers."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def _within(task: Callable[..., Any], report: str, args: tuple[Any, ...]) -> Any:
    return task(_reporting(Path(report)), *args)


def _reporting(report: Path) -> Told:
    """Tells how far a task is, a few times a second at most."""
    last = 0.0

    def told(share: float, what: str) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last > 0.1:
            last = now
            report.write_text(f"{share:.3f} {what}")

    return told
