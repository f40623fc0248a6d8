"""The generated pages of docs/: complete, current, and free of raw keys."""

from pathlib import Path

import pytest

from velamen.core.constructions import constructions
from velamen.core.materials.records import KINDS
from velamen.core.outputs.reference import conditions_of, reason_of, rules_page, settings_page
from velamen.core.values.cautions import cautions
from velamen.core.values.engine import rules

DOCS = Path(__file__).resolve().parents[2] / "docs"


@pytest.mark.parametrize(("name", "made"), [("rules.md", rules_page), ("settings.md", settings_page)])
def test_pages_are_current(name, made):
    assert (DOCS / name).read_text(encoding="utf-8") == made(), "run ./velamen docs"


def test_every_rule_and_caution_is_on_the_page():
    rows = [line for line in rules_page().splitlines() if line.startswith("| ") and not line.startswith("| value")]
    assert len([row for row in rows if not row.startswith("| |")]) == len(rules().rules) + len(cautions())


def test_every_setting_is_on_the_page():
    page = settings_page()
    for kind in (*constructions().values(), *KINDS.values()):
        assert all(f"| `{setting.key}` |" in page for setting in kind.settings)


def test_conditions_read_as_words():
    when = (("base_not", ["none", "cap"]), ("may_wet", False), ("pile_from", 1.5), ("under_foam_under", 2.5))
    assert conditions_of(when) == [
        "base not none or cap",
        "not: base may get wet",
        "pile of the base at least 1.5",
        "foam beneath under 2.5",
    ]
    assert reason_of("{amount}: pull of {under_words}") == "pull of ‹what lies beneath›"
    for rule in rules().rules:
        assert not any("_" in words for words in conditions_of(rule.when)), rule.id
