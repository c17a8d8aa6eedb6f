"""A ledger on very many series: the numbers of the bench, whatever the parts; gone on with, and nothing lost."""

from __future__ import annotations

import errno
import gzip
import json
import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from datetime import date, timedelta
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import polars as pl
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from polars.testing import assert_frame_equal

from tests.help import smoothing
from zembra.cli import main
from zembra.core.calendar.complete import Span, Until
from zembra.core.calendar.lines import Line
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.calendar.coarser import Coarser
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LimitsWord
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.marks import Marks
from zembra.core.entries.readings.together import Across, Together
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.against import SetAgainst
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.against import OtherSeries
from zembra.core.entries.repairs.clauses.derivations import Share
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.repairs.zeros import Zeros
from zembra.core.errors import Refusal
from zembra.core.handover.frames import lines_frame, points_frame
from zembra.core.intake.bringin import bring_in, quiet
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.lineentry import LineEntry, LineResult
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.state import Study
from zembra.core.many.looks import Near
from zembra.service.many import drive, parts, rows, work
from zembra.service.many.drive import ManyRequest, ManyRun, run_many
from zembra.service.many.table import Wanted
from zembra.service.many.table import rows as page_of
from zembra.work.executor import Executor, Here
from zembra.work.processes import Processes

AS_OF = date(2026, 4, 30)
FIRST = date(2026, 1, 1)


def table(series: int, days: int, seed: int = 1) -> list[tuple[str, str, str]]:
    """Rows of made-up landings, some blank, some absent, in no order of names."""
    rng = np.random.default_rng(seed)
    names = [f"landing {n:02d}, {('single', 'return')[n % 2]}" for n in range(series)]
    rows = []
    for n in range(days):
        for place in rng.permutation(series):
            if rng.random() < 0.05:
                continue
            value = (
                100
                + 10 * place
                + 8 * np.sin(2 * np.pi * n / 7)
                + rng.normal(0, 3)
                + (300 if rng.random() < 0.01 else 0)
            )
            cell = "" if rng.random() < 0.03 else f"{value:.1f}"
            rows.append((f"{FIRST + timedelta(n)}", names[place], cell))
    return rows


def csv_of(rows: Sequence[tuple[str, str, str]]) -> bytes:
    return "\n".join(["day,landing,riders", *(f'{day},"{name}",{value}' for day, name, value in rows), ""]).encode()


def ledger_for(data: bytes, *entries: Entry, calendar: dict[str, Any] | None = None) -> tuple[Ledger, Result]:
    """A ledger as it is begun on a file with entries after it, and its run on the bench."""
    read = bring_in(data)
    source, grain = first_ledger(read.observations, read.how, AS_OF).entries
    begun = (source, grain.model_copy(update={"params": {**grain.params, **(calendar or {})}}))
    records = tuple(record(entry, f"e{n}") for n, entry in enumerate(entries))
    ledger = Ledger(intake=read.how, entries=(*begun, *records))
    return ledger, run(read.observations, ledger, AS_OF)


@pytest.fixture(autouse=True)
def small_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(parts, "ROWS_OF_A_PART", 150)
    monkeypatch.setattr(rows, "BYTES_OF_A_ROW", 40)


def many(data: bytes, ledger: Ledger, out: Path, executor: Executor | None = None, name: str = "rows.csv") -> ManyRun:
    file = out.parent / name
    file.write_bytes(data)
    return run_many(ManyRequest([file], ledger, AS_OF, out), executor or Here(), quiet)


def results(out: Path, kind: str) -> pl.DataFrame:
    files = sorted((out / kind).glob("part-*.parquet"))
    return pl.concat(
        [pl.DataFrame(), *(frame for file in files if (frame := pl.read_parquet(file)).height)], how="diagonal"
    )


def assert_same(out: Path, bench: Result) -> None:
    """To the last bit."""
    of_series = lines_frame(bench).filter(pl.col("series") != "")
    for kind, whole in (("points", points_frame(bench)), ("lines", of_series)):
        keys = ["series"]
        ours = results(out, kind)
        if not whole.height:
            assert not ours.height
            continue
        assert_frame_equal(
            ours.sort(keys, maintain_order=True), whole.sort(keys, maintain_order=True), check_exact=True
        )


EVERY = (
    Outliers(),
    Zeros(),
    Blanks(longest=3),
    Provisional(),
    Shifts(shortest=14),
    Average(window=Window(length=7, need=4)),
    Band(),
    Trend(),
)


def test_the_numbers_are_those_of_the_bench(tmp_path: Path) -> None:
    data = csv_of(table(12, 90))
    ledger, bench = ledger_for(data, *EVERY)
    ran = many(data, ledger, tmp_path / "out")
    assert (ran.series, ran.again, ran.failed, ran.lost) == (12, 12, (), ())
    assert ran.parts > 3
    assert_same(tmp_path / "out", bench)
    told = pl.read_parquet(tmp_path / "out" / "series.parquet")
    lines = {line.name: line for line in bench.state.lines}
    assert told["series"].to_list() == sorted(lines)
    for row in told.iter_rows(named=True):
        line = lines[row["series"]]
        known = line.value[~np.isnan(line.value) & (line.condition != 3)]
        assert row["newest"] == known[-1]
        assert row["set_aside"] == int((line.condition == 3).sum())
        assert row["absent"] == int((line.received == 2).sum())
        assert bin(row["open_bits"]).count("1") == int((line.condition[-64:] == 1).sum())
    # the account says of each entry what it did on all of them
    report = json.loads((tmp_path / "out" / "report.json").read_text())
    touched = {entry["id"]: entry["touched"] for entry in report["entries"]}
    assert touched == {one.id: one.outcome.touched for one in bench.reports}


LINE_KINDS = [
    kind
    for kind in kinds().values()
    if issubclass(kind, LineEntry) and kind.kind not in ("projection", "shifts", "against")
]


@settings(max_examples=25)
@given(
    st.integers(2, 9),
    st.integers(20, 60),
    st.integers(0, 10_000),
    st.lists(st.sampled_from(LINE_KINDS), min_size=1, max_size=4),
    st.booleans(),
)
# the averages come of none
@example(2, 20, 42, [Average, kinds()["held"], Average], True)
def test_any_entries_give_what_they_give_on_the_bench(
    tmp_path_factory: pytest.TempPathFactory, series: int, days: int, seed: int, chosen: list[type[Entry]], some: bool
) -> None:
    data = csv_of(table(series, days, seed))
    _, start = ledger_for(data)
    entries = [kind.suggest(start.state) for kind in chosen]
    if some:
        # words that name series of several parts, and of one
        names = tuple(line.name for line in start.state.lines)
        entries = [entry.model_copy(update={"series": names[:: max(1, series // 2)]}) for entry in entries]
    ledger, bench = ledger_for(data, *entries)
    out = tmp_path_factory.mktemp("many") / "out"
    ran = many(data, ledger, out)
    assert ran.failed == ()
    refused = [one.id for one in bench.reports if one.problem and getattr(type(one.entry), "all_or_none", False)]
    assert bool(refused) == any("takes all series or none" in note for note in ran.notes)
    assert_same(out, bench)


@pytest.mark.parametrize("span", [(Span.WHOLE, Until.WHOLE), (Span.COMMON, Until.COMMON), (Span.OWN, Until.AS_OF)])
def test_lines_that_end_with_those_of_others(tmp_path: Path, span: tuple[Span, Until]) -> None:
    kept = [row for row in table(8, 60) if not (row[1].startswith("landing 03") and row[0] < "2026-01-20")]
    data = csv_of([row for row in kept if not (row[1].startswith("landing 05") and row[0] > "2026-02-10")])
    ledger, bench = ledger_for(data, Blanks(), calendar={"span": span[0].value, "until": span[1].value})
    many(data, ledger, tmp_path / "out")
    assert_same(tmp_path / "out", bench)


def test_a_target_is_given_to_every_part(tmp_path: Path) -> None:
    data = csv_of(table(9, 50))
    target = "landing 04, single"
    ledger, bench = ledger_for(
        data, SetAgainst(against=OtherSeries(other=target)), Average(window=Window(length=7, need=3))
    )
    many(data, ledger, tmp_path / "out")
    assert_same(tmp_path / "out", bench)


@pytest.mark.parametrize("how", [Across.SUM, Across.MEAN, Across.MIN, Across.MAX])
def test_lines_of_several_series_are_put_together(tmp_path: Path, how: Across) -> None:
    data = csv_of(table(9, 60))
    ledger, bench = ledger_for(
        data, Outliers(), Together(how=how, need=4, over=5), Average(window=Window(length=7, need=3))
    )
    many(data, ledger, tmp_path / "out")
    assert_same(tmp_path / "out", bench)
    whole = lines_frame(bench).filter(pl.col("series") == "")
    ours = pl.read_parquet(tmp_path / "out" / "lines" / "together.parquet")
    assert ours["period"].to_list() == whole["period"].to_list()
    np.testing.assert_allclose(ours["value"].to_numpy(), whole["value"].to_numpy(), rtol=1e-12)


def test_limits_by_like_series_are_those_of_the_bench(tmp_path: Path) -> None:
    data = csv_of(table(40, 20))
    entry = Projection(ahead=AheadPeriods(count=4), limits=LimitsWord.LIKE)
    ledger, bench = ledger_for(data, Blanks(), entry)
    assert any(table.title == "Limits by like series" for table in bench.reports[-1].outcome.evidence)
    out = tmp_path / "out"
    assert many(data, ledger, out, Processes(2)).again == 40
    assert_same(out, bench)
    # what was held back is known the next time, and one number that changes leaves the factors as they are
    assert many(data, ledger, out).again == 0
    changed = csv_of(
        [
            (day, name, "137" if day == "2026-01-19" and name[:10] == "landing 07" else value)
            for day, name, value in table(40, 20)
        ]
    )
    _, after = ledger_for(changed, Blanks(), entry)
    assert many(changed, ledger, out).again in (1, 40)
    assert_same(out, after)


def test_a_line_of_several_series_is_told_by_the_grain_it_has_in_the_end(tmp_path: Path) -> None:
    data = csv_of(table(9, 80))
    ledger, bench = ledger_for(data, Coarser(into=CalendarUnit.WEEK), Together(how=Across.SUM))
    many(data, ledger, tmp_path / "out")
    assert_same(tmp_path / "out", bench)
    whole = lines_frame(bench).filter(pl.col("series") == "")
    ours = pl.read_parquet(tmp_path / "out" / "lines" / "together.parquet")
    assert ours["period"].to_list() == whole["period"].to_list()
    assert ours["period"][0].startswith("2026-W")


def test_what_needs_all_series_at_once_is_told_and_left_out(tmp_path: Path) -> None:
    data = csv_of(table(8, 40))
    entries = (Derive(what=Share()), Together(how=Across.MEDIAN), Together(), Average(window=Window(length=7, need=3)))
    ledger, _ = ledger_for(data, *entries, Marks())
    ran = many(data, ledger, tmp_path / "out")
    assert [entry for entry, _ in ran.refused] == ["e0", "e1"]
    assert "needs all series at once" in ran.refused[0][1]
    assert "Bring the total in as a series" in ran.refused[0][1]
    _, bench = ledger_for(data, Average(window=Window(length=7, need=3)))
    ours = results(tmp_path / "out", "points")
    whole = points_frame(bench)
    assert_frame_equal(
        ours.sort("series", maintain_order=True), whole.sort("series", maintain_order=True), check_exact=True
    )


def test_a_sample_has_no_row_twice(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rows, "SAMPLE_BYTES", 400)
    monkeypatch.setattr(rows, "SAMPLE_ROWS", 20)
    monkeypatch.setattr(rows, "SAMPLE_PIECES", 5)
    data = csv_of(table(10, 90))
    file = tmp_path / "rows.csv"
    file.write_bytes(data)
    lines = rows.sample(file, rows.table_how(file)).decode().splitlines()
    whole = data.decode().splitlines()
    assert lines[0] == whole[0]
    assert lines[-1] == whole[-1]
    assert len(set(lines)) == len(lines) < len(whole)
    assert set(lines) <= set(whole)
    frame = pl.read_csv(data, infer_schema=False)
    frame.write_parquet(tmp_path / "rows.parquet")
    taken = pl.read_parquet(rows.sample(tmp_path / "rows.parquet", rows.table_how(tmp_path / "rows.parquet")))
    assert taken.n_unique() == taken.height < frame.height
    # nothing is asked that the whole file gives no reason for
    ledger, _ = ledger_for(data)
    assert many(data, ledger, tmp_path / "out").unasked == ()


def test_what_only_the_whole_file_shows_is_counted_and_asked(tmp_path: Path) -> None:
    given = table(12, 60)
    ledger, _ = ledger_for(csv_of(given))
    given = [row for row in given if row[1] != "landing 08, single" or int(row[0][-2:]) % 7 == 1]
    given += [(day, name, "3") for day, name, _ in given if name == "landing 05, return"][:4]
    given += [("2026-01-09", "landing 02, single", "rough sea"), ("someday", "landing 02, single", "4")]
    given = [row for row in given if row[:2] != ("2026-01-09", "landing 02, single") or row[2] == "rough sea"]
    ran = many(csv_of(given), ledger, tmp_path / "out")
    assert (ran.whole.series, ran.whole.shared, ran.whole.sharing, ran.whole.sparse) == (12, 4, 1, 1)
    assert (ran.whole.unreadable, ran.whole.undated) == (1, 1)
    said = " ".join(ran.unasked)
    for part in (
        "4 days of 1 series are shared by several rows, such as of “landing 05, return”",
        "1 series has a row in fewer than half of its days, such as “landing 08, single”",
        "1 cell is no number, such as of “landing 02, single”",
        "1 row has no date",
    ):
        assert part in said
    assert json.loads((tmp_path / "out" / "report.json").read_text())["counted"]["rows"] == ran.whole.rows
    # what is known of a run before is counted again
    assert many(csv_of(given), ledger, tmp_path / "out").whole == ran.whole


def test_text_is_read_in_pieces_as_it_is_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rows, "PIECE", 700)
    body = csv_of(table(6, 40)).replace(b'"landing 02, single"', b'"landing 02,\nthe ""long"" pier"')
    ledger, bench = ledger_for(body)
    for name, data in (
        ("rows.csv", body),
        ("rows.csv.gz", gzip.compress(body)),
        ("marked.csv", b"\xef\xbb\xbf" + body),
    ):
        out = tmp_path / name / "out"
        out.parent.mkdir()
        many(data, ledger, out, name=name)
        assert_same(out, bench)
    # a folder of files, each with the names; and Parquet
    lines = body.splitlines(keepends=True)
    folder = tmp_path / "folder"
    folder.mkdir()
    half = len(lines) // 2
    while b'"' in lines[half] and lines[half].count(b'"') % 2:
        half += 1
    (folder / "a.csv").write_bytes(b"".join(lines[:half]))
    (folder / "b.csv").write_bytes(lines[0] + b"".join(lines[half:]))
    files = rows.files_of(str(folder))
    run_many(ManyRequest(files, ledger, AS_OF, tmp_path / "f"), Here(), quiet)
    assert_same(tmp_path / "f", bench)
    (folder / "c.csv").write_bytes(b"day,quay,riders\n2026-01-01,x,1\n")
    with pytest.raises(Refusal, match="other columns each"):
        run_many(ManyRequest(rows.files_of(str(folder)), ledger, AS_OF, tmp_path / "g"), Here(), quiet)


def test_columns_are_series_and_totals_at_the_end_are_left_out(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(parts, "COLUMNS_OF_A_PART", 3)
    monkeypatch.setattr(rows, "PIECE", 400)
    names = [f"landing {n}" for n in range(8)]
    body = [",".join(["day", *names])]
    body += [",".join([f"{FIRST + timedelta(n)}", *(str(100 + 7 * k + n % 5) for k in range(8))]) for n in range(40)]
    body.append(",".join(["Total", *(str(4000 + k) for k in range(8))]))
    data = "\n".join(body).encode() + b"\n"
    ledger, bench = ledger_for(data, Average(window=Window(length=7, need=3)))
    assert ledger.intake is not None
    assert ledger.intake.table.skip_last == 1
    ran = many(data, ledger, tmp_path / "out")
    assert (ran.series, ran.parts) == (8, 3)
    assert_same(tmp_path / "out", bench)


def test_only_what_changed_is_carried_out_again(tmp_path: Path) -> None:
    given = table(12, 60)
    ledger, _ = ledger_for(csv_of(given), *EVERY)
    out = tmp_path / "out"
    assert many(csv_of(given), ledger, out).again == 12
    assert many(csv_of(given), ledger, out).again == 0
    changed = [
        (day, name, "77" if (day, name[:10]) == ("2026-02-10", "landing 07") else value) for day, name, value in given
    ]
    assert changed != given
    changed.append(("2026-03-05", "landing 99, return", "5"))
    ran = many(csv_of(changed), ledger, out)
    assert ran.again == 2
    # of a part that was done in part nobody knows how many points were touched
    assert {entry.touched for entry in ran.entries} == {None}
    _, bench = ledger_for(csv_of(changed), *EVERY)
    assert_same(out, bench)
    # another ledger, or another day, is another run
    other, bench = ledger_for(csv_of(changed), Blanks())
    assert many(csv_of(changed), other, out).again == 13
    assert_same(out, bench)


def test_an_entry_that_comes_to_nothing_later_is_left_out_as_on_the_bench(tmp_path: Path) -> None:
    """One series of a part has enough numbers for an average, and then has not: those beside it, which stay, draw none either."""
    long, short = table(1, 30), [(day, f"landing {n}", "5") for n in (8, 9) for day in ("2026-01-05", "2026-01-06")]
    ledger, bench = ledger_for(csv_of([*long, *short]), Average(window=Window(length=7, need=6)))
    out = tmp_path / "out"
    assert many(csv_of([*long, *short]), ledger, out).notes == ()
    assert_same(out, bench)
    fewer = csv_of([*long[:3], *short])
    after = run(bring_in(fewer).observations, ledger, AS_OF)
    assert after.problems
    ran = many(fewer, ledger, out)
    assert [note.partition(":")[0] for note in ran.notes] == ["e0"]
    assert_same(out, after)


def test_a_page_of_rows_has_the_charts_of_its_rows(tmp_path: Path) -> None:
    """Found in the file where they lie open, and where there is none in series.parquet itself: the same."""
    data = csv_of(table(12, 60))
    ledger, _ = ledger_for(data, *EVERY)
    out = tmp_path / "out"
    many(data, ledger, out)
    asked = (Wanted(), Wanted(by="newest", descending=True, start=3, count=4), Wanted(find="1"), Wanted(look="blank"))
    quick = [page_of(out, wanted, Near()) for wanted in asked]
    assert any(None in chart for _, page in quick for chart in page["spark"].to_list())
    (out / ".work" / "charts.npy").unlink()
    for (total, page), wanted in zip(quick, asked, strict=True):
        count, slow = page_of(out, wanted, Near())
        assert total == count
        charts = [
            pl.col(name).list.eval(pl.element().fill_nan(None)) for name in ("spark", "spark_lower", "spark_upper")
        ]
        assert_frame_equal(page, slow.with_columns(charts), check_column_order=False)


def test_nothing_stays_of_parts_that_are_no_more(tmp_path: Path) -> None:
    given = table(12, 60)
    ledger, _ = ledger_for(csv_of(given), Together(), Blanks())
    out = tmp_path / "out"
    first = many(csv_of(given), ledger, out)
    assert (out / "lines" / "together.parquet").exists()
    few = [row for row in given if row[1] < "landing 03"]
    ledger, bench = ledger_for(csv_of(few), Blanks())
    assert many(csv_of(few), ledger, out).parts < first.parts
    assert_same(out, bench)
    assert not (out / "lines" / "together.parquet").exists()
    assert pl.read_parquet(out / "series.parquet").height == 3


def test_a_series_that_cannot_be_carried_out_costs_itself_only(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    plain = work.carry_out_part

    def picky(observations: Any, plan: Any, as_of: Any, names: Sequence[str], **words: Any) -> Any:
        if any(name.startswith("landing 05") for name in names):
            raise ZeroDivisionError("the sea is too rough")
        return plain(observations, plan, as_of, names, **words)

    monkeypatch.setattr(work, "carry_out_part", picky)
    ran = many(data, ledger, tmp_path / "out")
    assert ran.failed == (("landing 05, return", "ZeroDivisionError: the sea is too rough"),)
    ours, whole = results(tmp_path / "out", "points"), points_frame(bench)
    others = whole.filter(pl.col("series") != "landing 05, return").sort("series", maintain_order=True)
    assert_frame_equal(ours.sort("series", maintain_order=True), others, check_exact=True)
    told = pl.read_parquet(tmp_path / "out" / "series.parquet").filter(pl.col("series") == "landing 05, return")
    assert told["refused"].to_list() == ["ZeroDivisionError: the sea is too rough"]


def test_the_newest_is_held_against_what_was_expected(tmp_path: Path) -> None:
    """By the projection held back, and by the band where there is none."""
    last = f"{FIRST + timedelta(89)}"
    given = [row for row in table(6, 90) if row[0] != last]
    names = sorted({name for _, name, _ in given})
    given += [(last, name, "900" if name == names[2] else str(100 + 10 * n)) for n, name in enumerate(names)]
    data = csv_of(given)
    for entry in (smoothing(7), Band()):
        ledger, bench = ledger_for(data, entry)
        out = tmp_path / entry.kind / "out"
        out.parent.mkdir()
        many(data, ledger, out)
        assert_same(out, bench)
        told = pl.read_parquet(out / "series.parquet")
        # a band has the newest in its own window
        most = 3 if entry.kind == "projection" else 1
        assert [row["series"] for row in told.iter_rows(named=True) if row["away"] > most] == [names[2]]
        row = told.row(2, named=True)
        assert row["newest"] == 900
        assert row["away"] == pytest.approx((900 - row["expected"]) / (row["upper"] - row["expected"]))
        assert row["spark_upper"][-1] == pytest.approx(row["upper"], rel=1e-6)
        if entry.kind == "projection":
            assert abs(row["expected"] - 120) < 20
            assert row["error"] > 0


def test_refusals_of_entries_are_told_by_series(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    plain = Average.on_line

    def picky(entry: Average, line: Line, study: Study) -> LineResult:
        if line.name.startswith("landing 02"):
            raise Refusal("Not on a Sunday.")
        return plain(entry, line, study)

    monkeypatch.setattr(Average, "on_line", picky)
    data = csv_of(table(6, 60))
    ledger, bench = ledger_for(data, Average(window=Window(length=7, need=3)), Trend())
    many(data, ledger, tmp_path / "out")
    assert_same(tmp_path / "out", bench)
    told = pl.read_parquet(tmp_path / "out" / "series.parquet")
    refused = dict(zip(told["series"], told["refused"], strict=True))
    assert refused.pop("landing 02, single") == "Average: Not on a Sunday."
    assert set(refused.values()) == {""}


def test_lost_files_are_made_again(tmp_path: Path) -> None:
    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    out = tmp_path / "out"
    many(data, ledger, out)
    # one of the results, one of the rows in parts: cut in half
    for file in (out / "points" / "part-0001.parquet", next((out / ".work" / "rows" / "0002").iterdir())):
        file.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
        many(data, ledger, out)
        assert_same(out, bench)


def test_a_byte_that_flipped_is_noticed_and_made_again(tmp_path: Path) -> None:
    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    out = tmp_path / "out"
    many(data, ledger, out)
    work_files = [file for file in (out / ".work").rglob("*") if file.is_file() and "sums-" not in str(file)]
    every = [*(out / "points").iterdir(), *(out / "lines").glob("part-*"), *work_files]
    assert len(every) > 12
    random = Random(34)
    for file in every:
        before = file.read_bytes()
        if not before:
            continue
        flipped = bytearray(before)
        flipped[random.randrange(len(flipped))] ^= 1 << random.randrange(8)
        file.write_bytes(flipped)
        many(data, ledger, out)
        assert_same(out, bench)


def test_a_full_disk_is_told_and_leaves_what_was_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    out = tmp_path / "out"
    many(data, ledger, out)
    other, after = ledger_for(data, Blanks())
    plain = work._write_frame
    written = 0

    def full(file: Path, frame: pl.DataFrame) -> None:
        nonlocal written
        written += 1
        if written > 4:
            raise OSError(errno.ENOSPC, "No space left on device")
        plain(file, frame)

    monkeypatch.setattr(work, "_write_frame", full)
    with pytest.raises(Refusal, match="cannot be written: No space left"):
        many(data, other, out)
    assert pl.read_parquet(out / "series.parquet").height == 12
    monkeypatch.setattr(work, "_write_frame", plain)
    many(data, other, out)
    assert_same(out, after)
    assert bench.state.lines


def test_a_run_that_is_killed_goes_on(tmp_path: Path) -> None:
    data = csv_of(table(24, 90))
    ledger, bench = ledger_for(data, *EVERY)
    (tmp_path / "rows.csv").write_bytes(data)
    (tmp_path / "ledger.json").write_text(ledger.model_dump_json())
    out = tmp_path / "out"
    script = (
        "import sys; from zembra.service.many import parts, rows; parts.ROWS_OF_A_PART = 150; rows.BYTES_OF_A_ROW = 40;"
        "from zembra.cli import main; sys.exit(main(sys.argv[1:]))"
    )
    words = [
        "many",
        str(tmp_path / "ledger.json"),
        "--data",
        str(tmp_path / "rows.csv"),
        "--out",
        str(out),
        "--processes",
        "0",
    ]
    command = [sys.executable, "-c", script, *words, "--as-of", AS_OF.isoformat(), "--quiet"]
    rng = random.Random(4)
    for _ in range(20):
        running = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        time.sleep(rng.uniform(0.8, 1.9))
        running.send_signal(signal.SIGKILL)
        running.wait()
        for kind in ("points", "lines"):
            for file in (out / kind).glob("part-*.parquet"):
                pl.read_parquet(file)  # whole or not there
    assert subprocess.run(command, check=False).returncode == 0
    assert_same(out, bench)


def test_processes_give_what_one_gives_and_one_that_dies_is_replaced(tmp_path: Path) -> None:
    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    many(data, ledger, tmp_path / "two", Processes(2))
    assert_same(tmp_path / "two", bench)


@pytest.fixture(scope="module")
def cluster() -> Iterator[Any]:
    import dask
    from distributed import LocalCluster

    from zembra.work import cluster as module

    # what a cluster gives up after seconds takes longer where much else goes on
    patient = {
        "distributed.deploy.lost-worker-timeout": "30 minutes",
        "distributed.comm.timeouts.connect": "30 minutes",
        "distributed.comm.timeouts.tcp": "30 minutes",
        "distributed.scheduler.worker-ttl": None,
    }
    with (
        dask.config.set(patient),
        pytest.MonkeyPatch.context() as patched,
        LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, processes=True) as running,
    ):
        patched.setattr(module, "ANSWERS", 1800)
        patched.setattr(module, "MISSED_FOR", 1800.0)
        running.wait_for_workers(2)
        yield running


def test_a_cluster_gives_what_one_process_gives(tmp_path: Path, cluster: Any) -> None:
    from zembra.work.cluster import Cluster

    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    with Cluster(cluster.scheduler_address) as executor:
        ran = many(data, ledger, tmp_path / "out", executor)
        assert ran.again == 12
        assert_same(tmp_path / "out", bench)
        found = dict(executor.map(dies_or_refuses, [(n,) for n in range(3)], name="a try", each_by_itself=True))
    assert found[0] == 0
    assert isinstance(found[1], Refusal)
    assert "workers that had it ended" in str(found[2])


def test_a_cluster_without_workers_is_not_waited_for_without_end(monkeypatch: pytest.MonkeyPatch) -> None:
    from distributed import LocalCluster

    from zembra.work import cluster as module

    monkeypatch.setattr(module, "LOOKED_FOR", 0.2)
    monkeypatch.setattr(module, "MISSED_FOR", 1.0)
    with (
        LocalCluster(n_workers=0, dashboard_address=None) as empty,
        module.Cluster(empty.scheduler_address) as executor,
        pytest.raises(Refusal, match="no workers"),
    ):
        list(executor.map(dies_or_refuses, [(0,)], name="a try"))


def test_a_run_outlives_a_worker_of_a_cluster(tmp_path: Path, cluster: Any) -> None:
    from zembra.work.cluster import Cluster

    data = csv_of(table(12, 60))
    ledger, bench = ledger_for(data, *EVERY)
    (tmp_path / "rows.csv").write_bytes(data)
    killed: list[int] = []

    def tell(said: str, _share: float) -> None:
        if not killed and "parts" in said and "rows" not in said:
            # a worker that died in the test before may not be there again yet
            killed.append(next(iter(cluster.workers.values())).pid)
            os.kill(killed[0], signal.SIGKILL)

    with Cluster(cluster.scheduler_address) as executor:
        ran = run_many(ManyRequest([tmp_path / "rows.csv"], ledger, AS_OF, tmp_path / "out"), executor, tell)
    assert killed
    assert (ran.series, ran.lost, ran.failed) == (12, (), ())
    assert_same(tmp_path / "out", bench)


def dies_or_refuses(_: Callable[[str, Any], None], number: int) -> int:
    """For a worker: done, refused, or dead."""
    if number == 1:
        raise Refusal("Not this one.")
    if number == 2:
        os.kill(os.getpid(), signal.SIGKILL)
    return number


def test_a_worker_that_dies_is_tried_three_times_and_listed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    data = csv_of(table(12, 60))
    ledger, _ = ledger_for(data, Blanks())
    begun: list[int] = []

    class Deadly(Here):
        def map(self, function: Any, tasks: Any, **words: Any) -> Any:
            from zembra.work.executor import EndReason, TaskEnded

            for number, task in enumerate(tasks):
                if function is drive.do_part and task[0].part == 1:
                    begun.append(number)
                    yield number, TaskEnded(EndReason.KILLED, "A part of the series was killed.")
                else:
                    yield number, function(lambda kind, value: None, *task)

    ran = many(data, ledger, tmp_path / "out", Deadly())
    assert len(begun) == 3
    assert ran.lost == ((1, "A part of the series was killed."),)
    assert ran.series < 12
    assert many(data, ledger, tmp_path / "out").lost == ()


def test_the_command_says_what_came(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    data = csv_of(table(6, 40))
    ledger, bench = ledger_for(data, Derive(what=Share()), Blanks())
    (tmp_path / "ledger.json").write_text(ledger.model_dump_json())
    (tmp_path / "rows.csv").write_bytes(data)
    words = ["many", str(tmp_path / "ledger.json"), "--data", str(tmp_path / "*.csv"), "--out", str(tmp_path / "out")]
    assert main([*words, "--as-of", "2026-04-30", "--processes", "0"]) == 0
    said = capsys.readouterr()
    assert "6 series, 6 of them carried out now" in said.out
    assert "left out: e0:" in said.out
    assert "parts" in said.err
    assert main(["many", words[1], "--data", str(tmp_path / "none"), "--out", words[-1]]) == 2
    assert "no such file" in capsys.readouterr().err
    assert main([*words, "--cluster", "tcp://127.0.0.1:1", "--processes", "2"]) == 2
    assert bench.state.lines
