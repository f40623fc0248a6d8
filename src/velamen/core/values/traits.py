"""Traits of a brief that rules may ask for."""

from __future__ import annotations

from velamen.core.job.document import Brief
from velamen.core.materials.library import Library
from velamen.core.setting import Plain


def brief_traits(brief: Brief, library: Library) -> dict[str, Plain]:
    """Traits of the brief that rules may ask for."""
    base, sheet = library.bases[brief.base], library.stabilizers[brief.stabilizer]
    topping = library.toppings[brief.topping]
    return {
        "base": base.key, "base_name": base.name.lower(), "pile": base.pile,
        "stretch": base.stretch, "weight": base.weight, "marks": base.marks, "may_wet": base.may_wet,
        "takes_heat": base.takes_heat, "fill_spacing": base.fill_spacing, "base_stabilizer": base.stabilizer,
        "base_stabilizer_removal": library.stabilizers[base.stabilizer].removal,
        "base_layers": base.stabilizer_layers, "base_topping": base.topping,
        "base_topping_removal": library.toppings[base.topping].removal,
        "stabilizer": sheet.key, "stabilizer_name": sheet.name.lower(), "stabilizer_removal": sheet.removal,
        "stabilizer_layers": float(brief.stabilizer_layers if sheet.thickness else 0),
        "topping": topping.key, "topping_name": topping.name.lower(), "topping_removal": topping.removal,
        "hooping": brief.hooping, "hold": brief.hold, "hoop_shape": library.hoops[brief.hoop].shape,
        "scissors_width": library.tools["slitting_scissors"].width,
        "scissors_name": library.tools["slitting_scissors"].name.lower(),
    }  # fmt: skip
