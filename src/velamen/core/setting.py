"""Settings declared once: forms, validation, reasons, command line and docs come from them."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Literal

from velamen.core.errors import BadInput
from velamen.core.lengths import read_length
from velamen.core.numbers import bounded, read_number

Plain = float | str | bool
Kind = Literal["number", "choice", "switch", "text", "colour", "thread", "foam", "motif", "cloth"]
NONE = "none"  # in the place of a material's key: of none
MATERIALS = {
    "thread": "threads",
    "foam": "foams",
    "motif": "motifs",
    "cloth": "cloths",
}  # kinds of settings whose value is the key of a material


@dataclass(frozen=True)
class Setting:
    """One setting of a construction, a material or a brief."""

    key: str
    label: str
    group: str  # under which it is listed
    help: str  # what it is, in a sentence
    kind: Kind = "number"  # a thread, foam, motif or cloth is the key of one, or "none"
    unit: str = "mm"  # of low, high and step
    low: float = 0.0
    high: float = 0.0
    step: float = 0.1
    choices: tuple[tuple[str, str], ...] = ()  # key and label
    needs: tuple[str, str] | None = None  # another setting and the value it must have, or several with | between
    role: str = ""  # of the pass it belongs to, so that rules know what lies beneath that
    measure: str = ""  # what it measures ("pull", "underlay"...), so that one rule serves every construction
    longest: int = 120  # characters of a text
    early: bool = False  # whether it decides which operations there are: matched from brief and piece alone
    optional: bool = True  # whether the key of a material may be "none"
    pictures: str = ""  # the folder of pictures that its choices are shown by
    grows: bool = False  # whether an own value grows with its piece

    @property
    def material(self) -> str:
        """The kind of material that its value is the key of, "" where it is none."""
        return MATERIALS.get(self.kind, "")

    @property
    def counts(self) -> bool:
        """Whether it is a number of things, so that it must be whole."""
        return self.kind == "number" and not self.unit and self.step >= 1

    @property
    def decimals(self) -> int:
        """Decimals its numbers are shown with."""
        return 0 if self.step >= 1 else 1 if self.step >= 0.1 else 2

    def bounded(self, value: float) -> float:
        """A number within its bounds, to a thousandth."""
        return round(min(max(value, self.low), self.high), 3)

    def read(self, text: Plain) -> Plain:
        """A typed value out of text or a stored value; BadInput names value and bounds."""
        if self.kind == "switch":
            return self._read_switch(text)
        if self.kind == "choice":
            keys = [key for key, _ in self.choices]
            if str(text) not in keys:
                raise BadInput(f"{self.label} cannot be {text!r}: choose one of {', '.join(keys)}.")
            return str(text)
        if self.kind == "text" or self.material:
            words = self._read_words(text)
            if words == NONE and not self.optional:
                raise BadInput(f"{self.label} cannot be none: choose a {self.kind}.")
            return words
        if self.kind == "colour":
            return self._read_colour(text)
        bounds = f"use {self.low:g} to {self.high:g}{' ' + self.unit if self.unit else ''}"
        try:
            number = self._read_number(text)
        except ValueError:
            raise BadInput(f"{self.label} cannot be {str(text)[:40]!r}: {bounds}.") from None
        if not math.isfinite(number) or not self.low <= number <= self.high:
            raise BadInput(f"{self.label} {number:g} is out of bounds: {bounds}.")
        if self.counts and number != round(number):
            raise BadInput(f"{self.label} {number:g} is no whole number: {bounds}.")
        return number

    def show(self, value: Plain) -> str:
        """A value as text, without its unit."""
        if self.kind == "switch":
            return "yes" if value else "no"
        if self.kind == "choice":
            return dict(self.choices)[str(value)]
        if self.kind in ("text", "colour") or self.material:
            return str(value)
        return f"{float(value):.{self.decimals}f}"

    def _read_switch(self, text: Plain) -> bool:
        word = str(text).strip().lower()
        if word in ("true", "yes", "on", "1"):
            return True
        if word in ("false", "no", "off", "0", ""):
            return False
        raise BadInput(f"{self.label} cannot be {str(text)[:40]!r}: use yes or no.")

    def _read_number(self, text: Plain) -> float:
        if isinstance(text, (int, float)):
            return bounded(text)
        if self.unit == "mm":
            return read_length(text)
        return read_number(text.strip().removesuffix(self.unit))

    def _read_words(self, text: Plain) -> str:
        words = " ".join(str(text).split())
        if len(words) > self.longest or (self.low and not words):
            raise BadInput(f"{self.label} must be {'1' if self.low else '0'} to {self.longest} characters long.")
        return words

    def _read_colour(self, text: Plain) -> str:
        colour = str(text).strip().lower()
        if not re.fullmatch("#[0-9a-f]{6}", colour):
            raise BadInput(f"{self.label} cannot be {str(text)[:40]!r}: write it as #rrggbb.")
        return colour
