"""Rename series in a ledger and its figure, to copy a study to other columns."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from zembra.core.dress.model import Picture
from zembra.core.entries.calendar.source import Source
from zembra.core.figure.model import FigureSettings
from zembra.core.grammar import Sentence
from zembra.core.intake.howread import HowRead, ValueKind
from zembra.core.ledger.model import Ledger, Record
from zembra.core.ledger.registry import kinds
from zembra.core.slots import slots

SPEAKS_OF_SERIES = ("lines", "series", "other_columns")
Names = Mapping[str, str]


def renamed_ledger(ledger: Ledger, names: Names) -> Ledger:
    """Rename series and columns in a ledger.

    names: new names by old ones
    """
    entries = tuple(_entry(entry, names) for entry in ledger.entries)
    intake = _reading(ledger.intake, names) if ledger.intake else None
    return ledger.model_copy(update={"entries": entries, "intake": intake})


def renamed_figure(settings: FigureSettings, names: Names) -> FigureSettings:
    """Rename series in dress, titles and notes; looks stay with their lines."""
    pictures = tuple(_picture(picture, names) for picture in settings.pictures)
    shown = tuple(names.get(name, name) for name in settings.shown)
    return settings.model_copy(
        update={"shown": shown, "title": renamed_text(settings.title, names), "pictures": pictures}
    )


def renamed_text(text: str, names: Names) -> str:
    """Replace old names in a text where they are whole words."""
    if not names:
        return text
    longest_first = sorted(names, key=len, reverse=True)
    pattern = r"(?<!\w)(" + "|".join(re.escape(name) for name in longest_first) + r")(?!\w)"
    return re.sub(pattern, lambda found: names[found[1]], text)


def _entry(record: Record, names: Names) -> Record:
    kind = kinds().get(record.kind)
    if kind is None:
        return record
    params = _words(kind, record.params, names)
    if kind is Source:
        # a measure that is itself the series, as in a file with one column of numbers
        measure = params.get("measure")
        params = {**params, "measure": names.get(measure, measure) if isinstance(measure, str) else measure}
        params["series"] = params.get("series") or list(names.values())
    return record.model_copy(update={"params": params})


def _words(kind: type[Sentence], params: Mapping[str, Any], names: Names) -> dict[str, Any]:
    changed = dict(params)
    for name, slot in slots(kind).items():
        if name not in params:
            continue
        value = params[name]
        if slot.options in SPEAKS_OF_SERIES:
            changed[name] = _named(value, names)
        elif slot.type == "points" and isinstance(value, list):
            changed[name] = [{**item, "series": names.get(item["series"], item["series"])} for item in value]
        elif slot.clauses and isinstance(value, dict):
            clause = next(
                (item for item in slot.clauses if item.model_fields["kind"].default == value.get("kind")), None
            )
            changed[name] = _words(clause, value, names) if clause else value
        elif slot.type == "hidden" and isinstance(value, list):
            changed[name] = [_point(item, names) for item in value]
    return changed


def _point(point: Any, names: Names) -> Any:
    """Rename the series of a point."""
    if isinstance(point, dict) and isinstance(point.get("point"), dict):
        return {
            **point,
            "point": {**point["point"], "series": names.get(point["point"]["series"], point["point"]["series"])},
        }
    return point


def _named(value: Any, names: Names) -> Any:
    if isinstance(value, list | tuple):
        return [names.get(name, name) for name in value]
    return names.get(value, value) if isinstance(value, str) else value


def _reading(how: HowRead, names: Names) -> HowRead:
    values = how.values
    if values.kind is not ValueKind.COLUMNS or how.series.column is not None:
        return how
    taken = tuple(names.get(column, column) for column in values.columns)
    # the source chooses among several columns, which form one measure
    columns = taken if len(taken) == 1 else tuple(dict.fromkeys((*values.columns, *taken)))
    return how.model_copy(update={"values": values.model_copy(update={"columns": columns})})


def _picture(picture: Picture, names: Names) -> Picture:
    lines = []
    for line in picture.lines:
        entry, *rest = line.id.split("/", 1)
        series = next((name for name in names if rest and rest[0].startswith(f"{name}/")), None)
        if line.id in names:
            key = names[line.id]
        elif series is not None:
            key = f"{entry}/{names[series]}{rest[0].removeprefix(series)}"
        else:
            key = line.id
        called = renamed_text(line.called, names) if line.called else None
        fill = names.get(line.fill_to, line.fill_to) if line.fill_to else None
        lines.append(line.model_copy(update={"id": key, "called": called, "fill_to": fill}))
    headings = picture.headings.model_copy(
        update={
            "title": renamed_text(picture.headings.title, names) if picture.headings.title else picture.headings.title,
            "under": renamed_text(picture.headings.under, names) if picture.headings.under else picture.headings.under,
        }
    )
    what = picture.what.model_copy(update={"shown": tuple(names.get(shown, shown) for shown in picture.what.shown)})
    return picture.model_copy(
        update={"name": renamed_text(picture.name, names), "headings": headings, "what": what, "lines": tuple(lines)}
    )
