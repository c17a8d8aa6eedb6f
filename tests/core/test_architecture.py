"""Arrows point one way, and the core needs no web, no database, no clock and no slow library to be imported."""

from __future__ import annotations

import ast
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

CORE = Path(__file__).parents[2] / "src" / "zembra" / "core"
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
    long = {path.name: len(path.read_text().splitlines()) for path in (CORE / "ledger" / "entries").rglob("*.py")}
    assert {name: lines for name, lines in long.items() if lines > 250} == {}


def test_no_entry_loops_over_chosen_series_itself() -> None:
    """The base does: what an entry makes of a line must be remembered for that line alone."""
    looping = [
        path.name
        for path in (CORE / "ledger" / "entries").rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.For) and "chosen(" in ast.unparse(node.iter)
    ]
    assert looping == []
