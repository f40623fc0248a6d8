"""Reference pages generated from the declarations: settings, rules, cautions and materials."""

from __future__ import annotations

import re
from functools import cache
from typing import Any

from velamen.core.constructions import constructions
from velamen.core.materials.records import KINDS
from velamen.core.proofs.density import SETTINGS as DENSITY
from velamen.core.setting import Setting
from velamen.core.values.advice import SETTINGS as ADVICE
from velamen.core.values.cautions import cautions
from velamen.core.values.engine import Rule, rules

BRIEF = (*ADVICE, *DENSITY)
GROUPS = {
    "brief": "Brief", "common": "Every construction", "areas": "Fills and other areas", "columns": "Columns",
    "lines": "Lines and edges", "grounds": "Grounds and basting", "density": "Density",
}  # fmt: skip
DOES = {"set": "is", "multiply": "times", "add": "plus", "at_least": "at least", "at_most": "at most"}
ENDINGS = {"_from": "at least", "_over": "over", "_under": "under", "_not": "not"}
MEASURES = {
    "pull": "Pull", "satin_spacing": "Satin spacing", "underlay": "Underlay", "run_length": "Run length",
    "line_inset": "Inset of a line",
    "corner": "Corners of a border", "edge_corner": "Corners of an edge stitch",
    "overedge_corner": "Corners of an overedge", "bite": "Bite",
    "bite_step": "Step of bites", "ground_stitch": "Stitch of a ground", "ground_spacing": "Spacing of a ground",
    "ground_length": "Stitch length of a ground", "ground_pattern": "Pattern of a ground",
    "ground_gap": "Gaps a ground closes", "ground_calm": "Calmness of a ground",
    "edge_share": "Edge outside", "overedge_spacing": "Spacing of an overedge",
    "row_angle": "Angle of rows", "fill_spacing": "Fill spacing", "row_length": "Stitch of a row",
    "stagger": "Stagger",
    "area_underlay": "Underlay of an area", "open_spacing": "Open spacing",
}  # fmt: skip

TRAITS = {
    "base": "base", "pile": "pile of the base", "stretch": "stretch of the base", "weight": "weight of the base",
    "marks": "marks on the base", "may_wet": "base may get wet", "takes_heat": "base takes heat",
    "base_stabilizer": "usual stabilizer", "base_stabilizer_removal": "usual stabilizer comes off",
    "base_layers": "usual layers", "base_topping": "usual topping", "base_topping_removal": "usual topping comes off",
    "stabilizer": "stabilizer", "stabilizer_removal": "stabilizer comes off",
    "stabilizer_layers": "layers of stabilizer",
    "topping": "topping", "topping_removal": "topping comes off", "hooping": "hooping", "hold": "held by",
    "construct": "construction", "thread_weight": "thread weight",
    "thread_finish": "thread finish", "piece_size": "shorter side of the piece", "drawn": "shape of its own",
    "under_pile": "pile standing up beneath", "under_pull": "pull of what lies beneath",
    "under_satin_spacing": "satin spacing of what lies beneath", "under_underlay": "underlay of what lies beneath",
    "under_stretch": "stretch of what lies beneath", "under_marks": "marks on what lies beneath",
    "under_foam": "foam beneath", "under_kinds": "kinds of material beneath",
    "cover_inside": "cover inside the edge", "layers_needed": "layers needed", "layers_short": "layers short",
    "fill_spacing": "spacing of the fill",
    "foam_there": "foam in the job", "knockdown_there": "knockdown in the job",
    "cloth_there": "cloth laid in the job", "hoop_shape": "shape of the hoop",
}  # fmt: skip


def subject_of(rule: Rule) -> str:
    """What a rule is about, in words."""
    if rule.measure:
        return MEASURES.get(rule.measure) or _measured(rule.measure)
    setting = _setting(rule)
    return setting.label if setting in BRIEF else f"{setting.group}: {setting.label.lower()}"


@cache
def _measured(measure: str) -> str:
    """A measure that one construction has for itself, by its title and what it calls it."""
    return next((f"{kind.title}: {one.label.lower()}" for kind in constructions().values() for one in kind.settings
                 if one.measure == measure), measure)  # fmt: skip


@cache
def _trait(name: str) -> str:
    """A trait in words; a value among them by the label of its setting."""
    labels = {one.key: one.label.lower() for kind in constructions().values() for one in kind.settings}
    return TRAITS.get(name) or labels.get(name) or name.replace("_", " ")


def group_title(group: str) -> str:
    """Title of a rule file's group."""
    found = constructions().get(group)
    return found.title if found else GROUPS.get(group, group)


def effect_of(rule: Rule) -> str:
    """What a rule does to the value, in words."""
    amount = rule.amount
    if rule.does == "add" and isinstance(amount, float) and amount < 0:
        return f"minus {-amount:g}"
    if isinstance(amount, dict):
        return f"{DOES[rule.does]} {_amount(amount)}"
    setting = _setting(rule)
    shown = setting.show(amount) if setting.kind != "number" else f"{float(amount):g}"
    if shown.replace("_", "").isalpha():
        shown = shown.replace("_", " ")
    return f"{DOES[rule.does]} {shown}"


def reason_of(text: str) -> str:
    """A reason with the places of its figures named."""
    text = text.removeprefix("{amount}: ").removeprefix("{value}: ")
    return _FIGURE.sub(lambda found: "‹" + _FIGURES.get(found[1], TRAITS.get(found[1], found[1])) + "›", text)


def conditions_of(when: tuple[tuple[str, Any], ...]) -> list[str]:
    """Conditions in words, one each."""
    found = []
    for name, wanted in when:
        ending = next((end for end in ENDINGS if name not in TRAITS and name.endswith(end)), "")
        trait = _trait(name.removesuffix(ending))
        word = ENDINGS.get(ending, "is")
        if isinstance(wanted, bool):
            found.append(trait if wanted else f"not: {trait}")
            continue
        values = " or ".join(str(one).replace("_", " ") for one in (wanted if isinstance(wanted, list) else [wanted]))
        found.append(f"{trait} {word} {values}")
    return found


def rules_page() -> str:
    """docs/rules.md: every rule and caution."""
    lines = [
        "# Rules", "",
        "Generated from the data files by `./velamen docs`. For one value the rules that apply are taken in",
        "this order: is, times, plus, at least, at most; within one kind firm rules (what a material cannot",
        "bear) come last, then from fewer conditions to more, then by name. A rule for one value counts a",
        "condition more than a rule for everything of one measure. \"Beneath\" is what lies under the pass at",
        "its moment, the worst of it where it is not the same all over.", "",
    ]  # fmt: skip
    for group in dict.fromkeys(rule.group for rule in sorted(rules().rules, key=lambda rule: rule.group)):
        lines += [
            f"## {group_title(group)}",
            "",
            "| value | when | does | reason | source |",
            "|---|---|---|---|---|",
        ]
        for rule in (rule for rule in rules().rules if rule.group == group):
            when = "; ".join(conditions_of(rule.when)) or "always"
            firm = " (firm)" if rule.firm else ""
            lines.append(
                f"| {subject_of(rule)} | {when} | {effect_of(rule)}{firm} "
                f"| {reason_of(rule.reason)} | {rule.source} |"
            )
        lines.append("")
    lines += ["## Cautions", "", "| | when | what is said | button | source |", "|---|---|---|---|---|"]
    for one in cautions():
        when = "; ".join(conditions_of(one.when))
        lines.append(f"| {one.severity} | {when} | {reason_of(one.message)} | {one.label or '-'} | {one.source} |")
    return "\n".join([*lines, ""])


def settings_page() -> str:
    """docs/settings.md: every setting of every construction, and every field of every material."""
    lines = ["# Settings", "", "Generated from the declarations by `./velamen docs`.", ""]
    for kind in constructions().values():
        lines += [f"## {kind.title} (`{kind.name}`)", "", *_settings(kind.settings)]
        if kind.local is not None:
            lines += [f"At single places of it (`local` of a piece): {kind.local.word.lower()}.", "",
                      *_settings(kind.local.settings)]  # fmt: skip
    for material in KINDS.values():
        lines += [f"## Library: {material.title.lower()} (`{material.key}`)", "", *_settings(material.settings)]
    return "\n".join(lines)


def _settings(settings: tuple[Setting, ...]) -> list[str]:
    if not settings:
        return ["Nothing of it is set: it is sewn as it came.", ""]
    lines = ["| key | name | unit | bounds | meaning |", "|---|---|---|---|---|"]
    for one in settings:
        bounds = f"{one.low:g} to {one.high:g}" if one.kind == "number" else one.kind
        if one.kind == "choice":
            bounds = ", ".join(f"`{key}`" for key, _ in one.choices)
        name = f"{one.group}: {one.label.lower()}" if one.group else one.label
        lines.append(f"| `{one.key}` | {name} | {one.unit} | {bounds} | {one.help} |")
    return [*lines, ""]


def _setting(rule: Rule) -> Setting:
    """A setting that a rule is for; for a measure, the first that has it."""
    every = [one for kind in constructions().values() for one in kind.settings] + list(BRIEF)
    return next(one for one in every if one.key == rule.key or (rule.measure and one.measure == rule.measure))


def _amount(amount: dict[str, Any]) -> str:
    text = TRAITS.get(amount["of"], str(amount["of"]).replace("_", " "))
    if "times" in amount:
        text = f"{amount['times']:g} × {text}"
    if "plus" in amount:
        text += f" {'−' if amount['plus'] < 0 else '+'} {abs(amount['plus']):g}"
    return text


_FIGURE = re.compile(r"\{(\w+)(?::[^}]*)?\}")
_FIGURES = {
    "amount": "amount", "value": "value", "before": "value before", "base_name": "base",
    "under_words": "what lies beneath", "densest": "stitches", "carries": "stitches a layer bears",
    "stabilizer_name": "stabilizer", "topping_name": "topping", "layers_words": "the layers",
}  # fmt: skip
