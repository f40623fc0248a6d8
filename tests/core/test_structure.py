"""The structure of the code: no module needs one that needs it, and nothing knows a construction by its name."""

import ast
import re
from collections import Counter
from pathlib import Path

import grimp

from velamen.core.constructions import constructions
from velamen.core.stitching.roles import declared

SRC = Path(__file__).resolve().parents[2] / "src" / "velamen"
HOME = SRC / "core" / "constructions"
OTHER_SENSE = {
    "fill",
    "run",
    "outline",
    "panel",
    "column",
    "zigzag",
    "contour",
    "contrast",
    "stitches",
}  # trade words, SVG's words
# The one place that must know a name: a job file that says no construction means appliqué (docs/formats.md). The demo
# and the speed measurements hold data, and a brief may ask for basting in that word. Kinds of stitches that are found in
# a file have the trade's words, two of which are names too (docs/formats.md).
KNOWN = Counter({
    "core/job/document.py": 2,
    "core/recovery/parts.py": 2,
})  # fmt: skip
DATA = ("web/demo/", "bench.py", "edit_bench.py", "recover_bench.py")


def sources():
    return [path for path in SRC.rglob("*.py") if "migrations" not in path.parts]


def test_nothing_outside_constructions_knows_one_by_name():
    names = "|".join(sorted(set(constructions()) - OTHER_SENSE))
    found = Counter()
    for path in [*sources(), *SRC.rglob("*.js"), *SRC.rglob("*.html"), *SRC.rglob("*.css")]:
        place = path.relative_to(SRC).as_posix()
        if HOME in path.parents or "stitching" in path.parts or "vendor" in path.parts or place.startswith(DATA):
            continue
        found[place] += len(re.findall(f"[\"']({names})[\"']", path.read_text(encoding="utf-8")))
    assert +found == KNOWN


def test_no_setting_of_a_construction_is_known_outside_it():
    keys = {one.key for kind in constructions().values() for one in kind.settings if "_" in one.key}
    measures = {one.measure for kind in constructions().values() for one in kind.settings}
    wanted = re.compile(f"[\"']({'|'.join(sorted(keys - measures))})[\"']")
    for path in [*sources(), *SRC.rglob("*.js"), *SRC.rglob("*.html")]:
        place = path.relative_to(SRC).as_posix()
        if HOME not in path.parents and not place.startswith(DATA):
            assert wanted.findall(path.read_text(encoding="utf-8")) == [], place


def test_no_module_of_the_core_or_the_web_needs_one_that_needs_it():
    graph = grimp.build_graph("velamen")
    after = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
    # the package finds its constructions by name: counted as if it named them
    package = "velamen.core.constructions"
    after[package] = after[package] | {f"{package}.{name}" for name in constructions()}
    done, path = set(), []

    def visit(module):
        assert module not in path, " -> ".join([*path[path.index(module) :], module])
        if module in done:
            return
        path.append(module)
        for other in sorted(after.get(module, ())):
            visit(other)
        path.pop()
        done.add(module)

    for module in sorted(after):
        visit(module)


def test_only_constructions_are_found_by_name():
    dynamic = []
    for path in sources():
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            called = getattr(getattr(node, "func", None), "id", "") or getattr(
                getattr(node, "func", None), "attr", ""
            )
            if isinstance(node, ast.Call) and called in ("import_module", "__import__"):
                dynamic.append(path.relative_to(SRC).as_posix())
    assert dynamic == ["core/constructions/__init__.py"]


def test_roles_are_declared_with_words_of_their_own():
    words = [role.words for role in declared().values()]
    assert len(set(words)) == len(words) and all(words)
