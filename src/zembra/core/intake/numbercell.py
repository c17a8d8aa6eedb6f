"""Parse a number cell by one grammar, wholly or not at all (docs/intake.md).

cell   = before* digits behind*
before = sign | bracket | currency | standing | "'" | '="'
digits = groups [mark fraction] [exponent] | mark fraction | whole fraction
groups = 1 to 3 digits and then groups of 3 (or of 2, the last of 3), all parted by the same: space, ' , _ or the other mark
behind = currency | size | unit | footnote | standing | sign | bracket | '"'
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import lru_cache

import polars as pl

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


CELL = {DecimalMark.POINT: _cell(".", ","), DecimalMark.COMMA: _cell(",", ".")}
# digits and marks of other scripts, and the wide ones of East Asia; superscripts stay what they are
SCRIPT_DIGITS = "٠١٢٣٤٥٦٧٨٩۰۱۲۳۴۵۶۷۸۹๐๑๒๓๔๕๖๗๘๙०१२३४५६७८९０１２３４５６７８９"
_TO_ASCII = {letter: str(n % 10) for n, letter in enumerate(SCRIPT_DIGITS)} | {
    "．": ".", "，": ",", "（": "(", "）": ")", "－": "-", "％": "%", "\ufeff": "", "\u200e": "", "\u200f": "", "\u200b": "",
}  # fmt: skip
_TRANSLATED = str.maketrans({**_TO_ASCII, "٬": "", "٫": "."})
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
    """The analyst's decisions about texts beside numbers.

    notes: to ignore
    negative: that mean negative
    left_out: that exclude the number
    times: factor by text, "" for numbers without one
    """

    notes: tuple[str, ...] = ()
    negative: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    times: tuple[tuple[str, float], ...] = ()


NOTHING_SAID = SaidBeside()


@dataclass(frozen=True, slots=True)
class Affix:
    """The text beside digits.

    factor: multiplier
    size, unit: as written
    side: CR or DR
    bracket: an opening one that means negative
    note: footnote or flag
    down: a triangle that means negative
    read: whether the number counts
    """

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


def in_ascii(texts: pl.Series, decimal: DecimalMark) -> pl.Series:
    """Convert digits and marks of other scripts to ASCII."""
    if not texts.str.contains(FOREIGN).any():
        return texts
    group, mark = (",", ".") if decimal is DecimalMark.POINT else (".", ",")
    letters = {**_TO_ASCII, "٬": group, "٫": mark}
    return texts.str.replace_many(list(letters), list(letters.values()))


def plain_digits(numbers: pl.Series, decimal: DecimalMark) -> pl.Series:
    """Return digits without group separators, with a decimal point."""
    group, mark = (",", ".") if decimal is DecimalMark.POINT else (".", ",")
    return numbers.str.replace_all(rf"[{_SPACE}{_APOSTROPHE}_{group}]", "").str.replace(rf"[{mark}·][-–—]?", ".")


def digits(numbers: pl.Series, plain: pl.Series) -> pl.Series:
    """Convert to numbers.

    plain: see `plain_digits`
    """
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


@lru_cache(maxsize=2_000)
def meanings(pairs: tuple[tuple[str, str], ...], said: SaidBeside) -> tuple[Affix | None, ...]:
    """Return the meaning of each prefix and suffix, None if unknown."""
    first = tuple(_parsed(head, tail, False, said) for head, tail in pairs)
    sizes = any(one is not None and one.size for one in first)
    rises = any("▼" in head or "▽" in head for head, _ in pairs)
    again = tuple(
        _parsed(head, tail, True, said) if sizes or _is_currency(head + tail) else one
        for one, (head, tail) in zip(first, pairs, strict=True)
    )
    # if some point down and others up, a triangle up is no minus
    return tuple(None if rises and one is not None and one.down else one for one in again)


def _is_currency(text: str) -> bool:
    return bool(re.search(rf"{_CURRENCY}|{_CODES}", text))


@lru_cache(maxsize=20_000)
def _parsed(head: str, tail: str, among_sizes: bool, said: SaidBeside) -> Affix | None:
    """Parse prefix and suffix completely, or return None."""
    made: Affix | None = Affix()
    signs: list[str] = []
    opened: list[str] = []
    quotes: list[str] = []
    for text, pattern in ((head, _BEFORE), (tail, _BEHIND)):
        at = 0
        behind = pattern is _BEHIND
        if made is not None and (whole := _as_said(made, text, said)) is not None:
            made = whole
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


def _as_said(made: Affix, text: str, said: SaidBeside) -> Affix | None:
    """Apply the analyst's decision about a text, or return None."""
    plain = text.strip()
    times = dict(said.times)
    if not plain:
        return None
    if plain in said.left_out:
        return replace(made, read=False)
    if plain in said.notes:
        return replace(made, note=plain)
    if plain in said.negative:
        return replace(made, negative=True, note=plain)
    return replace(made, factor=made.factor * times[plain]) if plain in times else None


def _with_word(made: Affix, kind: str, word: str, behind: bool, among_sizes: bool, said: SaidBeside) -> Affix | None:
    if (as_said := _as_said(made, word, said)) is not None:
        return as_said
    if kind == "none":
        return made
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


def _in(made: Affix, unit: str) -> Affix | None:
    """Add a unit: one, or a currency per unit."""
    return replace(made, unit=unit) if not made.unit else None


def _closed(brackets: list[str]) -> bool:
    return not brackets or (len(brackets) == 2 and _BRACKETS.get(brackets[0]) == brackets[1])


def _quoted(quotes: list[str]) -> bool:
    """Strip a spreadsheet's text mark or formula quotes."""
    return quotes in ([], ["'"], ['="', '"'], ['"', '"'])


# the same patterns in the spelling of Python, which has no classes of Unicode letters
_LETTERED = (r"[^\d\p{L}.,·]", r"(?:(?![^\W\d_])[^\d.,·])")
_COMPILED = tuple(re.compile(pattern.replace(*_LETTERED)) for pattern in CELL.values())


@lru_cache(maxsize=20_000)
def is_number(text: str) -> bool:
    """Return whether a text is a number under any decimal mark."""
    plain = text.strip()
    if not any(letter.isdigit() or letter in _NAMED_FRACTIONS for letter in plain):
        return False
    plain = plain.translate(_TRANSLATED)
    for pattern in _COMPILED:
        match = pattern.match(plain)
        if match is not None:
            head, tail = match["head0"] or match["head1"] or "", match["tail"] or ""
            if meanings(((head, tail),), NOTHING_SAID)[0] is not None:
                return True
    return False
