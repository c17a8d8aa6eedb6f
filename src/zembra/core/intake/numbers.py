"""How numbers are written, and reading them. A text that is no number is never turned into one."""

from __future__ import annotations

import polars as pl

from zembra.core.calendar.lines import Received
from zembra.core.grammar import Choice


class DecimalMark(Choice):
    POINT = ("point", "a decimal point", "1,234.5")
    COMMA = ("comma", "a decimal comma", "1.234,5")


BLANK_WORDS = (
    "n/a", "na", "n.a.", "nan", "null", "none", "nil", "-", "–", "—", ".", "..", "…", "?",
    "#N/A", "#NA", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#NULL!", "missing", "no data",
)  # fmt: skip

# how every text that `read_numbers` takes for a number begins
MAY_BE_NUMBER = r"^\s*(?:[-+−(.,\d$€£¥₹₽₩]|(?:USD|EUR|GBP|CHF|JPY|SEK|NOK|DKK|PLN|CAD|AUD)\b)"
# beyond this nothing was measured, and squares and sums would overflow
LARGEST = 1e100
# a footnote or an estimate, as statistical tables mark them behind a number
MARKED = r"\s*(?:\*{1,3}|[†‡§¹²³⁴]|\([prefs]\)|\b[prefs])$"
_SPACES = "[\\s\u00a0\u2009\u202f'’]"
_CURRENCY = r"(?:[$€£¥₹₽₩]|(?:USD|EUR|GBP|CHF|JPY|SEK|NOK|DKK|PLN|CAD|AUD)\b)"
# sign, bracket or currency before; unit (a word, %, °…) after
_SHAPE = {
    DecimalMark.POINT: (
        r"^(?P<open>\()?(?P<sign>[-+])?CUR?(?P<sign2>[-+])?"
        r"(?P<num>(?:\d{1,3}(?:[,]\d{3})+|\d+)(?:\.\d*)?(?:[eE][-+]?\d+)?|\.\d+(?:[eE][-+]?\d+)?)"
        r"CUR?(?P<pct>%)?(?P<unit>[A-Za-zµ°][A-Za-zµ°²³/]{0,11})?(?P<trail>-)?(?P<close>\))?$"
    ),
    DecimalMark.COMMA: (
        r"^(?P<open>\()?(?P<sign>[-+])?CUR?(?P<sign2>[-+])?"
        r"(?P<num>(?:\d{1,3}(?:[.]\d{3})+|\d+)(?:,\d*)?(?:[eE][-+]?\d+)?|,\d+(?:[eE][-+]?\d+)?)"
        r"CUR?(?P<pct>%)?(?P<unit>[A-Za-zµ°][A-Za-zµ°²³/]{0,11})?(?P<trail>-)?(?P<close>\))?$"
    ),
}


def read_numbers(
    cells: pl.Series, decimal: DecimalMark, blank_words: tuple[str, ...] = BLANK_WORDS
) -> tuple[pl.Series, pl.Series]:
    """(value Float64, received UInt8) of a text column: measured, blank or unreadable.

    Thousands marks, currency signs, brackets or a trailing minus for negatives and a unit after the
    number are understood; a percent sign keeps the number as written (12 % is 12).
    """
    value, received, _ = read_cells(cells, decimal, blank_words)
    return value, received


def read_cells(
    cells: pl.Series, decimal: DecimalMark, blank_words: tuple[str, ...] = BLANK_WORDS, parsed: pl.Series | None = None
) -> tuple[pl.Series, pl.Series, pl.Series]:
    """`read_numbers`, and the places of cells that are more than a plain number: those may have a unit or a mark.

    parsed: the cells cast to numbers, where that was done beside others.
    """
    if parsed is not None and decimal is DecimalMark.POINT:
        value = parsed
    else:
        plain_text = cells if decimal is DecimalMark.POINT else cells.str.replace(",", ".", literal=True)
        value = plain_text.cast(pl.Float64, strict=False)
    if decimal is DecimalMark.COMMA:
        # "1.234" is a thousand in this style; the plain cast would read it as one and a bit
        value = pl.select(pl.when(cells.str.contains(".", literal=True)).then(None).otherwise(value)).to_series()
    if not (value.abs() <= LARGEST).all():
        value = pl.select(pl.when(value.abs() <= LARGEST).then(value)).to_series()
    # a number can be a blank word too, such as -999
    numeric = [word for word in blank_words if word not in BLANK_WORDS and any(letter.isdigit() for letter in word)]
    if numeric:
        none = cells.str.strip_chars().is_in(numeric).fill_null(False)
        value = pl.select(pl.when(~none).then(value)).to_series()
    if not value.null_count():
        nothing = pl.repeat(Received.MEASURED.value, value.len(), dtype=pl.UInt8, eager=True)
        return value, nothing, pl.Series(dtype=pl.UInt32)
    rest = value.is_null() & cells.is_not_null()
    received = pl.select(
        pl.when(value.is_not_null()).then(Received.MEASURED).otherwise(Received.BLANK).cast(pl.UInt8)
    ).to_series()
    if not rest.any():
        return value, received, pl.Series(dtype=pl.UInt32)
    at = rest.arg_true()
    texts = cells.gather(at)
    slow_value, slow_received = _read_awkward(texts, decimal, blank_words)
    return value.scatter(at, slow_value), received.scatter(at, slow_received), at


def _read_awkward(texts: pl.Series, decimal: DecimalMark, blank_words: tuple[str, ...]) -> tuple[pl.Series, pl.Series]:
    blank = texts.str.strip_chars().str.to_lowercase().is_in(["", *(word.lower() for word in blank_words)])
    squeezed = texts.str.replace(MARKED, "").str.replace_all("−", "-", literal=True).str.replace_all(_SPACES, "")
    groups = squeezed.str.extract_groups(_SHAPE[decimal].replace("CUR", _CURRENCY)).struct.unnest()
    digits = groups["num"]
    if decimal is DecimalMark.POINT:
        digits = digits.str.replace_all(",", "", literal=True)
    else:
        digits = digits.str.replace_all(".", "", literal=True).str.replace(",", ".", literal=True)
    size = digits.cast(pl.Float64, strict=False)
    bracketed = groups["open"].is_not_null() & groups["close"].is_not_null()
    unbalanced = groups["open"].is_not_null() != groups["close"].is_not_null()
    twice = groups["sign"].is_not_null() & groups["sign2"].is_not_null()
    minus = (groups["sign"] == "-").fill_null(False) | (groups["sign2"] == "-").fill_null(False)
    negative = bracketed | minus | groups["trail"].is_not_null()
    frame = pl.DataFrame({"size": size, "neg": negative, "bad": unbalanced | twice, "blank": blank})
    value = frame.select(
        pl.when(pl.col("blank") | pl.col("bad") | ~(pl.col("size") <= LARGEST))
        .then(None)
        .when(pl.col("neg"))
        .then(-pl.col("size"))
        .otherwise(pl.col("size"))
    ).to_series()
    received = pl.select(
        pl.when(blank)
        .then(Received.BLANK)
        .when(value.is_not_null())
        .then(Received.MEASURED)
        .otherwise(Received.UNREADABLE)
        .cast(pl.UInt8)
    ).to_series()
    return value, received


def says_decimal(cells: pl.Series) -> bool:
    """Whether any cell shows which mark is the decimal one."""
    return any(_for_marks(cells))


def detect_decimal(cells: pl.Series) -> DecimalMark:
    """Which mark the column's cells speak for; a point where nothing decides."""
    comma, point = _for_marks(cells)
    return DecimalMark.COMMA if comma > point else DecimalMark.POINT


def _for_marks(cells: pl.Series) -> tuple[int, int]:
    """(how many cells can only have a decimal comma, only a decimal point)."""
    texts = cells.drop_nulls().str.replace_all(_SPACES, "")
    comma = texts.str.contains(r"\d,\d{1,2}\D*$|\d,\d{4,}\D*$|\.\d{3},\d|^\D*0,\d").sum()
    point = texts.str.contains(r"\d\.\d{1,2}\D*$|\d\.\d{4,}\D*$|,\d{3}\.\d|^\D*0\.\d").sum()
    if comma == point == 0:
        comma = texts.str.contains(r"^\D*\d{1,3}(\.\d{3}){2,}\D*$").sum()
        point = texts.str.contains(r"^\D*\d{1,3}(,\d{3}){2,}\D*$").sum()
    return int(comma or 0), int(point or 0)


MAY_HAVE_UNIT = r"[^\d.,+\-−\s]"
_UNIT = r"^[-+−(]?\s*(?P<before>[$€£¥₹₽₩]|[A-Z]{3}\b)?\s*[-+−]?[\d.,'\s\u00a0\u202f]*\d[.,]?\s*(?P<after>%|[$€£¥₹₽₩]|[A-Za-zµ°][A-Za-zµ°²³/]{0,11})?\)?\*?$"
FEWEST_WITH_UNIT = 0.02  # share of the cells below which a unit is a slip of the hand


def units_of(cells: pl.Series) -> dict[str, str]:
    """The units that stand with a column's numbers, each with a cell that shows it; "" for none.

    A unit is a currency or percent sign, or a word behind the number. Exponents are no units.
    """
    texts = cells.drop_nulls().str.strip_chars()
    if not bool(texts.str.contains(MAY_HAVE_UNIT).any()):
        return {}
    groups = texts.str.extract_groups(_UNIT).struct.unnest()
    unit = groups.select(pl.coalesce(pl.col("before"), pl.col("after"), pl.lit(""))).to_series()
    frame = pl.DataFrame({"text": texts, "unit": unit}).filter(
        texts.str.contains(_UNIT) & ~texts.str.contains(r"\d[eE][-+]?\d")
    )
    counted = frame.group_by("unit", maintain_order=True).agg(pl.len(), pl.col("text").first())
    if counted.height < 1 or counted["unit"].to_list() == [""]:
        return {}
    enough = counted.filter(pl.col("len") >= max(1, FEWEST_WITH_UNIT * texts.len()))
    return dict(zip(enough["unit"].to_list(), enough["text"].to_list(), strict=True))


def marked_count(cells: pl.Series) -> int:
    """How many numbers of a column have a mark of a footnote or an estimate behind them."""
    return int(cells.str.contains(r"\d\s*(?:\*{1,3}|[†‡§¹²³⁴]|\([prefs]\)|\s[prefs])$").sum() or 0)
