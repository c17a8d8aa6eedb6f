"""Read a file all the way from bytes to observations."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Any

import polars as pl

from zembra.core.english import listed
from zembra.core.intake.dateforms import SHORT, DateForm
from zembra.core.intake.dateparts import parts_said
from zembra.core.intake.dates import four_digits
from zembra.core.intake.detect import numbers_rows, understand
from zembra.core.intake.foreign import unpacked
from zembra.core.intake.formats import detect_table, file_form, parts_cells, read_table
from zembra.core.intake.howread import Down, Encoding, FileForm, HourSays, HowRead, TableHow, ValueKind
from zembra.core.intake.observe import Observations, observe
from zembra.core.intake.respelling import respelled_how
from zembra.core.intake.table import TextTable
from zembra.core.intake.toldnumbers import told_of_numbers

SPELLINGS = 40  # dates looked at for how they are spelled
_SURE = (Encoding.UTF8, Encoding.UTF16, Encoding.UTF32)
Progress = Callable[[str, float], None]


@dataclass(frozen=True, slots=True)
class Notice:
    """A notice of something left out.

    action: a click that reverts it; change: the words of TableHow it changes
    """

    text: str
    action: str | None = None
    change: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """A file as read.

    notices: what was left out or guessed
    """

    table: TextTable
    how: HowRead
    observations: Observations
    notices: tuple[Notice, ...]


def sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def quiet(stage: str, share: float) -> None:
    """Report no progress."""


def bring_in(
    data: bytes,
    how: HowRead | None = None,
    *,
    table_how: TableHow | None = None,
    kind: ValueKind | None = None,
    progress: Progress = quiet,
) -> BroughtIn:
    """Read a file as `how` says, or as detected. Raises Refusal.

    table_how, kind: settled parts, while the rest is guessed
    progress: called with (step, share done); what it raises ends the reading
    """
    # hashing releases the GIL and runs beside the reading
    # is also the hash handed over, and takes half the time
    beside = ThreadPoolExecutor(1)
    digest = beside.submit(lambda: hashlib.blake2b(data, digest_size=32).hexdigest())
    beside.shutdown(wait=False)
    if how is None:
        progress("looking at the file", 0.05)
        table_how = table_how or detect_table(data)
        progress("cutting rows into cells", 0.15)
        table = read_table(data, table_how)
        progress("finding dates and numbers", 0.45)
        how = understand(table, table_how, kind)
    else:
        progress("cutting rows into cells", 0.15)
        table_how = fitting(data, how.table)
        table = read_table(data, table_how)
        if table_how is not how.table:
            other = f"It is {_cut(table_how)}, where {_cut(how.table)} was said; it is read as it is."
            table = replace(table, remarks=(*table.remarks, other))
            how = how.model_copy(update={"table": table_how})
    progress("reading every cell", 0.6)
    observations = observe(table, how, digest.result())
    progress("counting", 0.9)
    return BroughtIn(table, how, observations, _notices(table, how, observations))


def fitting(data: bytes, said: TableHow) -> TableHow:
    """Return how a file is cut into cells: as another one, unless its format or delimiter differs. Raises Refusal."""
    whole = unpacked(data)
    form = file_form(whole)
    same = form is said.form or {form, said.form} == {FileForm.TEXT, FileForm.FIXED}
    if same and (said.form is not FileForm.TEXT or parts_cells(whole, said)):
        return said
    return detect_table(data)


def _cut(how: TableHow) -> str:
    return (
        f"{how.form.label}, its cells parted by {how.delimiter.label}" if how.form is FileForm.TEXT else how.form.label
    )


def _notices(table: TextTable, how: HowRead, observations: Observations) -> tuple[Notice, ...]:
    said = []
    if how.table.form in (FileForm.TEXT, FileForm.FIXED, FileForm.HTML) and how.table.encoding not in _SURE:
        said.append(
            Notice(
                f"Letters beyond ASCII are read as {how.table.encoding.label}; if they look wrong, change that word."
            )
        )
    above = how.table.header_row - how.table.header_rows
    if above > 0:
        said.append(Notice(f"{above} row{'s' if above > 1 else ''} above the column names left out."))
    if how.table.skip_last:
        count = how.table.skip_last
        many = count > 1
        said.append(
            Notice(
                f"The last {f'{count} rows look' if many else 'row looks'} like totals or notes, and "
                f"{'are' if many else 'is'} left out.",
                "Keep them" if many else "Keep it",
                {"skip_last": 0},
            )
        )
    if table.unread:
        said.append(Notice(f"Not read, as they hold lists, records or bytes: the columns {listed(table.unread)}."))
    said.extend(Notice(f"{part.what} left out.", "Keep them", {part.word: "kept"}) for part in table.left_out)
    said.extend(Notice(remark) for remark in table.remarks)
    said.extend(_taken_for(table, how, observations))
    if observations.dropped:
        many = observations.dropped > 1
        said.append(Notice(f"{observations.dropped} row{'s' if many else ''} left out by the conditions."))
    return tuple(said)


def _taken_for(table: TextTable, how: HowRead, observations: Observations) -> list[Notice]:
    """Report columns that are read in another way than cell by cell, or not at all."""
    said = []
    if how.dates.more:
        said.append(
            Notice(f"The date of a row is put together from {listed([how.dates.column or '', *how.dates.more])}.")
        )
    dates = table.cells[how.dates.column].drop_nulls() if how.dates.column and not how.dates.more else None
    if dates is not None and dates.len() and not how.dates.form.bare and not four_digits(dates):
        said.append(Notice("Years have two digits: 00 to 35 are taken for 2000 to 2035, 36 to 99 for 1936 to 1999."))
    elif how.dates.form in SHORT:
        said.append(Notice("Years of two digits from 36 to 99 are taken for 1936 to 1999."))
    if how.dates.form is DateForm.FISCAL:
        said.append(
            Notice(
                "Fiscal years are named by the year they begin in; in which month they begin is a word of the calendar."
            )
        )
    if {how.dates.down, how.series.down} != {Down.OWN}:
        column = how.dates.column if how.dates.down is not Down.OWN else how.series.column
        said.append(Notice(f"{column} is written once for several rows; it is filled down."))
    said.extend(Notice(text) for text in _spelled(table, how))
    said.extend(Notice(text) for text in told_of_numbers(table, how, observations))
    if how.values.kind is not ValueKind.COLUMNS:
        return said
    used = {how.dates.column, *how.dates.more, how.series.column, *how.series.more, *how.values.columns}
    spare = [name for name in table.columns if name not in used]
    parts = parts_said(table, how.dates, spare) if how.dates.column else []
    if parts:
        said.append(
            Notice(
                f"{listed(parts)} {'say' if len(parts) > 1 else 'says'} what the date says, and {'are' if len(parts) > 1 else 'is'} left out."
            )
        )
    if how.dates.hours is HourSays.ENDS:
        said.append(Notice("Hours run from 1 to 24: each is taken for the hour that ends then."))
    counting = [name for name in table.columns if name not in used and numbers_rows(table.cells[name])]
    said.extend(Notice(f"{name} only counts the rows, and is left out.") for name in counting)
    said.extend(Notice(f"The numbers in {name} are in {unit}.") for name, unit in observations.units.items())
    return said


def _spelled(table: TextTable, how: HowRead) -> list[str]:
    """Report assumptions about other calendars and ranges of days."""
    cells = pl.Series(table.columns) if how.dates.column is None else table.cells[how.dates.column]
    texts = cells.drop_nulls().gather_every(max(1, cells.len() // SPELLINGS)).to_list()
    found = dict.fromkeys(sentence for text in texts if (sentence := respelled_how(text)) is not None)
    return list(found)
