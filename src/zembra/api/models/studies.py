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
    """A study in the list. waits: what the rows would change that wait for a decision, empty where none do; waiting_file: they.
    feed_trouble: why the last look for new rows failed. calls: the first of what its watch found, of `call_count`."""

    study: StudyView
    waits: str
    waiting_file: int | None
    feed_trouble: str
    calls: list[str]
    call_count: int


class DamagedStudy(BaseModel):
    """A study whose newest revision cannot be read. why: what is wrong with it. dataset_id: the file that a new study
    can be begun from."""

    id: int
    name: str
    why: str
    dataset_id: int | None


class RemovedStudy(BaseModel):
    id: int
    name: str
    removed_at: str


class StudyList(BaseModel):
    """damaged: set apart, named, and in nobody's way. removed: can be brought back, or removed for good."""

    studies: list[StudyCard]
    damaged: list[DamagedStudy]
    removed: list[RemovedStudy]
    unused: list[DatasetView]


class NewStudy(BaseModel):
    """as_of: the day the study believes it is; None for the one Zembra suggests."""

    model_config = ConfigDict(extra="forbid")

    dataset_id: Identifier
    name: Name
    ledger: Ledger
    as_of: date | None = None


class RenameRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: Name


class CopyRequest(BaseModel):
    """names: of the series of the study, with the series or columns that a copy takes instead."""

    model_config = ConfigDict(extra="forbid")

    names: Annotated[dict[str, str], Field(max_length=200)] = {}
