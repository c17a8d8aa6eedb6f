"""The values table: all drawn lines side by side, a stretch of periods at a time."""

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
from zembra.core.study.valuestable import Column, value_columns, value_periods
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
    """columns: ids in the order wanted; none for what is drawn. seek: a day whose place is asked for."""

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
    shown = _chosen(every, query.columns) or [one for one in every if one.of in drawn or not one.of][:MOST_COLUMNS]
    periods = value_periods(shown)
    part = periods[query.start : query.start + query.count]
    grain = result.state.grain
    told = [one.at(part, result.state.frame) for one in shown]
    return reply(
        ValuePage.model_construct(
            total=int(periods.size),
            start=query.start,
            place=None if query.seek is None else int(np.searchsorted(periods, grain.span(query.seek)[0])),
            every=[ValueColumn(id=one.id, of=one.of, name=one.name, kind=one.kind) for one in every],
            columns=[one.id for one in shown],
            periods=grain.labels(part),
            t=milliseconds(part, result.state.expected),
            values=[numbers(one.values) for one in told],
            conditions=[one.conditions for one in told],
            raws=[one.raws for one in told],
            places=[one.places.tolist() for one in told],
        )
    )


def _chosen(every: list[Column], wanted: list[str]) -> list[Column]:
    by_id = {one.id: one for one in every}
    missing = next((one for one in wanted if one not in by_id), None)
    if missing is not None:
        raise Refusal(f"There is no line “{missing}” in this study.", todo="Choose the columns again.")
    return [by_id[one] for one in wanted]
