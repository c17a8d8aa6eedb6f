"""Ledgers of earlier forms, brought to the newest one step at a time.

Each step takes the ledger as plain data and says what changed. A kept ledger of every earlier form stands
in tests/kept.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from zembra.core.calendar.closed import place_named

NEWEST = 2
FORMAT = f"zembra.ledger/{NEWEST}"
_NUMBERED = re.compile(r"^zembra\.ledger/(\d+)$")


def upgraded(data: Mapping[str, Any]) -> dict[str, Any]:
    """The ledger in the newest form. Raises ValueError for a form that is none, or that is newer."""
    found = _NUMBERED.match(str(data.get("format", FORMAT)))
    if found is None:
        raise ValueError(f"the form “{data.get('format')}” is not known; it should say {FORMAT}")
    number = int(found[1])
    if number > NEWEST:
        raise ValueError(f"it was made by a newer Zembra (form {number}; this one knows {NEWEST})")
    ledger = dict(data)
    for step in range(number, NEWEST):
        ledger = _STEPS[step](ledger)
    return {**ledger, "format": FORMAT}


def _to_2(ledger: dict[str, Any]) -> dict[str, Any]:
    """Public holidays are those of a place by its name, no longer of a country by its code."""
    entries = ledger.get("entries")
    if not isinstance(entries, list | tuple):
        return ledger
    return {**ledger, "entries": [_with_place_named(item) for item in entries]}


def _with_place_named(item: Any) -> Any:
    if not isinstance(item, Mapping) or item.get("kind") != "calendar":
        return item
    params = item.get("params")
    if not isinstance(params, Mapping) or not isinstance(params.get("holidays"), str):
        return item
    return {**item, "params": {**params, "holidays": place_named(params["holidays"])}}


_STEPS: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _to_2}
