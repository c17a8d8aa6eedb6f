"""The follow-up list: periods to ask about, with notes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from zembra.core.ledger.evidence import periods_of
from zembra.core.ledger.run import Result
from zembra.core.watching.find import Found

AMONG_ALL = "all series: "  # how what was found among all of them begins


class State(StrEnum):
    OPEN = "open"
    ASKED = "asked"
    EXPLAINED = "explained"


@dataclass(frozen=True, slots=True)
class Noted:
    """Notes on a period of a series.

    period: its label
    by_hand: whether somebody put it on the list
    found_by, value, distance: at the time of the note
    changed: ISO 8601
    """

    series: str
    period: str
    note: str = ""
    state: State = State.OPEN
    who: str = ""
    by_hand: bool = False
    found_by: str = ""
    value: float | None = None
    distance: float | None = None
    changed: str = ""


@dataclass(frozen=True, slots=True)
class Item:
    """An item of the list.

    number: of the period, None if the study has no such period or series any more
    gone: why it is listed although nothing finds it now, or empty
    """

    series: str
    period: str
    number: int | None
    value: float | None
    distance: float | None
    found_by: tuple[str, ...]
    note: str
    state: State
    who: str
    changed: str
    gone: str = ""


def follow_up(result: Result, noted: Sequence[Noted], called: Sequence[Found] = ()) -> list[Item]:
    """Return findings of entries, calls of watches and periods added by hand, newest first. Noted items stay when
    nothing finds them.

    called: findings of watches; those of later periods are left out
    """
    notes = {(kept_note.series, kept_note.period): kept_note for kept_note in noted}
    found = _found(result)
    _add_called(found, result, called)
    items = []
    for key, (number, value, distance, finders) in found.items():
        note = notes.pop(key, None) or Noted(*key)
        by = (*finders, *(("asked by hand",) if note.by_hand else ()))
        items.append(Item(*key, number, value, distance, by, note.note, note.state, note.who, note.changed))
    items.extend(_left(result, note) for note in notes.values())
    return sorted(items, key=lambda item: (item.number is not None, item.number or 0, item.series), reverse=True)


_Found = tuple[int, float | None, float | None, tuple[str, ...]]


def _found(result: Result) -> dict[tuple[str, str], _Found]:
    listed = [finding for report in result.reports for finding in report.outcome.findings if finding.listed]
    labels = result.state.grain.labels(periods_of(listed))
    found: dict[tuple[str, str], _Found] = {}
    for finding, label in zip(listed, labels, strict=True):
        key = (finding.series, label)
        if key not in found:
            found[key] = (finding.period, finding.value, finding.distance, (finding.found_by,))
        elif finding.found_by not in found[key][3]:
            found[key] = (*found[key][:3], (*found[key][3], finding.found_by))
    return found


def _add_called(found: dict[tuple[str, str], _Found], result: Result, called: Sequence[Found]) -> None:
    lines = {line.name: line for line in result.state.lines}
    for call in called:
        if call.series not in lines:
            continue
        try:
            number = result.state.grain.parse(call.period)
        except ValueError:
            continue
        if number not in lines[call.series].periods:
            continue
        key = (call.series, call.period)
        period, value, distance, finders = found.get(key, (number, call.value, None, ()))
        found[key] = (period, value, distance, (*finders, f"watch: {call.title}"))


def _left(result: Result, note: Noted) -> Item:
    """Return the item of a noted period that nothing finds now."""
    line = next((candidate for candidate in result.state.lines if candidate.name == note.series), None)
    try:
        number: int | None = result.state.grain.parse(note.period)
    except ValueError:
        number = None
    place = -1 if line is None or number is None else int(np.searchsorted(line.periods, number))
    there = line is not None and 0 <= place < len(line) and int(line.periods[place]) == number
    value = float(line.value[place]) if line is not None and there and not np.isnan(line.value[place]) else note.value
    undrawn = line is None and note.series in result.state.observations.series
    if note.by_hand and (there or undrawn):
        gone = ""
    elif not there:
        gone = "the study has no such period any more"
    else:
        gone = f"no longer found by: {note.found_by}" if note.found_by else "nothing finds it any more"
    among_all = note.found_by.startswith(AMONG_ALL)
    by = (note.found_by if among_all else "asked by hand",) if note.by_hand else ()
    return Item(
        note.series,
        note.period,
        number if there else None,
        value,
        None if gone or (note.by_hand and not among_all) else note.distance,
        by,
        note.note,
        note.state,
        note.who,
        note.changed,
        gone,
    )


def counts(items: Sequence[Item]) -> dict[State, int]:
    return {state: sum(item.state is state for item in items) for state in State}
