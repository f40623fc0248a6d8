"""A piece built: its work, values, operations and passes, and what its proofs find once asked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from velamen.core.building.sewn import Judged, Passes, given_of, judged
from velamen.core.constructions import construction
from velamen.core.constructions.base import Construction, Work
from velamen.core.geometry.region import Area, spot_in
from velamen.core.job.document import Piece
from velamen.core.memo import worked_out
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Proved
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values


@dataclass(frozen=True)
class BuiltPiece:
    """One piece built."""

    piece: Piece
    work: Work
    values: Values
    operations: tuple[Operation, ...]  # in the order that its construction says
    passes: Passes
    unfit: tuple[str, ...] = ()  # operations whose points were changed by hand, and are others by now

    @property
    def kind(self) -> Construction:
        return construction(self.piece.construct)

    @property
    def outline(self) -> Area:
        """Of its cloth as it is cut, or of its shape."""
        return next((one.cut.region for one in self.operations if one.cut), self.work.region)

    @worked_out
    def sewn(self) -> tuple[Pass, ...]:
        """All its passes, in the order that its construction says."""
        return tuple(each for one in self.operations for each in self.passes.get(one.key, ()))

    @worked_out
    def proved(self) -> Judged:
        """What its proofs find; worked out when first asked for."""
        return judged(given_of(self.piece, self.work, self.values, self.operations))

    @property
    def findings(self) -> tuple[Finding, ...]:
        return (*self._unfit, *self.proved.findings)

    @property
    def _unfit(self) -> tuple[Finding, ...]:
        if not self.unfit:
            return ()
        return (Finding(
            "by_hand_lost", "warning", self.piece.id,
            f"{self.piece.name} has needle points changed by hand that no longer fit: its stitches are others now. "
            "Change them anew on Build, or let the old changes go there.", spot_in(self.work.region),
        ),)  # fmt: skip

    @property
    def proofs(self) -> Mapping[str, Proved]:
        """What each of its proofs found, by key; those that had nothing to judge left out."""
        return self.proved.proofs
