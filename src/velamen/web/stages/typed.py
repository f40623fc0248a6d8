"""What a form of the Artwork stage has sent, read as numbers with sentences for what cannot be."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress

import numpy as np
from numpy.typing import NDArray

from velamen.core.errors import BadInput
from velamen.core.lengths import read_length
from velamen.core.numbers import read_number, read_whole
from velamen.core.setting import Setting

FAR = 1000.0
MANY = 2000  # shapes or points named in one form

NUMBERS = {
    one.key: one
    for one in (
        Setting("close", "Close gaps", "Outline", "Gaps narrower than this are closed.", low=0, high=40),
        Setting("calm", "Calm", "Outline", "Smaller bumps and notches are smoothed.", low=0, high=30),
        Setting("wide", "At least wide", "Outline", "Of a fitted outline; 0 as wide as its distance asks.",
                low=0, high=600),
        Setting("high", "At least high", "Outline", "Of a fitted outline; 0 as high as its distance asks.",
                low=0, high=600),
        Setting("overlap", "Overlap", "Combine", "Left of what shapes share with those above them.", low=0, high=10),
        Setting("degrees", "Turn by", "Arrange", "Clockwise.", unit="°", low=-360, high=360),
        Setting("columns", "Across", "Repeat", "Copies side by side.", unit="", low=1, high=40, step=1),
        Setting("rows", "Down", "Repeat", "Copies below each other.", unit="", low=1, high=40, step=1),
        Setting("gap", "Gap", "Repeat", "Between neighbours.", low=-50, high=200),
        Setting("count", "Copies", "Repeat", "Round the circle, with the first.", unit="", low=2, high=72, step=1),
        Setting("radius", "Radius", "Repeat", "From the shape to the middle of the circle.", low=1, high=300),
        Setting("letter_height", "Height", "Lettering", "Of the capitals; of the circle round a monogram.",
                low=3, high=300),
        Setting("letter_spacing", "Spacing", "Lettering", "More between letters, or less.", low=-20, high=60),
        Setting("fit_width", "Fit to width", "Lettering", "Of the longest line; 0 as it comes.", low=0, high=600),
        Setting("within", "At most wide", "Lettering", "Longer text is set smaller, in proportion; 0 as it comes.",
                low=0, high=600),
        Setting("letter_arch", "Arch", "Lettering", "Middle above the ends, below where negative.",
                low=-150, high=150),
        Setting("letter_circle", "On a circle", "Lettering", "Across the circle it stands on; 0 for lines.",
                low=0, high=500),
        Setting("reach", "Reach", "Points", "How far the outline follows on either side.", low=0, high=100),
        Setting("amount", "Smooth over", "Mend", "Either way along the outline.", low=0.5, high=30),
        Setting("below", "Holes under", "Mend", "Smaller holes are filled.", unit="mm²", low=0.1, high=100000),
        Setting("tolerance", "Tolerance", "Mend", "How far the outline may move.", low=0.01, high=5, step=0.01),
        Setting("line_width", "Width", "Line", "Of the shape that the line becomes.", low=0.5, high=60),
        Setting("opacity", "Strength", "Picture", "How strongly it shows.", unit="%", low=5, high=100, step=1),
        Setting("colours", "Colours", "Trace", "How many; 0 for as many as the picture shows.",
                unit="", low=0, high=24, step=1),
        Setting("specks", "Drop specks", "Trace", "Smaller parts go to their neighbour.",
                unit="mm²", low=0, high=400),
        Setting("smoothing", "Smoothing", "Trace", "Bumps of this size go.", low=0, high=3, step=0.05),
    )
}  # fmt: skip
DISTANCE = Setting("distance", "Distance", "Outline", "Outwards, inwards where negative.", low=-60, high=60)
FIELDS = NUMBERS | {"distance": DISTANCE}


class Typed:
    """The numbers, points and words of one form."""

    def __init__(self, data: Mapping[str, str], unit: str) -> None:
        self.data, self.unit = data, unit

    def text(self, key: str) -> str:
        return str(self.data.get(key, ""))

    def number(self, key: str) -> float:
        """A number declared in NUMBERS."""
        return float(NUMBERS[key].read(self.text(key)))

    def any_number(self, key: str) -> float:
        """A number declared in NUMBERS, 0 where none is typed."""
        return self.number(key) if self.text(key) else 0.0

    def length(self, key: str, label: str) -> float | None:
        """A length in the person's unit, None where nothing is typed."""
        text = self.text(key).strip()
        if not text:
            return None
        try:
            length = read_length(text, self.unit)
        except ValueError:
            raise BadInput(f'{label} cannot be {text[:30]!r}: write it like 63.5, 2.5 in or 2 1/2".') from None
        if abs(length) > FAR:
            raise BadInput(f"{label} {length:g} mm is out of bounds: use up to {FAR:g} mm.")
        return length

    def size(self, key: str, label: str) -> float | None:
        """A length of a millimetre or more."""
        length = self.length(key, label)
        if length is not None and length < 1.0:
            raise BadInput(f"{label} {length:g} mm is too small: use 1 mm or more.")
        return length

    def shift(self) -> tuple[float, float]:
        """How far something is moved, to the right and down."""
        return self.length("dx", "The way to the right") or 0.0, self.length("dy", "The way down") or 0.0

    def place(self) -> tuple[float, float]:
        """A place on the board."""
        return self.length("x", "The place") or 0.0, self.length("y", "The place") or 0.0

    def distances(self) -> list[float]:
        """One distance of an outline or several, apart by spaces or semicolons."""
        words = self.text("distance").replace(";", " ").split()
        found = [float(DISTANCE.read(word)) for word in words[:8]]
        if not found or any(abs(one) < 0.1 for one in found):
            raise BadInput("An outline needs a distance of at least 0.1 mm, negative for inwards.")
        return list(dict.fromkeys(found))

    def points(self) -> list[tuple[int, int]]:
        """Chosen points as the board names them: ring and place, "0.17"."""
        found = []
        for text in self.text("points").split()[:MANY]:
            ring, dot, nth = text.partition(".")
            if not (dot and ring.isdecimal() and nth.isdecimal() and len(text) < 14):
                raise BadInput("The points cannot be read: reload the page.")
            found.append((int(ring), int(nth)))
        if not found:
            raise BadInput("Choose a point first.")
        return found

    def drawn(self) -> tuple[NDArray[np.float64], list[bool]]:
        """Points that the pen drew, "x y c" each, c for a curve."""
        try:
            rows = [text.split() for text in self.text("outline").split(",") if text.strip()]
            points = np.array([(read_number(x), read_number(y)) for x, y, *_ in rows]).reshape(-1, 2)
        except ValueError:
            raise BadInput("The outline cannot be read: draw it again.") from None
        if len(points) and float(np.abs(points).max()) > FAR:
            raise BadInput("The outline lies far off the field: draw it on the cloth.")
        return points, [row[2:] == ["c"] for row in rows]


def numbers_of(text: str) -> list[int]:
    """Whole numbers apart by blanks, as a page names what is chosen by its place; others are passed over."""
    found = []
    for word in text.split():
        with suppress(ValueError):
            found.append(read_whole(word))
    return found


def ids_of(data: Mapping[str, str]) -> list[str]:
    """Ids of the shapes a form is about, each once."""
    return list(dict.fromkeys(data.get("ids", "").split()))[:MANY]
