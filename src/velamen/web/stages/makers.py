"""Typed texts and outlines round others, as the fields of their forms."""

from __future__ import annotations

from typing import Any

from velamen.core.job.document import Job
from velamen.core.job.shape import Maker, Text


def maker_of(document: Job, piece_id: str) -> Maker | None:
    """The text or outline that makes the shape of a piece."""
    shape = next((piece.shape for piece in document.pieces if piece.id == piece_id), "")
    maker = next((one.maker for one in document.shapes if one.id == shape), "")
    return next((one for one in document.makers if one.id == maker), None)


def maker_values(maker: Maker) -> dict[str, Any]:
    """A text or outline by the fields of its form, with its kind."""
    if isinstance(maker, Text):
        style = "monogram" if maker.style == "monogram" else "word" if maker.joined else "letters"
        return {
            "kind": "text", "maker": maker.id, "text": maker.text, "typeface": maker.typeface, "as": style,
            "letter_height": maker.height, "letter_spacing": maker.spacing, "fit_width": maker.width,
            "within": maker.within, "letter_arch": maker.arch, "letter_circle": maker.circle,
        }  # fmt: skip
    return {
        "kind": "around", "maker": maker.id, "form": maker.form, "distance": maker.distance, "close": maker.close,
        "calm": maker.calm, "corners": "sharp" if maker.sharp else "round", "wide": maker.wide, "high": maker.high,
    }  # fmt: skip


def live_of(document: Job, piece_id: str) -> dict[str, str] | None:
    """The fields of the text or outline that makes the shape of a piece, as they are shown."""
    maker = maker_of(document, piece_id)
    if maker is None:
        return None
    known = maker_values(maker)
    return {key: f"{value:.1f}" if isinstance(value, float) else str(value) for key, value in known.items()}
