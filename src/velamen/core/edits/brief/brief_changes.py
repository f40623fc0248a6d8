"""What a changed brief would change: piece by piece, value by value, to be taken or left."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from velamen.core.building.matched import matched_job
from velamen.core.job.document import Job, change
from velamen.core.setting import Plain
from velamen.core.values.value import Value, matters


@dataclass(frozen=True)
class Change:
    """One value of one piece that a new brief would change.

    own: the person set it, so it stays unless taken; after: what matching says under the new
    brief; reasons: why.
    """

    piece: str
    name: str
    before: Value
    after: Value

    @property
    def id(self) -> str:
        """Names piece and value together."""
        return f"{self.piece}.{self.after.setting.key}"

    @property
    def own(self) -> bool:
        return self.before.own

    @property
    def wanted(self) -> Plain:
        """What the value becomes when the change is taken."""
        return self.after.matched

    @property
    def was(self) -> str:
        return self.before.shown

    @property
    def becomes(self) -> str:
        return self.after.matched_shown


def changes_between(before: Job, after: Job) -> list[Change]:
    """Values whose matched number differs between two states of a job, in the order of its pieces.

    An own value is listed where the new matched number differs both from the old one and
    from what the person set.
    """
    was = {one.piece.id: one.values for one in matched_job(before).pieces}
    found = []
    for one in matched_job(after).pieces:
        old = was.get(one.piece.id)
        if old is None:
            continue
        for key, value in one.values.items():
            if key not in old or not matters(value, one.values):
                continue
            differs = value.matched != old[key].matched
            disagrees = not value.own or value.matched != value.value
            if differs and disagrees:
                found.append(Change(one.piece.id, one.piece.name, old[key], value))
    return found


def taken(after: Job, changes: Collection[Change], wanted: Collection[str]) -> Job:
    """The changed job with the wanted changes taken (by id) and the others left as they were.

    A matched value that is left becomes an own one; an own value that is taken is matched again.
    """
    own = {piece.id: dict(piece.own) for piece in after.pieces}
    for one in changes:
        key = one.after.setting.key
        if one.id in wanted and one.own:
            del own[one.piece][key]
        elif one.id not in wanted and not one.own:
            own[one.piece][key] = one.before.value
    pieces = [change(piece, own=own[piece.id]) for piece in after.pieces]
    return change(after, pieces=pieces)
