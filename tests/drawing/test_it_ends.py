"""Pictures are drawn apart: whoever wants one ends well, has none of the engine in it, and loses a picture at most."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from zembra.demo import demo_file

STARTS = 6  # of each; of twelve, one did not end
RUN = ["run", "ledger.json", "--data", "sailings.csv", "--as-of", "2026-10-31", "--out", "out", "--picture"]
ENTRIES = [
    {"id": "source", "kind": "source", "params": {"measure": "passengers"}},
    {"id": "calendar", "kind": "calendar", "params": {}},
]
DRAWN = """
import sys, zembra
ledger = zembra.Ledger.load("ledger.json")
run = zembra.run("sailings.csv", ledger, waved=True)
assert len(run.picture(form="png")) > 5000
assert run.picture(form="pdf").startswith(b"%PDF")
print(sorted({"py_mini_racer", "typst", "resvg_py", "fontTools"} & set(sys.modules)))
"""


@pytest.fixture
def place(tmp_path: Path) -> Path:
    (tmp_path / "ledger.json").write_text(json.dumps({"format": "zembra.ledger/6", "entries": ENTRIES}))
    (tmp_path / "sailings.csv").write_bytes(demo_file("sailings.csv"))
    return tmp_path


@pytest.mark.parametrize("form", ["png", "pdf", "svg"])
def test_the_command_line_ends_with_0_every_time(place: Path, form: str) -> None:
    for start in range(STARTS):
        done = subprocess.run(
            [sys.executable, "-m", "zembra", *RUN, f"{start}.{form}"], cwd=place, capture_output=True, check=False
        )
        assert done.returncode == 0, done.stderr
        assert (place / f"{start}.{form}").stat().st_size > 5000


def test_a_program_that_draws_has_no_engine_in_it(place: Path) -> None:
    script = place / "drawn.py"
    script.write_text(DRAWN)
    done = subprocess.run([sys.executable, script], cwd=place, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stdout.strip()) == (0, "[]"), done.stderr


def test_an_engine_that_crashes_costs_the_picture_and_no_number(place: Path) -> None:
    broken = place / "packages"
    broken.mkdir()
    (broken / "py_mini_racer.py").write_text("import os, signal; os.kill(os.getpid(), signal.SIGSEGV)")
    done = subprocess.run(
        [sys.executable, "-m", "zembra", *RUN, "p.png"],
        cwd=place, env={**os.environ, "PYTHONPATH": str(broken)}, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 2
    assert "Drawing the picture ended before it was done" in done.stderr
    assert "SIGSEGV" in done.stderr
    assert "Traceback" not in done.stderr
    assert (place / "out" / "points.csv").exists()
    assert not (place / "p.png").exists()
