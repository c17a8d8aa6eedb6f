"""Sentences, ledgers, runs and what is handed over."""

import csv
import io
import json
from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.help import daily_csv, run_csv, smoothing
from zembra.core.calendar.complete import Until
from zembra.core.english import number
from zembra.core.entries.calendar.calendar import Calendar
from zembra.core.entries.calendar.start import suggested_as_of
from zembra.core.entries.projections.clauses.methods import FiveMethods
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.blanks import Bridged, CarriedOn
from zembra.core.entries.shared.periodwords import Weekday
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.handover.csvtext import safe, written
from zembra.core.handover.report import method_note, report_data
from zembra.core.handover.tables import LINE_COLUMNS, POINT_COLUMNS, lines_csv, points_csv
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, Record, checked, entry_of, parse_ledger, record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import run
from zembra.core.ledger.schema import ledger_schema
from zembra.core.slots import slots
from zembra.core.speaking import parts, plain

DAYS = Nouns({"period": "day", "periods": "days", "a_period": "a day", "file": "the file"})


@pytest.mark.parametrize("name", list(kinds()))
def test_every_word_of_a_sentence_is_a_slot_and_every_slot_is_described(name: str) -> None:
    kind = kinds()[name]
    entry = kind()
    described = slots(kind)
    for part in parts(entry, DAYS):
        assert part.text
        assert part.slot is None or part.slot.split(".")[0] in described
    assert "{" not in plain(entry, DAYS)
    for slot in described.values():
        assert slot.type != "choice" or slot.choices
    assert kind.model_validate(entry.model_dump(mode="json")) == entry


def test_sentences_read_as_english() -> None:
    assert plain(Average(), DAYS) == (
        "Average the 28 days up to and including each day, needing 20 with a number, with windows cut at the ends, counted in periods, of every series, and stop where days are provisional."
    )
    working = Calendar(weekdays=tuple(Weekday)[:5])
    assert plain(working, DAYS).startswith(
        "Days run Monday to Friday, no days and no public holidays closed, from each series' own first row to its last row;"
    )
    assert "showing 80 % and 95 % limits" in plain(smoothing(), DAYS)
    assert number(-1234567.5) == "−1 234 567.5"


def small_ledger(*entries: Record) -> Ledger:
    return Ledger(entries=(record(kinds()["source"](), "s"), record(kinds()["calendar"](), "c"), *entries))


def test_bad_ledgers_are_refused_with_the_entry_and_the_word() -> None:
    with pytest.raises(Refusal, match="“window periods length”: input should be greater"):
        entry_of(Record(id="a", kind="average", params={"window": {"kind": "periods", "length": 1}}))
    with pytest.raises(Refusal, match="no entry kind named “mystery”"):
        checked(small_ledger(Record(id="a", kind="mystery")))
    with pytest.raises(Refusal, match="same id"):
        checked(small_ledger(record(Average(), "a"), record(Average(), "a")))
    with pytest.raises(Refusal, match="exactly one"):
        checked(Ledger())
    with pytest.raises(Refusal, match="cannot be read"):
        parse_ledger(b'{"format": "zembra.ledger/9"}')


def test_groups_run_in_their_order_whatever_the_file_says() -> None:
    ledger = checked(small_ledger(record(smoothing(), "p"), record(Average(), "r"), record(Blanks(), "b")))
    assert [item.id for item in ledger.entries] == ["s", "c", "b", "r", "p"]


def test_a_run_is_pure_and_the_memo_only_saves_work() -> None:
    data = daily_csv([n if n % 9 else None for n in range(80)])
    entries = (Blanks(longest=3), Average(window=Window(length=7, need=3)))
    memo = Memo()
    plain_run, first, second = (run_csv(data, *entries, memo=m) for m in (None, memo, memo))
    kept = len(memo)
    assert second.state.shapes[0] is first.state.shapes[0]
    np.testing.assert_array_equal(plain_run.state.shapes[0].value, second.state.shapes[0].value)
    changed = run_csv(data, entries[0], Average(window=Window(length=14, need=3)), memo=memo)
    assert changed.state.lines[0] is first.state.lines[0]
    assert changed.state.shapes[0] is not first.state.shapes[0]
    assert len(memo) == kept + 1


def test_an_edit_runs_again_only_the_lines_that_it_touches() -> None:
    data = b"day,a,b\n" + b"".join(
        f"2026-03-{n:02d},{n % 5},{'' if n == 9 else n * n}\n".encode() for n in range(1, 29)
    )
    blanks, average = Blanks(longest=3), Average(window=Window(length=7, need=3))
    memo = Memo()
    first = run_csv(data, blanks, average, memo=memo)
    kept = len(memo)
    # a had no blank: what follows is remembered for it, whatever is done with blanks
    again = run_csv(data, Blanks(longest=2, treatment=CarriedOn()), average, memo=memo)
    assert again.state.shapes[0] is first.state.shapes[0]
    assert again.state.shapes[1] is not first.state.shapes[1]
    assert len(memo) == kept + 3
    run_csv(data, blanks, average.model_copy(update={"series": ("b",)}), memo=memo)
    assert len(memo) == kept + 3


def test_a_switched_off_entry_does_nothing_and_is_still_told() -> None:
    result = run_csv(daily_csv([1, None, 3, 4]), Blanks())
    ledger = small_ledger(record(Blanks(), "b").model_copy(update={"on": False}))
    off = run(result.state.observations, ledger, result.state.as_of)
    assert np.isnan(off.state.lines[0].value[1])
    assert "switched off" in method_note(off, "Test", "0")


def test_heavy_entries_wait_while_an_earlier_word_is_nudged() -> None:
    brought = run_csv(daily_csv(list(range(70))))
    ledger = small_ledger(record(Blanks(), "b"), record(smoothing(ahead=3, season=None, method=FiveMethods()), "p"))
    nudging = run(brought.state.observations, ledger, brought.state.as_of, nudged="b")
    assert nudging.reports[-1].waiting
    itself = run(brought.state.observations, ledger, brought.state.as_of, nudged="p")
    assert not itself.reports[-1].waiting
    deferred = run(brought.state.observations, ledger, brought.state.as_of, defer=True)
    assert deferred.reports[-1].waiting
    assert [(one.id, len(one.tasks)) for one in deferred.pending] == [("p", 1)]
    assert not nudging.pending


def test_points_and_lines_follow_the_contract() -> None:
    data = daily_csv([*range(10, 70), None, "closed", 80, ..., 90])
    result = run_csv(
        data, Blanks(treatment=Bridged()), Average(window=Window(length=7, need=4)), smoothing(ahead=4, season=None)
    )
    points = list(csv.DictReader(io.StringIO(points_csv(result))))
    assert tuple(points[0]) == POINT_COLUMNS
    assert len(points) == 65
    assert [row["received"] for row in points[59:]] == [
        "measured",
        "blank",
        "unreadable",
        "measured",
        "absent",
        "measured",
    ]
    assert points[61]["raw"] == "closed"
    assert points[61]["value"] == ""
    lines = list(csv.DictReader(io.StringIO(lines_csv(result))))
    assert tuple(lines[0]) == LINE_COLUMNS
    projected = [row for row in lines if row["kind"] == "projection"]
    assert [row["level"] for row in projected[:2]] == ["80", "95"]
    assert len(projected) == 8
    assert all(float(row["lower"]) < float(row["value"]) < float(row["upper"]) for row in projected)
    report = report_data(result)
    json.dumps(report, allow_nan=False)
    assert {"id", "kind", "sentence", "touched", "evidence"} <= set(report["entries"][0])


@pytest.mark.parametrize(
    ("text", "out"),
    [
        ("=1+1", "'=1+1"),
        ("-12.5", "-12.5"),
        ("+3", "+3"),
        ("-", "-"),
        ("@x", "'@x"),
        ("- closed", "'- closed"),
        ("calm", "calm"),
    ],
)
def test_formulas_are_made_harmless_and_negative_numbers_left_alone(text: str, out: str) -> None:
    assert safe(text) == out


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_written_numbers_read_back_exactly(value: float) -> None:
    assert float(written(value)) == value


def test_the_published_schema_takes_a_real_ledger() -> None:
    schema = ledger_schema()
    assert {item["properties"]["kind"]["const"] for item in schema["$defs"]["Record"]["oneOf"]} == set(kinds())


def test_the_memo_forgets_by_weight_and_keeps_the_newest() -> None:
    memo = Memo(most_bytes=60_000)
    data = daily_csv(range(50))
    for window in range(2, 40):
        run_csv(data, Average(window=Window(length=window, need=1)), memo=memo)
    assert 0 < memo.weight <= 60_000
    small = Memo()
    run_csv(data, Average(window=Window(length=2, need=1)), memo=small)
    kept = len(small)
    run_csv(data, Average(window=Window(length=2, need=1)), memo=small)
    assert len(small) == kept == 3


def test_the_memo_counts_an_array_that_outcomes_share_once() -> None:
    memo = Memo()
    data = daily_csv(range(1000))
    run_csv(data, memo=memo)
    alone = memo.weight
    assert alone > 8 * 1000
    for window in (5, 6, 7):
        run_csv(data, Average(window=Window(length=window, need=1)), memo=memo)
    # each average adds its own numbers, and where they are pale, and nothing of the line under it
    arrays = 3 * (8 * 1000 + 1000)
    assert alone + arrays < memo.weight < alone + arrays + 3 * 8_000


def test_quiet_words_are_said_only_where_they_differ_from_the_usual() -> None:
    def short(entry: Calendar) -> str:
        return "".join(part.text for part in parts(entry, DAYS) if not part.quiet)

    assert short(Calendar()) == "Days run Monday to Sunday; a day with no row is not known."
    assert short(Calendar(holidays="Norway")) == (
        "Days run Monday to Sunday, no days and Norway public holidays closed; a day with no row is not known."
    )
    assert short(Calendar(until=Until.AS_OF)).endswith(
        "Sunday, from each series' own first row to the as-of date; a day with no row is not known."
    )
    assert "zero in no series" in plain(Calendar(), DAYS)


def test_heavy_entries_wait_behind_a_nudged_word_whatever_stands_between() -> None:
    brought = run_csv(daily_csv(list(range(70))))
    heavy = record(smoothing(ahead=3, season=None, method=FiveMethods()), "p")
    ledger = small_ledger(record(Blanks(), "b"), record(Average(window=Window(length=7, need=4)), "a"), heavy)
    nudging = run(brought.state.observations, ledger, brought.state.as_of, nudged="b")
    assert [report.waiting for report in nudging.reports[-2:]] == [False, True]
    assert not nudging.pending


@pytest.mark.parametrize("text", ["\t=1+1", "\r=1+1", "=1", "+x", "-x", "@x"])
def test_no_cell_of_a_csv_begins_a_formula(text: str) -> None:
    assert safe(text) == f"'{text}"


@pytest.mark.parametrize(
    ("rows", "last"),
    [
        ("day,riders\n2025-03-01,1\n2025-03-02,2\n2025-03-04,3\n", date(2025, 3, 4)),
        ("month,riders\n2025-01,1\n2025-02,2\n2025-04,3\n", date(2025, 4, 30)),
        ("week,riders\n2025-W01,1\n2025-W02,2\n2025-W04,3\n", date(2025, 1, 26)),
        # a row without a number has happened too
        ("day,riders\n2025-03-01,1\n2025-03-02,2\n2025-03-05,\n", date(2025, 3, 5)),
    ],
)
def test_a_study_of_rows_that_ended_long_ago_believes_in_their_last_day(rows: str, last: date) -> None:
    state = run_csv(rows.encode()).base
    assert suggested_as_of(state, date(2026, 10, 31)) == last
    soon = last + timedelta(days=20)
    assert suggested_as_of(state, soon) == soon


@pytest.mark.parametrize(("was", "told"), [("weeks", True), ("months", True), ("days", False), (None, False)])
def test_numbers_that_were_set_for_other_periods_are_told(was: str | None, told: bool) -> None:
    brought = run_csv(daily_csv(list(range(60))))
    average = record(Average(window=Window(length=7, need=4)), "a").model_copy(update={"counted_in": was})
    result = run(brought.state.observations, small_ledger(average), brought.state.as_of)
    said = [offer.why for offer in result.reports[-1].outcome.offers]
    assert [why for why in said if "they now count days" in why] == (
        [f"Its numbers were set for {was}; they now count days."] if told else []
    )
