"""Ask about dates: ambiguous order, several date columns, rows without a date, clock changes."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

import numpy as np
import polars as pl

from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.question import Answer, AnswerReach, Question, leave_out
from zembra.core.calendar.lines import Received
from zembra.core.english import listed, spoken_date, spoken_label
from zembra.core.errors import Refusal
from zembra.core.intake.clock import clock_jumps, midnight_zones
from zembra.core.intake.datecolumns import decided, find_dates
from zembra.core.intake.dateforms import RIVALS, SHORT, DateForm
from zembra.core.intake.dates import fitting_forms, four_digits, read_dates
from zembra.core.intake.howread import Century, DatesHow, Down, ValueKind, YearNamed
from zembra.core.intake.joining import date_texts, periods_across, series_texts
from zembra.core.intake.numbers import read_cells
from zembra.core.intake.observe import Undated
from zembra.core.intake.totals import is_total

MOST_OFFERED = 4
FEWEST_ROWS = 5
OLD = 60  # years before the day that the study believes it is
FAR = np.timedelta64(180, "D")
FEW_FAR = 0.02  # of the rows: more of them are a part of the history


def date_questions(seen: FileEvidence) -> Iterator[Question]:
    if seen.how.dates.column is None:
        return
    yield from _two_readings(seen)
    yield from _century(seen)
    yield from _years_named(seen)
    yield from _midnights(seen)
    yield from _jumping_clock(seen)
    yield from _several_columns(seen)
    yield from _undated(seen)
    if seen.how.values.kind is not ValueKind.ACROSS:
        yield from _far(seen)


def _two_readings(seen: FileEvidence) -> Iterator[Question]:
    """Ask about ambiguous dates."""
    how = seen.how.dates
    if how.more:
        return
    assert how.column is not None
    cells = seen.table.cells[how.column]
    rivals = _rivals(cells, how)
    if not rivals:
        return
    here, there = read_dates(cells, how.form), read_dates(cells, rivals[0])
    differ = ((here != there) & here.is_not_null()).fill_null(False).arg_true()
    rows = tuple(seen.table.row_number(int(at)) for at in differ.head(3))
    at = int(differ[0])
    said = [f"{_spoken(read_dates(cells[at : at + 1], form)[0], form)} ({form.label})" for form in (how.form, *rivals)]
    yield Question(
        f"two-readings:{how.column}",
        AnswerReach.DATES,
        f"Every date in {how.column} can be read in {'two' if len(rivals) == 1 else 'three'} ways.",
        f"Row {rows[0]} has “{cells[at]}”: is that {' or '.join(said)}?",
        tuple(
            Answer(
                f"{form.label}: {_spoken(read_dates(cells[at : at + 1], form)[0], form)}",
                {"dates": {"form": form.value}},
            )
            for form in (how.form, *rivals)
        ),
        rows,
        (how.column,),
    )


def _century(seen: FileEvidence) -> Iterator[Question]:
    """Ask about the century of two-digit years far back."""
    how = seen.how.dates
    if how.form.bare and how.form not in SHORT:
        return
    cells = seen.table.cells[how.column or ""]
    texts = date_texts(seen.table, how)
    if four_digits(texts) or four_digits(cells):
        return
    newest = seen.state.frame["when"].max()
    usual = int(getattr(newest, "year", 0)) + {Century.BEFORE: 100, Century.AFTER: -100}.get(how.century, 0)
    if not usual or seen.state.as_of.year - usual < OLD:
        return
    at = int(texts.is_not_null().arg_max() or 0)
    row = seen.table.row_number(at)
    first = int(read_dates(texts[at : at + 1], how.form).dt.year()[0] or usual)
    order = (Century.USUAL, Century.BEFORE, Century.AFTER)
    yield Question(
        f"century:{how.column}",
        AnswerReach.DATES,
        f"Years in {how.column} have two digits, and would all lie before {usual + 1}.",
        f"Row {row} has “{texts[at]}”. Which year is that?",
        tuple(
            Answer(str(first + moved), {"dates": {"century": century.value}})
            for century, moved in zip(order, (0, -100, 100), strict=True)
        ),
        (row,),
        (how.column or "",),
    )


def _years_named(seen: FileEvidence) -> Iterator[Question]:
    """Ask whether fiscal years are named by their first or last year."""
    how = seen.how.dates
    if how.year_begins == 1:
        return
    texts = seen.table.cells[how.column or ""].drop_nulls().str.strip_chars()
    if bool(texts.str.contains(r"\d{4}\D+\d").all()):
        return  # 2015/16 says it itself
    at = int(seen.table.cells[how.column or ""].is_not_null().arg_max() or 0)
    row, text = seen.table.row_number(at), str(texts[0])
    year = int("".join(letter for letter in text if letter.isdigit())[-4:] or 0)
    year += 2000 if year < 36 else 1900 if year < 100 else 0
    first = date(2000, how.year_begins, 1)
    yield Question(
        f"years-named:{how.column}",
        AnswerReach.DATES,
        f"A year in {how.column} begins in {first:%B}.",
        f"Row {row} has “{text}”. Which {first:%B} is that?",
        tuple(
            Answer(f"{first:%B} {year - (naming is YearNamed.ENDS)}", {"dates": {"year_named": naming.value}})
            for naming in YearNamed
        ),
        (row,),
        (how.column or "",),
    )


def _jumping_clock(seen: FileEvidence) -> Iterator[Question]:
    """Ask whose clock explains skipped or repeated hours."""
    how = seen.how.dates
    if not how.form.timed or how.zone is not None or seen.brought.observations.zone or not seen.down:
        return
    wall = read_dates(date_texts(seen.table, how), how.form)
    jumps = clock_jumps(wall, series_texts(seen.table, seen.how.series))
    if not jumps.zones:
        return
    findings = []
    if jumps.skipped is not None:
        findings.append(f"there is no {jumps.skipped:%H:%M} on {spoken_date(jumps.skipped.date())}")
    rows: tuple[int, ...] = ()
    if jumps.repeated is not None:
        findings.append(f"{jumps.repeated:%H:%M} on {spoken_date(jumps.repeated.date())} stands twice")
        rows = tuple(seen.table.row_number(int(at)) for at in (wall == jumps.repeated).arg_true().head(4))
    yield Question(
        f"clock:{how.column}",
        AnswerReach.DATES,
        f"The clock of {how.column} jumps: {listed(findings)}.",
        "It is the clock of a place that changes to summer time. Which one?",
        (
            *(Answer(zone, {"dates": {"zone": zone}}) for zone in jumps.zones[:MOST_OFFERED]),
            Answer("as written: no clock changed"),
        ),
        rows,
        tuple(name for name in (how.column, *how.more) if name),
    )


def _midnights(seen: FileEvidence) -> Iterator[Question]:
    """Ask about UTC moments that are midnights somewhere."""
    how = seen.how.dates
    if how.more:
        return
    cells = seen.table.cells[how.column or ""]
    zones = midnight_zones(cells, how.form)
    if not zones:
        return
    here = how.zone if how.zone in zones else None
    others = [zone for zone in zones if zone != here]
    written = Answer("as written, in UTC", {"dates": {"zone": None}})
    named = {zone: Answer(f"days of {zone}", {"dates": {"zone": zone}}) for zone in zones}
    # two times of day that change as the clock of a place does can be nothing else
    sure = read_dates(cells, how.form).drop_nulls().dt.time().n_unique() == 2
    row = seen.table.row_number(0)
    yield Question(
        f"midnights:{how.column}",
        AnswerReach.DATES,
        f"Every moment in {how.column} is a midnight in {zones[0]}.",
        f"Row {row} has “{cells[0]}”. {'They are read as its days.' if sure else 'Are they its days?'}",
        tuple(
            [
                *([named[here]] if here else [written]),
                *(named[other] for other in others),
                *([written] if here else []),
            ][:MOST_OFFERED]
        ),
        (row,),
        (how.column or "",),
        plain=sure,
    )


def _rivals(cells: pl.Series, how: DatesHow) -> tuple[DateForm, ...]:
    """Ask about other formats that fit equally."""
    family = next((rivals for rivals in RIVALS if how.form in rivals), ())
    if not family and how.form is not DateForm.DECIMAL_YEAR:
        return ()
    table_like = _likeliest(cells)
    together = {table_like[0], *table_like[1]}
    return tuple(form for form in DateForm if form in together and form is not how.form) if how.form in together else ()


def _likeliest(cells: pl.Series) -> tuple[DateForm, tuple[DateForm, ...]]:
    forms = fitting_forms(cells)
    return decided(cells, forms[0][0], forms) if forms else (DateForm.ISO_DAY, ())


def _spoken(moment: object, form: DateForm) -> str:
    label = str(moment)[:16].replace(" ", "T")
    return spoken_label(label if form.timed and not label.endswith("T00:00") else label[:10])


def _several_columns(seen: FileEvidence) -> Iterator[Question]:
    how = seen.how.dates
    try:
        found = find_dates(seen.table)
    except Refusal:
        return
    choices = [reading for reading in (found.how, *found.others) if reading.column != how.column]
    if not found.others or not choices:
        return
    columns = [how.column or "", *(choice.column or "" for choice in choices)]
    first = seen.table.row_number(0)
    yield Question(
        f"date-columns:{','.join(sorted(columns))}",
        AnswerReach.DATES,
        f"{len(columns)} columns hold dates: {listed(columns)}.",
        f"Row {first} has {listed([f'“{seen.table.cells[name][0]}”' for name in columns])}. Which of them dates the row?",
        (
            Answer(how.column or ""),
            *(
                Answer(choice.column or "", {"dates": choice.model_dump(mode="json")})
                for choice in choices[: MOST_OFFERED - 1]
            ),
        ),
        (first,),
        tuple(columns),
    )


def _undated(seen: FileEvidence) -> Iterator[Question]:
    """Ask about undated rows with numbers; report totals, notes and empty ones."""
    count = seen.brought.observations.undated_count
    how = seen.how.dates
    if not count:
        return
    undated = seen.brought.observations.undated
    doubtful = [row for row in undated if _counts(seen, row)]
    shown = doubtful or list(undated)
    many = count > 1
    rows = tuple(row.row for row in shown[:4])
    named = listed([f"row {row.row} (“{row.text}”)" if row.text else f"row {row.row} (empty)" for row in shown[:3]])
    leave = Answer(f"leave {'them' if many else 'it'} out")
    above = Answer("an empty cell means the date above", {"dates": {"down": Down.ABOVE.value}})
    empty = how.down is Down.OWN and all(not row.text for row in shown)
    # existing numbers are kept where possible
    answers = [above, leave] if doubtful and empty else [leave, above] if empty else [leave]
    cells = date_texts(seen.table, how)
    for form, share in fitting_forms(cells) if doubtful else ():
        if form is not how.form and not form.bare and share > 1 - count / seen.table.height:
            answers.append(Answer(f"dates are written as {form.label}", {"dates": {"form": form.value}}))
    what = (
        ""
        if doubtful
        else " They add up others, are notes, or hold no number."
        if many
        else " It adds up others, is a note, or holds no number."
    )
    yield Question(
        f"undated:{how.column}:{how.form.value}",
        AnswerReach.DATES,
        f"{count} row{'s have' if many else ' has'} no date in {how.column} and {'are' if many else 'is'} left out.",
        f"{'Among them are' if doubtful and len(doubtful) < count else 'They are' if many else 'It is'} {named}.{what}",
        tuple(answers[:MOST_OFFERED]),
        rows,
        (how.column or "",),
        plain=not doubtful,
    )


def _counts(seen: FileEvidence, row: Undated) -> bool:
    """Return whether an undated row holds unexplained numbers."""
    at = int(seen.table.numbers.index_of(row.row) or 0)
    cells = seen.table.cells.row(at, named=True)
    names = (
        periods_across(seen.table, seen.how) if seen.how.values.kind is ValueKind.ACROSS else seen.how.values.columns
    )
    numbers = pl.Series([cells[name] for name in names], dtype=pl.String)
    received = read_cells(numbers, seen.how.values.writing()).received
    if not bool((received == Received.MEASURED).any()) and seen.how.values.kind is not ValueKind.EVENTS:
        return False
    dates = (seen.how.dates.column, *seen.how.dates.more)
    return not any(is_total(cells[name] or "") for name in (*dates, seen.how.series.column) if name)


def _far(seen: FileEvidence) -> Iterator[Question]:
    """Ask about a few rows far from all other dates: typos and placeholders (1900-01-01), which would spoil the
    grain.
    """
    frame = next(iter(seen.brought.observations.frames.values())).select("when", "row").unique("row").sort("when")
    if frame.height < FEWEST_ROWS:
        return
    moments = frame["when"].to_numpy()
    most = max(1, int(frame.height * FEW_FAR))
    gaps = np.diff(moments) > max(moments[-1 - most] - moments[most], FAR)
    before, after = np.flatnonzero(gaps[:most]), np.flatnonzero(gaps[::-1][:most])
    low = int(before[-1]) + 1 if before.size else 0
    high = frame.height - (int(after[-1]) + 1 if after.size else 0)
    outside = [*range(low), *range(high, frame.height)]
    if not outside:
        return
    rows = tuple(sorted(int(row) for row in frame["row"].gather(outside)))
    column = seen.how.dates.column or ""
    texts = seen.texts(column, rows)
    many = len(rows) > 1
    shown = listed([f"row {row} (“{text}”)" for row, text in zip(rows[:3], texts, strict=False)])
    answers = [Answer(f"{'they are' if many else 'it is'} right")]
    if all(texts) and not seen.how.dates.more:
        answers.append(leave_out("them" if many else "it", column, texts))
    yield Question(
        f"far:{column}:{','.join(dict.fromkeys(texts))}"[:300],
        AnswerReach.DATES,
        f"{len(rows)} row{'s have' if many else ' has'} a date far from all others.",
        f"{'They are' if many else 'It is'} {shown}; the others run from "
        f"{spoken_label(str(moments[low])[:10])} to {spoken_label(str(moments[high - 1])[:10])}.",
        tuple(answers),
        rows[:4],
        (column,),
    )
