"""Settings of a construction, declared once, and the values worked out for them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from velamen.core.errors import BadInput

Plain = float | str | bool


@dataclass(frozen=True)
class Setting:
    """One setting: form field, validation, reasons, command line and docs come from it.

    kind: "number", "choice" or "switch"; low, high and step in `unit`; choices: key and
    label; needs: another setting and the value it must have for this one to matter.
    """

    key: str
    label: str
    group: str
    help: str
    kind: str = "number"
    unit: str = "mm"
    low: float = 0.0
    high: float = 0.0
    step: float = 0.1
    choices: tuple[tuple[str, str], ...] = ()
    needs: tuple[str, str] | None = None

    @property
    def decimals(self) -> int:
        """Decimals its numbers are shown with."""
        return 0 if self.step >= 1 else 1 if self.step >= 0.1 else 2

    def read(self, text: Plain) -> Plain:
        """A typed value out of text or a stored value; BadInput names value and bounds."""
        if self.kind == "switch":
            return self._read_switch(text)
        if self.kind == "choice":
            keys = [key for key, _ in self.choices]
            if str(text) not in keys:
                raise BadInput(f"{self.label} cannot be {text!r}: choose one of {', '.join(keys)}.")
            return str(text)
        bounds = f"use {self.low:g} to {self.high:g}{' ' + self.unit if self.unit else ''}"
        try:
            number = float(str(text).strip().replace(",", ".").removesuffix(self.unit).strip())
        except ValueError:
            raise BadInput(f"{self.label} cannot be {str(text)[:40]!r}: {bounds}.") from None
        if not math.isfinite(number) or not self.low <= number <= self.high:
            raise BadInput(f"{self.label} {number:g} is out of bounds: {bounds}.")
        return number

    def show(self, value: Plain) -> str:
        """A value as text, without its unit."""
        if self.kind == "switch":
            return "yes" if value else "no"
        if self.kind == "choice":
            return dict(self.choices)[str(value)]
        return f"{float(value):.{self.decimals}f}"

    def _read_switch(self, text: Plain) -> bool:
        word = str(text).strip().lower()
        if word in ("true", "yes", "on", "1"):
            return True
        if word in ("false", "no", "off", "0", ""):
            return False
        raise BadInput(f"{self.label} cannot be {str(text)[:40]!r}: use yes or no.")


@dataclass(frozen=True)
class Value:
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


def number(values: Values, key: str) -> float:
    """A number among values."""
    return float(values[key].value)


def switch(values: Values, key: str) -> bool:
    """A switch among values."""
    return bool(values[key].value)


def choice(values: Values, key: str) -> str:
    """A choice among values."""
    return str(values[key].value)
