"""All series of a study: carrying its ledger out on them, and looking through what came."""

from __future__ import annotations

import io
from typing import Literal

import polars as pl
from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.models.allseries import AllSeriesView, DrawnLine, LookCounts, OneSeries, SeriesRow, SeriesRows
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import finite, work_view
from zembra.core.handover.csvtext import safe
from zembra.core.many.looks import Near
from zembra.service.many.study import Wanted, begin, counts, every_row, points_and_lines, rows, state_of
from zembra.store.studies import kept_study

blueprint = Resource(
    "all series",
    __name__,
    url_prefix="/api/studies/<int:study_id>/all-series",
    abp_tags=[Tag(name="all series")],
    abp_responses={404: Problem, 422: Problem},
)
MOST_ROWS = 500


class NearQuery(BaseModel):
    """lately: days; end: periods."""

    lately: int = Field(28, ge=0, le=36_500)
    end: int = Field(14, ge=1, le=64)

    @property
    def near(self) -> Near:
        return Near(self.lately, self.end)


class RowsQuery(NearQuery):
    look: str = Field("", max_length=20)
    find: str = Field("", max_length=200)
    by: str = Field("series", max_length=40)
    descending: bool = False
    start: int = Field(0, ge=0)
    count: int = Field(100, ge=0, le=MOST_ROWS)

    @property
    def wanted(self) -> Wanted:
        return Wanted(self.look, self.find, self.by, self.descending, self.start, self.count)


class FileQuery(RowsQuery):
    form: Literal["csv", "parquet", "xlsx"] = "csv"


class SeriesQuery(BaseModel):
    series: str = Field(max_length=1000)


@blueprint.get("", summary="How a study stands with all its series", responses={200: AllSeriesView})
def state(path: StudyPath) -> Response:
    kept = kept_study(application().engine, path.study_id)
    now = state_of(application(), kept)
    brought = application().runs.read(kept, kept.ledger)[1]
    about = now.about or {}
    notes = [str(one) for key in ("refused", "notes") for one in about.get(key, ())]  # type: ignore[attr-defined]
    return reply(
        AllSeriesView(
            series=len(brought.observations.series),
            known=now.known,
            revision=about.get("revision"),
            as_of=about.get("as_of"),
            edited=now.edited,
            failed=int(str(about.get("failed", 0))),
            notes=notes,
            work=work_view(now.work) if now.work else None,
        )
    )


@blueprint.post("", summary="Carry the ledger out on all series", responses={202: WorkView})
def carry_out(path: StudyPath) -> Response:
    return reply(work_view(begin(application(), path.study_id)), 202)


@blueprint.get("/looks", summary="What needs a look, as counts", responses={200: LookCounts})
def looks(path: StudyPath, query: NearQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    return reply(LookCounts(counts=counts(application(), kept, query.near)))


@blueprint.get("/rows", summary="Rows of the table of all series", responses={200: SeriesRows})
def some_rows(path: StudyPath, query: RowsQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    total, found = rows(application(), kept, query.wanted, query.near)
    return reply(SeriesRows(total=total, start=query.start, rows=[_row(row) for row in found.iter_rows(named=True)]))


@blueprint.get("/file", summary="The rows of the table, as a file", responses={200: None})
def as_file(path: StudyPath, query: FileQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    found = every_row(application(), kept, query.wanted, query.near)
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
    name = f"all-series-{kept.as_of.isoformat()}.{query.form}"
    return Response(out.getvalue(), mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@blueprint.get("/series", summary="A series with the ledger's drawing", responses={200: OneSeries})
def one(path: StudyPath, query: SeriesQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    points, lines = points_and_lines(application(), kept, query.series)
    return reply(
        OneSeries(
            series=query.series,
            period=points["period"].to_list(),
            value=[finite(value) for value in points["value"].to_list()],
            condition=points["condition"].to_list(),
            lines=[_line(part) for (_,), part in lines.group_by(["line"], maintain_order=True)],
        )
    )


def _row(row: dict[str, object]) -> SeriesRow:
    numbers = {name: finite(row[name]) for name in ("newest", "expected", "away", "shift_size", "error")}  # type: ignore[arg-type]
    return SeriesRow.model_validate(
        {
            **{name: row[name] for name in ("series", "newest_period", "blank", "open", "found")},
            **numbers,
            "shift_day": str(row["shift_day"]) if row["shift_day"] else None,
            "refused": row["refused"] or "",
            **{name: row[name] or [] for name in ("spark", "spark_lower", "spark_upper")},
        }
    )


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
