"""Tables composed at random: a form of dates × a form of numbers × what stands beside them × a layout × a container × dirt, with
the numbers that stand in them."""

from __future__ import annotations

import csv
import io
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from random import Random

import xlsxwriter

from tests.help import AS_OF
from zembra.core.asking.ask import open_questions
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.ledger.run import Result, run

ROUTES = ("Outer Isles", "Harbour Loop", "North Head", "Kittiwake Bay")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
MOIS = ("janv.", "févr.", "mars", "avr.", "mai", "juin", "juil.", "août", "sept.", "oct.", "nov.", "déc.")
MONATE = (
    "Januar",
    "Februar",
    "März",
    "April",
    "Mai",
    "Juni",
    "Juli",
    "August",
    "September",
    "Oktober",
    "November",
    "Dezember",
)


@dataclass(frozen=True)
class DateForm:
    """write: the text of a moment. label: its period as Zembra says it. step: the next moment."""

    name: str
    write: Callable[[datetime], str]
    label: Callable[[datetime], str]
    step: Callable[[datetime], datetime]
    first: datetime = datetime(2024, 3, 1)
    across: bool = False


def _month_on(at: datetime, months: int = 1) -> datetime:
    count = at.year * 12 + at.month - 1 + months
    return datetime(count // 12, count % 12 + 1, 1)


def _day(text: str) -> Callable[[datetime], str]:
    return lambda at: at.strftime(text)


def _iso_week(at: datetime) -> tuple[int, int]:
    year, week, _ = at.isocalendar()
    return year, week


DAY, WEEK = timedelta(days=1), timedelta(days=7)
_DAILY = _day("%Y-%m-%d")
_MONTHLY = _day("%Y-%m")
_MONDAY = datetime(2024, 2, 26)
_QUARTERLY: Callable[[datetime], str] = lambda at: f"{at.year}-Q{(at.month + 2) // 3}"  # noqa: E731
_WEEKLY: Callable[[datetime], str] = lambda at: "{}-W{:02d}".format(*_iso_week(at))  # noqa: E731


def _days(name: str, write: Callable[[datetime], str]) -> DateForm:
    return DateForm(name, write, _DAILY, lambda at: at + DAY)


def _months(name: str, write: Callable[[datetime], str], across: bool = True) -> DateForm:
    return DateForm(name, write, _MONTHLY, _month_on, across=across)


def _weeks(name: str, write: Callable[[datetime], str]) -> DateForm:
    return DateForm(name, write, _WEEKLY, lambda at: at + WEEK, _MONDAY)


def _quarters(name: str, write: Callable[[datetime], str]) -> DateForm:
    return DateForm(name, write, _QUARTERLY, lambda at: _month_on(at, 3), datetime(2019, 1, 1), across=True)


DATES = (
    _days("iso", _DAILY), _days("d/m/y", _day("%d/%m/%Y")), _days("m/d/y", _day("%m/%d/%Y")), _days("d.m.y", _day("%d.%m.%Y")),
    _days("words", _day("%d %b %Y")), _days("weekday", _day("%a %d %b %Y")), _days("eight digits", _day("%Y%m%d")),
    _days("CJK", lambda at: f"{at.year}年{at.month}月{at.day}日"), _days("arabic digits", lambda at: _DAILY(at).translate(str.maketrans("0123456789", "٠١٢٣٤٥٦٧٨٩"))),
    _days("midnight", _day("%Y-%m-%dT00:00:00")), _days("as of", lambda at: f"as of {at:%d %B %Y}"),
    _months("iso month", _MONTHLY), _months("words", lambda at: f"{MONTHS[at.month - 1]} {at.year}"),
    _months("short", lambda at: f"{MONTHS[at.month - 1]}-{at.year % 100:02d}"), _months("french", lambda at: f"{MOIS[at.month - 1]} {at.year}"),
    _months("german", lambda at: f"{MONATE[at.month - 1]} {at.year}"), _months("m/y", _day("%m/%Y")), _months("2024M03", _day("%YM%m")),
    _months("reiwa", lambda at: f"令和{at.year - 2018}年{at.month}月", across=False), _months("month ended", lambda at: f"Month ended {_month_on(at) - DAY:%d %B %Y}", across=False),
    _weeks("2024-W09", _WEEKLY), _weeks("KW", lambda at: "KW{1:02d}/{0}".format(*_iso_week(at))), _weeks("KW short", lambda at: f"KW{_iso_week(at)[1]}/{_iso_week(at)[0] % 100:02d}"),
    _weeks("range", lambda at: f"{at:%d.%m.}–{at + 6 * DAY:%d.%m.%Y}"), _weeks("range in words", lambda at: f"{at:%d %b} - {at + 6 * DAY:%d %b %Y}"),
    _weeks("w/c", lambda at: f"w/c {at:%d %B %Y}"), _weeks("iso range", lambda at: f"{at:%Y-%m-%d}/{at + 6 * DAY:%Y-%m-%d}"),
    _quarters("2019-Q1", _QUARTERLY), _quarters("Q1 2019", lambda at: f"Q{(at.month + 2) // 3} {at.year}"), _quarters("1Q19", lambda at: f"{(at.month + 2) // 3}Q{at.year % 100}"),
    _quarters("months", lambda at: f"{MONTHS[at.month - 1]}-{MONTHS[at.month + 1]} {at.year}"), _quarters("words", lambda at: f"{('First', 'Second', 'Third', 'Fourth')[(at.month - 1) // 3]} quarter {at.year}"),
)  # fmt: skip


def _swapped(text: str) -> str:
    return text.translate(str.maketrans(",.", ".,"))


def _lakh(value: float, places: int) -> str:
    whole, mark, rest = f"{abs(value):.{places}f}".partition(".")
    head, tail = whole[:-3], whole[-3:]
    parts = [head[max(0, n - 2) : n] for n in range(len(head), 0, -2)][::-1]
    return f"{'-' if value < 0 else ''}{','.join([*parts, tail])}{mark}{rest}"


# each writes a number with so many decimals
NUMBERS: dict[str, Callable[[float, int], str]] = {
    "point": lambda value, places: f"{value:.{places}f}",
    "comma": lambda value, places: f"{value:.{places}f}".replace(".", ","),
    "thousands": lambda value, places: f"{value:,.{places}f}",
    "german": lambda value, places: _swapped(f"{value:,.{places}f}"),
    "spaces": lambda value, places: f"{value:,.{places}f}".replace(",", "\u00a0").replace(".", ","),
    "thin spaces": lambda value, places: f"{value:,.{places}f}".replace(",", "\u202f"),
    "swiss": lambda value, places: f"{value:,.{places}f}".replace(",", "’"),
    "underscores": lambda value, places: f"{value:_.{places}f}",
    "lakh": _lakh,
    "wide": lambda value, places: f"{value:.{places}f}".translate(
        str.maketrans("0123456789.", "０１２３４５６７８９．")
    ),
    "exponent": lambda value, places: f"{value:.12E}",
}
# how a number below zero is written, from its text without a sign
NEGATIVE: dict[str, Callable[[str], str]] = {
    "minus": lambda text: f"-{text}",
    "true minus": lambda text: f"−{text}",
    "en dash": lambda text: f"–{text}",
    "brackets": lambda text: f"({text})",
    "trailing": lambda text: f"{text}-",
    "triangle": lambda text: f"▲{text}",
    "apart": lambda text: f"- {text}",
}
AROUND = (
    "{}",
    "{}",
    "{}",
    "€ {}",
    "{} €",
    "${}",
    "CHF {}",
    "{} zł",
    "{}%",
    "{} kg",
    "R$ {}",
    "{}円",
    "USD {}",
    "{} €/l",
)
STANDING = ("{}*", "{} p", "(p) {}", "{} [1]", "{}¹", "{} prov.", "{} (est.)", "e{}", "~{}", "{} r", "{} (2)", "{}†")


@dataclass(frozen=True)
class Composed:
    """data: the file. truth: by series the number of each period. made_of: what it was composed of. rows: the grid that was
    written, for damage; values: the places in it that hold numbers."""

    data: bytes
    truth: dict[str, dict[str, float]]
    made_of: str
    rows: tuple[tuple[str, ...], ...] = ()
    values: tuple[tuple[int, int], ...] = ()
    delimiter: str = ","


def composed(rng: Random, *, plain: bool = False) -> Composed:
    """plain: a delimited text with nothing beside its numbers, to be damaged."""
    form = rng.choice(DATES)
    periods, at = [], form.first
    for _ in range(rng.choice([14, 26, 40])):
        periods.append(at)
        at = form.step(at)
    routes = rng.sample(ROUTES, rng.choice([1, 2, 3]))
    writing = rng.choice([name for name in NUMBERS if not plain or name in ("point", "comma", "thousands", "german")])
    signed = not plain and rng.random() < 0.3
    negative, around = rng.choice(list(NEGATIVE)), "{}" if plain else rng.choice(AROUND)
    size = rng.choice([900, 90_000, 4e6] if plain else [9, 90, 900, 90_000, 4e6])
    places = rng.choice([2, 2, 2, 0, 1, 3])
    truth = {route: {form.label(period): _number(rng, size, signed, places) for period in periods} for route in routes}
    marked = rng.choice(STANDING) if not plain and rng.random() < 0.35 else "{}"
    newest = {form.label(period) for period in periods[-3:]}
    layout = "down" if plain else rng.choice(["down", "down", "long", *(["across"] if form.across else [])])

    def cell(route: str, period: datetime) -> str:
        value = truth[route][form.label(period)]
        text = NUMBERS[writing](abs(value), places)
        text = NEGATIVE[negative](text) if value < 0 else text
        text = around.format(text)
        return marked.format(text) if form.label(period) in newest else text

    head = "Week" if form.label is _WEEKLY else "Period" if form.label is not _DAILY else "Date"
    if layout == "across":
        rows = [
            ["Route", *map(form.write, periods)],
            *([route, *(cell(route, at) for at in periods)] for route in routes),
        ]
    elif layout == "long":
        rows = [
            [head, "Route", "Amount"],
            *([form.write(at), route, cell(route, at)] for at in periods for route in routes),
        ]
    else:
        rows = [[head, *routes], *([form.write(at), *(cell(route, at) for route in routes)] for at in periods)]
    numbers = [
        (n, m) for n, row in enumerate(rows[1:], 1) for m in range(len(row)) if m >= (2 if layout == "long" else 1)
    ]  # fmt: skip
    dirt = [] if plain else _dirt(rng, rows, layout, truth, routes, periods, form)
    container, delimiter = _container(rng, plain, rows)
    made_of = f"{form.name} × {writing} {places} {negative if signed else ''} {around} {marked} × {layout} × {container} × {' '.join(dirt)}"
    data = _written(container, delimiter, rows)
    return Composed(data, truth, made_of, tuple(map(tuple, rows)), tuple(numbers), delimiter)


def _number(rng: Random, size: float, signed: bool, places: int) -> float:
    value = round(rng.uniform(0.05, 1) * size, places)
    return -value if signed and rng.random() < 0.3 else value


def _dirt(
    rng: Random, rows: list[list[str]], layout: str, truth: dict[str, dict[str, float]], routes: Sequence[str],
    periods: Sequence[datetime], form: DateForm,
) -> list[str]:  # fmt: skip
    """What is around and among the rows; some numbers become blank."""
    kinds = [kind for kind in ("title", "total", "blank", "note", "index") if rng.random() < 0.18]
    if "blank" in kinds and layout == "down":
        at, route = rng.randrange(1, len(periods) - 4), rng.choice(routes)
        rows[at + 1][list(rows[0]).index(route)] = rng.choice(["", "n/a", "-", "closed"])
        del truth[route][form.label(periods[at])]
    if "index" in kinds and layout == "down":
        rows[:] = [[str(n - 1) if n else "", *row] for n, row in enumerate(rows)]
    if "total" in kinds and layout == "down" and "index" not in kinds:
        rows.append(["Total", *("1" for _ in rows[0][1:])])
    if "note" in kinds:
        rows.append(["Counted at the pier", *("" for _ in rows[0][1:])])
    if "title" in kinds:
        rows[:0] = [["Saltmarch Ferries", *("" for _ in rows[0][1:])], ["" for _ in rows[0]]]
    return kinds


def _container(rng: Random, plain: bool, rows: Sequence[Sequence[str]]) -> tuple[str, str]:
    kind = "text" if plain else rng.choice(["text", "text", "text", "workbook", "JSON", "page"])
    return kind, rng.choice([",", ";", "\t", "|"])


def _written(container: str, delimiter: str, rows: Sequence[Sequence[str]]) -> bytes:
    if container == "workbook":
        out = io.BytesIO()
        with xlsxwriter.Workbook(out) as book:
            sheet = book.add_worksheet()
            for n, row in enumerate(rows):
                for m, text in enumerate(row):
                    if text:
                        sheet.write_string(n, m, text)
        return out.getvalue()
    if container == "JSON" and len({len(row) for row in rows}) == 1 and all(rows[0]):
        return json.dumps([dict(zip(rows[0], row, strict=True)) for row in rows[1:]], ensure_ascii=False).encode()
    if container == "page":
        cells = "".join(f"<tr>{''.join(f'<td>{text}</td>' for text in row)}</tr>" for row in rows)
        return f"<html><meta charset=utf-8><body><table>{cells}</table></body></html>".encode()
    text = io.StringIO()
    csv.writer(text, delimiter=delimiter, lineterminator="\n").writerows(rows)
    return text.getvalue().encode()


def damaged(table: Composed, rng: Random) -> tuple[Composed, int, str]:
    """A table with one letter, space, mark or footnote put into one of its numbers: (the table, the row, the cell)."""
    n, m = rng.choice([place for place in table.values if len(table.rows[place[0]][place[1]]) > 1])
    cell = table.rows[n][m]
    at = rng.randrange(1, len(cell))
    put = rng.choice(["x", "o", "k", " ", ",", ".", " 2", "*", " [1]", "¹"])
    # a footnote stands behind its number, other damage anywhere in it
    hurt = cell + put if put in (" 2", "*", " [1]", "¹") else cell[:at] + put + cell[at:]
    rows = [list(row) for row in table.rows]
    rows[n][m] = hurt
    data = _written("text", table.delimiter, rows)
    return replace(table, data=data, rows=tuple(map(tuple, rows))), n + 1, hurt


def read(data: bytes) -> tuple[BroughtIn, Result]:
    brought = bring_in(data)
    return brought, run(brought.observations, first_ledger(brought.observations, brought.how, AS_OF), AS_OF)


def verdict(table: Composed) -> str:
    """right, asked, refused, or what is wrong without a word."""
    try:
        brought, result = read(table.data)
    except Refusal:
        return "refused"
    wrong = difference(result, table.truth)
    if not wrong:
        return "right"
    return "asked" if open_questions(brought, result) else wrong


def difference(result: Result, truth: dict[str, dict[str, float]]) -> str:
    lines = {}
    for line in result.base.lines:
        labels = result.base.grain.labels(line.periods)
        lines[line.name] = {k: float(v) for k, v in zip(labels, line.original, strict=True) if not math.isnan(v)}
    if len(truth) == 1 and len(lines) == 1:
        lines = dict(zip(truth, lines.values(), strict=True))
    for name, cells in truth.items():
        if name not in lines:
            return f"no {name} among {sorted(lines)}"
        keys = cells.keys() | lines[name].keys()
        other = sorted(
            key
            for key in keys
            if abs(cells.get(key, 1e99) - lines[name].get(key, -1e99)) > 1e-6 * abs(cells.get(key, 1))
        )
        if other:
            return f"{name} at {other[0]}: {cells.get(other[0])} read as {lines[name].get(other[0])}"
    return ""


def has_a_word(table: Composed, row: int, cell: str) -> bool:
    """Whether a damaged cell changes nothing, is asked about, named in what is told, or refused."""
    try:
        brought, result = read(table.data)
    except Refusal:
        return True
    if not difference(result, table.truth) or open_questions(brought, result):
        return True
    return any(cell in notice.text or f"row {row}" in notice.text for notice in brought.notices)
