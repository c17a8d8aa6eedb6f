"""Handing over: the numbers, the account and the ledger as files."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Literal

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from zembra.api.context import context
from zembra.api.models import Problem
from zembra.core.followup import Item, follow_up
from zembra.core.handover.report import method_note, report_json
from zembra.core.handover.tables import followup_csv, lines_csv, points_csv
from zembra.core.handover.workbook import followup_xlsx
from zembra.core.intake.howread import Settled
from zembra.core.ledger.run import Result
from zembra.store.notes import kept_notes
from zembra.store.studies import Kept, kept_study
from zembra.store.tables import Dataset

blueprint = APIBlueprint(
    "handover",
    __name__,
    url_prefix="/api/studies/<int:study_id>/handover",
    abp_tags=[Tag(name="handover")],
    abp_responses={404: Problem, 422: Problem},
)
File = Literal[
    "points.csv", "lines.csv", "report.json", "method-note.txt", "follow-up.csv", "follow-up.xlsx", "ledger.json"
]
WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class FilePath(BaseModel):
    study_id: int
    file: File


def _settled(kept: Kept) -> tuple[Settled, ...]:
    return kept.ledger.intake.settled if kept.ledger.intake else ()


def _asked(result: Result, kept: Kept) -> list[Item]:
    assert kept.study.id is not None
    return follow_up(result, kept_notes(context().engine, kept.study.id).noted)


_FILES: dict[str, tuple[str, Callable[[Result, Kept, Dataset], str | bytes]]] = {
    "points.csv": ("text/csv", lambda result, kept, data: points_csv(result)),
    "lines.csv": ("text/csv", lambda result, kept, data: lines_csv(result)),
    "report.json": ("application/json", lambda result, kept, data: report_json(result, _settled(kept))),
    "method-note.txt": (
        "text/plain",
        lambda result, kept, data: method_note(
            result, kept.study.name, data.sha256, _settled(kept), _asked(result, kept)
        ),
    ),
    "follow-up.csv": ("text/csv", lambda result, kept, data: followup_csv(_asked(result, kept))),
    "follow-up.xlsx": (WORKBOOK, lambda result, kept, data: followup_xlsx(_asked(result, kept))),
    "ledger.json": ("application/json", lambda result, kept, data: kept.ledger.model_dump_json(indent=2) + "\n"),
}


@blueprint.get("/<file>", summary="A file to hand over", responses={200: None})
def hand_over(path: FilePath) -> Response:
    kept = kept_study(context().engine, path.study_id)
    ran = context().whole(kept)
    mimetype, make = _FILES[path.file]
    name = re.sub(r"[^A-Za-z0-9]+", "-", kept.study.name).strip("-").lower() or "study"
    return Response(
        make(ran.result, kept, ran.data),
        content_type=mimetype if mimetype == WORKBOOK else f"{mimetype}; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}-{path.file}"'},
    )
