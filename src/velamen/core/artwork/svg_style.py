"""What of an SVG's styling decides geometry: filled or not, fill rule, hidden or not."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from xml.etree.ElementTree import Element

from velamen.core.errors import BadInput


@dataclass(frozen=True)
class Style:
    """Inherited styling that matters to a shape."""

    filled: bool = True
    fill: str = ""  # its colour, "" where none is told or it is no plain one
    evenodd: bool = False
    hidden: bool = False


KEYS = ("fill", "fill-rule", "display", "visibility")


Sheet = dict[str, dict[str, str]]
"""Declarations by simple selector (tag, .class or #id)."""


def read_sheet(root: Element) -> Sheet:
    """Declarations of the <style> elements. Raises BadInput where they cannot be read."""
    text = "\n".join("".join(element.itertext()) for element in root.iter() if str(element.tag).endswith("}style"))
    if not text.strip():
        return {}
    import tinycss2  # only files with a style sheet pay for it

    sheet: Sheet = {}
    try:
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            if rule.type != "qualified-rule":
                continue
            body = _declarations(tinycss2.serialize(rule.content))
            for selector in tinycss2.serialize(rule.prelude).split(","):
                sheet[selector.strip()] = sheet.get(selector.strip(), {}) | body
    except RecursionError:
        raise BadInput("The style sheet of the SVG nests too deep: save it again with plain attributes.") from None
    return sheet


def style_of(element: Element, tag: str, inherited: Style, sheet: Sheet) -> Style:
    """Style of an element: attributes, then the sheet, then its own style attribute."""
    found = {key: value for key in KEYS if (value := element.get(key)) is not None}
    for selector in (tag, *("." + name for name in (element.get("class") or "").split())):
        found |= sheet.get(selector, {})
    found |= sheet.get("#" + (element.get("id") or ""), {})
    found |= _declarations(element.get("style") or "")
    style = inherited
    if "fill" in found and found["fill"] != "inherit":
        style = replace(style, filled=found["fill"] not in ("none", "transparent"), fill=_colour(found["fill"]))
    if "fill-rule" in found and found["fill-rule"] != "inherit":
        style = replace(style, evenodd=found["fill-rule"] == "evenodd")
    return replace(style, hidden=found.get("display") == "none" or found.get("visibility") in ("hidden", "collapse"))


@lru_cache(maxsize=512)
def _colour(text: str) -> str:
    """A colour as "#rrggbb", "" where it is none, as gradients are."""
    import tinycss2.color3  # only files that name colours pay for it

    found = tinycss2.color3.parse_color(text)
    if found is None or isinstance(found, str):
        return ""
    return "#" + "".join(f"{round(255 * min(max(part, 0.0), 1.0)):02x}" for part in found[:3])


def _declarations(text: str) -> dict[str, str]:
    pairs = (part.split(":", 1) for part in text.split(";") if ":" in part)
    found = {key.strip().lower(): value.replace("!important", "").strip().lower() for key, value in pairs}
    return {key: value for key, value in found.items() if key in KEYS}
