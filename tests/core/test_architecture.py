"""Arrows point one way, and the core needs no web, no database, no clock and no slow library to be imported."""

from __future__ import annotations

import ast
import subprocess
import sys
import tomllib
from collections.abc import Iterator
from graphlib import TopologicalSorter
from importlib.metadata import packages_distributions
from itertools import chain
from pathlib import Path

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


def every_import(path: Path) -> Iterator[str]:
    """The same, and what is named in it, which may be a module too."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom):
            yield from (f"{node.module}.{one.name}" for one in node.names)
    yield from imported(path)


def test_importing_the_core_imports_no_web_no_database_and_no_slow_library() -> None:
    script = (
        "import importlib, pkgutil, sys, zembra.core\n"
        "for one in pkgutil.walk_packages(zembra.core.__path__, 'zembra.core.'): importlib.import_module(one.name)\n"
        "print(*sorted({name.split('.')[0] for name in sys.modules}))"
    )
    told = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True).stdout.split()
    assert "zembra" in told
    assert not {"flask", "sqlmodel", "sqlalchemy", "statsmodels", "pandas", "scipy", "holidays", "babel"} & set(told)


# the rooms of the core, each with those it may import; single modules of the core import no room
CORE_ROOMS = {
    "arithmetic": (),
    "feeds": (),
    "calendar": ("arithmetic",),
    "dress": ("calendar",),
    "intake": ("arithmetic", "calendar"),
    "projection": ("arithmetic",),
    "ledger": ("arithmetic", "calendar", "intake"),
    "entries": ("arithmetic", "calendar", "intake", "projection", "ledger"),
    "asking": ("arithmetic", "calendar", "intake", "ledger", "entries"),
    "judging": ("arithmetic", "calendar", "intake", "projection", "ledger", "entries"),
    "figure": ("arithmetic", "calendar", "dress", "ledger"),
    "newrows": ("arithmetic", "calendar", "intake", "projection", "ledger", "entries", "asking"),
    "watching": ("calendar", "ledger", "entries", "newrows"),
    "study": ("arithmetic", "calendar", "dress", "intake", "ledger", "entries", "figure", "newrows", "watching"),
    "handover": ("arithmetic", "calendar", "dress", "intake", "ledger", "figure", "study"),
    "many": ("arithmetic", "calendar", "intake", "projection", "ledger", "entries", "handover"),
}
# the families of entries
FAMILIES = {
    "shared": (),
    "repairs": ("shared",),
    "readings": ("shared",),
    "calendar": ("shared", "repairs"),
    "projections": ("shared", "readings"),
}


def crossings(folder: Path, prefix: str, rooms: dict[str, tuple[str, ...]]) -> list[tuple[str, str]]:
    """Imports from one room of a folder into another one that it may not import."""
    found = []
    for path in sorted(folder.rglob("*.py")):
        room = path.relative_to(folder).parts[0].removesuffix(".py")
        for name in imported(path):
            other = name.removeprefix(prefix).split(".")[0] if name.startswith(prefix) else room
            if other in rooms and other not in (room, *rooms.get(room, ())):
                found.append((str(path.relative_to(folder)), name))
    return found


def test_every_room_of_the_core_imports_only_what_lies_below_it() -> None:
    assert {path.name for path in CORE.iterdir() if path.is_dir() and path.name != "__pycache__"} == set(CORE_ROOMS)
    assert crossings(CORE, "zembra.core.", CORE_ROOMS) == []
    outward = [(path.name, name) for path in MODULES for name in imported(path) if name.startswith("zembra.")]
    assert [found for found in outward if not found[1].startswith(("zembra.core", "zembra.version"))] == []


def test_families_of_entries_import_only_what_lies_below_them() -> None:
    folders = {path.name for path in (CORE / "entries").iterdir() if path.is_dir() and path.name != "__pycache__"}
    assert folders == set(FAMILIES)
    assert crossings(CORE / "entries", "zembra.core.entries.", FAMILIES) == []


def test_no_modules_import_each_other_in_a_circle() -> None:
    source = ROOT / "src"
    paths = {
        ".".join(path.relative_to(source).with_suffix("").parts).removesuffix(".__init__"): path
        for path in (source / "zembra").rglob("*.py")
    }
    graph = {}
    for name, path in paths.items():
        parents = {name.rsplit(".", n)[0] for n in range(1, name.count(".") + 1)}
        # of a package that is named only to reach what is in it, nothing is needed
        graph[name] = {found for found in every_import(path) if found in paths} - {name} - parents
    TopologicalSorter(graph).prepare()


# what each room may import of the others; `version` is everybody's
ROOMS = {
    "core": (),
    "settings": ("core",),
    "work": ("core",),
    "store": ("core", "settings"),
    "rendering": ("core", "work"),
    "service": ("core", "settings", "work", "store", "rendering"),
    "demo": ("core", "settings", "store", "service", "work"),
    "entries": ("core", "interface"),
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
            if parts[0] != "zembra" or len(parts) == 1 or room in ("__init__", "version"):
                continue
            if parts[1] not in (room, "version", *ROOMS[room], STARTS.get(str(place), room)):
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
    entries = [path for path in (CORE / "entries").rglob("*.py") if "\n@register\n" in path.read_text()]
    assert len(entries) > 20
    long = {path.name: len(path.read_text().splitlines()) for path in entries}
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
