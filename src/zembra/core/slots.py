"""Describe the editable words of a sentence for a screen."""

from __future__ import annotations

import builtins
import types
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import lru_cache
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import annotated_types
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from zembra.core.grammar import Choice, Clause, Point, Sentence, Word

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
    """An editable word, described for a screen.

    clauses: the alternatives of a clause
    """

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


@lru_cache(maxsize=256)
def slots(model: type[Sentence]) -> Mapping[str, Slot]:
    """Return the editable words of a sentence class, by field name."""
    return {name: _slot(name, info) for name, info in model.model_fields.items() if not _tells_apart(name, info)}


def _tells_apart(name: str, info: FieldInfo) -> bool:
    """Return whether a field is the discriminator of a clause."""
    return name == "kind" and get_origin(info.annotation) is Literal


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
    """Return the clauses that a field may hold."""
    if get_origin(annotation) is Annotated:
        return _clauses(get_args(annotation)[0])
    members = get_args(annotation) if get_origin(annotation) in (types.UnionType, Union) else (annotation,)
    return tuple(member for member in members if isinstance(member, type) and issubclass(member, Clause))


def _bare(annotation: Any) -> Any:
    """Return the annotation without None; a day or moment is a moment."""
    if get_origin(annotation) is Annotated:
        return _bare(get_args(annotation)[0])
    if get_origin(annotation) in (types.UnionType, Union):
        kinds = [_bare(arg) for arg in get_args(annotation) if arg is not type(None)]
        return datetime if datetime in kinds else kinds[0]
    return annotation


def _members(kind: Any) -> tuple[Choice, ...]:
    """Return the members of a choice, or those that a Literal names."""
    if get_origin(kind) is Literal:
        return tuple(member for member in get_args(kind) if isinstance(member, Choice))
    return tuple(kind) if isinstance(kind, type) and issubclass(kind, Choice) else ()


def _choices(members: Sequence[Choice]) -> tuple[tuple[str, str, str], ...]:
    return tuple((member.value, member.label, member.tip) for member in members)


def _bound(info: FieldInfo, marker: type, attribute: str) -> float | None:
    found = next((m for m in info.metadata if isinstance(m, marker)), None)
    return None if found is None else float(getattr(found, attribute))
