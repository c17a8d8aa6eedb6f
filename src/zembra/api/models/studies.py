"""The list of studies."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from zembra.api.models.bench import StudyView
from zembra.api.models.datasets import DatasetView
from zembra.api.paths import Identifier, Name
from zembra.core.ledger.model import Ledger
from zembra.core.study.summary import StudySummary


class StudyCard(StudySummary):
    """A study in the list.

    waits: what waiting rows would change, or empty; waiting_file: their file
    feed_trouble: last fetch error
    calls: first findings of `call_count`
    """

    study: StudyView
    waits: str
    waiting_file: int | None
    feed_trouble: str
    calls: list[str]
    call_count: int


class DamagedStudy(BaseModel):
    """A study whose newest revision is unreadable.

    why: the defect
    dataset_id: its file, to start again
    """

    id: int
    name: str
    why: str
    dataset_id: int | None


class RemovedStudy(BaseModel):
    id: int
    name: str
    removed_at: str


class StudyList(BaseModel):
    """All studies.

    damaged: unreadable ones
    removed: restorable ones
    """

    studies: list[StudyCard]
    damaged: list[DamagedStudy]
    removed: list[RemovedStudy]
    unused: list[DatasetView]


class NewStudy(BaseModel):
    """A new study.

    as_of: None to suggest
    """

    model_config = ConfigDict(extra="forbid")

    dataset_id: Identifier
    name: Name
    ledger: Ledger
    as_of: date | None = None


class RenameRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: Name


class CopyRequest(BaseModel):
    """A copy.

    names: replacement series or columns, by series
    """

    model_config = ConfigDict(extra="forbid")

    names: Annotated[dict[str, str], Field(max_length=200)] = {}
