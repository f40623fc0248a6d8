"""Forms of the board."""

from __future__ import annotations

from typing import Any

from django import forms

from velamen.core.materials.library import Library
from velamen.web.stages.forms import base_choices
from velamen.web.stages.sources import ARTWORK_FILES, STITCH_FILES


class NewJobForm(forms.Form):
    """A new job: its name, what it is sewn on, and artwork if there is some already."""

    name = forms.CharField(label="Name", max_length=80)
    recipe = forms.CharField(required=False, max_length=40)
    base = forms.ChoiceField(label="Sewn on", initial="fleece")
    artwork = forms.FileField(
        label="Artwork",
        required=False,
        help_text="SVG or DXF at true size, a picture to trace, or a stitch file (CSV, G-code) to take apart. It can "
        "also be brought in later.",
        widget=forms.ClearableFileInput(attrs={"accept": ",".join((*ARTWORK_FILES, *STITCH_FILES))}),
    )

    def __init__(self, library: Library, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["base"].choices = base_choices(library)
