"""Pictures read: PNG, JPEG and WebP as upright arrays of colours, with their size in mm."""

from __future__ import annotations

import warnings
from dataclasses import dataclass
from io import BytesIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFilter, ImageOps, UnidentifiedImageError

from velamen.core.errors import BadInput

FORMATS = ("PNG", "JPEG", "WEBP")
MAX_BYTES = 20_000_000
MAX_PIXELS = 50_000_000  # before it is made smaller; what a good camera takes
LONGEST = 2000  # pixels of the longer side that are traced
SMALLEST = 8  # pixels
INCH = 25.4
USUAL = 120.0  # mm of the longer side where the picture does not say its own
CLEAR = 128  # alpha under which a pixel is no part of the picture
LEVEL = 24  # of 255; neighbours nearer than this are one flat area
GRAINY = 0.75  # share of flat pixels under which a picture is calmed before it is traced


@dataclass(frozen=True)
class Picture:
    """A picture: colours (h, w, 3) of 8 bits, what of it is there (h, w), its width and height in mm."""

    colours: NDArray[np.uint8]
    there: NDArray[np.bool_]
    width: float
    height: float
    notes: tuple[str, ...] = ()


def read_picture(data: bytes, longest: int = LONGEST) -> Picture:
    """A picture, upright and at most `longest` pixels a side.

    Its size comes from its resolution where that is sensible. Raises BadInput with one sentence
    on anything that is no picture, too large or damaged.
    """
    if len(data) > MAX_BYTES:
        raise BadInput(f"The picture is {len(data) / 1e6:.0f} MB: at most {MAX_BYTES // 1_000_000} MB are read.")
    image, pixels = _opened(data, longest)
    notes = []
    width, height = _size(image, pixels)
    if image.mode.startswith("I") or image.mode == "F":
        image, note = _eight_bits(image)
        notes.append(note)
    elif image.mode == "CMYK":
        notes.append("The picture is in printing colours: they are shown as a screen would mix them.")
    ImageOps.exif_transpose(image, in_place=True)
    if (image.width > image.height) != (width > height) and image.width != image.height:
        width, height = height, width
        pixels = pixels[::-1]
    if max(pixels) > longest:
        notes.append(f"The picture has {pixels[0]} × {pixels[1]} pixels: {longest} on its longer side are traced.")
        image.thumbnail((longest, longest), Image.Resampling.BOX)
    rgba = np.asarray(image.convert("RGBA"))
    there = rgba[..., 3] >= CLEAR
    if not there.any():
        raise BadInput("The picture is wholly transparent: there is nothing to trace.")
    colours = np.ascontiguousarray(rgba[..., :3])
    for radius in (1.5, 3.0):
        if flat(colours[::2, ::2]).mean() < GRAINY:
            colours = np.asarray(image.convert("RGB").filter(ImageFilter.GaussianBlur(radius)))
    return Picture(colours, there, width, height, tuple(notes))


def flat(colours: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Pixels (h, w) that hardly differ from those right of and below them."""
    same = np.ones(colours.shape[:2], dtype=bool)
    for one, other, part in (
        (colours[:, 1:], colours[:, :-1], same[:, :-1]), (colours[1:], colours[:-1], same[:-1])
    ):  # fmt: skip
        part &= (np.maximum(one, other) - np.minimum(one, other) < LEVEL).all(axis=2)
    return same


def _opened(data: bytes, longest: int) -> tuple[Image.Image, tuple[int, int]]:
    """The decoded picture, brought near to `longest` pixels a side at once, and how many it has by itself.

    They are counted before they are unpacked.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image: Image.Image = Image.open(BytesIO(data), formats=FORMATS)
            pixels = image.size
            if pixels[0] * pixels[1] > MAX_PIXELS:
                raise BadInput(
                    f"The picture has {image.width} × {image.height} pixels: at most "
                    f"{MAX_PIXELS // 1_000_000} million are read. Save it smaller."
                )
            if min(image.size) < SMALLEST:
                raise BadInput(f"The picture has {image.width} × {image.height} pixels: too few to trace.")
            image.draft("RGB", (longest, longest))  # a JPEG is unpacked at a half, a quarter or an eighth
            image.load()
            image = _smaller(image, longest)
    except BadInput:
        raise
    except UnidentifiedImageError:
        raise BadInput("The file is no picture that is read: choose a PNG, JPEG or WebP.") from None
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise BadInput(f"The picture has over {MAX_PIXELS // 1_000_000} million pixels: save it smaller.") from None
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError, IndexError, TypeError, KeyError):
        raise BadInput("The picture is damaged or cut short: save it again as PNG, JPEG or WebP.") from None
    return image, pixels


def _smaller(image: Image.Image, longest: int) -> Image.Image:
    """A picture with every few pixels as one, still no smaller than `longest`: all that follows costs less then."""
    factor = max(image.size) // longest
    if factor < 2:
        return image
    if image.mode in ("1", "P", "PA"):
        image = image.convert("RGBA")
    elif image.mode.startswith("I;"):
        image = image.convert("I")
    return image.reduce(factor)


def _eight_bits(image: Image.Image) -> tuple[Image.Image, str]:
    """A picture of 16 or more bits brought down to 8, over the range that it uses."""
    values = np.asarray(image, dtype=np.float64)
    low, high = float(values.min()), float(values.max())
    scale = 255.0 / (high - low) if high > low else 1.0
    small = Image.fromarray(np.clip((values - low) * scale, 0, 255).astype(np.uint8))
    return small, "The picture has 16 bits a colour: it is traced with 8."


def _size(image: Image.Image, pixels: tuple[int, int]) -> tuple[float, float]:
    """Width and height in mm as the file says, or the usual size where it says nothing sensible."""
    longer = max(pixels)
    try:
        dpi = float(image.info.get("dpi", (0, 0))[0])
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        dpi = 0.0
    scale = INCH / dpi if np.isfinite(dpi) and dpi > 97 else USUAL / longer
    if not 10.0 <= longer * scale <= 600.0:
        scale = USUAL / longer
    return pixels[0] * scale, pixels[1] * scale
