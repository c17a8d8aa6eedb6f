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
    """An editable word.

    clauses: alternatives
    usual: figure that new clauses take
    ordered: whether the order of several matters
    """

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
    """An alternative.

    params: defaults, with its kind
    """

    kind: str
    label: str
    tip: str
    words: list[SlotView]
    params: dict[str, Any]


class KindView(BaseModel):
    """An entry kind.

    words: slots by name
    defaults: parameters as first offered
    """

    kind: str
    group: str
    title: str
    hint: str
    once: bool
    words: list[SlotView]


class WatchKindView(BaseModel):
    """A kind of watch.

    params: defaults, with its kind
    """

    title: str
    words: list[SlotView]
    params: dict[str, Any]


class FixedOptions(BaseModel):
    """Choices that do not depend on a study.

    places: with public holidays
    colours, languages: by name
    """

    zones: list[str]
    places: list[str]
    colours: list[str]
    languages: list[str]


class HandedFileView(BaseModel):
    """A file to hand over.

    about: purpose, empty if no screen lists it
    """

    name: HandedFile
    group: FileGroup
    about: str


class Catalogue(BaseModel):
    """Everything a screen needs to render sentences.

    intake: of reading a file; dress: of pictures; taking: of merging rows; feed: of feeds; watches: of watches;
    telling: of notifications; summing: of sums
    files: to hand over, in screen order
    """

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
