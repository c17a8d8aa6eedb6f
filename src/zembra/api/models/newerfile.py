"""A study on another file."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel, ConfigDict

from zembra.api.paths import Identifier


class NewerFile(BaseModel):
    """Another file for a study. as_of: the day the study then believes it is, None for the suggested one. waved:
    whether open questions about the file are waved through."""

    model_config = ConfigDict(extra="forbid")

    base: Identifier
    dataset_id: Identifier
    as_of: date | None = None
    waved: bool = False


class OpenQuestion(BaseModel):
    title: str
    text: str


class SeriesChange(BaseModel):
    """A series now and with the other file. first, last: labels of its periods with a number; added: periods that
    have a number only there; gone: only here; changed: another number there."""

    series: str
    first: str
    last: str
    first_then: str
    last_then: str
    added: int
    gone: int
    changed: int


class NewerFileView(BaseModel):
    """What another file would make of the study. misfits: entries that no longer fit, with why. questions: open
    ones about the file."""

    file: str
    as_of: str
    series: list[SeriesChange]
    new_series: list[str]
    lost_series: list[str]
    misfits: list[str]
    questions: list[OpenQuestion]
