"""Forms made of declared settings."""

from __future__ import annotations

from typing import Any

from django import forms

from velamen.core.errors import BadInput
from velamen.core.materials.library import Library
from velamen.core.setting import Setting

REFERS = {"stabilizer": "stabilizers", "topping": "toppings", "like": "bases"}
"""Fields that name a row of another kind."""


class SettingField(forms.Field):
    """A form field that reads as its setting does."""

    def __init__(self, setting: Setting, **kwargs: Any) -> None:
        self.setting = setting
        super().__init__(label=setting.label, help_text=setting.help, **kwargs)

    def clean(self, value: Any) -> Any:
        try:
            return self.setting.read("" if value is None else value)
        except BadInput as error:
            raise forms.ValidationError(str(error)) from None


class RowForm(forms.Form):
    """Fields of one row of a kind, out of its declared settings."""

    def __init__(self, settings: tuple[Setting, ...], library: Library, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for setting in settings:
            self.fields[setting.key] = SettingField(setting, required=False, widget=_widget(setting, library))


def _widget(setting: Setting, library: Library) -> forms.Widget:
    if setting.key in REFERS:
        return forms.Select(choices=[(key, row.name) for key, row in library.rows(REFERS[setting.key]).items()])
    if setting.kind == "choice":
        return forms.Select(choices=setting.choices)
    if setting.kind == "switch":
        return forms.Select(choices=(("yes", "yes"), ("no", "no")))
    if setting.kind == "colour":
        return forms.TextInput(attrs={"type": "color"})
    attributes = {"autocomplete": "off"} | ({"inputmode": "decimal"} if setting.kind == "number" else {})
    return forms.TextInput(attrs=attributes)


def shown(settings: tuple[Setting, ...], fields: dict[str, Any]) -> dict[str, str]:
    """Plain fields as their form shows them."""
    return {
        one.key: fields[one.key] if one.kind == "choice" else one.show(fields[one.key])
        for one in settings
    }  # fmt: skip
