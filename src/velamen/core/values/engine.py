"""Rules as data: when they apply, what they do to a value, and why, in words.

For one value the rules that apply are taken in this order: set, multiply, add, at_least,
at_most; within one kind firm rules (what a material cannot bear) come after the others, then
from fewer conditions to more, then by id. A rule for one value counts a condition more than
a rule for everything of one measure. The order of the rule files, and of the rules in them,
never matters.
"""

from __future__ import annotations

import tomllib
from collections import ChainMap
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache, cached_property
from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path
from string import Formatter
from typing import Any

from velamen.core.setting import Plain, Setting
from velamen.core.values.value import Value, Values

Traits = Mapping[str, Plain]
Derive = Callable[[Mapping[str, Plain], Setting], Mapping[str, Plain]]
Matched = tuple[Plain, tuple[str, ...]]
KEPT = 2_000  # values worked out that are kept for one setting
ORDER = ("set", "multiply", "add", "at_least", "at_most")


@dataclass(frozen=True)
class Rule:
    """One rule. key: the value it is for, or measure: all values of one measure.

    amount: a plain value, or the name of a trait with factor and offset; group: the file it
    stands in; source: where the number comes from; firm: it outranks what is merely usual.
    """

    id: str
    key: str
    measure: str
    when: tuple[tuple[str, Any], ...]
    does: str
    amount: Plain | dict[str, Any]
    reason: str
    group: str = ""
    source: str = ""
    firm: bool = False

    def applies(self, traits: Traits) -> bool:
        """Whether every condition holds; a trait that is not known fails its condition."""
        return holds_all(self.when, traits)

    def worth(self, traits: Traits) -> Plain:
        """The amount under these traits."""
        if not isinstance(self.amount, dict):
            return self.amount
        value: Plain = traits[self.amount["of"]]
        if isinstance(value, str):
            return value
        return float(value) * float(self.amount.get("times", 1.0)) + float(self.amount.get("plus", 0.0))

    @property
    def rank(self) -> tuple[int, bool, int, str]:
        """Its place in the order of precedence."""
        return ORDER.index(self.does), self.firm, len(self.when) + bool(self.key), self.id


@dataclass(frozen=True)
class _Desk:
    """What is known for one setting: its rules, the traits they look at, and values worked out."""

    setting: Setting  # held, so that its id stays its own
    rules: tuple[Rule, ...]
    traits: tuple[str, ...]
    worked: dict[tuple[Plain | None, ...], Matched]


@dataclass(frozen=True)
class Table:
    """Rules in their order of precedence."""

    rules: tuple[Rule, ...]

    def of(self, setting: Setting) -> tuple[Rule, ...]:
        """The rules that may concern a setting."""
        return self._desk(setting).rules

    def asks(self, setting: Setting, prefix: str) -> bool:
        """Whether any rule for a setting looks at a trait that begins so."""
        return any(name.startswith(prefix) for name in self._desk(setting).traits)

    def work_out(self, setting: Setting, traits: dict[str, Plain]) -> Matched:
        """A setting's matched value with its reasons; kept, since it depends on its traits alone."""
        desk = self._desk(setting)
        mark = tuple(map(traits.get, desk.traits))
        found = desk.worked.get(mark)
        if found is None:
            if len(desk.worked) >= KEPT:
                desk.worked.clear()
            found = desk.worked[mark] = _work_out(setting, traits, desk.rules)
        return found

    def _desk(self, setting: Setting) -> _Desk:
        desk = self._desks.get(id(setting))
        if desk is None:
            rules = tuple(
                rule for rule in self.rules
                if rule.key == setting.key or (rule.measure and rule.measure == setting.measure)
            )  # fmt: skip
            names = {name for rule in rules for name in _looks_at(rule)}
            desk = self._desks[id(setting)] = _Desk(setting, rules, tuple(sorted(names)), {})
        return desk

    @cached_property
    def _desks(self) -> dict[int, _Desk]:
        return {}


@cache
def rules() -> Table:
    """All rules of the files in `rules/` and in the folders of constructions."""
    found: list[Rule] = []
    for folder in (files(__package__).joinpath("rules"), *FOLDERS):
        for path in sorted(_rule_files(folder), key=lambda path: path.name):
            rows = tomllib.loads(path.read_text(encoding="utf-8"))["rule"]
            found += [_rule(row, path.name.removesuffix(".toml")) for row in rows]
    return in_order(found)


FOLDERS: list[Path] = []  # in which constructions have rules beside their modules


@contextmanager
def looking_also_in(folder: Path) -> Iterator[None]:
    """Takes in the rule files of another folder, for as long as it lasts."""
    FOLDERS.append(folder)
    rules.cache_clear()
    yield
    FOLDERS.remove(folder)
    rules.cache_clear()


def _rule_files(folder: Traversable) -> list[Traversable]:
    inner = [one for one in folder.iterdir() if one.is_dir() and not one.name.startswith("_")]
    return [one for place in (folder, *inner) for one in place.iterdir() if one.name.endswith(".toml")]


def in_order(table: list[Rule]) -> Table:
    """Rules in their documented order of precedence."""
    return Table(tuple(sorted(table, key=lambda rule: rule.rank)))


def match(
    settings: tuple[Setting, ...],
    traits: Traits,
    own: Mapping[str, Plain],
    derive: Derive,
    table: Table | None = None,
) -> Values:
    """Values for all settings, in their order; later ones may depend on earlier ones.

    traits: of materials and piece; own: a person's values by key; derive: further traits for
    a setting out of the values known so far.
    """
    table = rules() if table is None else table
    known: dict[str, Plain] = dict(traits)
    values: Values = {}
    for setting in settings:
        known.update(derive(known, setting))
        matched, reasons = table.work_out(setting, known)
        typed = setting.key in own
        value = setting.read(own[setting.key]) if typed else matched
        values[setting.key] = Value(setting, value, matched, reasons, typed)
        known[setting.key] = value
    return values


def _work_out(setting: Setting, traits: dict[str, Plain], rules: tuple[Rule, ...]) -> Matched:
    value: Plain | None = None
    reasons: list[str] = []
    for rule in rules:
        if not rule.applies(traits):
            continue
        amount = rule.worth(traits)
        before = value
        value = _apply(rule.does, before, amount)
        if rule.does == "set":
            reasons = []
        if value != before or rule.does == "set":
            reasons.append(_reason(rule, setting, traits, before, amount, value))
    if value is None:
        raise LookupError(f"no rule sets {setting.key}")
    if setting.kind == "number":
        bounded = round(min(max(float(value), setting.low), setting.high), 3)
        if abs(bounded - float(value)) > 1e-3:
            reasons.append(f"kept within {setting.low:g} to {setting.high:g} {setting.unit}".strip())
        value = bounded
    return value, tuple(reasons)


def _reason(
    rule: Rule, setting: Setting, traits: dict[str, Plain], before: Plain | None, amount: Plain, value: Plain
) -> str:
    """A rule's reason in words; {before}, {amount} and {value} are shown as the setting shows them."""
    words: dict[str, Plain] = {"amount": setting.show(amount), "value": setting.show(value)}
    if before is not None:
        words["before"] = setting.show(before)
    return rule.reason.format_map(ChainMap(words, traits))


def _looks_at(rule: Rule) -> set[str]:
    """Names of the traits that a rule's conditions, amount and reason look at."""
    names = {field for _, field, _, _ in Formatter().parse(rule.reason) if field}
    for name, _ in rule.when:
        names |= {name, *(name.removesuffix(ending) for ending in _TESTS)}
    if isinstance(rule.amount, dict):
        names.add(rule.amount["of"])
    return names


def _apply(does: str, before: Plain | None, amount: Plain) -> Plain:
    if does == "set" or before is None:
        return amount
    old, new = float(before), float(amount)
    if does == "multiply":
        return old * new
    if does == "add":
        return old + new
    return max(old, new) if does == "at_least" else min(old, new)


def holds_all(when: tuple[tuple[str, Any], ...], traits: Traits) -> bool:
    """Whether all conditions hold.

    NAME = value or list; NAME_from (at least), NAME_over (above), NAME_under (below), NAME_not.
    """
    return all(_holds(name, wanted, traits) for name, wanted in when)


def _holds(name: str, wanted: Any, traits: Traits) -> bool:
    if name in traits:
        return traits[name] in wanted if isinstance(wanted, list) else bool(traits[name] == wanted)
    for ending, test in _TESTS.items():
        if name.endswith(ending):
            trait = name.removesuffix(ending)
            return trait in traits and bool(test(traits[trait], wanted))
    return False


_TESTS: dict[str, Callable[[Any, Any], bool]] = {
    "_from": lambda value, wanted: bool(value >= wanted),
    "_over": lambda value, wanted: bool(value > wanted),
    "_under": lambda value, wanted: bool(value < wanted),
    "_not": lambda value, wanted: value not in (wanted if isinstance(wanted, list) else [wanted]),
}


def _rule(row: dict[str, Any], group: str) -> Rule:
    does = next(kind for kind in ORDER if kind in row)
    when = tuple(sorted(row.get("when", {}).items()))
    key, measure = row.get("key", ""), row.get("measure", "")
    if bool(key) == bool(measure):
        raise LookupError(f"the rule {row['id']} must name a key or a measure")
    return Rule(
        row["id"], key, measure, when, does, row[does], row["reason"], group,
        row.get("source", ""), row.get("firm", False),
    )  # fmt: skip
