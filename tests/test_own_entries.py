"""A package that brings an entry kind: the one of the page, built, installed and driven; missing, newer, and one that raises."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from zembra.demo import demo_file

PAGE = Path(__file__).parents[1] / "docs" / "own-entries.md"
LEDGER = {
    "format": "zembra.ledger/6",
    "entries": [
        {"id": "source", "kind": "source", "params": {"measure": "passengers"}},
        {"id": "calendar", "kind": "calendar", "params": {}},
        {"id": "d", "kind": "acme:drift", "params": {"series": ["Outer Isles"]}},
        {"id": "a", "kind": "average", "params": {}},
    ],
}


def installed(place: Path, change: tuple[str, str] = ("", ""), version: str = "1.0") -> Path:
    """The package of the page, changed, in a folder of its own."""
    text = PAGE.read_text()
    about, code = re.search(r"```toml\n(.*?)```", text, re.DOTALL), re.search(r"```python\n(.*?)```", text, re.DOTALL)
    assert about
    assert code
    source = place / "source"
    source.mkdir(parents=True)
    (source / "pyproject.toml").write_text(about[1].replace('version = "1.0"', f'version = "{version}"'))
    assert change[0] in code[1]
    (source / "acme_entries.py").write_text(code[1].replace(*change) if change[0] else code[1])
    command = [sys.executable, "-m", "pip", "install", "--quiet", "--no-deps", "--no-index", "--no-build-isolation"]
    subprocess.run([*command, "--target", str(place / "packages"), str(source)], check=True, capture_output=True)
    return place / "packages"


def told(
    place: Path, packages: Path | None, ledger: dict[str, object], *command: str
) -> subprocess.CompletedProcess[str]:
    (place / "ledger.json").write_text(json.dumps(ledger))
    (place / "sailings.csv").write_bytes(demo_file("sailings.csv"))
    environment = {**os.environ, "PYTHONPATH": str(packages) if packages else ""}
    words = command or ("run", "ledger.json", "--data", "sailings.csv", "--as-of", "2026-10-31", "--out", "out")
    return subprocess.run(
        [sys.executable, "-m", "zembra", *words],
        cwd=place,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.fixture(scope="module")
def packages(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return installed(tmp_path_factory.mktemp("acme"))


def test_it_is_listed_carried_out_and_drawn(tmp_path: Path, packages: Path) -> None:
    assert len(PAGE.read_text().split("```python")[1].split("```")[0].splitlines()) <= 45
    assert "acme:drift" in told(tmp_path, packages, LEDGER, "entries").stdout
    done = told(tmp_path, packages, LEDGER)
    assert done.returncode == 0, done.stderr
    report = json.loads((tmp_path / "out" / "report.json").read_text())
    entry = next(one for one in report["entries"] if one["id"] == "d")
    assert "how far Outer Isles has come from its first value" in entry["sentence"]
    assert entry["evidence"][0]["rows"][0][0] == "Outer Isles"
    assert "drift" in (tmp_path / "out" / "lines.csv").read_text()
    # in parts and in children too
    many = told(
        tmp_path, packages, LEDGER, "many", "ledger.json", "--data", "sailings.csv", "--out", "m", "--processes", "1"
    )
    assert many.returncode == 0, many.stderr


def test_without_the_package_it_is_refused_with_its_name(tmp_path: Path) -> None:
    done = told(tmp_path, None, LEDGER)
    assert done.returncode == 2
    assert "There is no entry kind named “acme:drift”" in done.stderr
    off = json.loads(json.dumps(LEDGER))
    off["entries"][2]["on"] = False
    assert told(tmp_path, None, off).returncode == 0


def test_what_it_raises_costs_its_entry_only(tmp_path: Path) -> None:
    packages = installed(
        tmp_path / "acme", ("        known = np", "        raise RuntimeError('the sea')\n        known = np")
    )
    script = (
        "import zembra, json\n"
        "from zembra.core.intake.bringin import bring_in\n"
        "from zembra.core.ledger.model import parse_ledger\n"
        "from zembra.core.ledger.run import run\n"
        "from datetime import date\n"
        "read = bring_in(open('sailings.csv', 'rb').read())\n"
        "result = run(read.observations, parse_ledger(open('ledger.json').read()), date(2026, 10, 31))\n"
        "print([(report.id, str(report.problem)) for report in result.reports if report.problem])\n"
        "print(len([shape for shape in result.state.shapes if shape.entry == 'a']))\n"
    )
    told(tmp_path, packages, LEDGER, "entries")
    done = subprocess.run(
        [sys.executable, "-c", script], cwd=tmp_path, env={**os.environ, "PYTHONPATH": str(packages)}, capture_output=True, text=True, check=True
    )  # fmt: skip
    problems, drawn = done.stdout.strip().split("\n")
    assert "acme-entries 1.0, which brings it, failed: RuntimeError: the sea" in problems
    assert problems.count("('") == 1
    assert int(drawn) == 4


def test_another_version_has_other_words(tmp_path: Path) -> None:
    newer = (
        "    def template",
        "    @classmethod\n    def upgraded(cls, params, made_in):\n        assert made_in == 'acme-entries 1.0'\n"
        "        return {'series': params['series'], 'least': params['fewest']}\n\n    def template",
    )
    packages = installed(tmp_path / "acme", newer, "2.0")
    ledger = json.loads(json.dumps(LEDGER))
    ledger["entries"][2] |= {"params": {"series": ["Outer Isles"], "fewest": 7}, "made_in": "acme-entries 1.0"}
    done = told(tmp_path, packages, ledger)
    assert done.returncode == 0, done.stderr
    assert "needing 7 values" in (tmp_path / "out" / "report.json").read_text()
    # and one that is kept anew remembers the version that its words are of now
    script = (
        "import json\n"
        "from zembra.core.ledger.model import Record, in_version\n"
        "for made_in in ('acme-entries 1.0', None):\n"
        "    params = {'series': ['Outer Isles'], **({'fewest': 7} if made_in else {'least': 9})}\n"
        "    item = in_version(Record(id='d', kind='acme:drift', params=params, made_in=made_in))\n"
        "    print(item.made_in, item.params['least'])\n"
    )
    kept = subprocess.run(
        [sys.executable, "-c", script], env={**os.environ, "PYTHONPATH": str(packages)}, capture_output=True, text=True, check=True
    )  # fmt: skip
    assert kept.stdout.splitlines() == ["acme-entries 2.0 7", "acme-entries 2.0 9"]
