"""The sentence grammar: a Pydantic model whose fields are the editable words of an English sentence.

A template is plain text with slots: ``{window}`` is the field `window`, ``{@periods}`` a noun the
context supplies ("days"). What stands in square brackets is quiet: it need not be said while its words stand
at what is usual, their defaults. A field can hold a *clause*, one of several small sentences with words of its
own; ``{self}`` in a clause's template is the phrase that names it. Everything a screen needs to edit a word (its type, range, choices, unit)
is derived from the field, so a new sentence needs no interface code.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from enum import StrEnum
from typing import Annotated, ClassVar, Literal, Self

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict


class Choice(StrEnum):
    """One of a few phrases: KEY = ("key", "label on the screen", "trade word, for the tooltip")."""

    label: str
    tip: str

    def __new__(cls, key: str, label: str = "", tip: str = "") -> Self:
        member = str.__new__(cls, key)
        member._value_ = key
        member.label = label or key
        member.tip = tip
        return member


@dataclass(frozen=True, slots=True)
class Word:
    """Metadata of a field that its type cannot express.

    options: name of the list of choices, which the context supplies
    empty: how None or an empty list is spoken
    unit: text after a number
    step: increment of an arrow key
    spoken: how a list is spoken: "span" (three in a row as first to last), "shortened" (the first few), "ordered"
    usual: the figure that is suggested, such as "season"
    type: the editor, if the type does not tell
    """

    options: str | None = None
    empty: str | None = None
    unit: str | None = None
    step: float | None = None
    spoken: str | None = None
    usual: str | None = None
    type: Literal["events"] | None = None


def _moment(value: object) -> object:
    """Parse a text with a time as a moment, else as a day; '2026-03-14' and '2026-03-14T00:00' differ."""
    if not isinstance(value, str):
        return value
    return datetime.fromisoformat(value) if "T" in value else date.fromisoformat(value)


def _on_the_wall(value: date | datetime) -> date | datetime:
    if isinstance(value, datetime) and value.tzinfo is not None:
        raise ValueError("a time is what the clock of the study shows, without an offset")
    return value


Moment = Annotated[date | datetime, BeforeValidator(_moment), AfterValidator(_on_the_wall)]


# a text of which none is an empty one
Given = Annotated[str, BeforeValidator(lambda text: "" if text is None else text)]


class Point(BaseModel):
    """A period of a series, by label (see Grain.labels)."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    series: str
    period: str


# what sentences say of what comes of them, as long as nothing has
NOT_YET = {"tested": "to be tested on held-back periods", "on_it": ""}
GONE = "a reading that is not there"  # said for one whose entry is gone: its id would tell nobody anything


@dataclass(frozen=True, slots=True)
class Nouns:
    """Words of the context for templates: {@period}, {@periods}, {@file}; and names of earlier readings as "reading
    ID".
    """

    words: Mapping[str, str] = field(default_factory=lambda: {"period": "period", "periods": "periods"})

    def __getitem__(self, name: str) -> str:
        if name in NOT_YET and name not in self.words:
            return NOT_YET[name]
        return self.words.get(name, GONE if name.startswith("reading ") else name)


class Sentence(BaseModel):
    """An immutable model that renders as a sentence."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    def template(self) -> str:
        raise NotImplementedError


class Clause(Sentence):
    """One of several alternative parts of a sentence. A subclass has a field `kind`, a Literal, and words of its
    own.

    label: the phrase that names it
    tip: the trade word, for the tooltip
    """

    label: ClassVar[str]
    tip: ClassVar[str] = ""

    def template(self) -> str:
        return "{self}"
