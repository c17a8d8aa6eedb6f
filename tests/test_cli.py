"""The headless contract, run as a program."""

from __future__ import annotations

import csv
import json
import os
import shutil
import struct
from datetime import date
from pathlib import Path

import polars as pl
import pytest

from tests.help import AS_OF, daily_csv, handed_over
from zembra.api.app import create_app
from zembra.cli import main
from zembra.commands.opened import opened_home, study_named
from zembra.core.dress.dresswords import MadeFor
from zembra.core.dress.model import Page, Picture
from zembra.core.dress.style import style_of
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.projected import AheadPeriods
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.feeds.feedwords import FeedHow, WatchedFolder
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.model import parse_ledger, record
from zembra.demo import demo_file
from zembra.store.datasets import keep_dataset
from zembra.store.feeds import connect_feed
from zembra.store.home import Home
from zembra.store.studies import create_study


@pytest.fixture
def paths(tmp_path: Path) -> tuple[Path, Path, Path]:
    data, ledger = tmp_path / "riders.csv", tmp_path / "ledger.json"
    data.write_bytes(daily_csv([*range(40), None, "closed"]))
    brought = bring_in(data.read_bytes())
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    entries = (*begun.entries, record(Average(window=Window(length=7, need=4)), "avg"))
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


def test_a_run_says_what_changed_since_an_earlier_one(
    paths: tuple[Path, Path, Path], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    ledger, data, out = paths
    parsed = parse_ledger(ledger.read_bytes())
    entries = (*parsed.entries, record(Projection(ahead=AheadPeriods(count=6)), "p"))
    ledger.write_text(parsed.model_copy(update={"entries": entries}).model_dump_json())
    assert run_cli(ledger, data, out) == 0
    capsys.readouterr()
    data.write_bytes(daily_csv([0, 99, *range(2, 40), 40, 41, 42, 43, 44]))
    words = ["run", str(ledger), "--data", str(data), "--as-of", "2026-10-31", "--out", str(tmp_path / "new")]
    assert main([*words, "--compare", str(out)]) == 0
    told = capsys.readouterr().out
    assert "Changed since the earlier run: 3 another value, 3 new" in told
    assert "riders, 2 Jan 2026: 1, now 99" in told
    # the line 0, 1, 2 … went on as it was projected
    assert "projected then: riders, scaled error 0.00" in told
    assert "5 of 5 in 80 %" in told
    assert main([*words, "--compare", str(tmp_path)]) == 2


def test_a_ledger_without_intake_is_read_as_understood(paths: tuple[Path, Path, Path]) -> None:
    ledger = json.loads(paths[0].read_text())
    paths[0].write_text(json.dumps({**ledger, "intake": None}))
    assert run_cli(*paths) == 0


def test_what_would_have_been_asked_is_told(
    paths: tuple[Path, Path, Path], capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    """Nobody is there to answer: neither the program nor its report may be silent."""
    doubtful = tmp_path / "doubtful.csv"
    rows = [f"{month:02d}/{day:02d}/2025,{month}" for month in range(1, 13) for day in (1, 8)]
    doubtful.write_text("day,riders\n" + "\n".join([*rows, "01/01/1900,5"]))
    ledger = json.loads(paths[0].read_text())
    paths[0].write_text(json.dumps({**ledger, "intake": None}))
    assert run_cli(paths[0], doubtful, paths[2]) == 0
    report = json.loads((paths[2] / "report.json").read_text())
    told = capsys.readouterr().out
    assert [one.split(".")[0] for one in report["unanswered"][:2]] == [
        "Every date in day can be read in two ways", "1 row has a date far from all others",
    ]  # fmt: skip
    assert all(f"note: not asked: {one}" in told for one in report["unanswered"])
    settled = bring_in(doubtful.read_bytes()).how.model_dump(mode="json")
    closed = [
        {"key": key, "question": "?", "answer": None}
        for key in ("two-readings:day", "far:day:01/01/1900", "absent:day:day")
    ]
    paths[0].write_text(json.dumps({**ledger, "intake": {**settled, "settled": closed}}))
    assert run_cli(paths[0], doubtful, paths[2]) == 0
    report = json.loads((paths[2] / "report.json").read_text())
    assert not any("two ways" in one or "far from" in one for one in report["unanswered"])


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
    assert told["average"]["parameters"]["$defs"]["Window"]["properties"]["length"]["minimum"] == 2


def test_a_ledger_of_many_entries_on_the_demo_file(tmp_path: Path) -> None:
    data, ledger, out = tmp_path / "sailings.csv", tmp_path / "ledger.json", tmp_path / "out"
    data.write_bytes(demo_file("sailings.csv"))
    entries = [
        {"id": "s", "kind": "source", "params": {"measure": "passengers", "series": ["Outer Isles", "Harbour Loop"]}},
        {"id": "c", "kind": "calendar"},
        {"id": "o", "kind": "outliers", "params": {"then": "bridge"}},
        {"id": "b", "kind": "blanks", "params": {"treatment": "seasonal", "longest": None}},
        {"id": "p", "kind": "provisional", "params": {"last": 5}},
        {"id": "l", "kind": "shift", "params": {"on": "2025-11-28", "series": ["Outer Isles"], "then": ["afresh"]}},
        {
            "id": "r",
            "kind": "against",
            "params": {"against": "series", "series": ["Outer Isles"], "other": "Harbour Loop"},
        },
        {"id": "t", "kind": "trend"},
        {"id": "m", "kind": "moves"},
    ]
    ledger.write_text(json.dumps({"format": "zembra.ledger/1", "entries": entries}))
    assert run_cli(ledger, data, out) == 0
    points = list(csv.DictReader((out / "points.csv").open()))
    by_series = {name: [row for row in points if row["series"] == name] for name in {row["series"] for row in points}}
    assert set(by_series) == {"Outer Isles", "Harbour Loop", "Outer Isles, over Harbour Loop"}
    conditions = {row["period"]: row["condition"] for row in by_series["Outer Isles"]}
    assert conditions["2025-08-14"] == "set aside"
    assert conditions["2026-10-30"] == "provisional"
    assert conditions["2024-05-11"] == "filled"
    difference = {row["period"]: row["value"] for row in by_series["Outer Isles, over Harbour Loop"]}
    mine = {row["period"]: row["value"] for row in by_series["Outer Isles"]}
    theirs = {row["period"]: row["value"] for row in by_series["Harbour Loop"]}
    assert difference["2025-08-14"] == ""  # one side was set aside
    assert float(difference["2026-01-05"]) == float(mine["2026-01-05"]) - float(theirs["2026-01-05"])
    lines = list(csv.DictReader((out / "lines.csv").open()))
    assert {row["kind"] for row in lines} == {"trend", "moves"}
    report = json.loads((out / "report.json").read_text())
    shift = next(entry for entry in report["entries"] if entry["id"] == "l")
    assert shift["evidence"][0]["rows"][0][1] == "2025-11-28"
    assert all(entry["problem"] is None for entry in report["entries"])


def test_another_sheet_is_named_on_the_command_line(tmp_path: Path) -> None:
    data, ledger, out = tmp_path / "upkeep.xlsx", tmp_path / "ledger.json", tmp_path / "out"
    data.write_bytes(demo_file("upkeep_by_month.xlsx"))
    entries = [{"id": "s", "kind": "source"}, {"id": "c", "kind": "calendar", "params": {"grain": "year"}}]
    ledger.write_text(json.dumps({"format": "zembra.ledger/1", "entries": entries}))
    words = ["run", str(ledger), "--data", str(data), "--out", str(out), "--sheet"]
    assert main([*words, "By year"]) == 0
    periods = {row["period"] for row in csv.DictReader((out / "points.csv").open())}
    assert periods == {"2022", "2023", "2024", "2025"}
    assert main([*words, "By week"]) == 2


@pytest.mark.parametrize("form", ["png", "svg", "pdf"])
def test_a_run_draws_a_picture_in_a_house_style(paths: tuple[Path, Path, Path], form: str) -> None:
    ledger, data, out = paths
    style = out.with_name("style.json")
    page = Page(made_for=MadeFor.PIXELS, width=480, height=270)
    style.write_text(style_of(Picture(page=page), ()).model_dump_json())
    target = out.with_name(f"picture.{form}")
    told = ["run", str(ledger), "--data", str(data), "--out", str(out), "--picture", str(target), "--style", str(style)]
    assert main([*told, "--times", "3"]) == 0
    made = target.read_bytes()
    if form == "png":
        assert struct.unpack(">II", made[16:24]) == (1440, 810)
    elif form == "svg":
        assert b'width="480" height="270"' in made
    else:
        assert made.startswith(b"%PDF")
    assert main([*told[:-3], str(out.with_name("picture.gif"))]) == 2


def test_a_study_is_drawn_and_its_package_runs(
    paths: tuple[Path, Path, Path], capsys: pytest.CaptureFixture[str]
) -> None:
    home = paths[2].with_name("home")
    app = create_app(home / "zembra.db", lambda: AS_OF)
    shared = app.extensions["zembra"]
    data = keep_dataset(shared.engine, "riders.csv", paths[1].read_bytes(), bring_in(paths[1].read_bytes()).how)
    assert data.id is not None
    create_study(shared.engine, "Riders", data.id, parse_ledger(paths[0].read_bytes()), FigureSettings(), AS_OF)
    client = app.test_client()
    target = home / "riders.svg"
    assert main(["picture", "Riders", "--home", str(home), "--out", str(target)]) == 0
    assert target.read_bytes() == handed_over(client, "/api/studies/1/handover/picture.svg").data
    assert main(["picture", "Nobody", "--home", str(home), "--out", str(target)]) == 2
    assert "the studies are Riders" in capsys.readouterr().err
    package = home / "everything.zip"
    package.write_bytes(handed_over(client, "/api/studies/1/handover/everything.zip").data)
    assert main(["run", str(package), "--out", str(paths[2])]) == 0
    assert (paths[2] / "points.csv").read_bytes() == handed_over(client, "/api/studies/1/handover/points.csv").data
    assert main(["run", str(paths[0]), "--out", str(paths[2])]) == 2
    assert "Say which file with --data" in capsys.readouterr().err


def _thousandfold(line: str) -> str:
    day, route, count, *rest = line.split(",")
    return ",".join([day, route, f"{count}000" if count.isdigit() else count, *rest])


def test_new_rows_are_looked_at_and_taken_in(
    demo_database: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    home = tmp_path / "home"
    home.mkdir()
    shutil.copy(demo_database, home / "zembra.db")
    rows = tmp_path / "sailings.csv"
    rows.write_bytes(demo_file("sailings.csv"))
    update = ["update", "Sailings, month by month", "--data", str(rows), "--home", str(home)]
    assert main([*update, "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    (call,) = [call for call in told["calls"] if "revised by" in call]
    assert (
        "14 Sep 2026 was 1\u202f391 and is 2\u202f111 now" in call or "14 Sep 2026 was 1 391 and is 2 111 now" in call
    )
    assert (told["counts"], told["foreseen"]) == ({"new": 120, "revised": 21, "gone": 0, "blank": 0}, 20)
    assert {score["series"] for score in told["projection"]["scores"]} == {
        "Outer Isles", "Harbour Loop", "North Head", "Kittiwake Bay",
    }  # fmt: skip
    assert main([*update, "--take", "--as-of", "2026-10-31"]) == 0
    assert "Taken in, as of 31 Oct 2026." in capsys.readouterr().out
    assert main(update) == 0
    assert "Nothing is new." in capsys.readouterr().out
    # a folder that a study looks at, without a file on the line
    by_itself = ["update", "Sailings, month by month", "--home", str(home)]
    folder = home / "drops"
    folder.mkdir()
    words = FeedHow(source=WatchedFolder(folder=str(folder)))
    with opened_home(Home(home)) as engine:
        connect_feed(engine, study_named(engine, "Sailings, month by month").study.id or 0, words, private=False)
    assert main(by_itself) == 0
    assert capsys.readouterr().out.startswith("Nothing new.\n")
    longer = demo_file("sailings.csv").decode() + "2026-10-31,Outer Isles,900,\n"
    (folder / "november.csv").write_text(longer)
    os.utime(folder / "november.csv", (1, 1))
    assert main(by_itself) == 1
    assert "1 new" in capsys.readouterr().out
    assert main([*by_itself, "--take"]) == 0
    assert "Taken in" in capsys.readouterr().out
    # what may be a mistake is asked about, and not taken by itself
    thousands = tmp_path / "thousands.csv"
    head, *lines = longer.splitlines()
    thousands.write_text("\n".join([head, *(_thousandfold(line) for line in lines if ",North Head," not in line)]))
    wrong = ["update", "Sailings, month by month", "--data", str(thousands), "--home", str(home)]
    assert main([*wrong, "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert told["lost_series"] == ["North Head"]
    assert any("000 times what they were" in question for question in told["questions"]), told["questions"]
    assert any(question.startswith("North Head is gone, with ") for question in told["questions"])
    assert main([*wrong, "--take"]) == 2
    assert "Questions about the file are open" in capsys.readouterr().err
    assert main(wrong) == 1
    assert "Not in it any more: North Head, with " in capsys.readouterr().out
    (tmp_path / "other.csv").write_text("month,sales\n2026-01,5\n2026-02,7\n2026-03,8\n")
    assert main(["update", "8", "--data", str(tmp_path / "other.csv"), "--home", str(home)]) == 2
    assert main(["update", "nothing", "--data", str(rows), "--home", str(home)]) == 2


def test_rows_that_stand_twice_at_the_end_are_refused_also_where_a_ledger_says_how_they_are_read(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    rows = tmp_path / "rows.csv"
    lines = ["day,riders", *(f"2026-01-{n:02d},{n * 7 % 11}" for n in range(1, 20))]
    rows.write_text("\n".join(lines))
    brought = bring_in(rows.read_bytes())
    ledger = tmp_path / "ledger.json"
    ledger.write_text(first_ledger(brought.observations, brought.how, date(2026, 2, 1)).model_dump_json())
    run = ["run", str(ledger), "--data", str(rows), "--out", str(tmp_path / "out")]
    assert main(run) == 0
    rows.write_text("\n".join([*lines, *lines[-3:]]))
    assert main(run) == 2
    assert "The last rows 21 to 23 stand in the table a second time." in capsys.readouterr().err


def test_a_ledgers_way_of_reading_is_not_tied_to_the_kind_of_file(tmp_path: Path) -> None:
    rows = tmp_path / "rows.csv"
    text = "\n".join(["day,riders,cars", *(f"2026-01-{n:02d},{n}.5,{n % 3}" for n in range(1, 20))])
    rows.write_text(text)
    brought = bring_in(rows.read_bytes())
    ledger = tmp_path / "ledger.json"
    ledger.write_text(first_ledger(brought.observations, brought.how, date(2026, 2, 1)).model_dump_json())
    frame = pl.read_csv(rows)
    frame.write_parquet(tmp_path / "rows.parquet")
    frame.write_ndjson(tmp_path / "rows.jsonl")
    (tmp_path / "rows.txt").write_text(text.replace(",", ";"))
    assert main(["run", str(ledger), "--data", str(rows), "--out", str(tmp_path / "csv")]) == 0
    wanted = pl.read_csv(tmp_path / "csv" / "points.csv").drop("raw")
    for other in ("rows.parquet", "rows.jsonl", "rows.txt"):
        out = tmp_path / f"out of {other}"
        assert main(["run", str(ledger), "--data", str(tmp_path / other), "--out", str(out)]) == 0
        assert pl.read_csv(out / "points.csv").drop("raw").equals(wanted)
