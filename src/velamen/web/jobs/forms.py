"""Forms of the board."""

from __future__ import annotations

from django import forms

from velamen.core.materials.library import bases


def base_choices() -> list[tuple[str, str]]:
    """Bases as choices, with what they are."""
    return [(base.key, f"{base.name} ({base.about})") for base in bases().values()]


class NewJobForm(forms.Form):
    """A new job: its name, what it is sewn on, and artwork if there is some already."""

    name = forms.CharField(label="Name", max_length=80)
    base = forms.ChoiceField(label="Sewn on", choices=base_choices, initial="fleece")
    artwork = forms.FileField(
        label="Artwork",
        required=False,
        help_text="An SVG file at true size. It can also be brought in later.",
        widget=forms.ClearableFileInput(attrs={"accept": ".svg,image/svg+xml"}),
    )
