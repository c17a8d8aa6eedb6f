"""The headless contract, run as a program."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.help import AS_OF, daily_csv
from zembra.cli import main
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entries.average import Average
from zembra.core.ledger.model import record
from zembra.core.ledger.start import first_ledger


@pytest.fixture
def paths(tmp_path: Path) -> tuple[Path, Path, Path]:
    data, ledger = tmp_path / "riders.csv", tmp_path / "ledger.json"
    data.write_bytes(daily_csv([*range(40), None, "closed"]))
    brought = bring_in(data.read_bytes())
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    entries = (*begun.entries, record(Average(window=7, need=4), "avg"))
    ledger.write_text(begun.model_copy(update={"entries": entries}).model_dump_json())
    return ledger, data, tmp_path / "out"


def run_cli(ledger: Path, data: Path, out: Path) -> int:
    return main(["run", str(ledger), "--data", str(data), "--as-of", "2026-10-31", "--out", str(out)])


def test_run_writes_the_three_files(paths: tuple[Path, Path, Path]) -> None:
    assert run_cli(*paths) == 0
    out = paths[2]
    assert sorted(path.name for path in out.iterdir()) == ["lines.csv", "points.csv", "report.json"]
    report = json.loads((out / "report.json").read_text())
    assert [entry["id"] for entry in report["entries"]] == ["source", "calendar", "avg"]
    assert report["as_of"] == "2026-10-31"
    assert len((out / "points.csv").read_text().splitlines()) == 43


def test_a_ledger_without_intake_is_read_as_understood(paths: tuple[Path, Path, Path]) -> None:
    ledger = json.loads(paths[0].read_text())
    paths[0].write_text(json.dumps({**ledger, "intake": None}))
    assert run_cli(*paths) == 0


@pytest.mark.parametrize("fault", ["no file", "bad ledger", "bad data", "entry refused"])
def test_bad_input_is_one_clear_line_and_nothing_written(
    paths: tuple[Path, Path, Path], capsys: pytest.CaptureFixture[str], fault: str
) -> None:
    ledger, data, out = paths
    if fault == "no file":
        data.unlink()
    elif fault == "bad ledger":
        ledger.write_text("{")
    elif fault == "bad data":
        data.write_text("day,riders\n")
    else:
        text = json.loads(ledger.read_text())
        text["entries"][-1]["params"] = {"window": 300, "need": 299}
        ledger.write_text(json.dumps(text))
    assert run_cli(ledger, data, out) == 2
    error = capsys.readouterr().err
    assert error.startswith("zembra: ")
    assert error.count("\n") == 1
    assert not out.exists()


def test_entries_lists_every_kind(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["entries"]) == 0
    assert "Average the 28 days up to and including each day" in capsys.readouterr().out
    assert main(["entries", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["average"]["parameters"]["properties"]["window"]["minimum"] == 2
