"""What Zembra is made with is told whole: every pinned package, each once."""

from __future__ import annotations

import json
import re
from pathlib import Path

from scripts.bom import bill
from scripts.notices import notices

ROOT = Path(__file__).parents[1]


def test_the_bill_of_materials_and_the_notice_name_every_package() -> None:
    told = bill()
    refs = [one["bom-ref"] for one in told["components"]]
    assert len(refs) == len(set(refs))
    pins = re.findall(r"^(\S+)==(\S+)", (ROOT / "requirements" / "run.txt").read_text(), re.MULTILINE)
    named = {(one["name"], one["version"]) for one in told["components"]}
    assert len(pins) > 40
    assert all((name, version) in named for name, version in pins)
    locked = json.loads((ROOT / "frontend" / "package-lock.json").read_text())["packages"]
    assert ("react", locked["node_modules/react"]["version"]) in named
    assert not any("eslint" in name for name, _ in named)
    notice = notices()
    assert all(f"{name} {version}: " in notice for name, version in named)
    assert (ROOT / "NOTICE").read_text() == notice


def test_what_is_installed_is_what_was_pinned() -> None:
    """By digests: every pin has some, no file an address of a registry, and the installation goes by them."""
    for name, fewest in (("run", 41), ("dev", 41), ("mutants", 41), ("lowest", 1)):
        told = (ROOT / "requirements" / f"{name}.txt").read_text()
        pins = re.split(r"^(?=\S+==)", told, flags=re.MULTILINE)[1:]
        assert len(pins) >= fewest
        assert all(re.search(r"--hash=sha256:[0-9a-f]{64}", pin) for pin in pins)
        assert "://" not in told
    made = (ROOT / "Makefile").read_text()
    assert made.count("--require-hashes -r requirements/") == made.count("-r requirements/") == 5
