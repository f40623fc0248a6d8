"""Rules as data: when they apply, what they do to a value, and why, in words.

For one value the rules that apply are taken in this order: set, multiply, add, at_least,
at_most; within one kind from fewer conditions to more, then by id. The order of the rule
file never matters.
"""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from velamen.core.matching.settings import Plain, Setting, Value, Values

Traits = Mapping[str, Plain]
ORDER = ("set", "multiply", "add", "at_least", "at_most")


@dataclass(frozen=True)
class Rule:
    """One rule. amount: a plain value, or the name of a trait with factor and offset."""

    id: str
    key: str
    when: tuple[tuple[str, Any], ...]
    does: str
    amount: Plain | dict[str, Any]
    reason: str

    def applies(self, traits: Traits) -> bool:
        """Whether every condition holds; a trait that is not known fails its condition."""
        return all(_holds(name, wanted, traits) for name, wanted in self.when)

    def worth(self, traits: Traits) -> Plain:
        """The amount under these traits."""
        if not isinstance(self.amount, dict):
            return self.amount
        value: Plain = traits[self.amount["of"]]
        if isinstance(value, str):
            return value
        return float(value) * float(self.amount.get("times", 1.0)) + float(self.amount.get("plus", 0.0))


@cache
def rules() -> tuple[Rule, ...]:
    """All rules of the table, in the order in which they are taken."""
    rows = tomllib.loads(files(__package__).joinpath("rules.toml").read_text(encoding="utf-8"))["rule"]
    return in_order(tuple(_rule(row) for row in rows))


def in_order(table: tuple[Rule, ...]) -> tuple[Rule, ...]:
    """Rules in their documented order of precedence."""
    return tuple(sorted(table, key=lambda rule: (ORDER.index(rule.does), len(rule.when), rule.id)))


def match(
    settings: tuple[Setting, ...],
    traits: Traits,
    own: Mapping[str, Plain],
    derive: Callable[[Mapping[str, Plain]], Mapping[str, Plain]],
    table: tuple[Rule, ...] | None = None,
) -> Values:
    """Values for all settings, in their order; later ones may depend on earlier ones.

    traits: of materials and piece; own: the user's values by key; derive: further traits
    out of the values known so far.
    """
    table = rules() if table is None else table
    known: dict[str, Plain] = dict(traits)
    values: Values = {}
    for setting in settings:
        known.update(derive(known))
        matched, reasons = _work_out(setting, known, table)
        typed = setting.key in own
        value = setting.read(own[setting.key]) if typed else matched
        values[setting.key] = Value(setting, value, matched, reasons, typed)
        known[setting.key] = value
    return values


def _work_out(setting: Setting, traits: Traits, table: tuple[Rule, ...]) -> tuple[Plain, tuple[str, ...]]:
    value: Plain | None = None
    reasons: list[str] = []
    for rule in table:
        if rule.key != setting.key or not rule.applies(traits):
            continue
        amount = rule.worth(traits)
        before = value
        value = _apply(rule.does, before, amount)
        if rule.does == "set":
            reasons = []
        if value != before or rule.does == "set":
            shown = setting.show(amount)
            reasons.append(rule.reason.format_map({**traits, "amount": shown}))
    if value is None:
        raise LookupError(f"no rule sets {setting.key}")
    if setting.kind == "number":
        bounded = round(min(max(float(value), setting.low), setting.high), 3)
        if abs(bounded - float(value)) > 1e-3:
            reasons.append(f"kept within {setting.low:g} to {setting.high:g} {setting.unit}".strip())
        value = bounded
    return value, tuple(reasons)


def _apply(does: str, before: Plain | None, amount: Plain) -> Plain:
    if does == "set" or before is None:
        return amount
    old, new = float(before), float(amount)
    if does == "multiply":
        return old * new
    if does == "add":
        return old + new
    return max(old, new) if does == "at_least" else min(old, new)


def _holds(name: str, wanted: Any, traits: Traits) -> bool:
    for ending, test in _TESTS.items():
        if name.endswith(ending):
            trait = name.removesuffix(ending)
            return trait in traits and bool(test(traits[trait], wanted))
    if isinstance(wanted, list):
        return traits.get(name) in wanted
    return bool(traits.get(name) == wanted)


_TESTS: dict[str, Callable[[Any, Any], bool]] = {
    "_from": lambda value, wanted: bool(value >= wanted),
    "_under": lambda value, wanted: bool(value < wanted),
    "_not": lambda value, wanted: value not in (wanted if isinstance(wanted, list) else [wanted]),
}


def _rule(row: dict[str, Any]) -> Rule:
    does = next(kind for kind in ORDER if kind in row)
    when = tuple(sorted(row.get("when", {}).items()))
    return Rule(row["id"], row["key"], when, does, row[does], row["reason"])
