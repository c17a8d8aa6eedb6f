"""Parse columns of numbers, and collect the text beside their digits."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import polars as pl

from zembra.core.calendar.lines import Received
from zembra.core.intake.numbercell import (
    CELL,
    NOTHING_SAID,
    Affix,
    DecimalMark,
    SaidBeside,
    digits,
    in_ascii,
    meanings,
    plain_digits,
)

BLANK_WORDS = (
    "n/a", "na", "n.a.", "nan", "null", "none", "nil", "-", "–", "—", ".", "..", "…", "?",
    "#N/A", "#NA", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#NULL!", "missing", "no data",
)  # fmt: skip

# what every text that `read_numbers` takes for a number holds
MAY_BE_NUMBER = r"[\d½¼¾]"
# beyond this nothing was measured, and squares and sums would overflow
LARGEST = 1e100


@dataclass(frozen=True, slots=True)
class CellMeaning:
    """Cells of a column with the same extra text.

    beside: its meaning, None if they are no numbers
    pattern: what they have in common
    count: how many; places, texts: the first of them
    """

    beside: Affix | None
    pattern: str
    count: int
    places: tuple[int, ...]
    texts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ParsedCells:
    """Parsed columns, concatenated.

    value: Float64; received: UInt8
    said: extra texts by column index, with rows within the column
    """

    value: pl.Series
    received: pl.Series
    said: Mapping[int, tuple[CellMeaning, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Writing:
    """The number format of a column."""

    decimal: DecimalMark = DecimalMark.POINT
    blank_words: tuple[str, ...] = BLANK_WORDS
    beside: SaidBeside = NOTHING_SAID


def read_numbers(
    cells: pl.Series, decimal: DecimalMark, blank_words: tuple[str, ...] = BLANK_WORDS
) -> tuple[pl.Series, pl.Series]:
    """Return values (Float64) and kinds (UInt8: measured, blank, unreadable) of a text column."""
    read = read_cells(cells, Writing(decimal, blank_words))
    return read.value, read.received


def read_cells(cells: pl.Series, writing: Writing, parsed: pl.Series | None = None, columns: int = 1) -> ParsedCells:
    """Parse numbers with the texts beside them. Percentages keep their number (12 % is 12).

    parsed: cells cast to numbers earlier
    columns: number of concatenated columns of equal height
    """
    value = _plain(cells, writing, parsed)
    if not value.null_count():
        return ParsedCells(value, pl.repeat(Received.MEASURED.value, value.len(), dtype=pl.UInt8, eager=True))
    rest = value.is_null() & cells.is_not_null()
    received = pl.select(
        pl.when(value.is_not_null()).then(Received.MEASURED).otherwise(Received.BLANK).cast(pl.UInt8)
    ).to_series()
    if not rest.any():
        return ParsedCells(value, received)
    at = rest.arg_true()
    height = max(1, cells.len() // columns)
    said: dict[int, tuple[CellMeaning, ...]] = {}
    places = at.to_numpy()
    for column in np.unique(places // height).tolist():
        own = at.filter((at // height) == column)
        awkward = _read_awkward(cells.gather(own), writing)
        value, received = value.scatter(own, awkward.value), received.scatter(own, awkward.received)
        within = (own - column * height).to_list()
        said[column] = tuple(
            replace(alike, places=tuple(within[place] for place in alike.places)) for alike in awkward.said[0]
        )
    return ParsedCells(value, received, said)


def _plain(cells: pl.Series, writing: Writing, parsed: pl.Series | None) -> pl.Series:
    """Return cells of digits, a point and a sign only; null for others."""
    if parsed is not None and writing.decimal is DecimalMark.POINT:
        value = parsed
    else:
        plain_text = cells.str.replace(",", ".", literal=True) if writing.decimal is DecimalMark.COMMA else cells
        value = plain_text.cast(pl.Float64, strict=False)
    if writing.decimal is DecimalMark.COMMA:
        # "1.234" is a thousand in this style; the plain cast would read it as one and a bit
        value = pl.select(pl.when(cells.str.contains(".", literal=True)).then(None).otherwise(value)).to_series()
    elif writing.decimal is DecimalMark.EITHER:
        # three digits behind a point may be a thousand, which is looked at more closely
        value = pl.select(pl.when(cells.str.contains(r"\.\d{3}$")).then(None).otherwise(value)).to_series()
    if not (value.abs() <= LARGEST).all():
        value = pl.select(pl.when(value.abs() <= LARGEST).then(value)).to_series()
    if (alone := dict(writing.beside.times).get("")) is not None:
        value = _moved(cells.filter(value.is_not_null()), value, alone)
    # a number can be a blank word too, such as -999
    words = writing.blank_words
    numeric = [word for word in words if word not in BLANK_WORDS and any(letter.isdigit() for letter in word)]
    if numeric:
        none = cells.str.strip_chars().is_in(numeric).fill_null(False)
        value = pl.select(pl.when(~none).then(value)).to_series()
    return value


def _read_awkward(texts: pl.Series, writing: Writing) -> ParsedCells:
    """Parse the other cells, as column 0."""
    if writing.decimal is DecimalMark.EITHER:
        return _as_each_shows(texts, writing)
    plain = in_ascii(texts.str.strip_chars(), writing.decimal)
    words = ["", *(word.lower() for word in writing.blank_words)]
    if not plain.str.contains(MAY_BE_NUMBER).any():
        return _words(texts, words)
    blank = plain.str.to_lowercase().is_in(words) | texts.str.strip_chars().str.to_lowercase().is_in(words)
    parts = plain.str.extract_groups(CELL[writing.decimal]).struct.unnest()
    frame = parts.select(
        head=pl.coalesce("head0", "head1").fill_null(""),
        number=pl.coalesce("num0", "num1"),
        tail=pl.col("tail").fill_null(""),
    ).with_columns(text=texts, blank=blank)
    plain_cells = plain_digits(frame["number"], writing.decimal)
    number = digits(frame["number"], plain_cells)
    frame = frame.with_columns(digits=plain_cells, size=number, fits=number.is_not_null() & ~blank)
    pairs = frame.filter("fits").select("head", "tail").unique(maintain_order=True)
    found = meanings(tuple(pairs.iter_rows()), writing.beside)
    known = pairs.with_columns(
        factor=pl.Series([_factor(beside) for beside in found], dtype=pl.Float64),
        power=pl.Series([_power(beside.factor) if beside else None for beside in found], dtype=pl.Int32),
        form=pl.Series([n if beside is not None else -1 for n, beside in enumerate(found)], dtype=pl.Int32),
    )
    frame = frame.join(known, on=["head", "tail"], how="left", maintain_order="left").with_columns(
        form=pl.when("fits").then(pl.col("form")).otherwise(-1).fill_null(-1)
    )
    times = frame.select("fits").with_columns(times=_times(frame))
    value = times.select(pl.when(pl.col("fits") & (pl.col("times").abs() <= LARGEST)).then(pl.col("times"))).to_series()
    left_out = [n for n, beside in enumerate(found) if beside is not None and not beside.read]
    received = frame.select(
        pl.when(pl.col("blank") | pl.col("form").is_in(left_out))
        .then(Received.BLANK.value)
        .when(value.is_not_null())
        .then(Received.MEASURED.value)
        .otherwise(Received.UNREADABLE.value)
        .cast(pl.UInt8)
    ).to_series()
    return ParsedCells(value, received, {0: _said(frame, found, value)})


def _words(texts: pl.Series, blank_words: list[str]) -> ParsedCells:
    """Return a mask of cells without digits."""
    blank = texts.str.strip_chars().str.to_lowercase().is_in(blank_words)
    kinds = blank.cast(pl.UInt8).replace_strict(
        {1: Received.BLANK.value, 0: Received.UNREADABLE.value}, return_dtype=pl.UInt8
    )
    value = pl.repeat(None, texts.len(), dtype=pl.Float64, eager=True)
    if blank.all():
        return ParsedCells(value, kinds, {0: ()})
    frame = pl.DataFrame({"text": texts, "blank": blank}).with_columns(form=pl.lit(-1, dtype=pl.Int32))
    return ParsedCells(value, kinds, {0: _said(frame, (), value)})


def _as_each_shows(texts: pl.Series, writing: Writing) -> ParsedCells:
    """Read each cell by the only mark that fits; ambiguous cells are no numbers."""
    point, comma = (
        _read_awkward(texts, replace(writing, decimal=mark)) for mark in (DecimalMark.POINT, DecimalMark.COMMA)
    )
    both = (point.value != comma.value).fill_null(False)
    frame = pl.DataFrame({"p": point.value, "c": comma.value, "pr": point.received, "cr": comma.received, "both": both})
    value = frame.select(pl.when(~pl.col("both")).then(pl.coalesce("p", "c"))).to_series()
    received = frame.select(
        pl.when("both").then(Received.UNREADABLE.value).otherwise(pl.min_horizontal("pr", "cr")).cast(pl.UInt8)
    ).to_series()
    unread = tuple(
        said for said in point.said[0] if said.beside is None and received[said.places[0]] == Received.UNREADABLE
    )
    return ParsedCells(value, received, {0: (*(said for said in point.said[0] if said.beside is not None), *unread)})


def _factor(beside: Affix | None) -> float | None:
    if beside is None or not beside.read:
        return None
    return -beside.factor if beside.negative else beside.factor


def _times(frame: pl.DataFrame) -> pl.Series:
    """Multiply by factors. Powers of ten shift the decimal point, so that 12345.6 thousandths are 12.3456 and not
    12.345600000000001.
    """
    shifted = pl.concat_str([pl.col("digits"), pl.lit("e"), pl.col("power").cast(pl.String)]).cast(
        pl.Float64, strict=False
    )
    plain = pl.col("power").is_not_null() & (pl.col("power") != 0) & ~pl.col("digits").str.contains("[eE]")
    moved = shifted * pl.col("factor").sign()
    return frame.select(
        pl.when(plain & shifted.is_not_null()).then(moved).otherwise(pl.col("size") * pl.col("factor"))
    ).to_series()


def _power(factor: float) -> int | None:
    """Return the power of ten of a factor, or None."""
    power = round(math.log10(abs(factor))) if factor else 0
    return power if factor and math.isclose(abs(factor), 10.0**power, rel_tol=1e-12) else None


def _moved(cells: pl.Series, value: pl.Series, factor: float) -> pl.Series:
    """Multiply plain numbers by a factor.

    cells: their texts
    """
    power = _power(factor)
    digits = cells.str.strip_chars().str.replace(",", ".", literal=True)
    if power is None or digits.str.contains("[eE]").any():
        return value * factor
    shifted = pl.select(pl.concat_str([digits, pl.lit(f"e{power}")])).to_series().cast(pl.Float64, strict=False)
    return value.scatter(value.is_not_null().arg_true(), shifted if factor > 0 else -shifted)


def _said(frame: pl.DataFrame, found: tuple[Affix | None, ...], value: pl.Series) -> tuple[CellMeaning, ...]:
    """Group cells by the form of their extra text, or by pattern if they are no numbers."""
    told = frame.select("text", "form", "blank").with_columns(at=pl.int_range(pl.len(), dtype=pl.UInt32))
    unread = value.is_null() & (told["form"] < 0) & ~told["blank"]
    patterns = told.filter(unread).with_columns(pattern=pattern_of(told.filter(unread)["text"]))
    groups = patterns.group_by("pattern", maintain_order=True).agg(
        pl.len().alias("count"), pl.col("at").head(MOST_SHOWN), pl.col("text").head(MOST_SHOWN)
    )
    made = [
        CellMeaning(None, row["pattern"], row["count"], tuple(row["at"]), tuple(row["text"]))
        for row in groups.head(MOST_PATTERNS).iter_rows(named=True)
    ]
    forms = (
        told.filter(pl.col("form") >= 0)
        .group_by("form", maintain_order=True)
        .agg(pl.len().alias("count"), pl.col("at").head(MOST_SHOWN), pl.col("text").head(MOST_SHOWN))
    )
    alike: dict[Affix, CellMeaning] = {}
    for row in forms.iter_rows(named=True):
        beside = found[row["form"]]
        assert beside is not None
        before = alike.get(beside)
        if before is None:
            alike[beside] = CellMeaning(beside, "", row["count"], tuple(row["at"]), tuple(row["text"]))
        else:
            places = (*before.places, *row["at"])[:MOST_SHOWN]
            texts = (*before.texts, *row["text"])[:MOST_SHOWN]
            alike[beside] = replace(before, count=before.count + row["count"], places=places, texts=texts)
    return (*alike.values(), *made)


MOST_SHOWN = 4  # cells of each kind
MOST_PATTERNS = 12  # kinds of cells that are no numbers


def pattern_of(texts: pl.Series) -> pl.Series:
    """Return what texts have in common that differ in digits only."""
    return texts.str.strip_chars().str.replace_all(r"\d+(?:[.,]\d+)*", "9")


def detect_decimal(cells: pl.Series) -> DecimalMark:
    """Return the mark that reads more cells; a point if equal."""
    texts = cells.drop_nulls()
    texts = texts.filter(texts.str.contains("[.,]"))
    if not texts.len():
        return DecimalMark.POINT
    point, comma = (
        texts.len() - read_numbers(texts, mark)[0].null_count() for mark in (DecimalMark.POINT, DecimalMark.COMMA)
    )
    return DecimalMark.COMMA if comma > point else DecimalMark.POINT
