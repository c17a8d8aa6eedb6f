"""What Zembra is made with is told whole: every pinned package, each once."""

from __future__ import annotations

import json
from pathlib import Path

from scripts.bom import bill
from scripts.notices import notices

ROOT = Path(__file__).parents[1]


def test_the_bill_of_materials_and_the_notice_name_every_package() -> None:
    told = bill()
    refs = [one["bom-ref"] for one in told["components"]]
    assert len(refs) == len(set(refs))
    lines = (ROOT / "requirements" / "run.txt").read_text().splitlines()
    pins = [line.split("==") for line in lines if "==" in line]
    named = {(one["name"], one["version"]) for one in told["components"]}
    assert len(pins) > 40
    assert all((name, version) in named for name, version in pins)
    locked = json.loads((ROOT / "frontend" / "package-lock.json").read_text())["packages"]
    assert ("react", locked["node_modules/react"]["version"]) in named
    assert not any("eslint" in name for name, _ in named)
    notice = notices()
    assert all(f"{name} {version}: " in notice for name, version in named)
    assert (ROOT / "NOTICE").read_text() == notice
