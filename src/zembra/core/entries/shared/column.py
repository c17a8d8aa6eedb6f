"""Read a column of the study's file onto its calendar."""

from __future__ import annotations

import polars as pl

from zembra.core.arithmetic.arrays import Floats
from zembra.core.calendar.lines import Line
from zembra.core.calendar.nature import Nature, nature_of
from zembra.core.errors import Refusal
from zembra.core.intake.observe import Observations
from zembra.core.ledger.state import State

LOOKED_AT = 5_000


def nature_of_measure(observations: Observations, measure: str) -> Nature:
    """Return what a measure looks like as a whole."""
    values = some_values(observations.frames[measure]["value"])
    return nature_of(measure, observations.unit_of(measure, measure), values)


def some_values(values: pl.Series) -> Floats:
    """Sample enough numbers of a column to tell its nature."""
    return values.drop_nulls().head(LOOKED_AT).to_numpy()


def other_columns(observations: Observations) -> list[str]:
    """Return the number columns by name: measures, or columns that are series themselves."""
    return list(observations.columns or observations.measures)


def column_of(state: State, name: str, measure: str | None) -> Line:
    """Return the same series of another measure, or another series column, on the same calendar. Raises Refusal."""
    columns = state.observations.columns
    if measure in columns:
        name, measure = measure, state.observations.measures[0]
    known = state.observations.measures
    if measure not in known or state.calendar is None or state.selection is None:
        raise Refusal(
            "No other column is chosen.",
            place=f"the columns are {', '.join(other_columns(state.observations)[:12])}",
            todo="Choose one.",
        )
    if name not in state.observations.series:
        raise Refusal(f"{name} is not in the file.", todo="Choose a series that came with the file.")
    if state.calendar.expected.grain != state.grain:
        raise Refusal("The lines were put on another grain since.", todo="Put this entry on the first grain.")
    frame = state.observations.frames[measure]
    combine = nature_of_measure(state.observations, measure).combine
    lines = state.calendar.complete(frame, state.observations.series, combine, {})
    return lines[state.observations.series.index(name)]
