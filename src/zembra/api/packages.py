"""Open a package that was handed over as a study."""

from __future__ import annotations

import secrets

from flask import Response
from flask_openapi3 import FileStorage, Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.incoming import taken
from zembra.api.models.bench import StudyView
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import study_view
from zembra.api.waiting import answer_of
from zembra.core.intake.bringin import Progress
from zembra.service.packages import bring_back
from zembra.store.studies import KeptStudy
from zembra.store.tables import Dataset
from zembra.work.queue import Lane

blueprint = Resource(
    "packages",
    __name__,
    url_prefix="/api/packages",
    abp_tags=[Tag(name="packages")],
    abp_responses={413: Problem, 422: Problem},
)


class Upload(BaseModel):
    file: FileStorage = Field(description="everything of a study, zipped")


@blueprint.post("", summary="Bring back a study that was handed over whole", responses={201: StudyView, 202: WorkView})
def receive(form: Upload) -> Response:
    shared = application()
    file = taken(form.file, shared.home)

    def work(progress: Progress) -> tuple[KeptStudy, Dataset]:
        return bring_back(shared, file.read_bytes(), progress)

    def answer(made: tuple[KeptStudy, Dataset]) -> Response:
        kept, here = made
        return reply(study_view(kept, here, kept.as_of), 201)

    def release() -> None:
        file.unlink(missing_ok=True)

    return answer_of(shared.queue.submit(secrets.token_hex(8), Lane.READING, work, answer=answer, release=release))
