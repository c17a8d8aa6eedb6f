"""Handing over: the picture, the numbers, the account, and everything in one package."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from zembra.api.context import context
from zembra.api.models import Problem, WorkView
from zembra.api.paths import Identifier
from zembra.api.pictures import picture_at, pictures_of
from zembra.api.reply import reply
from zembra.api.views import work_view
from zembra.background import Lane, Stage, Work
from zembra.core.dress.model import MOST_PICTURES, Picture
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import Figure
from zembra.core.followup import Item, follow_up
from zembra.core.handover.package import StudyFile, package_zip
from zembra.core.handover.report import method_note, report_json
from zembra.core.handover.tables import (
    followup_csv,
    lines_csv,
    lines_frame,
    parquet,
    points_csv,
    points_frame,
)
from zembra.core.handover.workbook import followup_xlsx, numbers_xlsx
from zembra.core.intake.bringin import Progress, quiet
from zembra.core.intake.howread import Settled
from zembra.core.ledger.digest import digest
from zembra.core.ledger.run import Result
from zembra.rendering.account import account_pdf
from zembra.rendering.files import alt_of, picture_file
from zembra.store.datasets import dataset_bytes
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
    "picture.png", "picture.svg", "picture.pdf", "points.csv", "lines.csv", "points.parquet", "lines.parquet",
    "numbers.xlsx", "report.json", "method-note.txt", "account.pdf", "follow-up.csv", "follow-up.xlsx", "ledger.json",
    "everything.zip",
]  # fmt: skip
BIG = ("everything.zip", "numbers.xlsx", "account.pdf")  # worked on in the background
SOON = 5.0  # seconds that an answer waits for them
TYPES = {
    "png": "image/png",
    "svg": "image/svg+xml",
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
    "txt": "text/plain; charset=utf-8",
    "json": "application/json",
    "zip": "application/zip",
    "parquet": "application/vnd.apache.parquet",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


class FilePath(BaseModel):
    study_id: Identifier
    file: File


class FileQuery(BaseModel):
    """picture: its place. times: pixels of a PNG for one of the sheet. received: whether the received file goes into the
    package."""

    picture: Annotated[int, Field(ge=0, lt=MOST_PICTURES)] = 0
    times: Annotated[float, Field(ge=0.25, le=4)] = 2.0
    received: bool = True


@dataclass(frozen=True, slots=True)
class Handed:
    """What files are made of."""

    kept: Kept
    result: Result
    data: Dataset
    query: FileQuery
    progress: Progress = quiet

    @property
    def settled(self) -> tuple[Settled, ...]:
        return self.kept.ledger.intake.settled if self.kept.ledger.intake else ()

    @property
    def items(self) -> list[Item]:
        return follow_up(self.result, kept_notes(context().engine, self.study_id).noted)

    @property
    def study_id(self) -> int:
        assert self.kept.study.id is not None
        return self.kept.study.id

    @property
    def picture(self) -> Picture:
        return picture_at(self.kept, self.query.picture)

    @property
    def note(self) -> str:
        return method_note(self.result, self.kept.study.name, self.data.sha256, self.settled, self.items)

    def figure(self, picture: Picture) -> Figure:
        return picture_figure(self.result, self.kept.figure, picture)


def _picture(form: str) -> Callable[[Handed], bytes]:
    def make(of: Handed) -> bytes:
        return picture_file(of.figure(of.picture), of.picture, form, title=of.kept.study.name, times=of.query.times)

    return make


def account_of(of: Handed) -> bytes:
    figure = of.figure(of.picture)
    asked = [f"{one.question} {one.answer or 'Waved through: nobody has answered it.'}" for one in of.settled]
    return account_pdf(
        figure,
        of.result,
        title=of.kept.study.name,
        sha256=of.data.sha256,
        alt=alt_of(of.picture, figure),
        asked=asked,
    )


def _everything(of: Handed) -> bytes:
    pictures: dict[str, bytes] = {}
    every = pictures_of(of.kept)
    for n, picture in enumerate(every, 1):
        of.progress(f"drawing picture {n} of {len(every)}", (n - 1) / len(every))
        figure = of.figure(picture)
        stem = f"{n:02} {plain_name(picture.name)}".strip()
        for form in ("svg", "png"):
            pictures[f"{stem}.{form}"] = picture_file(figure, picture, form, title=of.kept.study.name)
    of.progress("packing", 0.95)
    assert of.data.id is not None
    received = dataset_bytes(context().engine, of.data.id) if of.query.received else None
    study = StudyFile(
        name=of.kept.study.name,
        as_of=of.kept.as_of,
        file=of.data.name,
        sha256=of.data.sha256,
        ledger=of.kept.ledger,
        figure=of.kept.figure,
        notes=list(kept_notes(context().engine, of.study_id).noted),
    )
    return package_zip(
        of.result, study, note=of.note, settled=of.settled, items=of.items, pictures=pictures, data=received
    )


_FILES: dict[str, Callable[[Handed], str | bytes]] = {
    "picture.png": _picture("png"),
    "picture.svg": _picture("svg"),
    "picture.pdf": _picture("pdf"),
    "points.csv": lambda of: points_csv(of.result),
    "lines.csv": lambda of: lines_csv(of.result),
    "points.parquet": lambda of: parquet(points_frame(of.result)),
    "lines.parquet": lambda of: parquet(lines_frame(of.result)),
    "numbers.xlsx": lambda of: numbers_xlsx(of.result, of.items, of.note),
    "report.json": lambda of: report_json(of.result, of.settled),
    "method-note.txt": lambda of: of.note,
    "account.pdf": account_of,
    "follow-up.csv": lambda of: followup_csv(of.items),
    "follow-up.xlsx": lambda of: followup_xlsx(of.items),
    "ledger.json": lambda of: of.kept.ledger.model_dump_json(indent=2) + "\n",
    "everything.zip": _everything,
}


@blueprint.get("/<file>", summary="A file to hand over", responses={200: None, 202: WorkView})
def hand_over(path: FilePath, query: FileQuery) -> Response:
    kept = kept_study(context().engine, path.study_id)
    ran = context().whole(kept)
    of = Handed(kept, ran.result, ran.data, query)
    if path.file not in BIG:
        return _sent(of, path.file, _FILES[path.file](of))
    work = _begun(of, path.file)
    work.finished.wait(SOON)
    if work.failure is not None:
        context().background.forget(work.key)
        raise work.failure
    if work.stage is not Stage.DONE:
        return reply(work_view(work), 202)
    # a file is fetched once: what is large is not kept for longer
    context().background.forget(work.key)
    return _sent(of, path.file, work.result)


def _begun(of: Handed, file: str) -> Work:
    """The work on a file that takes long; begun anew where it was stopped."""
    background, app = context().background, current_app._get_current_object()  # type: ignore[attr-defined]
    noted = repr(kept_notes(context().engine, of.study_id).noted)
    key = digest("hand over", file, str(of.study_id), str(of.kept.study.head), of.query.model_dump_json(), noted)
    known = background.get(key)
    if known is not None and known.stage is Stage.STOPPED:
        background.forget(key)

    def do(progress: Progress) -> str | bytes:
        with app.app_context():
            return _FILES[file](replace(of, progress=progress))

    known = background.get(key)
    return known or background.submit(key, Lane.HANDING, do)


def _sent(of: Handed, file: str, content: str | bytes) -> Response:
    parts = [plain_name(of.kept.study.name)]
    if file.startswith("picture.") and len(pictures_of(of.kept)) > 1:
        parts.append(plain_name(of.picture.name))
    parts += [of.kept.as_of.isoformat(), file]
    name = "-".join(part for part in parts if part)
    return Response(
        content,
        content_type=TYPES[file.rpartition(".")[2]],
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


def plain_name(name: str) -> str:
    """A name as it may stand in that of a file, anywhere."""
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:80]
