"""Findings as they are told: many of one kind about one piece as one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from velamen.core.proofs.finding import Finding

MANY = 4  # findings of one kind about one piece that are told as one


def told_of(findings: Sequence[Finding]) -> list[Finding]:
    """Findings but those that the table of a proof tells."""
    return grouped([one for one in findings if not one.proof])


def grouped(found: Sequence[Finding]) -> list[Finding]:
    """Findings, many of one kind about one piece as one that has all their places."""
    kinds: dict[tuple[str, ...], list[Finding]] = {}
    for nth, one in enumerate(found):
        alone = one.fix or one.brief or one.others
        kinds.setdefault((one.code, one.piece, one.severity, str(nth) if alone else ""), []).append(one)
    told: list[Finding] = []
    for group in kinds.values():
        told += group if len(group) < MANY else [_as_one(group)]
    return told


def _as_one(group: Sequence[Finding]) -> Finding:
    first, places = group[0], tuple(place for one in group for place in one.at)
    message = f"{first.message} And {len(group) - 1} more like it."
    return replace(first, message=message, at=places, holes_below=max(one.holes_below for one in group))
