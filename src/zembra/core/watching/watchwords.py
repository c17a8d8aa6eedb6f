"""The sentences of a watch."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from zembra.core.grammar import Choice, Given, Sentence, Word

Series = Annotated[
    tuple[str, ...], Field(title="series"), Word(options="series", empty="any series", spoken="shortened")
]
MOST_WATCHES = 20


class Watch(Sentence):
    """A watch.

    title: its name in lists
    """

    title: ClassVar[str]

    series: Series = ()

    def concerns(self, name: str) -> bool:
        return not self.series or name in self.series


class OutsideLimits(Watch):
    title: ClassVar[str] = "newest value outside its limits"

    kind: Literal["outside"] = "outside"
    level: Annotated[float, Field(title="limits", ge=1, le=99.9), Word(unit="%")] = 95.0

    def template(self) -> str:
        return "Tell me when the newest value of {series} is outside the {level} limits that were projected for it."


class RowsLate(Watch):
    title: ClassVar[str] = "rows late"

    kind: Literal["late"] = "late"
    days: Annotated[int, Field(title="days late", ge=0, le=3650)] = 2

    def template(self) -> str:
        return "Tell me when rows of {series} are late by more than {days} days."


class ShiftFound(Watch):
    title: ClassVar[str] = "level shift found"

    kind: Literal["shift"] = "shift"
    last: Annotated[int, Field(title="how far back", ge=1, le=100_000)] = 90

    def template(self) -> str:
        return "Tell me when a level shift of {series} is found in the last {last} {@periods}."


class Which(Choice):
    SURE = ("sure", "that was not provisional")
    ANY = ("any", "provisional or not")


class RevisionLarger(Watch):
    title: ClassVar[str] = "large revision"

    kind: Literal["revision"] = "revision"
    which: Annotated[Which, Field(title="which values")] = Which.SURE
    percent: Annotated[float, Field(title="size of the revision", ge=0, allow_inf_nan=False), Word(unit="%")] = 10.0

    def template(self) -> str:
        return "Tell me when a value {which} is revised by more than {percent}, in {series}."


AnyWatch = OutsideLimits | RowsLate | ShiftFound | RevisionLarger
WATCHES: tuple[type[Watch], ...] = (OutsideLimits, RowsLate, ShiftFound, RevisionLarger)


class TellHow(Sentence):
    """Whom a study notifies.

    mail, post: addresses, empty for none
    """

    mail: Annotated[Given, Field(title="mail", max_length=320), Word(empty="nobody")] = ""
    post: Annotated[Given, Field(title="address", max_length=2000), Word(empty="no address")] = ""

    def template(self) -> str:
        return "It is told here and in the study’s feed of news, by mail to {mail}, and as JSON to {post}."


class WatchWords(BaseModel):
    """The watches of a study, and whom it notifies."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    watches: Annotated[
        tuple[Annotated[AnyWatch, Field(discriminator="kind")], ...], Field(max_length=MOST_WATCHES)
    ] = ()
    tell: TellHow = TellHow()
