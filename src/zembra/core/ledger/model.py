"""A ledger as data: its JSON form, validation, and conversion to entries."""

from __future__ import annotations

import json
import secrets
from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from zembra.core.errors import Refusal
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.upgrade import upgraded

MOST_ENTRIES = 200


class Record(BaseModel):
    """One entry as stored: kind, parameters, and whether it is on.

    counted_in: the unit its numbers were set for ("days"), None if unknown
    made_in: package and version of the kind when it was stored, None for built-in kinds
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
    kind: str
    on: bool = True
    params: dict[str, Any] = Field(default_factory=dict)
    counted_in: Annotated[str | None, Field(max_length=40)] = None
    made_in: Annotated[str | None, Field(max_length=200)] = None


class Ledger(BaseModel):
    """An ordered list of entries. Older formats are upgraded when read.

    intake: how the file was read, if given
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["zembra.ledger/6"] = "zembra.ledger/6"
    intake: HowRead | None = None
    entries: Annotated[tuple[Record, ...], Field(max_length=MOST_ENTRIES)] = ()

    @model_validator(mode="before")
    @classmethod
    def _newest(cls, data: Any) -> Any:
        return upgraded(data) if isinstance(data, Mapping) else data

    @property
    def start(self) -> Ledger:
        """Only the entries that every ledger has: source and calendar."""
        once = tuple(item for item in self.entries if item.kind in kinds() and kinds()[item.kind].once)
        return self.model_copy(update={"entries": once})


def needed_packages(ledger: Ledger) -> list[str]:
    """Return the packages that provide entry kinds of a ledger, with versions."""
    brought = {kinds()[item.kind].made_in if item.kind in kinds() else item.made_in for item in ledger.entries}
    return sorted(package for package in brought if package)


def new_id() -> str:
    return f"e{secrets.token_hex(4)}"


def record(entry: Entry, identifier: str | None = None) -> Record:
    params = entry.model_dump(mode="json")
    return Record(id=identifier or new_id(), kind=entry.kind, params=params, made_in=entry.made_in or None)


def entry_of(item: Record) -> Entry:
    """Return the typed entry of a record. Raises Refusal naming the entry and the wrong word, unless the entry is
    off.
    """
    try:
        return _entry_of(item)
    except Refusal as refusal:
        if item.on:
            raise
        return NotUnderstood(of=item.kind, why=refusal.what, words=json.dumps(item.params, ensure_ascii=False))


def _entry_of(item: Record) -> Entry:
    kind = kinds().get(item.kind)
    if kind is None:
        raise Refusal(
            f"There is no entry kind named “{item.kind}”.",
            todo="`zembra entries` lists the kinds.",
        )
    try:
        return kind.model_validate(in_version(item).params)
    except ValidationError as error:
        raise Refusal(first_fault(error), place=f"in the entry {kind.title}") from None


def in_version(item: Record) -> Record:
    """Return a third-party record in the installed version of its package, any other unchanged."""
    kind = kinds().get(item.kind)
    if kind is None or not kind.made_in or item.made_in == kind.made_in:
        return item
    params = dict(kind.upgraded(item.params, item.made_in)) if item.made_in else item.params
    return item.model_copy(update={"params": params, "made_in": kind.made_in})


def first_fault(error: ValidationError) -> str:
    """Return the first error of a validation as a sentence."""
    fault = error.errors(include_url=False)[0]
    if fault["type"] == "json_invalid":
        return f"The text is not whole JSON: {fault['ctx']['error']}."
    where = " ".join(str(part).replace("_", " ") for part in fault["loc"]) or "the text"
    given = fault.get("input")
    shown = f", not “{given}”" if isinstance(given, str | int | float) and fault["type"] != "extra_forbidden" else ""
    said = fault["msg"].removeprefix("Value error, ")
    return f"The word “{where}”: {said[:1].lower()}{said[1:]}{shown}."


class NotUnderstood(Entry):
    """An entry of an unknown kind or with unknown words: shown and kept, but never run."""

    kind: ClassVar[str] = "not-understood"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Not understood"
    hint: ClassVar[str] = "Made by another Zembra: kept as it is, and not carried out."

    of: Annotated[str, Field(title="kind")] = ""
    why: Annotated[str, Field(title="why")] = ""
    words: Annotated[str, Field(title="words")] = "{}"

    def template(self) -> str:
        # in the sentence it is not editable
        text = f"{self.of}: {self.words}".replace("{", "(").replace("}", ")")
        return f"An entry that this Zembra does not understand, switched off: {text}."


def opened(text: str | bytes) -> Ledger:
    """Read a stored ledger. Entries that are not understood are switched off and keep their parameters. Raises
    ValidationError or Refusal if it is unreadable.
    """
    ledger = Ledger.model_validate_json(text)
    entries = tuple(item if _understood(item) else item.model_copy(update={"on": False}) for item in ledger.entries)
    return checked(ledger.model_copy(update={"entries": entries}))


def _understood(item: Record) -> bool:
    try:
        _entry_of(item)
    except Refusal:
        return False
    return True


def parse_ledger(text: str | bytes) -> Ledger:
    """Parse a ledger from JSON. Raises Refusal."""
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
    """Return the ledger with its groups in running order. Raises Refusal for anything that a run would refuse."""
    seen: set[str] = set()
    for item in ledger.entries:
        if item.id in seen:
            raise Refusal("Two entries have the same id.", place=f"the second is of the kind “{item.kind}”")
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
    place = 0
    places: dict[str, int] = {}
    for item in ledger.entries:
        # an unknown entry stays behind its predecessor
        place = order.index(known[item.kind].group) if item.kind in known else place
        places[item.id] = place
    return ledger.model_copy(update={"entries": tuple(sorted(ledger.entries, key=lambda item: places[item.id]))})
