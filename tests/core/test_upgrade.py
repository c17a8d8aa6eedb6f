"""Ledgers of earlier forms, by example and with anything in them; and the figures beside every repair."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from tests.help import run_values
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.blanks import FilledFixed
from zembra.core.errors import Refusal
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.model import parse_ledger
from zembra.core.ledger.upgrade import upgraded


def entry_after(form: int, kind: str, params: Any) -> dict[str, Any]:
    """What becomes of an entry of a ledger of a form."""
    ledger = {"format": f"zembra.ledger/{form}", "entries": [{"id": "a", "kind": kind, "on": True, "params": params}]}
    (found,) = upgraded(ledger)["entries"]
    return dict(found)


BY_HAND = {"kind": "hand", "error": "multiplicative", "trend": "damped"}


@pytest.mark.parametrize(
    ("form", "kind", "params", "then_kind", "then"),
    [
        (3, "band", {"times": 2.5, "need": 4}, "band", {"need": 4, "width": {"kind": "spreads", "times": 2.5}}),
        (3, "band", {"need": 4}, "band", {"need": 4}),
        (
            4,
            "smoothing",
            {"ahead": 9, "season": 12, "form": BY_HAND, "levels": [80]},
            "projection",
            {
                "levels": [80],
                "ahead": {"kind": "periods", "count": 9},
                "season": {"kind": "length", "season": 12},
                "method": {"kind": "smoothing-by-hand", "error": "multiplicative", "trend": "damped"},
                "limits": "own",
            },
        ),
        (
            4,
            "smoothing",
            {"season": None, "form": {"kind": "aicc"}},
            "projection",
            {
                "ahead": {"kind": "periods", "count": 56},
                "season": {"kind": "none"},
                "method": {"kind": "smoothing"},
                "limits": "own",
            },
        ),
        (4, "smoothing", {"form": {"kind": "zzz"}}, "projection", None),
        (5, "projection", {}, "projection", {"method": {"kind": "usual", "before": "five"}}),
        (5, "projection", {"method": {"kind": "usual"}}, "projection", {"method": {"kind": "usual", "before": "five"}}),
        (5, "projection", {"method": {"kind": "theta"}}, "projection", {"method": {"kind": "theta"}}),
        (5, "projection", {"method": "theta"}, "projection", {"method": "theta"}),
        (6, "projection", {}, "projection", {}),
        (2, "average", {"window": 7, "need": 3}, "average", {"window": {"kind": "periods", "length": 7, "need": 3}}),
        (
            2,
            "outliers",
            {"rule": "neighbours"},
            "outliers",
            {"rule": {"kind": "neighbours", "far": 6.0}, "then": {"kind": "open"}},
        ),
    ],
)
def test_an_entry_of_an_earlier_form(
    form: int, kind: str, params: dict[str, Any], then_kind: str, then: dict[str, Any] | None
) -> None:
    found = entry_after(form, kind, params)
    assert found["kind"] == then_kind
    if then is None:
        assert found["params"]["method"] == {"kind": "smoothing"}
    else:
        assert found["params"] == then


anything = st.recursive(
    st.none() | st.booleans() | st.integers(-9, 9) | st.text(max_size=3),
    lambda part: st.lists(part, max_size=3) | st.dictionaries(st.text(max_size=8), part, max_size=3),
    max_leaves=6,
)
words = st.sampled_from(
    ["window", "rule", "then", "form", "times", "method", "kind", "ahead", "season", "holidays", "far"]
)
records = st.fixed_dictionaries(
    {},
    optional={
        "id": anything,
        "kind": st.sampled_from(["band", "average", "smoothing", "projection", "outliers", "calendar"]) | anything,
        "params": st.dictionaries(words, anything, max_size=4) | anything,
    },
)


@settings(max_examples=150)
@given(st.integers(1, 6), st.lists(records | anything, max_size=3) | anything)
def test_whatever_stands_in_it_a_ledger_is_upgraded_or_refused(form: int, entries: Any) -> None:
    ledger = json.loads(json.dumps({"format": f"zembra.ledger/{form}", "entries": entries}))
    before = json.dumps(ledger)
    try:
        found = upgraded(ledger)
    except ValueError:
        return
    assert found["format"] == upgraded({"format": "zembra.ledger/6", "entries": []})["format"]
    # what was given is left as it was
    assert json.dumps(ledger) == before
    assert upgraded(found) == found


def test_the_figures_before_and_after_a_repair_are_those_of_another_library() -> None:
    values = [3.0, None, 4.5, 8.0, None, 6.5, 9.0]
    result = run_values(values, Blanks(treatment=FilledFixed(value=2.0)))
    (found,) = effect_table(result.base.lines, result.state.lines, result.state.grain)
    for row, cells in zip(found.rows, (values, [2.0 if v is None else v for v in values]), strict=True):
        known = [(x, v) for x, v in enumerate(cells) if v is not None]
        x, y = (np.array(part, dtype=float) for part in zip(*known, strict=True))
        line = stats.linregress(x, y)
        assert row[1:6] == pytest.approx([y.size, y.sum(), y.mean(), y.std(ddof=1), y[-1]])
        assert row[7] == pytest.approx(line.rvalue**2)
        assert f"{line.slope:.3g}"[:4] in str(row[6])
    one, two = (run_values(cells).state for cells in ([5.0, None, None], [5.0, None, 7.0]))
    before, after = effect_table(one.lines, two.lines, one.grain)[0].rows
    assert before[1:6] == (1, 5.0, 5.0, None, 5.0)
    assert after[1:4] == (2, 12.0, 6.0)
    assert after[4] == pytest.approx(np.std([5, 7], ddof=1))
    assert effect_table(one.lines, one.lines, one.grain) == ()


@pytest.mark.parametrize("form", ["0", "00", "7", "x", "", "-1"])
def test_a_form_that_there_is_not_is_refused_in_words(form: str) -> None:
    with pytest.raises(Refusal):
        parse_ledger(json.dumps({"format": f"zembra.ledger/{form}", "entries": []}))
