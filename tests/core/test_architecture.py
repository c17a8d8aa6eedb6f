"""Arrows point one way, and the core needs no web, no database, no clock and no slow library to be imported."""

from __future__ import annotations

import ast
import subprocess
import sys
import tomllib
from collections.abc import Iterator
from importlib.metadata import packages_distributions
from itertools import chain
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

ROOT = Path(__file__).parents[2]
CORE = ROOT / "src" / "zembra" / "core"
MODULES = sorted(CORE.rglob("*.py"))


def imported(path: Path) -> Iterator[str]:
    """What a module imports, wherever in it."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (one.name for one in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


def test_importing_the_core_imports_no_web_no_database_and_no_slow_library() -> None:
    script = (
        "import importlib, pkgutil, sys, zembra.core\n"
        "for one in pkgutil.walk_packages(zembra.core.__path__, 'zembra.core.'): importlib.import_module(one.name)\n"
        "print(*sorted({name.split('.')[0] for name in sys.modules}))"
    )
    told = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True).stdout.split()
    assert "zembra" in told
    assert not {"flask", "sqlmodel", "sqlalchemy", "statsmodels", "pandas", "scipy", "holidays", "babel"} & set(told)


@pytest.mark.parametrize(
    ("folder", "never"),
    [
        ("", ("zembra.api", "zembra.store", "zembra.cli", "zembra.demo")),
        ("arithmetic", ("zembra.core.ledger", "zembra.core.intake", "zembra.core.figure")),
        ("calendar", ("zembra.core.ledger", "zembra.core.intake", "zembra.core.figure")),
        ("intake", ("zembra.core.ledger", "zembra.core.asking", "zembra.core.figure")),
        ("ledger", ("zembra.core.asking", "zembra.core.figure", "zembra.core.handover")),
    ],
)
def test_arrows_point_one_way(folder: str, never: tuple[str, ...]) -> None:
    backward = [
        (str(path.relative_to(CORE)), name)
        for path in MODULES
        if path.is_relative_to(CORE / folder)
        for name in imported(path)
        if name.startswith(never)
    ]
    assert backward == []


# what each room may import of the others; `settings` and `core.errors` are everybody's
ROOMS = {
    "core": (),
    "settings": ("core",),
    "work": ("core",),
    "store": ("core", "settings"),
    "rendering": ("core", "work"),
    "service": ("core", "settings", "work", "store", "rendering"),
    "demo": ("core", "settings", "store", "service", "work"),
    "entries": ("core",),
    "foreign": ("core", "settings", "work"),
    "foreignchild": ("core",),
    "interface": ("core", "rendering"),
    "api": ("core", "settings", "work", "store", "service", "demo"),
    "commands": ("core", "settings", "work", "store", "rendering", "service", "demo"),
    "cli": ("core", "settings", "store", "commands"),
    "__main__": ("cli",),
}
STARTS = {"commands/serve.py": "api"}  # the command that serves begins what answers


def test_rooms_import_only_what_lies_below_them() -> None:
    found = []
    for path in sorted(CORE.parent.rglob("*.py")):
        place = path.relative_to(CORE.parent)
        room = place.parts[0].removesuffix(".py")
        for name in imported(path):
            parts = name.split(".")
            if parts[0] != "zembra" or len(parts) == 1 or room == "__init__":
                continue
            if parts[1] not in (room, *ROOMS[room], STARTS.get(str(place), room)):
                found.append((str(place), name))
    assert found == []


def test_the_core_reads_no_clock() -> None:
    clocks = {"today", "now", "utcnow", "time", "monotonic"}
    told = [
        (path.name, node.func.attr)
        for path in MODULES
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in clocks
        if isinstance(node.func.value, ast.Name) and node.func.value.id in {"date", "datetime", "time"}
    ]
    assert told == []


def test_no_entry_module_is_long() -> None:
    long = {path.name: len(path.read_text().splitlines()) for path in (CORE / "entries").rglob("*.py")}
    assert {name: lines for name, lines in long.items() if lines > 250} == {}


def test_no_entry_loops_over_chosen_series_itself() -> None:
    """The base does: what an entry makes of a line must be remembered for that line alone."""
    looping = [
        path.name
        for path in (CORE / "entries").rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.For) and "chosen(" in ast.unparse(node.iter)
    ]
    assert looping == []


# used without being imported: whitenoise compresses with brotli, a cluster is loaded by name where there is one
UNSEEN = {"brotli", "dask", "distributed"}


def test_what_is_imported_is_declared_and_what_is_declared_is_imported() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    optional = [*chain.from_iterable(project["optional-dependencies"].values())]
    declared = {canonicalize_name(Requirement(text).name) for text in (*project["dependencies"], *optional)}
    tops = {name.partition(".")[0] for path in (ROOT / "src" / "zembra").rglob("*.py") for name in imported(path)}
    foreign = {name for name in tops if name != "zembra" and name not in sys.stdlib_module_names}
    homes = packages_distributions()
    used = {canonicalize_name(home) for name in foreign for home in homes[name]}
    assert used - declared == set()
    assert declared - used == UNSEEN
    pinned = (ROOT / "requirements" / "run.in").read_text().split()
    assert {canonicalize_name(Requirement(text).name) for text in project["dependencies"]} <= set(pinned)
