"""cut.svg and cut.dxf: the outline of every cloth piece at true size, a group or layer a cloth."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from itertools import groupby
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from ezdxf import units
from ezdxf.colors import rgb2int
from ezdxf.filemanagement import new

from velamen.core.building.build import Build
from velamen.core.materials.colour import rgb_of
from velamen.core.outputs.cut_sheet import LABEL, Cut, cuts_of, sheet_box

LINE = 0.1  # mm
Materials = Mapping[str, tuple[str, str]]  # name and colour by the key that cuts have


def cut_svg(build: Build) -> str:
    """The cut file as SVG text: mm units, the job's own coordinates, one group a cloth."""
    return svg_of(build.job.name, cuts_of(build), _cloths(build))


def cut_dxf(build: Build) -> str:
    """The cut file as DXF text: mm, y up, a layer a cloth, labels on a layer of their own."""
    return dxf_of(cuts_of(build), _cloths(build))


def _cloths(build: Build) -> Materials:
    return {key: (one.name, one.colour) for key, one in build.library.cloths.items()}


def svg_of(title: str, cuts: Sequence[Cut], materials: Materials) -> str:
    """Cuts as SVG text, those of one material one after another."""
    left, top, right, bottom = sheet_box(cuts)
    width, height = right - left, bottom - top
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
        f'viewBox="{left:.3f} {top:.3f} {width:.3f} {height:.3f}">',
        f"<title>{escape(title)}: cut file</title>",
    ]
    for key, group in groupby(cuts, key=lambda cut: cut.cloth):
        name, colour = materials[key]
        lines.append(
            f'<g id={quoteattr("cloth-" + key)} fill="none" stroke="{colour}" stroke-width="{LINE}">'
            f"<title>{escape(name)}</title>"
        )
        lines += [line for cut in group for line in _piece(cut)]
        lines.append("</g>")
    return "\n".join([*lines, "</svg>", ""])


def dxf_of(cuts: Sequence[Cut], materials: Materials) -> str:
    """Cuts as DXF text."""
    document = new("R2010", units=units.MM)
    space = document.modelspace()
    document.layers.add("LABELS", color=8)
    for cut in cuts:
        layer = f"CUT_{cut.cloth.upper()}"
        if layer not in document.layers:
            red, green, blue = rgb_of(materials[cut.cloth][1])
            document.layers.add(layer, true_color=rgb2int((red, green, blue)))
        for ring in cut.rings:
            line = space.add_lwpolyline([], close=True, dxfattribs={"layer": layer})
            # x, y, two widths, bulge; at once, since given one by one each copies all before it
            line.lwpoints.values = np.pad(ring * [1.0, -1.0], ((0, 0), (0, 3)))
        text = space.add_text(cut.label, height=LABEL, dxfattribs={"layer": "LABELS"})
        text.set_placement((cut.at[0], -cut.at[1]))
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _piece(cut: Cut) -> list[str]:
    path = "".join("M" + "L".join(f"{x:.3f},{y:.3f}" for x, y in ring.tolist()) + "Z" for ring in cut.rings)
    side = ' data-side="back"' if cut.mirrored else ""
    name = f"cut-{cut.piece}-{cut.copy + 1}" if cut.copy else f"cut-{cut.piece}"
    return [
        f'<path id={quoteattr(name)}{side} fill-rule="evenodd" d="{path}"/>',
        f'<text x="{cut.at[0]:.3f}" y="{cut.at[1]:.3f}" font-size="{LABEL}" font-family="sans-serif" '
        f'fill="#333" stroke="none">{escape(cut.label)}</text>',
    ]
