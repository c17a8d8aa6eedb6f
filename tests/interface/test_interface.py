"""`import zembra`: reading, answering, running, drawing, opening what was handed over; the examples of its page run."""

from __future__ import annotations

import io
import re
import subprocess
import sys
from datetime import date
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pandas as pd
import polars as pl
import pyarrow as pa
import pytest
from flask.testing import FlaskClient

import zembra
from tests.api.test_api import bring_in as brought_in
from zembra import entries as every
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.handover.tables import lines_csv, points_csv
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.model import Ledger as CoreLedger
from zembra.core.ledger.model import record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import run as carry_out
from zembra.core.slots import slots
from zembra.demo import AS_OF, demo_file
from zembra.entries import Average, Blanks, Outliers, Trend, Window

DOCS = Path(__file__).parents[2] / "docs"
LEDGER = (Outliers(), Blanks(longest=3), Average(window=Window(28, need=20)), Trend())


def frame() -> pl.DataFrame:
    rng = np.random.default_rng(5)
    days = pl.date_range(date(2026, 1, 1), date(2026, 4, 10), eager=True)
    one = pl.DataFrame(
        {"day": days, "landing": "North Head", "riders": np.round(200 + rng.normal(0, 9, days.len()), 1)}
    )
    other = one.with_columns(landing=pl.lit("Outer Isles"), riders=pl.col("riders") + 100)
    return pl.concat([one, other]).with_columns(
        riders=pl.when(pl.int_range(pl.len()) == 40).then(None).otherwise(pl.col("riders"))
    )


def test_it_imports_at_once_and_what_it_offers_is_there() -> None:
    script = (
        "import time; began = time.perf_counter(); import zembra; took = time.perf_counter() - began\n"
        "import sys; print('numpy' in sys.modules, 'pydantic' in sys.modules, took)\n"
        "print([name for name in zembra.__all__ if getattr(zembra, name) is None])"
    )
    said = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True).stdout.split("\n")
    assert said[0].startswith("False False")
    assert said[1] == "[]"
    version = subprocess.run([sys.executable, "-m", "zembra", "--version"], check=True, capture_output=True, text=True)
    assert version.stdout.strip() == f"zembra {zembra.__version__}"
    with pytest.raises(AttributeError):
        _ = zembra.nonsense  # type: ignore[attr-defined]


def test_every_entry_and_every_clause_can_be_had() -> None:
    for kind in kinds().values():
        assert getattr(every, kind.__name__) is kind
        for slot in slots(kind).values():
            for clause in slot.clauses:
                offered = {id(getattr(every, name)) for name in every.__all__}
                assert id(clause) in offered or clause.__name__ == "Window", clause


def test_the_numbers_are_those_of_the_core(tmp_path: Path) -> None:
    data = demo_file("sailings.csv")
    read = bring_in(data)
    begun = first_ledger(read.observations, read.how, AS_OF)
    records = tuple(record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(LEDGER, 1))
    whole = carry_out(
        read.observations,
        CoreLedger(intake=read.how, entries=(*begun.entries, *records)),
        AS_OF,
        file_name="sailings.csv",
    )
    (tmp_path / "sailings.csv").write_bytes(data)
    run = zembra.run(tmp_path / "sailings.csv", zembra.Ledger(*LEDGER), as_of=AS_OF, waved=True)
    assert run.points.write_csv(null_value="").count("\n") == points_csv(whole).count("\n")
    table = pl.read_csv(io.StringIO(lines_csv(whole)), infer_schema_length=None)
    assert run.lines["value"].to_list() == pytest.approx(table["value"].to_list(), nan_ok=True)
    assert run.note.startswith("sailings.csv")
    assert "28-day average" in " ".join(run.lines["line"].unique())
    assert run.findings.height > 0
    assert any(name.startswith("Trend line: ") for name in run.evidence)
    svg = ElementTree.fromstring(run.picture(tmp_path / "s.svg"))
    assert svg.tag.endswith("svg")
    assert (tmp_path / "s.svg").read_bytes().startswith(b"<svg")
    assert run.picture(form="png").startswith(b"\x89PNG")
    html = run._repr_html_()
    assert "<svg" in html
    assert "passengers" in html
    with pytest.raises(zembra.Refusal, match="png, an svg or a pdf"):
        run.picture(tmp_path / "s.gif")


def test_frames_of_any_library_are_read_alike() -> None:
    own = frame()
    pandas = pd.DataFrame({name: own[name].to_list() for name in own.columns})
    indexed = pandas.assign(day=pd.to_datetime(pandas["day"])).set_index("day")
    plain = zembra.read(own).frame
    assert plain["value"].null_count() == 1
    for source in (pandas, indexed, pa.Table.from_pandas(pandas), own.lazy().collect()):
        assert zembra.read(source).frame.equals(plain), type(source)
    with pytest.raises(zembra.Refusal, match="no rows"):
        zembra.read(own.head(0))
    with pytest.raises(zembra.Refusal, match="is no table"):
        zembra.read(7)
    with pytest.raises(zembra.Refusal, match="cannot be read: No such file"):
        zembra.read("nowhere.csv")


def test_what_is_open_is_asked_answered_or_waved_through() -> None:
    rows = b"day,riders\n01/02/2026,140\n02/02/2026,151\n03/02/2026,139\n04/02/2026,148\n"
    reading = zembra.read(rows)
    (question,) = reading.questions
    with pytest.raises(zembra.Refusal, match="two ways"):
        zembra.run(rows)
    assert zembra.run(rows, waved=True).unanswered == (question.text,)
    grains = set()
    for answer in question.answers:
        answered = reading.answered({question.key: answer})
        assert answered.questions == ()
        grains.add(tuple(zembra.run(answered).points["period"]))
    assert len(grains) == len(question.answers) > 1
    with pytest.raises(zembra.Refusal, match="no answer"):
        reading.answered({question.key: "perhaps"})
    with pytest.raises(zembra.Refusal, match="Nothing is asked"):
        reading.answered({"nonsense": None})
    assert reading.answered({question.key: None}).questions == ()


def test_ledgers_are_kept_and_put_together(tmp_path: Path) -> None:
    ledger = zembra.Ledger(Outliers()) + zembra.Ledger(Outliers(), Trend())
    assert [entry.kind for entry in ledger.entries] == ["outliers", "outliers", "trend"]
    ledger.save(tmp_path / "l.json")
    assert zembra.Ledger.load(tmp_path / "l.json").text == ledger.text
    assert "<li>" in ledger._repr_html_()
    run = zembra.run(frame(), ledger, waved=True)
    # as it was carried out it can be kept, and run again alone
    again = zembra.run(frame(), zembra.Ledger.parse(run.ledger.text), as_of=run.reading.as_of)
    assert again.points.equals(run.points)
    with pytest.raises(zembra.Refusal):
        zembra.Ledger.parse("{")


def test_the_examples_of_the_page_run(tmp_path: Path, client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    told = brought_in(client, demo_file("fuel_contract.csv"), "fuel_contract.csv").json
    body = {"dataset_id": told["dataset"]["id"], "name": "Fuel", "ledger": told["ledger"], "as_of": AS_OF.isoformat()}
    study = client.post("/api/studies", json=body).json["study"]["id"]
    answer = client.get(f"/api/studies/{study}/handover/everything.zip")
    for _ in range(100):
        if answer.status_code == 200:
            break
        answer = client.get(f"/api/studies/{study}/handover/everything.zip")
    (tmp_path / "everything.zip").write_bytes(answer.data)
    (tmp_path / "sailings.csv").write_bytes(demo_file("sailings.csv"))
    monkeypatch.chdir(tmp_path)
    examples = re.findall(r"```python\n(.*?)```", (DOCS / "python.md").read_text(), re.DOTALL)
    assert len(examples) > 4
    names: dict[str, object] = {}
    for example in examples:
        exec(compile(example, "docs/python.md", "exec"), names)
    assert (tmp_path / "sailings.svg").exists()


def test_nothing_of_a_frame_is_dropped_without_a_word() -> None:
    months = pd.period_range("2024-01", periods=12, freq="M")
    by_period = zembra.read(pd.DataFrame({"riders": range(12)}, index=months))
    assert by_period.frame["when"].dt.strftime("%Y-%m").to_list() == [str(month) for month in months]
    quarters = pd.DataFrame(
        {"riders": range(12)}, index=pd.period_range("2020Q1", periods=12, freq="Q", name="quarter")
    )
    assert zembra.read(quarters).frame["when"].dt.strftime("%Y-%m-%d")[1] == "2020-04-01"
    twice = pd.DataFrame([[f"2024-{n:02d}", n, n] for n in range(1, 9)], columns=["month", "riders", "riders"])
    with pytest.raises(zembra.Refusal, match="several columns of one name"):
        zembra.read(twice)
    endless = pd.DataFrame(
        {"month": [str(month) for month in months], "riders": [float("inf"), *map(float, range(11))]}
    )
    reading = zembra.read(endless)
    assert any("inf" in notice for notice in reading.notices)
    assert reading.frame["value"][0] is None
    again = pd.concat([endless.iloc[1:], endless.iloc[-2:]])
    with pytest.raises(zembra.Refusal):
        zembra.run(again, zembra.Ledger())
