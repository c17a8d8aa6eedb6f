"""Every kind of entry, with its words."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from zembra.core.handover.handedfiles import FileGroup, HandedFile


class ChoiceView(BaseModel):
    value: str
    label: str
    tip: str


class SlotView(BaseModel):
    """An editable word. clauses: what it may hold where it is a clause. usual: which figure of the study a new
    clause takes for it. ordered: whether it matters in which order several are chosen."""

    name: str
    type: str
    title: str
    minimum: float | None
    maximum: float | None
    step: float | None
    unit: str | None
    options: str | None
    empty: str | None
    usual: str | None
    ordered: bool
    choices: list[ChoiceView]
    clauses: list[ClauseView]


class ClauseView(BaseModel):
    """A small sentence that a word may hold. params: its words as first offered, its kind among them."""

    kind: str
    label: str
    tip: str
    words: list[SlotView]
    params: dict[str, Any]


class KindView(BaseModel):
    """An entry kind. words: its slots by name. defaults: its parameters as first offered."""

    kind: str
    group: str
    title: str
    hint: str
    once: bool
    words: list[SlotView]


class WatchKindView(BaseModel):
    """A sentence that a study may watch itself by. params: its words as first offered, its kind among them."""

    title: str
    words: list[SlotView]
    params: dict[str, Any]


class FixedOptions(BaseModel):
    """Lists that words are taken from, the same for every file and study. places: whose public holidays are
    known. colours, languages: by name."""

    zones: list[str]
    places: list[str]
    colours: list[str]
    languages: list[str]


class HandedFileView(BaseModel):
    """A file that is handed over. about: what it is for, empty where no screen lists it."""

    name: HandedFile
    group: FileGroup
    about: str


class Catalogue(BaseModel):
    """Everything a screen needs to render any sentence. intake: the sentences of how a file was read; dress: those of a
    picture; taking: of how new rows are taken in; feed: of where they are looked
    for; watches: by which a study watches itself; telling: of who is told; summing: of what very many
    series are summed by. files: that a study is handed over as, in the order of a screen."""

    entries: list[KindView]
    intake: dict[str, list[SlotView]]
    figure: list[SlotView]
    judging: list[SlotView]
    taking: list[SlotView]
    feed: list[SlotView]
    watches: list[WatchKindView]
    telling: list[SlotView]
    summing: list[SlotView]
    dress: dict[str, list[SlotView]]
    files: list[HandedFileView]
    options: FixedOptions
