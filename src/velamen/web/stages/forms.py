"""Forms of the stages."""

from __future__ import annotations

import re
from typing import Any

from django import forms

from velamen.core.job.document import COURSES, HOLD, HOOPING, LAYERS, MATCHED, NEAREST, WIDEST, Brief
from velamen.core.lengths import read_length, show_length
from velamen.core.materials.hoops import by_size
from velamen.core.materials.library import Library


def _named(rows: Any) -> list[tuple[str, str]]:
    return [(key, row.name) for key, row in rows.items()]


def base_choices(library: Library) -> list[tuple[str, str]]:
    """Bases as choices, with what they are."""
    return [(key, f"{row.name} ({row.about})" if row.about else row.name) for key, row in library.bases.items()]


class LengthField(forms.Field):
    """A length in mm, typed in mm or inches; None where nothing is typed."""

    def __init__(self, unit: str, **kwargs: Any) -> None:
        self.unit = unit
        super().__init__(widget=forms.TextInput(attrs={"autocomplete": "off"}), **kwargs)

    def prepare_value(self, value: Any) -> Any:
        return show_length(value, self.unit) if isinstance(value, float) else value

    def clean(self, value: Any) -> float | None:
        if not str(value or "").strip():
            return None
        try:
            length = read_length(str(value), self.unit)
        except ValueError:
            raise forms.ValidationError(
                f'{str(value)[:30]!r} is no length: write it like 63.5, 2.5 in or 2 1/2".'
            ) from None
        if not 5.0 <= length <= WIDEST:
            raise forms.ValidationError(f"{length:.1f} mm is out of bounds: use 5 to {WIDEST:g} mm.")
        return length


class BriefForm(forms.Form):
    """What a job is sewn on."""

    revision = forms.IntegerField(widget=forms.HiddenInput)
    name = forms.CharField(label="Job", max_length=80)
    base = forms.ChoiceField(label="Sewn on")
    base_colour = forms.CharField(label="Its colour", required=False, widget=forms.TextInput(attrs={"type": "color"}))
    stabilizer = forms.ChoiceField(label="Stabilizer")
    stabilizer_layers = forms.IntegerField(label="Layers", min_value=0, max_value=LAYERS)
    topping = forms.ChoiceField(label="Topping")
    hooping = forms.ChoiceField(label="Hooping", choices=HOOPING)
    hold = forms.ChoiceField(label="Held by", choices=HOLD)
    hoop = forms.ChoiceField(label="Hoop")
    course = forms.ChoiceField(label="Order", required=False, choices=((MATCHED, "As the hoop asks"), *COURSES))
    thread = forms.ChoiceField(label="Thread for new pieces")

    def __init__(self, library: Library, unit: str, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.base_colours = {key: row.colour for key, row in library.bases.items()}
        self.fields["width"] = LengthField(unit, label="Finished width", required=False)
        choices = {
            "base": base_choices(library),
            "stabilizer": _named(library.stabilizers),
            "topping": _named(library.toppings),
            "hoop": [(hoop.key, hoop.name) for hoop in by_size(library)],
            "thread": [
                (NEAREST, "Nearest to each cloth"),
                *((key, f"{key} {row.name}") for key, row in library.threads.items()),
            ],
        }
        for key, found in choices.items():
            self.fields[key].choices = found

    def clean_base_colour(self) -> str:
        """The colour of the base, "" where it is the one that the base has in the library."""
        colour = str(self.cleaned_data["base_colour"]).strip().lower()
        if colour and not re.fullmatch("#[0-9a-f]{6}", colour):
            raise forms.ValidationError("Write the colour as #rrggbb.")
        return "" if colour == self.base_colours.get(self.cleaned_data.get("base", "")) else colour

    def brief(self) -> Brief:
        """The brief of a valid form."""
        data = {key: self.cleaned_data[key] for key in Brief.__struct_fields__}
        return Brief(**{**data, "width": data["width"] or 0.0, "course": data["course"] or MATCHED})


class ArtworkForm(forms.Form):
    """Artwork to bring in."""

    artwork = forms.FileField(label="SVG, DXF, picture or stitch file")
    unit = forms.ChoiceField(
        choices=(("", ""), ("mm", "mm"), ("cm", "cm"), ("in", "inches"), ("0.1mm", "0.1 mm")), required=False
    )
    columns = forms.CharField(max_length=120, required=False)
    revision = forms.IntegerField(widget=forms.HiddenInput)
