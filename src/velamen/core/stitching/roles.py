"""Roles of passes: declared once each, beside the operations that sew them, with word and looks."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Role:
    """What a pass is for."""

    key: str  # as in stitches.csv
    words: str  # what the trade calls it
    dash: str = ""  # of its cord in the Stack: dashes and gaps, "" for an unbroken line
    broad: bool = False  # whether it is drawn broad: it covers what is under it


class _Codes(dict[str, int]):
    """Numbers of roles in the arrays of strands and plans; a role gets the next one when it is first named."""

    def __missing__(self, key: str) -> int:
        ROLES.append(key)
        self[key] = ROLES.index(key)
        return self[key]


ROLES: list[str] = []  # keys by number; numbers are the same in all processes once they are settled
CODE: dict[str, int] = _Codes()
_DECLARED: dict[str, Role] = {}


def declare(key: str, words: str, dash: str = "", broad: bool = False) -> str:
    """Declares a role; its key. The same declaration may be made twice, another one for the same key may not."""
    role = Role(key, words, dash, broad)
    if _DECLARED.setdefault(key, role) != role:
        raise LookupError(f"the role {key!r} is declared in two ways")
    _ = CODE[key]
    return key


def settle() -> None:
    """Numbers the roles declared so far by the alphabet, whatever was imported first; before any stitch is made."""
    ROLES.sort()
    CODE.clear()
    CODE.update({key: number for number, key in enumerate(ROLES)})


def role_of(key: str) -> Role:
    """What is declared of a role; its key in words where nothing is."""
    return _DECLARED.get(key, Role(key, key.replace("_", " ")))


def declared() -> dict[str, Role]:
    """All roles declared so far, by key."""
    return dict(_DECLARED)


TRAVEL = declare("travel", "travel")
TIE = declare("tie", "tie")
UNDERLAY = declare("underlay", "underlay")
