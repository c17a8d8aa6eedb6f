"""Ask about text beside numbers, and about cells that hold no number."""

from __future__ import annotations

import re
from collections.abc import Iterator

from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.question import Answer, AnswerReach, Question
from zembra.core.english import counted, listed
from zembra.core.intake.howread import ValueKind
from zembra.core.intake.joining import periods_across
from zembra.core.intake.numbers import CellMeaning, pattern_of
from zembra.core.intake.numberwords import Standing, factors_to, is_currency

MOST_PATTERNS = 3  # asked about, of one column
MOST_TEXTS = 20  # that stand beside numbers of one pattern
MOST_UNITS = 6
_DIGITS = re.compile(r"^(\D*)(\d[\d.,]*\d|\d)(.*)$")
_GLUED = re.compile(r"^\w*\d\w*$")


def beside_questions(seen: FileEvidence) -> Iterator[Question]:
    if seen.how.values.kind is ValueKind.EVENTS:
        return
    for column, said in seen.brought.observations.said.items():
        yield from _unread(seen, column, said)
        yield from _units(seen, column, said)
        yield from _sides(seen, column, said)
        yield from _forecasts(seen, column, said)


def _where(column: str) -> str:
    return f" in {column}" if column else ""


def _shown(said: CellMeaning, most: int = 3) -> str:
    return listed([f"“{text}” (row {row})" for text, row in list(zip(said.texts, said.places, strict=True))[:most]])


def _with(seen: FileEvidence, word: str, texts: tuple[str, ...]) -> dict[str, dict[str, object]]:
    """Add texts to one word of the settings."""
    return {"values": {word: [*dict.fromkeys((*getattr(seen.how.values, word), *texts))]}}


def _unread(seen: FileEvidence, column: str, said: tuple[CellMeaning, ...]) -> Iterator[Question]:
    """Ask about cells with digits that are no numbers, by pattern."""
    kinds = [alike for alike in said if alike.beside is None and any(any(map(str.isdigit, t)) for t in alike.texts)]
    for alike in kinds[:MOST_PATTERNS]:
        many = alike.count > 1
        split = [_DIGITS.match(text.strip()) for text in alike.texts]
        answers: list[Answer] = []
        first = split[0]
        if first is not None and all(split) and not _inside_a_number(alike.texts):
            before, digits, behind = (part.strip() for part in first.groups())
            texts = _beside_digits(seen, column, alike)
            says = listed([f"“{text}”" for text in (before, behind) if text])
            if texts:
                answers.append(Answer(f"{digits}: {says} changes nothing", _with(seen, "notes", texts)))
                answers.append(Answer(f"−{digits}: {says} makes it negative", _with(seen, "negative", texts)))
        if behind_all := _one_text(alike):
            thousand = _with(seen, "times", (f"{behind_all} = 1000",))
            answers.append(Answer(f"a thousand times as much: {behind_all} is a thousand", thousand))
        answers.append(Answer("they are no numbers" if many else "it is no number"))
        yield Question(
            f"unread:{column}:{alike.pattern}"[:300],
            AnswerReach.NUMBERS,
            f"{counted(alike.count, 'cell')}{_where(column)} {'are' if many else 'is'} not read as {'numbers' if many else 'a number'}.",
            f"{'They are like' if many else 'It is'} {_shown(alike)}. What {'are they' if many else 'is it'}?",
            tuple(answers),
            alike.places,
            (column,) if column else (),
        )


def _inside_a_number(texts: tuple[str, ...]) -> bool:
    """Return whether letters or marks stand between digits."""
    return any(_GLUED.match(text.strip()) and not text.strip().isdigit() for text in texts)


def _one_text(alike: CellMeaning) -> str:
    """Return the only text behind digits, if it has letters."""
    behind = {
        match[3].strip() if (match := _DIGITS.match(text.strip())) and not match[1].strip() else ""
        for text in alike.texts
    }
    return (
        behind.pop()
        if len(behind) == 1
        and any(map(str.isalpha, next(iter(behind))))
        and not re.search(r"\d", alike.pattern.replace("9", "", 1))
        else ""
    )


def _beside_digits(seen: FileEvidence, column: str, alike: CellMeaning) -> tuple[str, ...]:
    """Return the texts beside digits of a pattern, none if too many."""
    names = [column] if column else periods_across(seen.table, seen.how)
    texts: dict[str, None] = {}
    for name in names:
        cells = seen.table.cells[name].drop_nulls()
        for text in cells.filter(pattern_of(cells) == alike.pattern).unique(maintain_order=True).head(MOST_TEXTS + 1):
            match = _DIGITS.match(text.strip())
            if match is not None:
                texts |= dict.fromkeys(part for part in (match[1].strip(), match[3].strip()) if part)
    return tuple(texts) if len(texts) <= MOST_TEXTS else ()


def _units(seen: FileEvidence, column: str, said: tuple[CellMeaning, ...]) -> Iterator[Question]:
    """Ask about mixed units or magnitudes in a column."""
    units: dict[str, CellMeaning] = {}
    for alike in said:
        if alike.beside is not None and alike.beside.read and not alike.beside.side:
            units.setdefault(alike.beside.unit, alike)
    bare = _plain_cell(seen, column)
    if bare is not None:
        units.setdefault("", bare)
    named = [unit for unit in units if unit]
    one_currency = len(named) == 1 and is_currency(named[0])
    settled = {text.rpartition("=")[0].strip() for text in seen.how.values.times}
    if not named or len(units) < 2 or len(units) > MOST_UNITS or one_currency or settled & {*named, "no text"}:
        return
    if "" in units and len(named) == 1 and not seen.down:
        return
    written = tuple(units)
    answers = []
    for unit in written:
        factors = factors_to(unit, written)
        if factors is None:
            continue
        times = tuple(f"{other or 'no text'} = {factor:.12g}" for other, factor in factors.items())
        label = "all as fractions of 1" if not unit else f"all in {unit}"
        answers.append(Answer(label, _with(seen, "times", times)))
    smallest = factors_to("B", written) if "B" not in written else None
    if smallest is not None:
        times = tuple(f"{other} = {factor:.12g}" for other, factor in smallest.items())
        answers.append(Answer("all in bytes", _with(seen, "times", times)))
    answers.append(Answer("one measure: take the numbers as they are"))
    if len(answers) == 1:
        for unit in written[:3]:
            if unit:
                others = tuple(other for other in named if other != unit)
                if others:
                    answers.append(Answer(f"only those in {unit}", _with(seen, "left_out", others)))
    examples = [units[unit] for unit in written[:3]]
    yield Question(
        f"units:{column}",
        AnswerReach.NUMBERS,
        f"The numbers{_where(column)} are in {listed([unit or 'no unit' for unit in written[:4]])}.",
        f"Rows {listed([str(alike.places[0]) for alike in examples])} have {listed([f'“{alike.texts[0]}”' for alike in examples])}. "
        "What are they together?",
        tuple(answers),
        tuple(alike.places[0] for alike in examples),
        (column,) if column else (),
    )


def _plain_cell(seen: FileEvidence, column: str) -> CellMeaning | None:
    """Return a plain number cell, if others have text."""
    names = [column] if column else periods_across(seen.table, seen.how)
    for name in names:
        cells = seen.table.cells[name]
        plain = cells.str.contains(r"^\s*[-+−]?[\d.,'\s]*\d\s*$").fill_null(False)
        if plain.any():
            at = int(plain.arg_max() or 0)
            return CellMeaning(None, "9", int(plain.sum()), (seen.table.row_number(at),), (str(cells[at]),))
    return None


def _sides(seen: FileEvidence, column: str, said: tuple[CellMeaning, ...]) -> Iterator[Question]:
    """Ask which of CR and DR is negative."""
    sides: dict[str, CellMeaning] = {}
    for alike in said:
        if alike.beside is not None and alike.beside.side:
            sides.setdefault(alike.beside.side, alike)
    if not sides:
        return
    texts = {
        side: tuple(
            dict.fromkeys(
                re.sub(r"[^A-Za-z.]", "", text)
                for alike in said
                if alike.beside and alike.beside.side == side
                for text in alike.texts
            )
        )
        for side in sides
    }
    answers = [Answer(f"{side} is negative", _with(seen, "negative", texts[side])) for side in sorted(sides)]
    yield Question(
        f"sides:{column}",
        AnswerReach.NUMBERS,
        f"Numbers{_where(column)} say {listed(list(sides))}.",
        f"{listed([_shown(alike, 1) for alike in sides.values()])}. Which of them are below zero?",
        (*answers, Answer("none: take the numbers as they are")),
        tuple(alike.places[0] for alike in sides.values()),
        (column,) if column else (),
    )


def _forecasts(seen: FileEvidence, column: str, said: tuple[CellMeaning, ...]) -> Iterator[Question]:
    """Ask about numbers marked as forecasts."""
    for standing in (Standing.FORECAST, Standing.PROVISIONAL, Standing.ESTIMATED):
        kinds = [
            alike
            for alike in said
            if alike.beside is not None and alike.beside.standing is standing and alike.beside.read
        ]
        if not kinds:
            continue
        count = sum(alike.count for alike in kinds)
        many = count > 1
        notes = tuple(dict.fromkeys(alike.beside.note for alike in kinds if alike.beside))
        yield Question(
            f"standing:{column}:{standing.value}",
            AnswerReach.NUMBERS,
            f"{counted(count, 'number')}{_where(column)} {'say' if many else 'says'} {listed([f'“{note}”' for note in notes])}: {standing.value}.",
            f"{listed([_shown(alike, 2) for alike in kinds[:2]])}. {'Do they' if many else 'Does it'} count like what was measured?",
            (
                Answer("they count like the others" if many else "it counts like the others"),
                Answer("leave them out" if many else "leave it out", _with(seen, "left_out", notes)),
            ),
            tuple(place for alike in kinds for place in alike.places)[:4],
            (column,) if column else (),
            plain=standing is not Standing.FORECAST,
        )
