"""Ask about measures: what is measured, how numbers are written, sentinel values."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

import numpy as np
import polars as pl

from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.question import Answer, AnswerReach, Patch, Question
from zembra.core.english import listed
from zembra.core.intake.dateparts import whole_numbers
from zembra.core.intake.decimals import MARKS, DecimalMarks, across, marks_of
from zembra.core.intake.detect import numbers_rows, table_marks
from zembra.core.intake.howread import ValueKind
from zembra.core.intake.joining import periods_across
from zembra.core.intake.numbercell import DecimalMark
from zembra.core.intake.numbers import read_cells, read_numbers

_IDENTIFIER = re.compile(
    r"(?i)(^|[^a-z])(id\d*|ids|uid|uuid|[a-z]*code\d*|nr|no|num|number|key|zip|postal|postcode|plz|phone|gtin|ean|isbn|sku|fips|index|rank|row)($|[^a-z])|[a-z](Id|ID|Code|No)$"
)
_COORDINATE = re.compile(
    r"(?i)(^|[^a-z])(lat|latitude|lon|lng|long|longitude|x|y|easting|northing|altitude|elevation|depth)($|[^a-z])"
)
_AGE = re.compile(r"(?i)(^|[^a-z])(age|alter|edad|[aâ]ge)($|[^a-z])")
_PART = re.compile(
    r"(?i)(^|[^a-z])(year|yr|month|mon|day|week|wk|quarter|qtr|hour|weekday|dow|doy|yday|wday|jahr|monat|tag|woche|decade|season|date)($|[^a-z])|_?(of|in)_?(year|month|week)$"
)
_SENTINELS = r"^-?(?:9{3,6}|8{4,6}|7{4})(?:\.[09]+)?$|^-(?:1|9|99)(?:\.0+)?$"
_MAY_BE_SENTINEL = r"^\D*[-−]?(?:9{1,6}|8{4,6}|7{4}|1)(?:[.,][09]+)?\D*$"
FEW = 0.35  # share of the cells a value that stands for none may fill
MOST_OFFERED = 5


def measure_questions(seen: FileEvidence) -> Iterator[Question]:
    if seen.how.values.kind is not ValueKind.EVENTS:
        yield from _which_measure(seen)
        yield from _decimal(seen)
        yield from _sentinels(seen)


def _numbers(seen: FileEvidence, names: Sequence[str]) -> dict[str, pl.Series]:
    """Parse all columns at once."""
    if not names:
        return {}
    frame = seen.state.observations.frames
    if seen.how.series.column is not None and all(
        name in frame and frame[name].height == seen.table.height for name in names
    ):
        return {name: frame[name]["value"] for name in names}
    alike = [name for name in names if name not in seen.how.values.other_mark]
    read = {
        name: read_cells(seen.table.cells[name], seen.how.values.writing(name)).value
        for name in names
        if name not in alike
    }
    if alike:
        cells = pl.concat([seen.table.cells[name].rename("cell") for name in alike])
        numbers = read_cells(cells, seen.how.values.writing(), columns=len(alike)).value
        height = seen.table.height
        read |= {name: numbers.slice(n * height, height) for n, name in enumerate(alike)}
    return read


def _holding(seen: FileEvidence, names: Sequence[str], pattern: str) -> list[str]:
    """Return columns that contain a pattern, found in one pass."""
    if not names:
        return []
    cells = pl.concat([seen.table.cells[name].rename("cell") for name in names])
    hits = cells.str.contains(pattern).fill_null(False).to_numpy().reshape(len(names), seen.table.height)
    return [names[n] for n in np.flatnonzero(hits.any(axis=1)).tolist()]


def _doubt(seen: FileEvidence, name: str, read: pl.Series) -> str | None:
    """Return why a number column may not be a measure, or None.

    read: its numbers
    """
    cells = seen.table.cells[name].drop_nulls()
    numbers = read.drop_nulls().to_numpy()
    if not numbers.size:
        return None
    whole = bool(np.all(numbers == np.floor(numbers)))
    all_differ = numbers.size >= 5 and np.unique(numbers).size == numbers.size
    digits = not bool(cells.str.contains(r"[^\d]").any())
    if whole and all_differ and name.startswith("column "):
        return "a number of the row"
    if whole and _IDENTIFIER.search(name) and not _counts_things(name):
        return "an identifier"
    if (
        whole
        and all_differ
        and digits
        and float(np.abs(numbers).min()) >= 1e6
        and _names_more_than_it_measures(numbers)
    ):
        return "an identifier"
    if _COORDINATE.search(name) and not whole and float(np.abs(numbers).max()) <= 180:
        return "a coordinate"
    if _AGE.search(name) and whole_numbers(cells, 0, 120):
        return "an age"
    if _PART.search(name) and whole:
        return "a part of the date"
    years = whole and numbers.size >= 3 and numbers.min() >= 1500 and numbers.max() <= 2200
    if years and bool(np.all(np.diff(np.unique(numbers)) == 1)) and np.unique(numbers).size > 1:
        return "a year"
    return "a count of the rows" if numbers_rows(seen.table.cells[name]) else None


def _names_more_than_it_measures(numbers: np.ndarray) -> bool:
    """Return whether long numbers are sequential or unrelated to their neighbours, as identifiers are."""
    moves = np.diff(numbers)
    given_out = bool(np.all(moves > 0)) and float(moves.max()) <= 1e-4 * float(np.abs(numbers).min())
    same_digits = np.unique(np.floor(np.log10(np.abs(numbers)))).size == 1
    scattered = float(np.median(np.abs(moves))) > 0.25 * float(np.ptp(numbers))
    return given_out or (same_digits and scattered and float(np.abs(numbers).min()) >= 1e7)


def _counts_things(name: str) -> bool:
    """Return whether a name is a count: 'number of riders', 'no. of trips'."""
    return bool(re.search(r"(?i)(number|num|no|nr)[ ._]*(of|de)", name))


def measures_nothing(seen: FileEvidence) -> bool:
    """Return whether every number column looks like identifiers, ages or coordinates."""
    return bool(seen.how.values.columns) and len(_doubts(seen)) == len(seen.how.values.columns)


def _doubts(seen: FileEvidence) -> dict[str, str]:
    """Return doubtful columns with reasons."""
    numbers = _numbers(seen, seen.how.values.columns)
    return {name: why for name, read in numbers.items() if (why := _doubt(seen, name, read))}


def _which_measure(seen: FileEvidence) -> Iterator[Question]:
    how = seen.how
    if how.values.kind is not ValueKind.COLUMNS:
        return
    doubts = _doubts(seen)
    first = how.values.columns[0]
    # columns that are all lines of one chart are asked about together, others only where they come first
    if set(doubts.values()) == {"a count of the rows"} and len(doubts) == len(how.values.columns):
        return  # nothing else could be meant
    asked = dict.fromkeys(doubts) if how.series.column is None else dict.fromkeys([first] if first in doubts else [])
    if not asked:
        return
    names = list(asked)
    left = [name for name in how.values.columns if name not in doubts]
    others = [name for name in left if name not in names]
    answers = []
    if others:
        label = f"measure {listed(others[:3])}{' and others' if len(others) > 3 else ''} instead"
        answers.append(Answer(label, {"values": {"columns": others}}, {"source": {"measure": None}}))
    many = len(names) > 1
    answers.append(Answer("they are what is measured" if many else "it is what is measured"))
    if not others:
        counted = {"kind": ValueKind.EVENTS.value, "columns": []}
        count = Answer("count the rows", {"values": counted}, {"source": {"measure": None}})
        # several rows of one period that measure nothing are things that happened
        answers.insert(0 if seen.sharing()[0] and measures_nothing(seen) else len(answers), count)
    row = seen.table.row_number(0)
    doubted = listed([f"{name} looks like {doubts[name]}" for name in names[:3]])
    yield Question(
        f"measure:{','.join(names)}",
        AnswerReach.MEASURE,
        f"{doubted}.",
        f"Row {row} has {listed([f'“{seen.table.cells[name][0]}”' for name in names[:3]])}. Is that what the line shows?",
        tuple(answers),
        (row,),
        tuple(names),
    )


def _decimal(seen: FileEvidence) -> Iterator[Question]:
    """Ask whether 1.234 is 1234 or a fraction, where nothing decides."""
    how = seen.how
    names = list(how.values.columns) if seen.down else periods_across(seen.table, how)
    if not names:
        return
    columns = None if seen.down else across(seen.table.cells.select(names))
    marks: DecimalMarks = table_marks(seen.table, how.table, how.dates, names) if columns is None else marks_of(columns)
    doubt = marks.doubt
    if doubt is None:
        return
    name = names[doubt.column] if seen.down else ""
    cells = seen.table.cells.select(names if not name else [name])
    row = seen.table.row_number(
        next(
            int(at[0])
            for column in cells.get_columns()
            if (at := (column.str.strip_chars() == doubt.text).arg_true()).len()
        )
    )
    said = {mark: read_numbers(pl.Series([doubt.text]), mark)[0][0] for mark in MARKS}
    order = sorted(MARKS, key=lambda mark: mark is not how.values.decimal)
    key, what = f"decimal:{name if seen.down else 'across'}", name or "the columns"
    if doubt.mixed:
        yield Question(
            key,
            AnswerReach.NUMBERS,
            f"Some numbers in {what} have a decimal point, others a decimal comma.",
            f"Row {row} has “{doubt.text}”. How are they read?",
            tuple(Answer(mark.label, _with_mark(seen, marks, mark, names)) for mark in (DecimalMark.EITHER, *order)),
            (row,),
            (name,) if name else (),
        )
        return
    if None in said.values():
        return
    chosen = f"Row {row} has “{doubt.text}”, and is read as {said[order[0]]:g}, {marks.reason}."
    yield Question(
        key,
        AnswerReach.NUMBERS,
        f"The numbers in {what} can be read in two ways.",
        chosen if marks.reason else f"Row {row} has “{doubt.text}”: is that {said[order[0]]:g}, or {said[order[1]]:g}?",
        tuple(Answer(f"{said[mark]:g}, {mark.label}", _with_mark(seen, marks, mark, names)) for mark in order),
        (row,),
        (name,) if name else (),
        plain=bool(marks.reason),
    )


def _with_mark(seen: FileEvidence, marks: DecimalMarks, mark: DecimalMark, names: Sequence[str]) -> Patch:
    """Set the decimal mark of a table, except where cells prove the other."""
    others = [names[n] for n in marks.others(mark)] if seen.down and mark is not DecimalMark.EITHER else []
    return {"values": {"decimal": mark.value, "other_mark": others}}


def _sentinels(seen: FileEvidence) -> Iterator[Question]:
    """Ask about repeated values such as −999 far from all others."""
    wanted = _holding(seen, seen.how.values.columns if seen.down else (), _MAY_BE_SENTINEL)
    read = _numbers(seen, wanted)
    for name in wanted:
        cells = seen.table.cells[name]
        texts = cells.drop_nulls().str.strip_chars()
        # a unit may follow a sentinel value
        bare = texts.str.replace_all(r"[^\d.\-−]", "").str.replace("−", "-", literal=True)
        found = texts.filter(bare.str.contains(_SENTINELS)).unique(maintain_order=True).to_list()
        numbers = read[name].drop_nulls()
        for text in found:
            value = read_numbers(pl.Series([text]), seen.how.values.writing(name).decimal)[0][0]
            count = int((texts == text).sum())
            others = numbers.filter(numbers != value)
            if value is None or not 1 <= count <= FEW * texts.len() or others.len() < 3:
                continue
            low, high = float(others.to_numpy().min()), float(others.to_numpy().max())
            reach = high - low
            outside = value < low - max(reach, 1e-9) or value > high + 2 * max(reach, 1e-9)
            lone_negative = value < 0 <= low and abs(value) in (1, 9, 99) and (count > 1 or low > 5)
            if not ((outside and (abs(value) > 99)) or lone_negative):
                continue
            at = (cells.str.strip_chars() == text).arg_true()
            rows = tuple(seen.table.row_number(int(n)) for n in at.head(4))
            words = [*seen.how.values.blank_words, text]
            yield Question(
                f"sentinel:{name}:{text}",
                AnswerReach.NUMBERS,
                f"{name} is {text} in {count} row{'s' if count > 1 else ''}, and between {low:g} and {high:g} in all others.",
                f"Does {text} stand for no value?",
                (
                    Answer(f"{text} means blank", {"values": {"blank_words": words}}),
                    Answer(f"{text} was measured"),
                ),
                rows,
                (name,),
            )  # fmt: skip
            return
