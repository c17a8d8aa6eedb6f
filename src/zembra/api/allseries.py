"""Run a study's ledger on all series of its file, and browse the results."""

from __future__ import annotations

import io
from datetime import date
from pathlib import Path
from typing import Any, Literal

import polars as pl
from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from zembra.api.application import application
from zembra.api.models.allseries import (
    AllSeriesView,
    DrawnLine,
    Listed,
    Looks,
    LookView,
    OneSeries,
    SeriesColumn,
    SeriesRow,
    SeriesRows,
)
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import finite, work_view
from zembra.core.entries.projections.projection import Projection
from zembra.core.errors import Refusal
from zembra.core.handover.csvtext import safe
from zembra.core.ledger.model import first_fault
from zembra.core.many.columns import COLUMNS, Where
from zembra.core.many.looks import NOTHING, Near, words_of
from zembra.service.many.asking import ask_about
from zembra.service.many.seriessums import OfProjections, of_projections, sums_out
from zembra.service.many.study import begin, out_of, state_of
from zembra.service.many.table import Wanted, counts, every_row, points_and_lines, rows
from zembra.store.studies import KeptStudy, kept_study

blueprint = Resource(
    "all series",
    __name__,
    url_prefix="/api/studies/<int:study_id>/all-series",
    abp_tags=[Tag(name="all series")],
    abp_responses={404: Problem, 422: Problem},
)
MOST_ROWS = 500
MOST_FILTERS = 20
_FILTERS = TypeAdapter(list[Where])


class OfQuery(BaseModel):
    """Query.

    of: the series, or their sums
    """

    of: Literal["series", "sums"] = "series"

    def out(self, kept: KeptStudy) -> Path:
        return out_of(application(), kept) if self.of == "series" else sums_out(application(), kept)


class NearQuery(OfQuery):
    """Query.

    lately: days; end: periods
    """

    lately: int = Field(28, ge=0, le=36_500)
    end: int = Field(14, ge=1, le=64)

    @property
    def near(self) -> Near:
        return Near(self.lately, self.end)


class FoundQuery(NearQuery):
    """Query.

    where: JSON filters, each with column and least, most or contains
    """

    model_config = ConfigDict(extra="ignore")

    look: str = Field("", max_length=20)
    find: str = Field("", max_length=200)
    by: str = Field("series", max_length=40)
    descending: bool = False
    where: str = Field("[]", max_length=4000)

    def wanted(self, start: int = 0, count: int = 0) -> Wanted:
        """Return the query. Raises Refusal."""
        try:
            where = _FILTERS.validate_json(self.where)
        except ValidationError as error:
            raise Refusal(f"The filters cannot be read: {first_fault(error)}") from None
        if len(where) > MOST_FILTERS:
            raise Refusal(f"There are more than {MOST_FILTERS} filters.")
        return Wanted(self.look, self.find, self.by, self.descending, start, count, tuple(where))


class RowsQuery(FoundQuery):
    """Query.

    columns: names to return, comma-separated
    """

    columns: str = Field("", max_length=600)
    start: int = Field(0, ge=0)
    count: int = Field(100, ge=0, le=MOST_ROWS)


class FileQuery(FoundQuery):
    form: Literal["csv", "parquet", "xlsx"] = "csv"


class SeriesQuery(OfQuery):
    series: str = Field(max_length=1000)


@blueprint.get("", summary="How a study stands with all its series", responses={200: AllSeriesView})
def state(path: StudyPath) -> Response:
    kept = kept_study(application().engine, path.study_id)
    now = state_of(application(), kept)
    brought = application().runs.read(kept, kept.ledger)[1]
    about = now.about or {}
    return reply(
        AllSeriesView(
            series=len(brought.observations.series),
            known=now.known,
            revision=about.get("revision"),
            as_of=about.get("as_of"),
            edited=now.edited,
            failed=about.get("failed", 0),
            notes=[note for key in ("refused", "notes") for note in about.get(key, ())],
            work=work_view(now.work) if now.work else None,
            columns=[
                SeriesColumn(name=name, title=column.title, tip=column.tip, kind=column.kind, usual=column.usual)
                for name, column in COLUMNS.items()
            ],
        )
    )


@blueprint.post("", summary="Carry the ledger out on all series", responses={202: WorkView})
def carry_out(path: StudyPath) -> Response:
    return reply(work_view(begin(application(), path.study_id)), 202)


@blueprint.get("/looks", summary="What needs a look, as counts", responses={200: Looks})
def looks(path: StudyPath, query: NearQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    of = counts(query.out(kept), query.near)
    words = words_of(query.near)
    return reply(
        Looks(looks=[LookView(name=name, words=words[name], count=of[name], calls=name != NOTHING) for name in words])
    )


@blueprint.get("/rows", summary="Rows of the table of all series", responses={200: SeriesRows})
def some_rows(path: StudyPath, query: RowsQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    columns = [name for name in query.columns.split(",") if name]
    for name in columns:
        if name not in COLUMNS:
            raise Refusal(f"There is no column “{name}”.", place=", ".join(COLUMNS))
    total, found = rows(query.out(kept), query.wanted(query.start, query.count), query.near)
    shown = [_row(row, columns) for row in found.iter_rows(named=True)]
    return reply(SeriesRows(total=total, start=query.start, rows=shown))


@blueprint.post("/follow-up", summary="Put the rows on the follow-up list", responses={200: Listed})
def ask(path: StudyPath, query: FoundQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    if query.of == "sums":
        raise Refusal("The follow-up list is about series, not about their sums.", todo="Choose series.")
    listed, left = ask_about(application(), kept, query.wanted(), query.near)
    return reply(Listed(listed=listed, left=left))


@blueprint.get("/file", summary="The rows of the table, as a file", responses={200: None})
def as_file(path: StudyPath, query: FileQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    found = every_row(query.out(kept), query.wanted(), query.near)
    out = io.BytesIO()
    if query.form == "parquet":
        found.write_parquet(out)
        kind = "application/vnd.apache.parquet"
    else:
        texts = [pl.col(name).map_elements(safe, return_dtype=pl.String) for name in ("series", "refused", "found")]
        found = found.with_columns(texts)
        if query.form == "csv":
            found.write_csv(out)
            kind = "text/csv"
        else:
            found.write_excel(out)
            kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    what = "all-series" if query.of == "series" else "sums-of-series"
    name = f"{what}-{kept.as_of.isoformat()}.{query.form}"
    return Response(out.getvalue(), mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@blueprint.get("/series", summary="A series with the ledger's drawing", responses={200: OneSeries})
def one(path: StudyPath, query: SeriesQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    points, lines = points_and_lines(query.out(kept), query.series)
    beside = of_projections(application(), kept, query.series) if query.of == "sums" else []
    return reply(
        OneSeries(
            series=query.series,
            period=points["period"].to_list(),
            value=[finite(value) for value in points["value"].to_list()],
            condition=points["condition"].to_list(),
            lines=[_line(part) for (_,), part in lines.group_by(["line"], maintain_order=True)],
            beside=[_beside(added) for added in beside],
        )
    )


def _row(row: dict[str, Any], columns: list[str]) -> SeriesRow:
    return SeriesRow(
        series=row["series"],
        cells={name: _cell(row[name]) for name in columns},
        away=finite(row["away"]),
        found=row["found"],
        spark=row["spark"] or [],
        spark_lower=row["spark_lower"] or [],
        spark_upper=row["spark_upper"] or [],
    )


def _cell(value: Any) -> float | str | None:
    return value.isoformat() if isinstance(value, date) else value if isinstance(value, str) else finite(value)


def _line(part: pl.DataFrame) -> DrawnLine:
    # of several limits the widest
    widest = part["level"].max()
    own = part if widest is None else part.filter(pl.col("level") == widest)
    return DrawnLine(
        name=part["line"][0],
        kind=part["kind"][0],
        period=own["period"].to_list(),
        value=[finite(value) for value in own["value"].to_list()],
        lower=[finite(value) for value in own["lower"].to_list()],
        upper=[finite(value) for value in own["upper"].to_list()],
    )


def _beside(one: OfProjections) -> DrawnLine:
    return DrawnLine(
        name="sum of the projections",
        kind=Projection.kind,
        period=one.period,
        value=list(one.value),
        lower=[],
        upper=[],
    )
