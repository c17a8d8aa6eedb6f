"""The follow-up list."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from zembra.core.study.followup import State


class FollowUpItem(BaseModel):
    """A period to ask about.

    at: position, null if the study has no such period
    found_by: finders
    gone: why it stays although nothing finds it
    """

    series: str
    period: str
    at: int | None
    value: float | None
    distance: float | None
    found_by: list[str]
    note: str
    state: State
    who: str
    changed: str
    gone: str


class FollowUpView(BaseModel):
    """The list, newest first, with counts by state."""

    items: list[FollowUpItem]
    open: int
    asked: int
    explained: int
    can_undo: bool
    can_redo: bool


class NoteRequest(BaseModel):
    """A note; omitted fields stay.

    by_hand: add it to the list
    """

    model_config = ConfigDict(extra="forbid")

    series: Annotated[str, Field(max_length=500)]
    period: Annotated[str, Field(max_length=40)]
    note: Annotated[str | None, Field(max_length=500)] = None
    state: State | None = None
    who: Annotated[str | None, Field(max_length=60)] = None
    by_hand: bool = False
