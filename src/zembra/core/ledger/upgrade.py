"""Upgrade ledgers of earlier formats, one version at a time.

Each step takes the ledger as plain data and says what changed. A kept ledger of every earlier form stands
in tests/kept.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from zembra.core.calendar.closed import place_named

NEWEST = 6
FORMAT = f"zembra.ledger/{NEWEST}"
_NUMBERED = re.compile(r"^zembra\.ledger/(\d+)$")


def upgraded(data: Mapping[str, Any]) -> dict[str, Any]:
    """Return the ledger in the newest format. Raises ValueError for an unknown or newer format."""
    found = _NUMBERED.match(str(data.get("format", FORMAT)))
    if found is None:
        raise ValueError(f"the form “{data.get('format')}” is not known; it should say {FORMAT}")
    number = int(found[1])
    if number < 1:
        raise ValueError(f"there never was a form {number}; the first is 1, and this Zembra knows {NEWEST}")
    if number > NEWEST:
        raise ValueError(f"it was made by a newer Zembra (form {number}; this one knows {NEWEST})")
    ledger = dict(data)
    for step in range(number, NEWEST):
        ledger = _STEPS[step](ledger)
    return {**ledger, "format": FORMAT}


def _each_entry(ledger: dict[str, Any], changed: Callable[[Any], Any]) -> dict[str, Any]:
    entries = ledger.get("entries")
    if not isinstance(entries, list | tuple):
        return ledger
    return {**ledger, "entries": [changed(item) for item in entries]}


def _to_2(ledger: dict[str, Any]) -> dict[str, Any]:
    """Name the place of public holidays, instead of a country code."""
    return _each_entry(ledger, _with_place_named)


def _with_place_named(item: Any) -> Any:
    if not isinstance(item, Mapping) or item.get("kind") != "calendar":
        return item
    params = item.get("params")
    if not isinstance(params, Mapping) or not isinstance(params.get("holidays"), str):
        return item
    return {**item, "params": {**params, "holidays": place_named(params["holidays"])}}


def _to_3(ledger: dict[str, Any]) -> dict[str, Any]:
    """Turn rules, treatments, windows and forms into clauses."""
    return _each_entry(ledger, _with_clauses)


# per entry kind: the word that became a clause with what it was by default, and per clause the words that
# went into it, under their new names
_CLAUSES: Mapping[str, tuple[tuple[str, str, Mapping[str, Mapping[str, str]]], ...]] = {
    "outliers": (
        (
            "rule",
            "neighbours",
            {
                "neighbours": {"far": "far", "measure": "measure", "side": "side", "ends": "ends"},
                "trend": {"far": "far", "from_trend": "far_in", "side": "side"},
                "middle": {"far": "far", "window": "window", "side": "side"},
                "fence": {"far": "far", "side": "side"},
                "season": {"far": "far", "season": "season", "side": "side"},
                "limits": {"low": "low", "high": "high"},
                "hand": {"points": "points"},
            },
        ),
        ("then", "open", {"seasonal": {"season": "season"}}),
    ),
    "blanks": (
        (
            "treatment",
            "straight",
            {
                "seasonal": {"season": "season", "need": "need"},
                "neighbours": {"reach": "reach"},
                "fixed": {"value": "value"},
            },
        ),
    ),
    "provisional": (
        (
            "rule",
            "last",
            {"last": {"last": "last"}, "current": {"current": "current"}, "since": {"since": "since"}, "few": {"share": "share"}},
        ),
    ),
    "derive": (
        (
            "what",
            "per-period",
            {
                "per-period": {"below": "below", "gap": "gap", "correction": "correction"},
                "total": {"restart": "restart"},
                "lagged": {"lag": "lag"},
                "lagged-percent": {"lag": "lag"},
                "index": {"base": "base"},
            },
        ),
    ),
    "against": (
        (
            "against",
            "number",
            {
                "series": {"other": "other"},
                "number": {"number": "number"},
                "months": {"months": "months"},
                "measure": {"measure": "measure"},
            },
        ),
    ),
    "smoothing": (
        ("form", "aicc", {"hand": {"error": "error", "trend": "trend", "seasonality": "seasonality"}}),
    ),
}  # fmt: skip
# words that all rules shared: a rule says them even where its own default is another
_SHARED = {"outliers": {"far": 6.0}}
_WINDOW = {"window": "length", "reach": "reach", "need": "need"}


def _with_clauses(item: Any) -> Any:
    if not isinstance(item, Mapping) or not isinstance(params := item.get("params", {}), Mapping):
        return item
    kind = str(item.get("kind"))
    if kind in ("average", "band"):
        return {**item, "params": _windowed(params)}
    changed = {**_SHARED.get(kind, {}), **params} if kind in _CLAUSES else dict(params)
    spent: set[str] = set()
    for word, usual, forms in _CLAUSES.get(kind, ()):
        chosen = changed.get(word, usual)
        if not isinstance(chosen, str):
            continue
        words = forms.get(chosen, {})
        changed[word] = {"kind": chosen, **{new: changed[old] for old, new in words.items() if old in changed}}
        spent |= {old for form in forms.values() for old in form}
    return {**item, "params": {name: value for name, value in changed.items() if name not in spent}}


def _windowed(params: Mapping[str, Any]) -> dict[str, Any]:
    if isinstance(params.get("window"), Mapping):
        return dict(params)
    words = {new: params[old] for old, new in _WINDOW.items() if old in params}
    return {
        **{name: value for name, value in params.items() if name not in _WINDOW},
        "window": {"kind": "periods", **words},
    }


def _to_4(ledger: dict[str, Any]) -> dict[str, Any]:
    """Turn the width of a band into a clause."""
    return _each_entry(ledger, _with_width)


def _with_width(item: Any) -> Any:
    if not isinstance(item, Mapping) or item.get("kind") != "band":
        return item
    params = item.get("params")
    if not isinstance(params, Mapping) or "times" not in params:
        return item
    rest = {name: value for name, value in params.items() if name != "times"}
    return {**item, "params": {**rest, "width": {"kind": "spreads", "times": params["times"]}}}


def _to_5(ledger: dict[str, Any]) -> dict[str, Any]:
    """Make smoothing one of the projection methods."""
    return _each_entry(ledger, _as_projection)


def _as_projection(item: Any) -> Any:
    if not isinstance(item, Mapping) or item.get("kind") != "smoothing":
        return item
    params = item.get("params")
    if not isinstance(params, Mapping):
        return {**item, "kind": "projection"}
    rest = {name: value for name, value in params.items() if name not in ("ahead", "season", "form")}
    form = params.get("form")
    by_hand = isinstance(form, Mapping) and form.get("kind") == "hand"
    words = (
        {name: value for name, value in form.items() if name != "kind"} if by_hand and isinstance(form, Mapping) else {}
    )
    season = params.get("season", 7)
    return {
        **item,
        "kind": "projection",
        "params": {
            **rest,
            "ahead": {"kind": "periods", "count": params.get("ahead", 56)},
            "season": {"kind": "length", "season": season} if season else {"kind": "none"},
            "method": {"kind": "smoothing-by-hand", **words} if by_hand else {"kind": "smoothing"},
            "limits": "own",
        },
    }


def _to_6(ledger: dict[str, Any]) -> dict[str, Any]:
    """Record that the default projection method was another one, until somebody decides."""
    return _each_entry(ledger, _with_method_before)


def _with_method_before(item: Any) -> Any:
    if not isinstance(item, Mapping) or item.get("kind") != "projection":
        return item
    params = item.get("params", {})
    if not isinstance(params, Mapping):
        return item
    method = params.get("method", {"kind": "usual"})
    if not isinstance(method, Mapping) or method.get("kind") != "usual":
        return item
    return {**item, "params": {**params, "method": {"kind": "usual", "before": "five"}}}


_STEPS: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _to_2, 2: _to_3, 3: _to_4, 4: _to_5, 5: _to_6}
