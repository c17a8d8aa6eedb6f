"""Every entry kind, every phrase of its words, on every shape of study: done or refused, never a crash."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.help import AS_OF, daily_csv
from zembra.core.calendar.lines import Condition
from zembra.core.english import number
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.errors import Refusal
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import Arrangement, FigureSettings
from zembra.core.grammar import Choice, Sentence
from zembra.core.handover.frames import lines_frame, points_frame
from zembra.core.handover.report import method_note, report_json
from zembra.core.handover.tables import line_cells, lines_csv, point_rows, points_csv
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, parse_ledger, record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import Result, run
from zembra.core.slots import slots
from zembra.core.speaking import parts, plain

RNG = np.random.default_rng(12)
STUDIES = {
    "days": daily_csv([None if n % 9 == 4 else round(v, 1) for n, v in enumerate(RNG.normal(100, 9, 60))]),
    "two series": b"day,a,b\n" + b"".join(f"2026-03-{n:02d},{n},{n * n or ''}\n".encode() for n in range(1, 29)),
    "months": b"month,n\n" + b"".join(f"{y}-{m:02d},{y - m}\n".encode() for y in (2023, 2024, 2025) for m in range(1, 13)),
    "dates": b"agreed,price\n2024-01-09,1\n2024-05-03,0\n2025-07-08,3\n2025-10-30,-2\n",
    "hours": b"at,n\n" + b"".join(f"2026-03-{1 + n // 24:02d}T{n % 24:02d}:00,{n % 7}\n".encode() for n in range(96)),
    "one value": b"day,n\n2026-01-01,5\n",
    "one series of blanks": b"day,route,n\n" + b"".join(
        f"2026-01-{n:02d},a,{n}\n2026-01-{n:02d},b,\n".encode() for n in range(1, 10)
    ),
    "the same": daily_csv([7] * 30),
    "zeros": daily_csv([0, 0, 5, 0, 6, 0, 0, 7, 0, 0, 8, 0]),
}  # fmt: skip


@pytest.fixture(scope="module")
def brought() -> dict[str, BroughtIn]:
    return {name: bring_in(data) for name, data in STUDIES.items()}


def carried_out(file: BroughtIn, *entries: Entry) -> Result:
    begun = first_ledger(file.observations, file.how, AS_OF)
    records = tuple(record(entry, f"t{n}") for n, entry in enumerate(entries))
    # as it is kept and read again, so that every word survives being written
    text = Ledger(intake=file.how, entries=(*begun.entries, *records)).model_dump_json()
    return run(file.observations, parse_ledger(text), AS_OF, file_name="a file")


def phrases(kind: type[Sentence]) -> Iterator[dict[str, object]]:
    """One change of a choice word, or of a clause and its choice words, at a time."""
    yield {}
    for slot in slots(kind).values():
        for clause in slot.clauses:
            yield from ({slot.name: clause.model_validate(words)} for words in phrases(clause))
    for name, info in kind.model_fields.items():
        annotation = info.annotation
        if isinstance(annotation, type) and issubclass(annotation, Choice):
            yield from ({name: choice} for choice in annotation)


SLOW = (Projection, Shifts)
KINDS = [kind for kind in kinds().values() if not kind.once]


@pytest.mark.parametrize("study", list(STUDIES))
@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.kind)
def test_done_or_refused_with_a_sentence(kind: type[Entry], study: str, brought: dict[str, BroughtIn]) -> None:
    file = brought[study]
    start = carried_out(file)
    for change in [{}] if kind in SLOW else phrases(kind):
        entry = kind.suggest(start.state).model_copy(update=change)
        result = carried_out(file, entry)
        report = result.reports[-1] if kind.group.value != "calendar" else result.reports[2]
        assert "{" not in report.sentence
        if report.problem:
            assert isinstance(report.problem, Refusal)
            assert report.problem.what.endswith((".", "…"))
        for line in result.state.lines:
            has = ~np.isnan(line.value)
            inked = np.isin(line.condition, [Condition.MEASURED, Condition.FILLED, Condition.ADJUSTED])
            assert not np.any(inked & ~has)
            assert not np.any((line.condition == Condition.OPEN) & has)
            assert not np.isinf(line.value[has]).any()
            assert np.all(np.diff(line.periods) > 0)
        # everything that leaves the study can be made of it
        assert points_csv(result).startswith("series,period")
        assert lines_csv(result).startswith("series,line")
        assert report.sentence in method_note(result, "A study", "0" * 64)
        assert "NaN" not in report_json(result)
        for arrangement in Arrangement:
            figure = build_figure(result, FigureSettings(arrangement=arrangement))
            assert "NaN" not in figure.model_dump_json()


@settings(max_examples=80)
@given(
    st.sampled_from([kind for kind in KINDS if kind not in SLOW]),
    st.sampled_from(list(STUDIES)),
    st.lists(st.sampled_from([kind for kind in KINDS if kind not in SLOW]), max_size=3),
)
def test_any_entries_after_each_other(kind: type[Entry], study: str, more: list[type[Entry]]) -> None:
    file = bring_in(STUDIES[study])
    result = carried_out(file, *(one.suggest(carried_out(file).state) for one in (kind, *more)))
    assert len(result.reports) == 3 + len(more)
    build_figure(result, FigureSettings())
    # the same numbers column by column as row by row
    for frame, rows in ((points_frame(result), point_rows(result)), (lines_frame(result), line_cells(result))):
        by_row = pl.DataFrame(list(rows), schema=dict.fromkeys(frame.columns, pl.Object), orient="row")
        for name in frame.columns:
            there = [None if cell == "" and frame[name].dtype == pl.Float64 else cell for cell in by_row[name]]
            assert frame[name].to_list() == [
                float(cell) if cell is not None and frame[name].dtype == pl.Float64 else cell for cell in there
            ]


def test_original_data_is_never_altered(brought: dict[str, BroughtIn]) -> None:
    for file in brought.values():
        before = carried_out(file).state.lines
        result = carried_out(
            file, *(kind.suggest(carried_out(file).state) for kind in KINDS if kind.group == "repairs")
        )
        for old, new in zip(before, result.state.lines, strict=False):
            np.testing.assert_array_equal(old.original, new.original)
            np.testing.assert_array_equal(old.first_row, new.first_row)


def test_moments_are_days_or_times_of_day() -> None:
    for text, spoken in (("2026-03-14", "14 Mar 2026"), ("2026-03-14T00:00", "14 Mar 2026, 00:00")):
        entry = Blanks.model_validate({"start": text})
        assert spoken in plain(entry, carried_out(bring_in(STUDIES["days"])).state.nouns)
        assert Blanks.model_validate_json(entry.model_dump_json()) == entry
    assert slots(Blanks)["start"].type == slots(Shift)["on"].type == "moment"
    for offset in ("2026-03-14T00:00+02:00", "2026-03-14T00:00Z", 1_773_446_405):
        with pytest.raises(ValueError, match="without an offset"):
            Shift.model_validate({"on": offset})
    with pytest.raises(ValueError, match="month must be in"):
        Shift.model_validate({"on": "2026-13-01"})
    assert isinstance(Shift(on=date(2026, 1, 1)).on, date)


def test_empty_words_are_spoken() -> None:
    spoken = {part.slot: part.text for part in parts(Shift(), carried_out(bring_in(STUDIES["days"])).state.nouns)}
    assert spoken["named"] == "nothing"
    assert spoken["then"] == "nothing else follows"
    assert number(-1234.5) == "−1 234.5"
