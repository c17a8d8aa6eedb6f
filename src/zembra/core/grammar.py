"""The sentence grammar: a Pydantic model whose fields are the editable words of an English sentence.

A template is plain text with slots: ``{window}`` is the field `window`, ``{@periods}`` a noun the
context supplies ("days"). What stands in square brackets is quiet: it need not be said while its words stand
at what is usual, their defaults. A field can hold a *clause*, one of several small sentences with words of its
own; ``{self}`` in a clause's template is the phrase that names it. Everything a screen needs to edit a word (its type, range, choices, unit)
is derived from the field, so a new sentence needs no interface code.
"""

from __future__ import annotations

import builtins
import re
import types
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from enum import Enum, StrEnum
from functools import lru_cache
from itertools import chain
from typing import Annotated, Any, ClassVar, Literal, Self, Union, get_args, get_origin

import annotated_types
from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict
from pydantic.fields import FieldInfo

from zembra.core.english import article, listed, number, spoken_date, upper_first


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
    """What a field's type cannot say about its slot; goes into the field's Annotated metadata.

    options: name of the list, supplied by the context, that the word is taken from.
    empty: how None, or an empty list, is spoken.
    unit: shown after a number. step: what one press of an arrow key adds. spoken: how several are said: "span",
    three in a row as first to last; "shortened", only the first few. usual: which figure of the study it is
    first offered with, "season" its usual season. type: how it is edited, where its type does not say so.
    """

    options: str | None = None
    empty: str | None = None
    unit: str | None = None
    step: float | None = None
    spoken: str | None = None
    usual: str | None = None
    type: Literal["events"] | None = None


def _moment(value: object) -> object:
    """A text with a time is a moment, any other a day: '2026-03-14' and '2026-03-14T00:00' differ."""
    if not isinstance(value, str):
        return value
    return datetime.fromisoformat(value) if "T" in value else date.fromisoformat(value)


def _on_the_wall(value: date | datetime) -> date | datetime:
    if isinstance(value, datetime) and value.tzinfo is not None:
        raise ValueError("a time is what the clock of the study shows, without an offset")
    return value


Moment = Annotated[date | datetime, BeforeValidator(_moment), AfterValidator(_on_the_wall)]


class Point(BaseModel):
    """A period of a series, by its label (see Grain.labels)."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    series: str
    period: str


SlotType = Literal[
    "clause",
    "points",
    "events",
    "hidden",
    "integer",
    "number",
    "numbers",
    "choice",
    "choices",
    "date",
    "moment",
    "dates",
    "text",
    "name",
    "names",
]


@dataclass(frozen=True, slots=True)
class Slot:
    """An editable word, described for a screen. clauses: what a slot that holds a clause may hold."""

    name: str
    type: SlotType
    title: str
    minimum: float | None = None
    maximum: float | None = None
    step: float | None = None
    unit: str | None = None
    options: str | None = None
    empty: str | None = None
    spoken: str | None = None
    usual: str | None = None
    choices: tuple[tuple[str, str, str], ...] = ()
    clauses: tuple[builtins.type[Clause], ...] = ()


@dataclass(frozen=True, slots=True)
class Part:
    """A piece of a rendered sentence; `slot` names the field when the piece can be edited, with the field of
    its clause before it and a dot between ("rule.far"). quiet: a screen that is short of room may leave it out. name: it is
    a name, which stays as it is written, even where a sentence begins."""

    text: str
    slot: str | None = None
    quiet: bool = False
    name: bool = False


# what sentences say of what comes of them, as long as nothing has
NOT_YET = {"tested": "to be tested on held-back periods", "on_it": ""}
GONE = "a reading that is not there"  # said for one whose entry is gone: its id would tell nobody anything


@dataclass(frozen=True, slots=True)
class Nouns:
    """The words a context lends to templates: {@period}, {@periods}, {@file} and such; and, as "reading ID",
    the names of what earlier entries drew."""

    words: Mapping[str, str] = field(default_factory=lambda: {"period": "period", "periods": "periods"})

    def __getitem__(self, name: str) -> str:
        if name in NOT_YET and name not in self.words:
            return NOT_YET[name]
        return self.words.get(name, GONE if name.startswith("reading ") else name)


class Sentence(BaseModel):
    """A frozen model that can say itself."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    def template(self) -> str:
        raise NotImplementedError


class Clause(Sentence):
    """A part of a sentence that is one of several small sentences. A subclass has a field `kind`, a Literal
    that tells it from the others, and the words of its own.

    label: the phrase that names it. tip: the trade word, for the tooltip.
    """

    label: ClassVar[str]
    tip: ClassVar[str] = ""

    def template(self) -> str:
        return "{self}"


_TOKEN = re.compile(r"\{(@?)([a-z_]+)\}")
_STRETCH = re.compile(r"\[([^\]]*)\]")


def parts(sentence: Sentence, nouns: Nouns) -> list[Part]:
    """The sentence as plain and editable pieces, in reading order, numbers and articles agreeing."""
    return _agreeing(list(_parts(sentence, nouns, None, False)), nouns)


# what counts time; one of them loses its last letter
_UNITS = frozenset({"minutes", "hours", "days", "weeks", "months", "quarters", "years", "dates"})
_ARTICLE = re.compile(r"(^|[\s(])(an?)(\s+)$")


def _agreeing(pieces: list[Part], nouns: Nouns) -> list[Part]:
    """“1 day”, not “1 days”; “an exponential”, not “a exponential”."""
    found = list(pieces)
    for n, piece in enumerate(found):
        following = n + 1
        while following < len(found) and not found[following].text.strip():
            following += 1
        if following == len(found):
            break
        after = found[following]
        if piece.slot and piece.text.strip() == "1":
            word = after.text.strip()
            one = nouns["period"] if word == nouns["periods"] else word[:-1] if word in _UNITS else word
            found[following] = replace(after, text=after.text.replace(word, one, 1)) if word else after
        found_article = _ARTICLE.search(piece.text)
        if found_article and not piece.slot and after.text.strip():
            right = article(after.text)
            start, end = found_article.span(2)
            found[n] = replace(piece, text=piece.text[:start] + right + piece.text[end:])
    return found


def _parts(sentence: Sentence, nouns: Nouns, within: str | None, all_quiet: bool) -> Iterator[Part]:
    """within: the field that holds the sentence, where it is a clause."""
    # every second stretch stood in brackets
    for n, stretch in enumerate(_stretches(sentence.template())):
        usual = n % 2 == 1 and all(_usual(sentence, one.name) for one in stretch if one.what is _What.WORD)
        yield from _pieces(sentence, nouns, stretch, within, all_quiet or usual)


class _What(Enum):
    TEXT = 1
    NOUN = 2
    WORD = 3


@dataclass(frozen=True, slots=True)
class _Token:
    """A piece of a template. name: of a noun or a word; the text itself."""

    what: _What
    name: str


@lru_cache(maxsize=2048)
def _stretches(template: str) -> tuple[tuple[_Token, ...], ...]:
    return tuple(tuple(_tokens(stretch)) for stretch in _STRETCH.split(template))


def _tokens(stretch: str) -> Iterator[_Token]:
    at = 0
    for found in _TOKEN.finditer(stretch):
        if found.start() > at:
            yield _Token(_What.TEXT, stretch[at : found.start()])
        yield _Token(_What.NOUN if found.group(1) else _What.WORD, found.group(2))
        at = found.end()
    if at < len(stretch):
        yield _Token(_What.TEXT, stretch[at:])


def _usual(sentence: Sentence, name: str) -> bool:
    if name == "self":
        return True
    return bool(getattr(sentence, name) == type(sentence).model_fields[name].default)


def _pieces(
    sentence: Sentence, nouns: Nouns, stretch: Sequence[_Token], within: str | None, quiet: bool
) -> Iterator[Part]:
    known = slots(type(sentence))
    for token in stretch:
        name = token.name
        path = f"{within}.{name}" if within else name
        if token.what is _What.TEXT:
            yield Part(name, quiet=quiet)
        elif token.what is _What.NOUN:
            yield Part(nouns[name], quiet=quiet, name=name == "line")
        elif isinstance(sentence, Clause) and name == "self":
            yield Part(sentence.label, slot=within, quiet=quiet)
        elif known[name].type == "clause":
            yield from _parts(getattr(sentence, name), nouns, path, quiet)
        elif known[name].options == "readings" and getattr(sentence, name):
            yield Part(nouns[f"reading {getattr(sentence, name)}"], slot=path, quiet=quiet)
        else:
            yield Part(speak(known[name], getattr(sentence, name)), slot=path, quiet=quiet)


def nouns_in(sentence: Sentence) -> set[str]:
    """The names of the nouns that a sentence speaks, its clauses included."""
    told: set[str] = set()
    for token in chain.from_iterable(_stretches(sentence.template())):
        held = getattr(sentence, token.name, None) if token.what is _What.WORD else None
        if token.what is _What.NOUN:
            told.add(token.name)
        elif isinstance(held, Clause):
            told |= nouns_in(held)
    return told


def plain(sentence: Sentence, nouns: Nouns) -> str:
    """The sentence as text, as it stands in a method note."""
    return written(parts(sentence, nouns))


def written(pieces: Sequence[Part]) -> str:
    """The pieces as one sentence; a name that it begins with stays as it is."""
    text = "".join(piece.text for piece in pieces)
    return text if pieces and pieces[0].name else upper_first(text)


@lru_cache(maxsize=256)
def slots(model: type[Sentence]) -> Mapping[str, Slot]:
    """The editable words of a sentence class, by field name."""
    return {name: _slot(name, info) for name, info in model.model_fields.items() if not _names_clause(model, name)}


def _names_clause(model: type[Sentence], name: str) -> bool:
    return name == "kind" and issubclass(model, Clause)


def _slot(name: str, info: FieldInfo) -> Slot:
    word = next((m for m in info.metadata if isinstance(m, Word)), Word())
    kind = _bare(info.annotation)
    minimum = _bound(info, annotated_types.Ge, "ge")
    above = _bound(info, annotated_types.Gt, "gt")
    if minimum is None and above is not None and word.step:
        minimum = above + word.step
    maximum = _bound(info, annotated_types.Le, "le")
    choices: tuple[tuple[str, str, str], ...] = ()
    item = get_args(kind)[0] if get_origin(kind) in (list, tuple) else None
    if get_origin(item) is Annotated:
        # the range of each of several
        item, *marks = get_args(item)
        bounds = FieldInfo.from_annotation(Annotated[item, *marks])
        minimum, maximum = _bound(bounds, annotated_types.Ge, "ge"), _bound(bounds, annotated_types.Le, "le")
    clauses = _clauses(info.annotation)
    slot_type: SlotType
    if word.type:
        slot_type = word.type
    elif clauses:
        slot_type = "clause"
    elif members := _members(kind):
        slot_type, choices = "choice", _choices(members)
    elif members := _members(item):
        slot_type, choices = "choices", _choices(members)
    elif item is Point:
        slot_type = "points"
    elif isinstance(item, type) and issubclass(item, BaseModel):
        slot_type = "hidden"
    elif word.options:
        slot_type = "names" if item is str else "name"
    elif item is str:
        slot_type = "names"
    elif item in (float, int):
        slot_type = "numbers"
    elif item is date:
        slot_type = "dates"
    elif kind is int:
        slot_type = "integer"
    elif kind is float:
        slot_type = "number"
    elif kind is datetime:
        slot_type = "moment"
    elif kind is date:
        slot_type = "date"
    elif kind is str:
        slot_type = "text"
    else:
        raise TypeError(f"no slot type for the field {name}: {info.annotation}")
    return Slot(
        name=name,
        type=slot_type,
        title=info.title or name.replace("_", " "),
        minimum=minimum,
        maximum=maximum,
        step=word.step,
        unit=word.unit,
        options=word.options,
        empty=word.empty,
        spoken=word.spoken,
        usual=word.usual,
        choices=choices,
        clauses=clauses,
    )


def _clauses(annotation: Any) -> tuple[type[Clause], ...]:
    """The clauses that a field may hold."""
    if get_origin(annotation) is Annotated:
        return _clauses(get_args(annotation)[0])
    members = get_args(annotation) if get_origin(annotation) in (types.UnionType, Union) else (annotation,)
    return tuple(member for member in members if isinstance(member, type) and issubclass(member, Clause))


def _bare(annotation: Any) -> Any:
    """The annotation without its None; a day or a moment is a moment."""
    if get_origin(annotation) is Annotated:
        return _bare(get_args(annotation)[0])
    if get_origin(annotation) in (types.UnionType, Union):
        kinds = [_bare(arg) for arg in get_args(annotation) if arg is not type(None)]
        return datetime if datetime in kinds else kinds[0]
    return annotation


def _members(kind: Any) -> tuple[Choice, ...]:
    """The members of a choice, or those of it that a Literal names; none of anything else."""
    if get_origin(kind) is Literal:
        return tuple(member for member in get_args(kind) if isinstance(member, Choice))
    return tuple(kind) if isinstance(kind, type) and issubclass(kind, Choice) else ()


def _choices(members: Sequence[Choice]) -> tuple[tuple[str, str, str], ...]:
    return tuple((member.value, member.label, member.tip) for member in members)


def _bound(info: FieldInfo, marker: type, attribute: str) -> float | None:
    found = next((m for m in info.metadata if isinstance(m, marker)), None)
    return None if found is None else float(getattr(found, attribute))


def speak(slot: Slot, value: Any) -> str:
    """A value as it reads in the sentence."""
    if value is None or value == "" or (isinstance(value, list | tuple) and not value):
        return slot.empty or "nothing"
    if slot.type == "choice":
        return str(value.label)
    if slot.type == "choices":
        return _span([choice[0] for choice in slot.choices], list(value), slot)
    if slot.type == "numbers":
        return listed([f"{number(v)}{_unit(slot)}" for v in value])
    if slot.type in ("integer", "number"):
        return f"{number(value)}{_unit(slot)}"
    if slot.type == "points":
        named = [f"{one.period} of {one.series}" for one in value]
        return listed(named) if len(named) < 3 else f"{len(named)} points"
    if slot.type == "events":
        return listed([one.name for one in value]) if len(value) < 4 else f"{len(value)} events"
    if slot.type == "names":
        if slot.spoken == "shortened" and len(value) > 4:
            return f"{', '.join(str(v) for v in value[:3])} and {len(value) - 3} more"
        return listed([str(v) for v in value])
    if slot.type in ("date", "moment"):
        return spoken_date(value)
    if slot.type == "dates":
        return listed([spoken_date(day) for day in value]) if len(value) < 4 else f"{len(value)} days"
    return str(value)


def _unit(slot: Slot) -> str:
    return f" {slot.unit}" if slot.unit else ""


def _span(order: Sequence[str], chosen: Sequence[str], slot: Slot) -> str:
    """Choices in their own order; three or more in a row are spoken "first to last"."""
    labels = {choice[0]: choice[1] for choice in slot.choices}
    places = sorted(order.index(str(c)) for c in chosen)
    if slot.spoken == "span" and len(places) > 2 and places[-1] - places[0] == len(places) - 1:
        return f"{labels[order[places[0]]]} to {labels[order[places[-1]]]}"
    return listed([labels[order[place]] for place in places])
