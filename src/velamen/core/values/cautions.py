"""Combinations that cannot work or call for care, as data: when, how grave, why, and what ends it."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Literal, get_args

from velamen.core.setting import Plain
from velamen.core.values.engine import Traits, holds_all

Severity = Literal["error", "warning", "info"]
SEVERITIES: tuple[Severity, ...] = get_args(Severity)


@dataclass(frozen=True)
class Caution:
    """One caution."""

    code: str
    severity: Severity
    when: tuple[tuple[str, Any], ...]  # conditions, all of which must hold
    message: str
    fix: Mapping[str, Any]  # fields of the brief and what they become, empty where nothing there ends it
    label: str
    source: str


@dataclass(frozen=True)
class Told:
    """A caution that applies, in words."""

    code: str
    severity: Severity
    message: str
    fix: dict[str, Plain]  # fields of the brief with their values
    label: str


@cache
def cautions() -> tuple[Caution, ...]:
    """All cautions, the gravest first."""
    rows = tomllib.loads(files(__package__).joinpath("cautions.toml").read_text(encoding="utf-8"))["caution"]
    found = [
        Caution(
            row["code"], row["severity"], tuple(sorted(row["when"].items())), row["message"],
            row.get("fix", {}), row.get("label", ""), row.get("source", ""),
        )
        for row in rows
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda one: SEVERITIES.index(one.severity)))


def cautions_for(traits: Traits) -> list[Told]:
    """The cautions that apply under these traits."""
    told = []
    for one in cautions():
        if holds_all(one.when, traits):
            fix = {name: _amount(value, traits) for name, value in one.fix.items()}
            told.append(Told(one.code, one.severity, one.message.format_map(traits), fix, one.label))
    return told


def _amount(value: Any, traits: Traits) -> Plain:
    found: Plain = traits[value["of"]] if isinstance(value, dict) else value
    return found
