"""Kinds of material: a typed record each, its fields declared once as settings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from velamen.core.errors import BadInput
from velamen.core.setting import Plain, Setting

UNDERLAYS = (
    ("none", "none"),
    ("centre_run", "centre run"),
    ("edge_run", "edge run"),
    ("centre_edge", "centre run + edge run"),
    ("zigzag", "zigzag"),
    ("edge_run_zigzag", "edge run + zigzag"),
    ("double_zigzag", "double zigzag"),
)
STRETCH = (("none", "none"), ("low", "low"), ("medium", "medium"), ("high", "high"))
MARKS = (("none", "nothing stays"), ("hoop", "hoop marks stay"), ("holes", "needle holes and hoop marks stay"))
REMOVALS = (
    ("none", "stays"), ("tear", "torn away"), ("cut", "cut away"), ("wash", "washed out"), ("heat", "ironed away"),
)  # fmt: skip
PRINTS = (("plain", "plain"), ("stripe", "stripes"), ("dot", "dots"), ("check", "checks"))


@dataclass(frozen=True)
class Base:
    """What is sewn on (handbook, section 3). pile, thickness without it, pull per side and spacings in mm;
    weight in g/m²; marks: what stays visible; stabilizer, topping: keys of what it is usually sewn with."""

    key: str
    name: str
    about: str
    pile: float
    thickness: float
    stretch: str
    pull: float
    satin_spacing: float
    fill_spacing: float
    underlay: str
    stabilizer: str
    stabilizer_layers: float
    topping: str
    weight: float
    may_wet: bool
    takes_heat: bool
    marks: str
    colour: str


@dataclass(frozen=True)
class Stabilizer:
    """A stabilizer: thickness in mm a layer; stiffness 0 to 5; carries: stitches per cm² a layer bears."""

    key: str
    name: str
    thickness: float
    removal: str
    stiffness: float
    carries: float


@dataclass(frozen=True)
class Topping:
    """A topping: thickness in mm and how it comes off."""

    key: str
    name: str
    thickness: float
    removal: str


@dataclass(frozen=True)
class Foam:
    """A foam: thickness in mm; kind: craft, or glitter, which shows and stays."""

    key: str
    name: str
    thickness: float
    colour: str
    kind: str = "craft"


@dataclass(frozen=True)
class Tool:
    """A tool in the hand; width: mm of a channel that it needs."""

    key: str
    name: str
    width: float


@dataclass(frozen=True)
class Cloth:
    """An appliqué cloth. like: key of the base whose thickness, pile, pull and spacings it has."""

    key: str
    name: str
    colour: str
    like: str
    print: str
    print_colour: str


@dataclass(frozen=True)
class Thread:
    """A thread; weight as it is sold (40 is the usual one, 60 finer), finish matte or metallic."""

    key: str
    name: str
    colour: str
    weight: float
    finish: str


@dataclass(frozen=True)
class Hoop:
    """A hoop's sewing field in mm, centred on the origin. curve: mm by which the lower limit of a
    cap field stands higher in the middle than at its sides."""

    key: str
    name: str
    width: float
    height: float
    shape: str
    curve: float


@dataclass(frozen=True)
class Die:
    """A cutting die. outline: the SVG path that it cuts, in mm."""

    key: str
    name: str
    outline: str


@dataclass(frozen=True)
class Motif:
    """A small repeated figure. path: an SVG path of one line, from its entry to its exit, both on its base line."""

    key: str
    name: str
    path: str


Record = Base | Stabilizer | Topping | Foam | Cloth | Thread | Hoop | Die | Motif


@dataclass(frozen=True)
class Kind:
    """A kind of material. key: as in a library; one: what one row is called in a sentence."""

    key: str
    title: str
    one: str
    record: type[Any]
    settings: tuple[Setting, ...]
    since: Mapping[str, Plain] = field(default_factory=dict)  # fields that older rows lack, as those are to be read

    def read(self, key: str, fields: Mapping[str, Any]) -> Any:
        """A record out of plain fields. Raises BadInput naming the row and the field."""
        known = {setting.key: setting for setting in self.settings}
        fields = {**self.since, **fields}
        stray = next((name for name in fields if name not in known), None)
        if stray is not None:
            raise BadInput(f"The {self.one} {key!r} has a field {stray!r} that no {self.one} has.")
        missing = next((name for name in known if name not in fields), None)
        if missing is not None:
            raise BadInput(f"The {self.one} {key!r} lacks {known[missing].label.lower()}.")
        try:
            values = {name: setting.read(fields[name]) for name, setting in known.items()}
        except BadInput as error:
            raise BadInput(f"The {self.one} {key!r}: {error}") from None
        return self.record(key=key, **values)


def _name() -> Setting:
    return Setting("name", "Name", "", "What the shop calls it.", kind="text", unit="", low=1)


def _colour() -> Setting:
    return Setting("colour", "Colour", "", "As it is drawn on the cloth and in the stack.", kind="colour", unit="")


def _thickness(most: float) -> Setting:
    return Setting("thickness", "Thickness", "", "Of one layer, pressed lightly.", high=most, step=0.01)


def _removal() -> Setting:
    return Setting("removal", "Comes off", "", "What is done with it afterwards.", "choice", "", choices=REMOVALS)


BASES = Kind("bases", "Bases", "base", Base, (
    _name(),
    Setting("about", "About", "", "What it is, in a few words.", kind="text", unit=""),
    Setting("pile", "Pile height", "Make", "Loops or fibres standing above the ground.", high=40),
    Setting("thickness", "Thickness", "Make", "Without its pile.", high=10, step=0.01),
    Setting("weight", "Weight", "Make", "Of a square metre.", unit="g/m²", high=2000, step=1),
    Setting("stretch", "Stretch", "Make", "How far it gives when pulled.", "choice", "", choices=STRETCH),
    _colour(),
    Setting("pull", "Pull, per side", "Numbers", "What stitches draw it in by.", high=1.0, step=0.01),
    Setting("satin_spacing", "Satin spacing", "Numbers", "Between penetrations on one rail, 40 weight.",
            low=0.2, high=1.0, step=0.01),
    Setting("fill_spacing", "Fill spacing", "Numbers", "Between rows, 40 weight.", low=0.2, high=1.0, step=0.01),
    Setting("underlay", "Underlay", "Numbers", "Sewn first, under a cover.", "choice", "", choices=UNDERLAYS),
    Setting("stabilizer", "Stabilizer", "Goes with", "What usually lies under it.", kind="text", unit="", low=1),
    Setting("stabilizer_layers", "Layers", "Goes with", "Of that stabilizer.", unit="", high=4, step=1),
    Setting("topping", "Topping", "Goes with", "What usually lies on top.", kind="text", unit="", low=1),
    Setting("may_wet", "May get wet", "Bears", "Whether it may be rinsed.", kind="switch", unit=""),
    Setting("takes_heat", "Takes heat", "Bears", "Whether an iron may touch it.", kind="switch", unit=""),
    Setting("marks", "Marks", "Bears", "What stays visible for good.", "choice", "", choices=MARKS),
))  # fmt: skip

STABILIZERS = Kind("stabilizers", "Stabilizers", "stabilizer", Stabilizer, (
    _name(), _thickness(5.0), _removal(),
    Setting("stiffness", "Stiffness", "", "0 gives like a net, 5 stands like card.", unit="", high=5, step=1),
    Setting("carries", "Carries", "", "Stitches that one layer bears before it gives.",
            unit="per cm²", high=2000, step=1),
))  # fmt: skip

TOPPINGS = Kind("toppings", "Toppings", "topping", Topping, (_name(), _thickness(1.0), _removal()))

FOAMS = Kind("foams", "Foams", "foam", Foam, (
    _name(), _thickness(10.0), _colour(),
    Setting("kind", "Kind", "", "Craft foam hides under satin, glitter foam is laid to be seen.", "choice", "",
            choices=(("craft", "craft foam"), ("glitter", "glitter foam"))),
), {"kind": "craft"})  # fmt: skip

CLOTHS = Kind("cloths", "Appliqué cloths", "cloth", Cloth, (
    _name(), _colour(),
    Setting("like", "Sews like", "", "The base that has its thickness, pile, pull and spacings.",
            kind="text", unit="", low=1),
    Setting("print", "Print", "", "What is printed or woven into it.", "choice", "", choices=PRINTS),
    Setting("print_colour", "Print colour", "", "Of the stripes, dots or checks.", kind="colour", unit=""),
))  # fmt: skip

THREADS = Kind("threads", "Threads", "thread", Thread, (
    _name(), _colour(),
    Setting("weight", "Weight", "", "As sold: a higher number is a finer thread.", unit="wt",
            low=12, high=100, step=1),
    Setting("finish", "Finish", "", "Metallic thread frets and wants a large eye.", "choice", "",
            choices=(("matte", "matte"), ("metallic", "metallic"))),
))  # fmt: skip

HOOPS = Kind("hoops", "Hoops", "hoop", Hoop, (
    _name(),
    Setting("shape", "Shape", "", "Outline of the field the needle reaches.", "choice", "",
            choices=(("rect", "rectangle"), ("round", "round"), ("cap", "cap"))),
    Setting("width", "Width", "", "Of the sewing field.", low=20, high=1000, step=1),
    Setting("height", "Height", "", "Of the sewing field.", low=20, high=1000, step=1),
    Setting("curve", "Lower curve", "", "How far the lower limit of a cap field rises in the middle.",
            high=60, step=1),
))  # fmt: skip

DIES = Kind("dies", "Cutting dies", "cutting die", Die, (
    _name(),
    Setting("outline", "Outline", "", "SVG path in mm, of one shape.", kind="text", unit="", low=1, longest=2000),
))  # fmt: skip

MOTIFS = Kind("motifs", "Motifs", "motif", Motif, (
    _name(),
    Setting("path", "Path", "", "SVG path of one line, y down: it begins and ends on its base line.",
            kind="text", unit="", low=1, longest=4000),
))  # fmt: skip

TOOLS = Kind("tools", "Tools", "tool", Tool, (
    _name(),
    Setting("width", "Width", "", "Of the channel that it needs to be moved in.", low=1, high=20),
))  # fmt: skip

KINDS = {
    kind.key: kind for kind in (BASES, STABILIZERS, TOPPINGS, FOAMS, CLOTHS, THREADS, HOOPS, DIES, MOTIFS, TOOLS)
}
