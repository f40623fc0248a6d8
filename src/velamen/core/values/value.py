"""Values worked out for settings: matched by rules or a person's own, with reasons."""

from __future__ import annotations

from msgspec import Struct

from velamen.core.setting import Plain, Setting


class Value(Struct, frozen=True):
    """A setting's value for one piece: matched by rules or the user's own, with reasons."""

    setting: Setting
    value: Plain
    matched: Plain
    reasons: tuple[str, ...]
    own: bool = False

    @property
    def source(self) -> str:
        return "own" if self.own else "matched"

    @property
    def shown(self) -> str:
        return self.setting.show(self.value)

    @property
    def matched_shown(self) -> str:
        return self.setting.show(self.matched)


Values = dict[str, Value]


def plain_values(values: Values) -> dict[str, Plain]:
    """Values without their reasons."""
    return {key: value.value for key, value in values.items()}


def matters(value: Value, values: Values) -> bool:
    """Whether a value has any effect, the one it needs being what it is."""
    needs = value.setting.needs
    return needs is None or str(values[needs[0]].value) in needs[1].split("|")


def number(values: Values, key: str) -> float:
    """A number among values."""
    return float(values[key].value)


def switch(values: Values, key: str) -> bool:
    """A switch among values."""
    return bool(values[key].value)


def choice(values: Values, key: str) -> str:
    """A choice among values."""
    return str(values[key].value)
