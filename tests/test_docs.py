"""Whatever the docs name in backticks is there: files, classes and what they have, functions, words of sentences, settings, commands."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from zembra.settings import Settings

ROOT = Path(__file__).parents[1]
DOCS = ROOT / "docs"
PAGES = sorted([*ROOT.glob("docs/*.md"), *ROOT.glob("*.md")])
PATH = re.compile(r"[\w./-]+\.(?:py|ts|tsx|md|json|txt|toml|yml|sh|in)|[\w-]+(?:/[\w-]+)+/?")
NAME = re.compile(r"[A-Za-z_][\w.]*(?:\(\))?")
# placeholders of how-tos, and labels of fiscal years
MEANT = {
    "src/zembra/core/entries/GROUP/NAME.py", "acme_entries.py", "2025/26", "2025/26-Q1",
    "files/N", "files/N.json", "studies/N.json", "snapshots/N/",
}  # fmt: skip


def quoted(page: Path) -> list[str]:
    return re.findall(r"`([^`\n]+)`", re.sub(r"```.*?```", "", page.read_text(), flags=re.DOTALL))


@cache
def trees() -> dict[Path, ast.Module]:
    folders = ("src", "tests", "benchmarks", "scripts")
    found = [path for folder in folders for path in (ROOT / folder).rglob("*.py") if path.name != "test_docs.py"]
    return {path: ast.parse(path.read_text()) for path in found}


def _names(node: ast.AST) -> Iterator[str]:
    match node:
        case ast.FunctionDef(name=name) | ast.ClassDef(name=name) | ast.Name(id=name) | ast.Attribute(attr=name):
            yield name
        case ast.arg(arg=name) | ast.keyword(arg=str(name)):
            yield name
        case ast.Constant(value=str(text)):
            yield from re.findall(r"\w+", text) if len(text) < 200 else ()
        case ast.Import(names=names) | ast.ImportFrom(names=names):
            yield from (part for alias in names for part in alias.name.split("."))


@cache
def known_names() -> set[str]:
    """Of the Python that runs (no comments, no docstrings), of the front end, and of the files that set things up."""
    nodes = [node for tree in trees().values() for node in ast.walk(tree)]
    documenting = {
        id(node.value) for node in nodes if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    found = {name for node in nodes if id(node) not in documenting for name in _names(node)}
    others = [
        *ROOT.glob("frontend/src/**/*.ts*"),
        *ROOT.glob("docs/deploy/*"),
        ROOT / "Makefile",
        ROOT / "pyproject.toml",
    ]
    for path in others:
        found |= set(re.findall(r"\w+", path.read_text()))
    found |= {f"ZEMBRA_{field.upper()}" for field in Settings.model_fields}
    return found | {path.stem for path in trees()} | {path.parent.name for path in trees()}


@cache
def texts() -> set[str]:
    """Names of files that Zembra writes, and addresses, stand in the code as they are."""
    nodes = (node for tree in trees().values() for node in ast.walk(tree))
    return {node.value for node in nodes if isinstance(node, ast.Constant) and isinstance(node.value, str)}


@cache
def members() -> dict[str, set[str]]:
    """What each class of Zembra has of its own, with what its bases of the same names have."""
    own: dict[str, set[str]] = {}
    bases: dict[str, set[str]] = {}
    for tree in trees().values():
        for node in ast.walk(tree):
            if isinstance(node, ast.ClassDef):
                there = {name for inner in ast.walk(node) for name in _names(inner)}
                own.setdefault(node.name, set()).update(there)
                bases.setdefault(node.name, set()).update(base.id for base in node.bases if isinstance(base, ast.Name))
    return {name: set().union(*(own.get(base, set()) for base in (name, *bases[name]))) for name in own}


@cache
def files() -> set[str]:
    kept = ("src", "tests", "docs", "benchmarks", "scripts", "requirements", ".ci")
    listed = [path for folder in kept for path in (ROOT / folder).rglob("*")]
    listed += [*(ROOT / "frontend" / "src").rglob("*"), *ROOT.glob("*"), *ROOT.glob("frontend/*")]
    return {f"/{path.relative_to(ROOT)}" for path in listed}


def is_there(text: str) -> bool:
    if text in MEANT:
        return True
    if PATH.fullmatch(text):
        ends = f"/{text.strip('/')}"
        return text in texts() or any(path.endswith(ends) for path in files())
    if not NAME.fullmatch(text):
        return True  # a sentence, a formula, a line of a shell
    first, *rest = re.findall(r"\w+", text)
    if rest and first in members():
        return rest[0] in members()[first]
    return {first, *rest} <= known_names()


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.stem)
def test_what_is_named_is_there(page: Path) -> None:
    assert [text for text in quoted(page) if not is_there(text)] == []


def test_what_is_not_there_is_noticed() -> None:
    for text in (
        "core/ledger/nowhere.py",
        "Line.nothing_of_it",
        "no_such_function_at_all",
        "ZEMBRA_NOTHING",
        "lots/of/nothing_such",
    ):
        assert not is_there(text), text


def measured_numbers() -> dict[str, set[str]]:
    """By bench, every number of its rows in docs/performance.md."""
    found: dict[str, set[str]] = {}
    for line in (DOCS / "performance.md").read_text().splitlines():
        if match := re.match(r"\| (?:ok|\*\*OVER\*\*) \| (\w+) \|(.*)\|", line):
            # when it was measured is no result
            found.setdefault(match[1], set()).update(numbers(match[2].rpartition("|")[0]))
    return found


def numbers(text: str) -> set[str]:
    return {number.replace(",", "") for number in re.findall(r"\d[\d,]*(?:\.\d+)?", text)}


def test_what_other_pages_say_was_measured_stands_in_the_table_of_measurements() -> None:
    known = measured_numbers()
    looked = 0
    for page in sorted(DOCS.glob("*.md")):
        for line in page.read_text().splitlines():
            cells = line.split("|")[1:-1]
            benches = re.findall(r"`bench (\w+)`", cells[-1]) if len(cells) >= 4 else []
            if not benches:
                continue
            looked += 1
            there = set().union(*(known[bench] for bench in benches))
            assert numbers(cells[-2]) <= there, (page.name, cells[-2], numbers(cells[-2]) - there)
    assert looked > 10
