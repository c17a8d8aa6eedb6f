"""The manual: every entry kind, key and command is in it, every link leads somewhere, and every job is asked for."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from zembra.cli import main
from zembra.core.dress.language import OURS
from zembra.core.ledger.registry import kinds

ROOT = Path(__file__).parents[1]
PAGES = {path.stem: path.read_text() for path in (ROOT / "docs" / "manual").glob("*.md")}
SCREENS = ROOT / "frontend" / "src"
HEADINGS = {name: re.findall(r"^## (.*)$", text, re.MULTILINE) for name, text in PAGES.items()}


@pytest.mark.parametrize("kind", [name for name in kinds() if ":" not in name])
def test_every_entry_kind_is_explained_under_its_title(kind: str) -> None:
    found = [heading for headings in HEADINGS.values() for heading in headings if heading.endswith(f"(`{kind}`)")]
    assert found == [f"{kinds()[kind].title} (`{kind}`)"]


def test_no_other_entry_kind_is_explained() -> None:
    told = {
        name for headings in HEADINGS.values() for name in re.findall(r"\(`([a-z]+)`\)$", "\n".join(headings), re.M)
    }
    assert told <= set(kinds())


def test_every_key_of_every_screen_is_listed() -> None:
    text = "\n".join(path.read_text() for path in SCREENS.rglob("*.tsx"))
    keys = {key for found in re.findall(r'useKey\("([^"]+)"', text) for key in found.split(",")}
    assert len(keys) > 10
    said = PAGES["keys"]
    for key in keys - {"mod+y"}:  # a second way to redo
        name = {"mod+z": "Ctrl Z", "mod+shift+z": "Ctrl Shift Z"}.get(key) or " then ".join(
            f"`{k}`" for k in key.split(">")
        )
        assert name in said, key
    for key in ("ArrowUp", "ArrowDown", "Delete", "Home", "End"):
        assert key in text
    for said_as in ("↑ ↓", "← →", "Space", "Enter", "Escape", "Delete", "Home", "End", "Alt ↑ ↓", "Shift and drag"):
        assert said_as in said


def test_every_command_is_listed(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        main(["--help"])
    commands = re.findall(r"^    ([a-z]+) ", capsys.readouterr().out, re.MULTILINE)
    assert len(commands) > 10
    for name in commands:
        assert f"`zembra {name}" in PAGES["commands"], name


def test_every_link_leads_to_a_page_and_every_page_is_linked() -> None:
    for name, text in PAGES.items():
        for to in re.findall(r"\]\(([^)]+)\)", text):
            assert to.removesuffix(".md") in PAGES, f"{name} links {to}"
    linked = set(re.findall(r"\(([a-z-]+)\.md\)", PAGES["index"]))
    assert linked == set(PAGES) - {"index"}


def test_every_page_names_what_it_is_for_and_asks_how() -> None:
    for name, text in PAGES.items():
        assert re.match(r"# \S", text), name
        if name not in ("index", "keys", "statistics"):
            assert any(heading.startswith(("How do I", "How likely", "When")) for heading in HEADINGS[name]), name
    assert OURS in PAGES["pictures"] or "German" in PAGES["pictures"]


def test_each_statistic_is_said_in_three_sentences_with_its_formula() -> None:
    parts = re.split(r"^## ", PAGES["statistics"], flags=re.MULTILINE)[1:]
    assert len(parts) >= 25
    for part in parts:
        heading, _, body = part.partition("\n")
        sentences = re.split(r"(?<=[.:])\s+(?!e)", body.strip())
        assert 3 <= len(sentences) <= 7, (heading, sentences)
