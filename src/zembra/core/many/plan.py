"""Plan how a ledger is run in parts: what every part needs, and what is impossible in parts."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from zembra.core.calendar.complete import Span, Until
from zembra.core.calendar.grain import Unit
from zembra.core.entries.calendar.calendar import Calendar
from zembra.core.entries.calendar.source import Source
from zembra.core.entries.projections.clauses.projected import LimitsWord
from zembra.core.entries.projections.projection import Projection
from zembra.core.errors import Refusal
from zembra.core.grammar import Sentence
from zembra.core.ledger.entry import Needs
from zembra.core.ledger.lineentry import LineEntry
from zembra.core.ledger.model import Ledger, Record, entry_of
from zembra.core.ledger.registry import kinds
from zembra.core.slots import slots

_SERIES = ("lines", "series")  # lists that words name series from
# what there is to do where an entry needs all lines at once, by its kind
_INSTEAD = {
    "derive": "Bring the total in as a series of its own, and set the others against it.",
    "together": "Take the mean, the sum, the smallest or the largest instead.",
    "projection": "Say how many periods it goes on.",
}


@dataclass(frozen=True, slots=True)
class Plan:
    """How a ledger is run in parts.

    ledger: for every part
    targets: series that every part needs
    sums: entries combined from the results of parts
    pooled_limits: projections with pooled limits, and their levels
    refused: entries that cannot be run in parts, with reasons
    """

    ledger: Ledger
    targets: tuple[str, ...]
    sums: tuple[str, ...]
    pooled_limits: tuple[tuple[str, tuple[float, ...]], ...]
    refused: tuple[tuple[str, Refusal], ...]


@dataclass(frozen=True, slots=True)
class DataEnds:
    """The first and last day with a row, of all series together and of their intersection."""

    first: date
    last: date
    common_first: date
    common_last: date


def needs_ends(ledger: Ledger) -> bool:
    """Return whether the calendar depends on the ends of other series."""
    calendar = _calendar(ledger)
    return calendar.span in (Span.WHOLE, Span.COMMON) or calendar.until in (Until.WHOLE, Until.COMMON)


def planned(ledger: Ledger, ends: DataEnds | None = None) -> Plan:
    """Plan a ledger. Raises Refusal if parts could not give the result of the whole.

    ends: required if `needs_ends`
    """
    calendar = _calendar(ledger)
    unit = calendar.grain.unit
    if calendar.grain.step > 1 and unit is not Unit.MINUTE:
        raise Refusal(
            f"{calendar.grain.label} begin where the first row of all series stands, which no part of them knows.",
            todo="Choose a grain of one unit.",
        )
    if needs_ends(ledger) and unit in (Unit.HOUR, Unit.MINUTE, Unit.MOMENT):
        raise Refusal(
            "Lines that end with those of other series are told by days, which this grain is finer than.",
            todo="Have lines begin and end by their own rows, or on a given day.",
        )
    refused: dict[str, Refusal] = {}
    sums: list[str] = []
    targets: dict[str, None] = {}
    records = []
    for item in ledger.entries:
        if item.on:
            entry = entry_of(item)
            needs = entry.needs
            on_sum = isinstance(entry, LineEntry) and next((name for name in entry.refers_to() if name in sums), None)
            if needs is Needs.ALL:
                refused[item.id] = Refusal(
                    f"{entry.title} needs all series at once, which are never all there.",
                    place=f"the entry {item.id}",
                    todo=_INSTEAD.get(item.kind, "Switch it off, or draw a few series on the bench."),
                )
            elif on_sum:
                refused[item.id] = Refusal(
                    f"{entry.title} needs a line of several series, which is known only when all parts are done.",
                    place=f"the entry {item.id}",
                    todo="Switch it off, or draw a few series on the bench.",
                )
            elif needs is Needs.SUMS:
                sums.append(item.id)
            else:
                targets |= dict.fromkeys(_targets(type(entry), item.params))
        records.append(item)
    off = {*refused, *sums}
    entries = tuple(
        item.model_copy(update={"on": False}) if item.id in off else _with_ends(item, ends) for item in records
    )
    pooled_limits = tuple(
        (item.id, entry.levels)
        for item in entries
        if item.on and isinstance(entry := entry_of(item), Projection) and entry.limits is LimitsWord.LIKE
    )
    carried = ledger.model_copy(update={"entries": entries})
    return Plan(carried, tuple(targets), tuple(sums), pooled_limits, tuple(refused.items()))


def for_part(ledger: Ledger, names: Collection[str]) -> Ledger | None:
    """Return the ledger for a part with these series, or None if none is in the study. Entries about other series
    are switched off.
    """
    known = set(names)
    entries = []
    for item in ledger.entries:
        kind = kinds().get(item.kind)
        if not item.on or kind is None:
            entries.append(item)
            continue
        params = dict(item.params)
        gone = False
        for name, slot in slots(kind).items():
            if slot.options in _SERIES and slot.type == "names" and params.get(name):
                params[name] = [series for series in params[name] if series in known]
                gone = gone or (name == "series" and not params[name])
        if gone and kind is Source:
            return None
        entries.append(item.model_copy(update={"params": params, "on": not gone}))
    return ledger.model_copy(update={"entries": tuple(entries)})


def prefix(ledger: Ledger, entry: str) -> Ledger:
    """Return the entries before one."""
    places = [n for n, item in enumerate(ledger.entries) if item.id == entry]
    return ledger.model_copy(update={"entries": ledger.entries[: places[0]]})


def narrowed_to(ledger: Ledger, entry: str, names: Collection[str]) -> Ledger:
    """Return the entries up to one, which is restricted to some series."""
    places = [n for n, item in enumerate(ledger.entries) if item.id == entry]
    *before, last = ledger.entries[: places[0] + 1]
    own = last.model_copy(update={"params": {**last.params, "series": list(names)}})
    return ledger.model_copy(update={"entries": (*before, own)})


def _calendar(ledger: Ledger) -> Calendar:
    found = next((entry_of(item) for item in ledger.entries if item.kind == Calendar.kind), Calendar())
    assert isinstance(found, Calendar)
    return found


def _with_ends(item: Record, ends: DataEnds | None) -> Record:
    if item.kind != Calendar.kind or ends is None:
        return item
    calendar = entry_of(item)
    assert isinstance(calendar, Calendar)
    starts = {Span.WHOLE: ends.first, Span.COMMON: ends.common_first}
    stops = {Until.WHOLE: ends.last, Until.COMMON: ends.common_last}
    params = dict(item.params)
    if calendar.span in starts:
        params |= {"span": Span.GIVEN.value, "start": starts[calendar.span].isoformat()}
    if calendar.until in stops:
        params |= {"until": Until.GIVEN.value, "end": stops[calendar.until].isoformat()}
    return item.model_copy(update={"params": params})


def _targets(kind: type[Sentence], params: Mapping[str, Any]) -> Iterator[str]:
    """Return the series that parameters name as references."""
    for name, slot in slots(kind).items():
        value = params.get(name)
        if slot.options in _SERIES and slot.type == "name" and isinstance(value, str):
            yield value
        elif slot.clauses and isinstance(value, dict):
            clause = next(
                (offered for offered in slot.clauses if offered.model_fields["kind"].default == value.get("kind")), None
            )
            if clause is not None:
                yield from _targets(clause, value)
