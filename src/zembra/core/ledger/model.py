"""A ledger as data: its JSON form, checking it, and turning records into entries."""

from __future__ import annotations

import secrets
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zembra.core.errors import Refusal
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.entry import Entry, Group, kinds

MOST_ENTRIES = 200


class Record(BaseModel):
    """One entry as it is kept: its kind, its words, and whether it is switched on.

    counted_in: the periods its numbers were set for, "days"; None where that is not known.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
    kind: str
    on: bool = True
    params: dict[str, Any] = Field(default_factory=dict)
    counted_in: Annotated[str | None, Field(max_length=40)] = None


class Ledger(BaseModel):
    """An ordered list of entries; `intake`, if present, says how the file was read."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["zembra.ledger/1"] = "zembra.ledger/1"
    intake: HowRead | None = None
    entries: Annotated[tuple[Record, ...], Field(max_length=MOST_ENTRIES)] = ()


def new_id() -> str:
    return f"e{secrets.token_hex(4)}"


def record(entry: Entry, identifier: str | None = None) -> Record:
    return Record(id=identifier or new_id(), kind=entry.kind, params=entry.model_dump(mode="json"))


def entry_of(item: Record) -> Entry:
    """The typed entry of a record. Raises Refusal naming the entry and the word that is wrong."""
    kind = kinds().get(item.kind)
    if kind is None:
        raise Refusal(
            f"There is no entry kind named “{item.kind}”.",
            place=f"entry {item.id}",
            todo="`zembra entries` lists the kinds.",
        )
    try:
        return kind.model_validate(item.params)
    except ValidationError as error:
        raise Refusal(first_fault(error), place=f"entry {item.id} ({kind.title})") from None


def first_fault(error: ValidationError) -> str:
    """The first fault of a validation, as a sentence."""
    fault = error.errors(include_url=False)[0]
    where = " ".join(str(part).replace("_", " ") for part in fault["loc"]) or "the text"
    given = fault.get("input")
    shown = f", not “{given}”" if isinstance(given, str | int | float) and fault["type"] != "extra_forbidden" else ""
    return f"The word “{where}”: {fault['msg'][:1].lower()}{fault['msg'][1:]}{shown}."


def parse_ledger(text: str | bytes) -> Ledger:
    """A ledger from its JSON text. Raises Refusal."""
    try:
        ledger = Ledger.model_validate_json(text)
    except ValidationError as error:
        raise Refusal(
            f"The ledger cannot be read. {first_fault(error)}",
            place="the ledger file",
            todo="Its form is described in docs/ledger.schema.json.",
        ) from None
    return checked(ledger)


def checked(ledger: Ledger) -> Ledger:
    """The ledger with its groups in running order. Raises Refusal for anything a run would refuse."""
    seen: set[str] = set()
    for item in ledger.entries:
        if item.id in seen:
            raise Refusal("Two entries have the same id.", place=f"entry {item.id}")
        seen.add(item.id)
        entry_of(item)
    known = kinds()
    for name, kind in known.items():
        count = sum(1 for item in ledger.entries if item.kind == name)
        if kind.once and count != 1:
            raise Refusal(f"A ledger needs exactly one entry of the kind “{name}”; this one has {count}.")
        if kind.once and any(item.kind == name and not item.on for item in ledger.entries):
            raise Refusal(f"The entry “{kind.title}” cannot be switched off: nothing would be left to draw.")
    order = list(Group)
    ordered = sorted(ledger.entries, key=lambda item: order.index(known[item.kind].group))
    return ledger.model_copy(update={"entries": tuple(ordered)})
