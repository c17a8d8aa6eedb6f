"""The grammar of a number cell, and reading columns by it. A cell is read whole or not at all: see docs/intake.md.

cell   = before* digits behind*
before = sign | bracket | currency | standing | "'" | '="'
digits = groups [mark fraction] [exponent] | mark fraction | whole fraction
groups = 1 to 3 digits and then groups of 3 (or of 2, the last of 3), all parted by the same: space, ' , _ or the other mark
behind = currency | size | unit | footnote | standing | sign | bracket | '"'
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
import polars as pl

from zembra.core.calendar.lines import Received
from zembra.core.grammar import Choice
from zembra.core.intake.numberwords import (
    CREDIT,
    CURRENCY_CODES,
    CURRENCY_SIGNS,
    UNIT,
    Standing,
    size_of,
    standing_of,
)


class DecimalMark(Choice):
    POINT = ("point", "a decimal point", "1,234.5")
    COMMA = ("comma", "a decimal comma", "1.234,5")
    EITHER = ("either", "a decimal point or comma, as each cell shows", "1,234.5 and 1.234,5")


BLANK_WORDS = (
    "n/a", "na", "n.a.", "nan", "null", "none", "nil", "-", "–", "—", ".", "..", "…", "?",
    "#N/A", "#NA", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#NULL!", "missing", "no data",
)  # fmt: skip

# what every text that `read_numbers` takes for a number holds
MAY_BE_NUMBER = r"[\d½¼¾]"
# beyond this nothing was measured, and squares and sums would overflow
LARGEST = 1e100

_SPACE = " \u00a0\u2007\u2009\u202f"
_APOSTROPHE = "'’‘`"
_FRACTION = r"\d+[ \u00a0]?(?:[½¼¾⅓⅔⅛]|[ \u00a0]\d{1,2}/(?:2|3|4|5|8|10|12|16|32))|[½¼¾⅓⅔⅛]"


def _groups(mark: str) -> str:
    parts = [f"[{_SPACE}]", f"[{_APOSTROPHE}]", "_", re.escape(mark)]
    # no number has a zero before its first group
    alike = "|".join(rf"[1-9]\d{{0,2}}(?:{part}\d{{3}})+" for part in parts)
    # as in India, where the last group alone has three digits, and a comma parts them
    indian = r"[1-9]\d?(?:,\d{2})+,\d{3}|" if mark == "," else ""
    return rf"{alike}|{indian}\d+"


def _cell(decimal: str, group: str) -> str:
    exponent = r"(?:[eE][-+]?\d+)?"
    # a dash in place of the cents: 1'234.–
    fraction = rf"(?:[{decimal}·](?:[-–—]|\d*))?"
    return (
        rf"^(?:(?P<head0>(?:\D*[^\d\p{{L}}.,·])?)(?P<num0>[{decimal}·]\d+{exponent})|(?P<head1>\D*?)(?P<num1>{_FRACTION}"
        rf"|(?:{_groups(group)}){fraction}{exponent}))(?P<tail>(?:[^\d.,·½¼¾].*)?)$"
    )


_CELL = {DecimalMark.POINT: _cell(".", ","), DecimalMark.COMMA: _cell(",", ".")}
# digits and marks of other scripts, and the wide ones of East Asia; superscripts stay what they are
_SCRIPTS = "٠١٢٣٤٥٦٧٨٩۰۱۲۳۴۵۶۷۸۹๐๑๒๓๔๕๖๗๘๙०१२३४५६७८९０１２３４５６７８９"
_TO_ASCII = {letter: str(n % 10) for n, letter in enumerate(_SCRIPTS)} | {
    "．": ".", "，": ",", "（": "(", "）": ")", "－": "-", "％": "%", "\ufeff": "", "\u200e": "", "\u200f": "", "\u200b": "",
}  # fmt: skip
FOREIGN = "[" + "".join(_TO_ASCII) + "٬٫]"
_NAMED_FRACTIONS = {"½": 0.5, "¼": 0.25, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3, "⅛": 0.125}

_BRACKETS = {"(": ")", "[": "]", "<": ">"}
_CURRENCY = "|".join(re.escape(sign) for sign in sorted(CURRENCY_SIGNS, key=len, reverse=True))
_CODES = "|".join(CURRENCY_CODES)
_BEFORE = re.compile(
    rf"(?P<space>\s+)|(?P<note>\([a-zA-Z.]{{1,6}}\))|(?P<currency>(?:{_CURRENCY})|(?:{_CODES})(?![^\W\d_]))"
    r"|(?P<sign>[-+−–—‒])|(?P<down>[▲△])|(?P<open>[(\[<])|(?P<text>=\"|\"|')|(?P<word>[^\W\d_]+\.?|~|≈)"
)
_BEHIND = re.compile(
    rf"(?P<space>\s+)|(?P<note>\*{{1,3}}|[†‡§¶#]|[¹²³⁴⁵⁶⁷⁸⁹⁰ᵃ-ᶻ]+|\^\d{{1,2}}|\[\w{{1,2}}\]|\((?:\d{{1,2}}|[a-zA-Z.]{{1,6}})\))"
    rf"|(?P<none>/-)|(?P<percent>[%‰‱])|(?P<currency>(?:{_CURRENCY}|{_CODES})(?![^\W\d_])(?:/\d{{0,3}}[^\W\d_]{{1,8}}[²³]?)?)"
    rf"|(?P<close>[)\]>])|(?P<sign>[-−–—])|(?P<text>\")|(?P<size>[万萬만億亿억千])|(?P<word>{UNIT.pattern})"
)


@dataclass(frozen=True, slots=True)
class SaidBeside:
    """What an analyst said that texts beside numbers mean. notes: nothing. negative: below zero. left_out: that the number
    is not read. times: what the number is multiplied by, by text; "" for numbers without a text."""

    notes: tuple[str, ...] = ()
    negative: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    times: tuple[tuple[str, float], ...] = ()


NOTHING_SAID = SaidBeside()


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands beside the digits of a cell. factor: what they are multiplied by. size, unit: as written. side: CR or DR.
    bracket: the opening one of a number that is negative by it. note: a footnote or a flag, as written. down: whether a
    triangle makes it negative. read: whether the number counts."""

    negative: bool = False
    factor: float = 1.0
    size: str = ""
    unit: str = ""
    side: str = ""
    bracket: str = ""
    note: str = ""
    standing: Standing | None = None
    down: bool = False
    read: bool = True


@dataclass(frozen=True, slots=True)
class Said:
    """Cells of a column that are more than a plain number, and say the same beside it.

    beside: what stands by their digits; None for cells that are no number. pattern: what is alike in those. count: how many
    there are. places, texts: of the first of them.
    """

    beside: Beside | None
    pattern: str
    count: int
    places: tuple[int, ...]
    texts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Cells:
    """Columns read, one under the other. value: Float64. received: UInt8. said: what cells of a column say beside a plain
    number, by the place of the column; its places are within the column."""

    value: pl.Series
    received: pl.Series
    said: Mapping[int, tuple[Said, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Writing:
    """How the numbers of a column are written."""

    decimal: DecimalMark = DecimalMark.POINT
    blank_words: tuple[str, ...] = BLANK_WORDS
    beside: SaidBeside = NOTHING_SAID


def read_numbers(
    cells: pl.Series, decimal: DecimalMark, blank_words: tuple[str, ...] = BLANK_WORDS
) -> tuple[pl.Series, pl.Series]:
    """(value Float64, received UInt8) of a text column: measured, blank or unreadable."""
    read = read_cells(cells, Writing(decimal, blank_words))
    return read.value, read.received


def read_cells(cells: pl.Series, writing: Writing, parsed: pl.Series | None = None, columns: int = 1) -> Cells:
    """Numbers, with what cells say beside them.

    A percent sign keeps the number as written (12 % is 12). parsed: the cells cast to numbers, where that was done beside
    others. columns: how many, of the same height, stand one under the other; each is a column of its own for what its cells
    say.
    """
    value = _plain(cells, writing, parsed)
    if not value.null_count():
        return Cells(value, pl.repeat(Received.MEASURED.value, value.len(), dtype=pl.UInt8, eager=True))
    rest = value.is_null() & cells.is_not_null()
    received = pl.select(
        pl.when(value.is_not_null()).then(Received.MEASURED).otherwise(Received.BLANK).cast(pl.UInt8)
    ).to_series()
    if not rest.any():
        return Cells(value, received)
    at = rest.arg_true()
    height = max(1, cells.len() // columns)
    said: dict[int, tuple[Said, ...]] = {}
    places = at.to_numpy()
    for column in np.unique(places // height).tolist():
        own = at.filter((at // height) == column)
        awkward = _read_awkward(cells.gather(own), writing)
        value, received = value.scatter(own, awkward.value), received.scatter(own, awkward.received)
        within = (own - column * height).to_list()
        said[column] = tuple(
            replace(alike, places=tuple(within[place] for place in alike.places)) for alike in awkward.said[0]
        )
    return Cells(value, received, said)


def _plain(cells: pl.Series, writing: Writing, parsed: pl.Series | None) -> pl.Series:
    """The cells that are nothing but digits, a point and a sign; nothing for others."""
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
        value = value * alone
    # a number can be a blank word too, such as -999
    words = writing.blank_words
    numeric = [word for word in words if word not in BLANK_WORDS and any(letter.isdigit() for letter in word)]
    if numeric:
        none = cells.str.strip_chars().is_in(numeric).fill_null(False)
        value = pl.select(pl.when(~none).then(value)).to_series()
    return value


def _read_awkward(texts: pl.Series, writing: Writing) -> Cells:
    """Cells that are more than digits, a point and a sign; what they say is that of column 0."""
    if writing.decimal is DecimalMark.EITHER:
        return _as_each_shows(texts, writing)
    plain = _in_ascii(texts.str.strip_chars(), writing.decimal)
    words = ["", *(word.lower() for word in writing.blank_words)]
    blank = plain.str.to_lowercase().is_in(words) | texts.str.strip_chars().str.to_lowercase().is_in(words)
    parts = plain.str.extract_groups(_CELL[writing.decimal]).struct.unnest()
    frame = parts.select(
        head=pl.coalesce("head0", "head1").fill_null(""),
        number=pl.coalesce("num0", "num1"),
        tail=pl.col("tail").fill_null(""),
    ).with_columns(text=texts, blank=blank)
    number = _digits(frame["number"], writing.decimal)
    frame = frame.with_columns(size=number, fits=number.is_not_null() & ~blank)
    pairs = frame.filter("fits").select("head", "tail").unique(maintain_order=True)
    found = _meanings(tuple(pairs.iter_rows()), writing.beside)
    known = pairs.with_columns(
        factor=pl.Series([_factor(beside) for beside in found], dtype=pl.Float64),
        form=pl.Series([n if beside is not None else -1 for n, beside in enumerate(found)], dtype=pl.Int32),
    )
    frame = frame.join(known, on=["head", "tail"], how="left", maintain_order="left").with_columns(
        form=pl.when("fits").then(pl.col("form")).otherwise(-1).fill_null(-1)
    )
    value = frame.select(
        pl.when(pl.col("fits") & ((pl.col("size") * pl.col("factor")).abs() <= LARGEST)).then(
            pl.col("size") * pl.col("factor")
        )
    ).to_series()
    left_out = [n for n, beside in enumerate(found) if beside is not None and not beside.read]
    received = frame.select(
        pl.when(pl.col("blank") | pl.col("form").is_in(left_out))
        .then(Received.BLANK.value)
        .when(value.is_not_null())
        .then(Received.MEASURED.value)
        .otherwise(Received.UNREADABLE.value)
        .cast(pl.UInt8)
    ).to_series()
    return Cells(value, received, {0: _said(frame, found, value)})


def _as_each_shows(texts: pl.Series, writing: Writing) -> Cells:
    """Each cell by the only mark that reads it; one that two marks read otherwise is no number."""
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
    return Cells(value, received, {0: (*(said for said in point.said[0] if said.beside is not None), *unread)})


def _in_ascii(texts: pl.Series, decimal: DecimalMark) -> pl.Series:
    """Digits and marks of other scripts as those of this one."""
    if not texts.str.contains(FOREIGN).any():
        return texts
    group, mark = (",", ".") if decimal is DecimalMark.POINT else (".", ",")
    letters = {**_TO_ASCII, "٬": group, "٫": mark}
    return texts.str.replace_many(list(letters), list(letters.values()))


def _factor(beside: Beside | None) -> float | None:
    if beside is None or not beside.read:
        return None
    return -beside.factor if beside.negative else beside.factor


def _digits(numbers: pl.Series, decimal: DecimalMark) -> pl.Series:
    """The digits of cells as numbers, without what parts their groups."""
    group, mark = (",", ".") if decimal is DecimalMark.POINT else (".", ",")
    plain = numbers.str.replace_all(rf"[{_SPACE}{_APOSTROPHE}_{group}]", "").str.replace(rf"[{mark}·][-–—]?", ".")
    value = plain.cast(pl.Float64, strict=False)
    fractions = numbers.str.contains(rf"^(?:{_FRACTION})$").fill_null(False)
    if not fractions.any():
        return value
    at = fractions.arg_true()
    return value.scatter(at, pl.Series([_fraction(text) for text in numbers.gather(at)], dtype=pl.Float64))


def _fraction(text: str) -> float:
    whole, _, rest = text.replace("\u00a0", " ").rpartition(" ")
    if rest[-1] in _NAMED_FRACTIONS:
        return float(whole or rest[:-1] or 0) + _NAMED_FRACTIONS[rest[-1]]
    above, below = rest.split("/")
    return float(whole or 0) + float(above) / float(below)


def _said(frame: pl.DataFrame, found: tuple[Beside | None, ...], value: pl.Series) -> tuple[Said, ...]:
    """What cells say, by the form of what stands beside their digits, and by their pattern where they are no number."""
    told = frame.select("text", "form", "blank").with_columns(at=pl.int_range(pl.len(), dtype=pl.UInt32))
    unread = value.is_null() & (told["form"] < 0) & ~told["blank"]
    patterns = told.filter(unread).with_columns(pattern=pattern_of(told.filter(unread)["text"]))
    groups = patterns.group_by("pattern", maintain_order=True).agg(
        pl.len().alias("count"), pl.col("at").head(MOST_SHOWN), pl.col("text").head(MOST_SHOWN)
    )
    made = [
        Said(None, row["pattern"], row["count"], tuple(row["at"]), tuple(row["text"]))
        for row in groups.head(MOST_PATTERNS).iter_rows(named=True)
    ]
    forms = (
        told.filter(pl.col("form") >= 0)
        .group_by("form", maintain_order=True)
        .agg(pl.len().alias("count"), pl.col("at").head(MOST_SHOWN), pl.col("text").head(MOST_SHOWN))
    )
    alike: dict[Beside, Said] = {}
    for row in forms.iter_rows(named=True):
        beside = found[row["form"]]
        assert beside is not None
        before = alike.get(beside)
        if before is None:
            alike[beside] = Said(beside, "", row["count"], tuple(row["at"]), tuple(row["text"]))
        else:
            places = (*before.places, *row["at"])[:MOST_SHOWN]
            texts = (*before.texts, *row["text"])[:MOST_SHOWN]
            alike[beside] = replace(before, count=before.count + row["count"], places=places, texts=texts)
    return (*alike.values(), *made)


MOST_SHOWN = 4  # cells of each kind
MOST_PATTERNS = 12  # kinds of cells that are no numbers


def pattern_of(texts: pl.Series) -> pl.Series:
    """What is the same in texts that differ in their digits only."""
    return texts.str.strip_chars().str.replace_all(r"\d+(?:[.,]\d+)*", "9")


@lru_cache(maxsize=2_000)
def _meanings(pairs: tuple[tuple[str, str], ...], said: SaidBeside) -> tuple[Beside | None, ...]:
    """What the texts before and behind digits mean, pair by pair; None for what means nothing that is known."""
    first = tuple(_parsed(head, tail, False, said) for head, tail in pairs)
    sizes = any(one is not None and one.size for one in first)
    rises = any("▼" in head or "▽" in head for head, _ in pairs)
    again = tuple(
        _parsed(head, tail, True, said) if sizes or _is_currency(head + tail) else one
        for one, (head, tail) in zip(first, pairs, strict=True)
    )
    # where some go down others go up: then a triangle that points up is no minus
    return tuple(None if rises and one is not None and one.down else one for one in again)


def _is_currency(text: str) -> bool:
    return bool(re.search(rf"{_CURRENCY}|{_CODES}", text))


@lru_cache(maxsize=20_000)
def _parsed(head: str, tail: str, among_sizes: bool, said: SaidBeside) -> Beside | None:
    """What stands before and behind digits, parsed whole; None where any of it is not known."""
    made: Beside | None = Beside()
    signs: list[str] = []
    opened: list[str] = []
    quotes: list[str] = []
    for text, pattern in ((head, _BEFORE), (tail, _BEHIND)):
        at = 0
        behind = pattern is _BEHIND
        if (whole := _as_said(text, said)) is not None and made is not None:
            made = whole(made)
            continue
        while at < len(text):
            token = pattern.match(text, at)
            if token is None or made is None:
                return None
            kind, word, at = str(token.lastgroup), token[0], token.end()
            if kind == "space":
                continue
            if kind == "sign":
                # a dash behind a mark stands for no cents: 1'234.–
                signs.append(word)
            elif kind in ("open", "close"):
                opened.append(word)
            elif kind == "text":
                quotes.append(word)
            else:
                made = _with_word(made, kind, word, behind, among_sizes, said)
    if made is None or len(signs) > 1 or not _closed(opened) or not _quoted(quotes) or (signs and opened):
        return None
    if opened:
        made = replace(made, bracket=opened[0])
    negative = made.negative or bool(opened) or made.down or bool(signs and signs[0] != "+")
    if made.down and (signs or opened):
        return None
    return replace(made, negative=negative)


def _as_said(text: str, said: SaidBeside):  # type: ignore[no-untyped-def]
    """What an analyst said that the whole text before or behind digits means."""
    plain = text.strip()
    if plain in said.left_out:
        return lambda made: replace(made, read=False)
    if plain in said.notes:
        return lambda made: replace(made, note=plain)
    if plain in said.negative:
        return lambda made: replace(made, negative=True, note=plain)
    times = dict(said.times)
    if plain and plain in times:
        return lambda made: replace(made, factor=made.factor * times[plain])
    return None


def _with_word(made: Beside, kind: str, word: str, behind: bool, among_sizes: bool, said: SaidBeside) -> Beside | None:
    times = dict(said.times)
    if kind == "none":
        return made
    if word in said.left_out:
        return replace(made, read=False)
    if word in said.negative:
        return replace(made, negative=True)
    if word in said.notes:
        return replace(made, note=word)
    if word in times:
        return replace(made, factor=made.factor * times[word])
    if kind == "down":
        return replace(made, down=True)
    if kind in ("currency", "percent"):
        return _in(made, word)
    if kind == "note":
        inside = word.strip("()")
        standing = standing_of(inside) if inside != word and inside[:1].isalpha() else None
        if inside[:1].isalpha() and inside != word and standing is None and len(inside) > 1:
            return None
        return replace(made, note=word, standing=standing or made.standing)
    if CREDIT.fullmatch(word) and not (among_sizes and word in ("Cr", "Cr.")):
        return replace(made, side=word.upper().rstrip(".")[:2]) if behind and not made.side else None
    size = size_of(word, among_sizes=among_sizes)
    if size is not None and behind:
        return replace(made, factor=made.factor * size, size=word) if not made.size else None
    standing = standing_of(word)
    if standing is not None and (behind or standing is not Standing.FLAGGED):
        return replace(made, standing=standing, note=word) if made.standing is None else None
    return _in(made, word) if behind else None


def _in(made: Beside, unit: str) -> Beside | None:
    """With a unit; numbers have one, or a currency and what it is for."""
    return replace(made, unit=unit) if not made.unit else None


def _closed(brackets: list[str]) -> bool:
    return not brackets or (len(brackets) == 2 and _BRACKETS.get(brackets[0]) == brackets[1])


def _quoted(quotes: list[str]) -> bool:
    """A spreadsheet's mark of a text, or a cell that it wrote as a formula."""
    return quotes in ([], ["'"], ['="', '"'], ['"', '"'])


def detect_decimal(cells: pl.Series) -> DecimalMark:
    """The mark under which more of the cells are numbers; a point where both read as many."""
    texts = cells.drop_nulls()
    texts = texts.filter(texts.str.contains("[.,]"))
    if not texts.len():
        return DecimalMark.POINT
    point, comma = (
        texts.len() - read_numbers(texts, mark)[0].null_count() for mark in (DecimalMark.POINT, DecimalMark.COMMA)
    )
    return DecimalMark.COMMA if comma > point else DecimalMark.POINT
