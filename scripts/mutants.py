"""Plant small faults in a room of the code, one at a time, and count how many the tests of that room notice.

    python scripts/mutants.py ROOM [COUNT] [SEED]

The faults are those of Cosmic Ray: another operator, another number, a condition turned round, a loop left out. A draw of COUNT of all
there are is tried, each in a copy of the project. What survives is printed as a change of a line, to be read: it needs a test, or changes
nothing that anybody can see.
"""

from __future__ import annotations

import ast
import difflib
import os
import random
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

ROOT = Path(__file__).parents[1]
COPIED = (
    "src",
    "frontend/src",
    "tests",
    "docs",
    "benchmarks",
    "scripts",
    "requirements",
    "pyproject.toml",
    "README.md",
    "Makefile",
)
LONGEST = 240  # seconds of the tests of one fault, which take at most half of that without one
COUNT, SEED = 60, 1


@dataclass(frozen=True)
class Room:
    """modules: patterns of its files. tests: what is to notice a fault in them."""

    modules: tuple[str, ...]
    tests: tuple[str, ...]


def _core(*names: str) -> tuple[str, ...]:
    return tuple(f"tests/core/test_{name}.py" for name in names)


ROOMS = {
    "arithmetic": Room(
        ("src/zembra/core/arithmetic/*.py",),
        _core("arithmetic", "rolling", "trends", "outliers", "certified", "shifts", "repairs_and_readings", "derived"),
    ),
    "calendar": Room(
        ("src/zembra/core/calendar/*.py",),
        _core("calendar", "grain", "seasons_and_grains", "by_the_clock", "budget", "derived"),
    ),
    "ledger": Room(
        ("src/zembra/core/ledger/*.py",),
        (*_core("ledger", "memo", "budget"), "tests/test_hostile_entries.py", "tests/service/test_runs.py"),
    ),
    "newrows": Room(
        ("src/zembra/core/newrows/**/*.py",),
        (*_core("new_rows", "rows_doubts"), "tests/api/test_new_rows.py"),
    ),
    "store": Room(
        ("src/zembra/store/*.py",),
        (
            "tests/store",
            *(f"tests/api/test_{name}.py" for name in ("kept", "followup", "copies", "watching")),
        ),
    ),
    "feeds": Room(
        ("src/zembra/core/feeds/*.py", "src/zembra/service/feeds/*.py"),
        ("tests/api/test_feeds.py", "tests/api/test_hostile_feeds.py"),
    ),
    "guards": Room(
        (
            "src/zembra/api/guard.py",
            "src/zembra/api/login.py",
            "src/zembra/api/login_throttle.py",
            "src/zembra/api/people.py",
        ),
        ("tests/api/test_guard.py", "tests/api/test_people.py", "tests/api/test_described.py"),
    ),
}


SAME = ("NoOp", "ReplaceComparisonOperator_Is_Eq", "ReplaceComparisonOperator_IsNot_NotEq")  # change nothing to be seen


@dataclass(frozen=True)
class Fault:
    """A file with one change. path: from the root of the project."""

    path: str
    line: int
    operator: str
    text: str


def main() -> int:
    name, *rest = sys.argv[1:] or [""]
    if name not in ROOMS:
        print(f"Rooms: {', '.join(ROOMS)}.")
        return 2
    count = int(rest[0]) if rest else COUNT
    seed = int(rest[1]) if len(rest) > 1 else SEED
    room = ROOMS[name]
    places = {place: ways for path in _modules(room) for place, ways in _places(path).items()}
    rng = random.Random(seed)
    # a place first, and then what is done there: an operator has a dozen others
    chosen = rng.sample(sorted(places), min(count, len(places)))
    drawn = [_fault(place, *rng.choice(places[place])) for place in chosen]
    faults = [fault for fault in drawn if fault is not None]
    with tempfile.TemporaryDirectory() as folder:
        copies: SimpleQueue[Path] = SimpleQueue()
        workers = os.cpu_count() or 1
        for number in range(workers):
            copies.put(_copied(Path(folder) / str(number)))
        whole = copies.get()
        if _fails(room, whole):
            print(f"The tests of {name} fail as they are.")
            return 1
        copies.put(whole)

        def tried(fault: Fault) -> bool:
            copy = copies.get()
            try:
                return _noticed(fault, room, copy)
            finally:
                copies.put(copy)

        with ThreadPoolExecutor(workers) as pool:
            noticed = list(pool.map(tried, faults))
    for fault in (fault for fault, seen in zip(faults, noticed, strict=True) if not seen):
        print(_told(fault))
    share = 100 * sum(noticed) / len(noticed)
    print(
        f"{name}: {sum(noticed)} of {len(noticed)} noticed, {share:.0f} %, drawn from {len(places)} places with seed {seed}"
    )
    return 0


def _modules(room: Room) -> list[Path]:
    return sorted({path for pattern in room.modules for path in ROOT.glob(pattern) if path.name != "__init__.py"})


# file, line, column
Place = tuple[Path, int, int]


def _places(path: Path) -> dict[Place, list[tuple[str, int]]]:
    """(operator, which of its occurrences) of all faults there are in a file, by their place."""
    text = path.read_text()
    left_out = _left_out(text)
    nodes = list(ast_nodes(get_ast(text)))
    found: dict[Place, list[tuple[str, int]]] = {}
    for name in operator_names():
        # nobody tells `is` from `==` where members of an enumeration are compared
        if get_operator(name).arguments() or name.removeprefix("core/") in SAME:
            continue
        operator = get_operator(name)()
        spots = [spot for node in nodes for spot in operator.mutation_positions(node)]
        for occurrence, ((line, column), _) in enumerate(spots):
            if not any(begin <= (line, column) < end for begin, end in left_out):
                found.setdefault((path, line, column), []).append((name, occurrence))
    return found


def _left_out(text: str) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Where that begins and ends, as (line, column), which changes nothing that is to be seen: annotations, what decorators are given
    (slots, frozen), and whether `zip` looks at lengths."""
    found: list[ast.expr] = []
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.arg | ast.AnnAssign) and node.annotation:
            found.append(node.annotation)
        elif isinstance(node, ast.FunctionDef) and node.returns:
            found.append(node.returns)
        elif isinstance(node, ast.keyword) and node.arg == "strict":
            found.append(node.value)
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            found += node.decorator_list
    return [((node.lineno, node.col_offset), (node.end_lineno or 0, node.end_col_offset or 0)) for node in found]


def _fault(place: Place, operator: str, occurrence: int) -> Fault | None:
    """None where the change gives no other code."""
    path, line, _ = place
    text = path.read_text()
    try:
        changed = mutate_code(text, get_operator(operator)(), occurrence)
        same = changed is None or ast.dump(ast.parse(changed)) == ast.dump(ast.parse(text))
    except (SyntaxError, AttributeError):  # a star taken for a product, several exceptions in a tuple
        return None
    if same:
        return None
    return Fault(str(path.relative_to(ROOT)), line, operator.removeprefix("core/"), changed)


def _copied(folder: Path) -> Path:
    folder.mkdir()
    for name in COPIED:
        if (ROOT / name).is_dir():
            shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
        else:
            shutil.copy(ROOT / name, folder / name)
    return folder


def _noticed(fault: Fault, room: Room, copy: Path) -> bool:
    file = copy / fault.path
    whole = file.read_text()
    file.write_text(fault.text)
    try:
        return _fails(room, copy)
    finally:
        file.write_text(whole)


def _fails(room: Room, copy: Path) -> bool:
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *room.tests]
    # bytecode is not made anew for a change within a second
    environment = {**os.environ, "PYTHONPATH": str(copy / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    silent = subprocess.DEVNULL
    try:
        ended = subprocess.run(
            command, cwd=copy, env=environment, stdout=silent, stderr=silent, timeout=LONGEST, check=False
        )
    except subprocess.TimeoutExpired:
        return True
    return ended.returncode != 0


def _told(fault: Fault) -> str:
    before = (ROOT / fault.path).read_text().splitlines()
    changes = [
        line
        for line in difflib.unified_diff(before, fault.text.splitlines(), n=0, lineterm="")
        if line[:1] in "+-" and line[:3] not in ("+++", "---")
    ]
    return "\n".join([f"{fault.path}:{fault.line} {fault.operator}", *(f"    {line}" for line in changes)])


if __name__ == "__main__":
    raise SystemExit(main())
