"""What the brief does: base and stabilizer hooped, a topping laid, and the topping taken off at the end."""

from __future__ import annotations

from functools import lru_cache

from velamen.core.job.document import Brief
from velamen.core.materials.library import Library
from velamen.core.materials.records import Base, Cloth, Foam, Stabilizer, Topping
from velamen.core.timeline.effects import Lays, Means, TakesAway
from velamen.core.timeline.layers import BASE, CLOTH, FOAM, STABILIZER, TOPPING, Layer
from velamen.core.timeline.operation import Does, Hand, Operation, When

LAY_SECONDS = 20.0  # ours
OFF = {  # how a topping comes off: kind of hand step, what reaches it, what to do, s; ours
    "tear": (Hand.TEAR_AWAY, Means.HANDS, "Tear {film} off; tweezers for what stays in corners.", 60.0),
    "wash": (Hand.WASH_AWAY, Means.WATER, "Tear off what comes of {film} and wash the rest out.", 120.0),
    "heat": (Hand.MELT_AWAY, Means.HEAT, "Tear off what comes of {film} and iron the rest away.", 120.0),
    "cut": (Hand.TEAR_AWAY, Means.HANDS, "Cut {film} off close to the stitches.", 120.0),
}


RINSED = {  # how lace is freed of the stabilizer it was sewn on: the same, s; ours
    "wash": (Hand.WASH_AWAY, Means.WATER, "Cut the lace out 5 mm off its edge and rinse {film} out in warm water; "
             "what is left in it keeps it stiff. Pin it flat to dry.", 300.0),
    "heat": (Hand.MELT_AWAY, Means.HEAT, "Tear off what comes of {film} and iron the rest away.", 180.0),
}  # fmt: skip


@lru_cache(maxsize=64)
def before_sewing(brief: Brief, library: Library) -> tuple[Operation, ...]:
    """What is done while the hoop is made ready: base on stabilizer hooped, a topping laid over it."""
    *hooped, last = ground_layers(brief, library)
    hooping = tuple(hooped) if last.kind == TOPPING else (*hooped, last)
    found = [Operation("", "", "hoop", effects=(Lays(hooping),), when=When.BEFORE)]
    if last.kind == TOPPING:
        does = Does(Hand.LAY_TOPPING, f"Lay {last.name}", f"Lay {last.name} over all that is sewn.", LAY_SECONDS)
        found.append(Operation("", "", "topping", effects=(Lays((last,)),), does=does, when=When.BEFORE))
    return tuple(found)


def leaves_thread(brief: Brief, library: Library) -> bool:
    """Whether nothing of what the brief lays is left in the end: no base, a stabilizer that goes wholly."""
    return library.bases[brief.base].thickness == 0.0 and library.stabilizers[brief.stabilizer].removal in RINSED


@lru_cache(maxsize=64)
def after_sewing(brief: Brief, library: Library, alone: bool = False) -> tuple[Operation, ...]:
    """What is done out of the hoop with what the brief has laid. alone: whether nothing but thread lies on it."""
    topping, sheet = library.toppings[brief.topping], library.stabilizers[brief.stabilizer]
    found = (_off(topping),) if topping.thickness and topping.removal in OFF else ()
    return (*found, _rinsed(sheet)) if alone and leaves_thread(brief, library) else found


def _rinsed(sheet: Stabilizer) -> Operation:
    kind, means, text, seconds = RINSED[sheet.removal]
    name = sheet.name.lower()
    does = Does(kind, f"Take the {name} off", text.replace("{film}", f"the {name}"), seconds)
    return Operation(
        "", "", "rinse", effects=(TakesAway(STABILIZER, ("",), means=means),), does=does, when=When.AFTER
    )


def _off(topping: Topping) -> Operation:
    kind, means, text, seconds = OFF[topping.removal]
    name = topping.name.lower()
    does = Does(kind, f"Take {name} off", text.replace("{film}", f"the {name}"), seconds)
    return Operation("", "", "topping_off", effects=(TakesAway(TOPPING, ("",), means=means),), does=does,
                     needs=("topping",), when=When.AFTER)  # fmt: skip


@lru_cache(maxsize=64)
def ground_layers(brief: Brief, library: Library) -> tuple[Layer, ...]:
    """Stabilizer, base and topping as they lie before anything is sewn, lowest first."""
    base, topping = library.bases[brief.base], library.toppings[brief.topping]
    sheet = library.stabilizers[brief.stabilizer]
    layers = [
        Layer(STABILIZER, sheet.key, sheet.name.lower(), sheet.thickness, satin_spacing=base.satin_spacing)
        for _ in range(brief.stabilizer_layers if sheet.thickness else 0)
    ]
    layers.append(base_layer(base))
    if topping.thickness:
        layers.append(Layer(TOPPING, topping.key, topping.name.lower(), topping.thickness))
    return tuple(layers)


def base_layer(base: Base) -> Layer:
    """A base as a layer of the stack; without one the stabilizer itself is sewn on."""
    name = base.name.lower() if base.thickness else "the stabilizer alone"
    return Layer(
        BASE, base.key, name, base.thickness, base.pile, base.stretch, base.pull,
        base.satin_spacing, base.underlay, base.marks,
    )  # fmt: skip


@lru_cache(maxsize=4096)
def cloth_layer(cloth: Cloth, like: Base, owner: str) -> Layer:
    """A cloth as a layer of the stack; once laid on something it stretches no more than that."""
    return Layer(
        CLOTH, cloth.key, cloth.name.lower(), like.thickness, like.pile, "none", like.pull,
        like.satin_spacing, like.underlay, "none", (owner,),
    )  # fmt: skip


def foam_layer(foam: Foam) -> Layer:
    """A foam as a layer of the stack."""
    return Layer(FOAM, foam.key, foam.name.lower(), foam.thickness)
