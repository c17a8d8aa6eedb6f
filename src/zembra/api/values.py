"""The table of all drawn lines, one page of periods at a time."""

from __future__ import annotations

from datetime import date

import numpy as np
from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.models.problem import Problem
from zembra.api.models.values import ValueColumn, ValuePage
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.core.errors import Refusal
from zembra.core.figure.build import shown_names
from zembra.core.figure.parts.base import milliseconds, numbers
from zembra.core.handover.valuestable import ValuesColumn, value_columns, value_periods
from zembra.store.studies import kept_study

blueprint = Resource(
    "values",
    __name__,
    url_prefix="/api/studies/<int:study_id>/values",
    abp_tags=[Tag(name="values")],
    abp_responses={404: Problem, 422: Problem},
)
MOST_COLUMNS = 60


class ValueQuery(BaseModel):
    """Query.

    columns: ids in order, by default what is drawn
    seek: day whose index is wanted
    """

    columns: list[str] = Field(default_factory=list, max_length=MOST_COLUMNS)
    start: int = Field(0, ge=0)
    count: int = Field(200, ge=0, le=5000)
    seek: date | None = None


@blueprint.get("", summary="Rows of the values table", responses={200: ValuePage})
def values(path: StudyPath, query: ValueQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    result = application().runs.run(kept, patience=0).result
    every = value_columns(result)
    drawn = set(shown_names(result, kept.figure))
    shown = (
        _chosen(every, query.columns)
        or [column for column in every if column.of in drawn or not column.of][:MOST_COLUMNS]
    )
    periods = value_periods(shown)
    part = periods[query.start : query.start + query.count]
    grain = result.state.grain
    columns = [column.at(part, result.state.frame) for column in shown]
    return reply(
        ValuePage.model_construct(
            total=int(periods.size),
            start=query.start,
            place=None if query.seek is None else int(np.searchsorted(periods, grain.span(query.seek)[0])),
            every=[ValueColumn(id=column.id, of=column.of, name=column.name, kind=column.kind) for column in every],
            columns=[column.id for column in shown],
            periods=grain.labels(part),
            t=milliseconds(part, result.state.expected),
            values=[numbers(column.values) for column in columns],
            conditions=[column.conditions for column in columns],
            raws=[column.raws for column in columns],
            places=[column.places.tolist() for column in columns],
        )
    )


def _chosen(every: list[ValuesColumn], wanted: list[str]) -> list[ValuesColumn]:
    by_id = {column.id: column for column in every}
    missing = next((column for column in wanted if column not in by_id), None)
    if missing is not None:
        raise Refusal(f"There is no line “{missing}” in this study.", todo="Choose the columns again.")
    return [by_id[column] for column in wanted]
