"""Read JSON as a table: records, lines, columns, or keyed records."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.decode import decode, detect_encoding
from zembra.core.intake.foreign import cell_text

INDEX = "index"
# of features on a map: where they are, which no line needs, and what is known of them
PLACES = ("geometry", "bbox")
PROPERTIES = "properties"


def parse_json(data: bytes) -> Any:
    """Parse JSON, or JSON lines as a list. Raises Refusal with the place."""
    text = decode(data, detect_encoding(data))
    try:
        return json.loads(text, object_pairs_hook=_named_once)
    except Refusal:
        raise
    except json.JSONDecodeError as error:
        lines = _lines(text) if error.msg == "Extra data" else None
        if lines is not None:
            return lines
        raise Refusal(
            f"The JSON is broken: {error.msg}.", place=f"line {error.lineno}, character {error.colno}"
        ) from None
    except RecursionError:
        raise Refusal("The JSON is nested too deeply to be a table.") from None
    except ValueError as error:
        if "digits" in str(error):
            raise Refusal("The JSON holds a number of more digits than any measure has.") from None
        raise Refusal(f"The JSON is broken: {str(error)[:120]}.") from None


def _named_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        twice = next(name for name, count in Counter(name for name, _ in pairs).items() if count > 1)
        raise Refusal("A record of the JSON holds the same name twice, and only one could be read.", place=twice[:60])
    return found


def _lines(text: bytes) -> list[Any] | None:
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            found.append(json.loads(line, object_pairs_hook=_named_once))
        except Refusal as error:
            raise Refusal(error.what, place=f"line {number}, {error.place}") from None
        except (ValueError, RecursionError):
            if number == 1:
                return None
            raise Refusal("A line of the JSON is broken.", place=f"line {number}: {line[:60]!r}") from None
    return found


def json_frame(found: Any) -> pl.DataFrame:
    """Return the table in parsed JSON as texts. Raises Refusal."""
    if isinstance(found, dict):
        return _of_object(found)
    if isinstance(found, list):
        found = _spread(found)
        if found and all(isinstance(row, list) for row in found):
            return _of_lists(found)
        for number, row in enumerate(found, 1):
            if not isinstance(row, dict):
                raise Refusal("The JSON is a list, but not of records.", place=f"item {number}: {str(row)[:60]}")
        return text_frame(found)
    raise Refusal("The JSON holds no table.", todo="A list of records, or columns of one length, is needed.")


def _spread(records: list[Any]) -> list[Any]:
    """Expand records with a nested list, such as a series with its points: one record per item."""
    if not records or not all(isinstance(record, dict) for record in records):
        return records
    lists = {name for record in records for name, value in record.items() if isinstance(value, list)}
    if len(lists) != 1:
        return records
    (name,) = lists
    items = [record.get(name) or [] for record in records]
    pairs = all(isinstance(item, list) and len(item) == 2 for inside in items for item in inside)
    inner = all(isinstance(item, dict) for inside in items for item in inside)
    if not (pairs or inner) or not any(items):
        return records
    made = []
    for record, inside in zip(records, items, strict=True):
        beside = {key: value for key, value in record.items() if key != name}
        for item in inside:
            made.append({**beside, **(item if inner else {"when": item[0], "value": item[1]})})
    return made


def _of_object(found: dict[str, Any]) -> pl.DataFrame:
    lists = {str(name): value for name, value in found.items() if isinstance(value, list)}
    tables = {str(name): value for name, value in found.items() if isinstance(value, dict)}
    if isinstance(found.get("data"), list) and isinstance(found.get("columns"), list):
        names = [str(name) for name in found["columns"]]
        index = found.get("index")
        rows = [row for row in found["data"] if isinstance(row, list)]
        if isinstance(index, list) and len(index) == len(rows):
            names, rows = [INDEX, *names], [[at, *row] for at, row in zip(index, rows, strict=True)]
        return text_frame([dict(zip(names, row, strict=False)) for row in rows])
    nested = _records_in(found)
    if nested is not None:
        return json_frame(nested)
    if lists:
        lengths = {name: len(value) for name, value in lists.items()}
        if len(set(lengths.values())) > 1:
            lengths_said = ", ".join(f"{name} has {length}" for name, length in lengths.items())
            raise Refusal("The columns of the JSON are not of one length.", place=lengths_said)
        size = next(iter(lengths.values()))
        return text_frame([{name: value[n] for name, value in lists.items()} for n in range(size)])
    if tables and len(tables) == len(found):
        return _of_keyed(tables)
    plain = {str(name): value for name, value in found.items() if not isinstance(value, dict | list)}
    if len(plain) == len(found) and len(found) > 1:
        return text_frame([{INDEX: name, "value": value} for name, value in plain.items()])
    only = next((value for value in tables.values()), None)
    if only is not None:
        return _of_object(only)
    raise Refusal("The JSON holds no table.", todo="A list of records, or columns of one length, is needed.")


def _records_in(found: dict[str, Any]) -> list[Any] | None:
    """Return the longest list of records within nested objects, or None."""
    best: list[Any] | None = None
    for value in found.values():
        inside = value if isinstance(value, list) else _records_in(value) if isinstance(value, dict) else None
        if inside and isinstance(inside[0], dict) and (best is None or len(inside) > len(best)):
            best = inside
    return best


def _of_keyed(tables: dict[str, dict[str, Any]]) -> pl.DataFrame:
    """Read objects of objects; the fewer keys are the columns."""
    inner = list(dict.fromkeys(str(key) for table in tables.values() for key in table))
    if len(tables) == 1 and any(isinstance(value, dict | list) for value in next(iter(tables.values())).values()):
        return json_frame(next(iter(tables.values())))
    if _dates(inner) or (len(tables) <= len(inner) and not _dates(list(tables))):
        return text_frame([{INDEX: key, **{name: t.get(key) for name, t in tables.items()}} for key in inner])
    return text_frame([{INDEX: key, **row} for key, row in tables.items()])


def _dates(names: list[str]) -> bool:
    from zembra.core.intake.dates import fitting_forms

    forms = fitting_forms(pl.Series(names[:50], dtype=pl.String), share=0.9)
    return any(not form.bare for form, _ in forms)


def _of_lists(found: list[list[Any]]) -> pl.DataFrame:
    """Read lists as rows, the first as header unless it holds a number."""
    if any(isinstance(cell, int | float) and not isinstance(cell, bool) for cell in found[0]):
        names, rows = [f"column {n}" for n in range(1, max(map(len, found)) + 1)], found
    else:
        names, rows = [cell_text(cell) for cell in found[0]], found[1:]
    return text_frame([dict(zip(names, row, strict=False)) for row in rows])


def text_frame(records: list[dict[str, Any]]) -> pl.DataFrame:
    """Convert records to text columns; nested records give a column for each part."""
    flat = [_flat(record, number) for number, record in enumerate(records, 1)]
    names = list(dict.fromkeys(name for record in flat for name in record))
    columns = {name: [cell_text(record.get(name)) or None for record in flat] for name in names}
    return pl.DataFrame(columns, schema=dict.fromkeys(names, pl.String))


def _flat(record: dict[str, Any], number: int) -> dict[str, Any]:
    made: dict[str, Any] = {}
    for name, value in record.items():
        if isinstance(value, dict):
            for part, inside in value.items():
                if isinstance(inside, dict | list):
                    if name in PLACES:
                        continue
                    raise Refusal(
                        "A cell of the JSON holds a table of its own.", place=f"item {number}, {name}, {part}"
                    )
                made[part if name == PROPERTIES else f"{name} {part}"] = inside
        elif isinstance(value, list):
            raise Refusal("A cell of the JSON holds a list of its own.", place=f"item {number}, {name}")
        else:
            made[str(name)] = value
    return made
