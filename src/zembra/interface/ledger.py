"""A ledger for notebooks and scripts: of entries, from a file, from a text."""

from __future__ import annotations

from pathlib import Path
from typing import Self

from pydantic import ValidationError

from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger as CoreLedger
from zembra.core.ledger.model import entry_of, parse_ledger, record
from zembra.core.speaking import plain
from zembra.interface.html import listed, titled


class Ledger:
    """An ordered list of entries. Without source and calendar, those of the data are used."""

    def __init__(self, *entries: Entry) -> None:
        records = tuple(record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(entries, 1))
        self._core = CoreLedger(entries=records)

    @classmethod
    def load(cls, path: str | Path) -> Self:
        """Load a ledger from a file. Raises Refusal."""
        try:
            return cls.parse(Path(path).read_bytes())
        except OSError as error:
            raise Refusal(f"The ledger cannot be read: {error.strerror or error}.", place=str(path)) from None

    @classmethod
    def parse(cls, text: str | bytes) -> Self:
        """Parse a ledger from JSON. Raises Refusal."""
        try:
            core = CoreLedger.model_validate_json(text)
        except ValidationError:
            core = parse_ledger(text)
        for item in core.entries:
            entry_of(item)
        # without source and calendar it is incomplete, and takes those of the data
        return cls._of(parse_ledger(text) if core.start.entries else core)

    @classmethod
    def _of(cls, core: CoreLedger) -> Self:
        made = cls()
        made._core = core
        return made

    @property
    def entries(self) -> tuple[Entry, ...]:
        return tuple(entry_of(item) for item in self._core.entries)

    @property
    def sentences(self) -> tuple[str, ...]:
        return tuple(plain(entry, Nouns()) for entry in self.entries)

    @property
    def text(self) -> str:
        """Return the ledger as JSON."""
        return self._core.model_dump_json(indent=2)

    def save(self, path: str | Path) -> None:
        Path(path).write_text(self.text, encoding="utf-8")

    def __add__(self, other: Ledger) -> Ledger:
        """Return the entries of both in order."""
        known = {item.id for item in self._core.entries}
        added = [
            item if item.id not in known else item.model_copy(update={"id": f"{item.id[:36]}-{n}"})
            for n, item in enumerate(other._core.entries, len(known) + 1)
        ]
        return Ledger._of(self._core.model_copy(update={"entries": (*self._core.entries, *added)}))

    def _repr_html_(self) -> str:
        return titled("Ledger", listed(self.sentences))

    def __repr__(self) -> str:
        return "\n".join(f"{n}. {sentence}" for n, sentence in enumerate(self.sentences, 1)) or "<an empty ledger>"


def onto(ledger: Ledger, begun: CoreLedger) -> CoreLedger:
    """Return the ledger for given data: with its own source and calendar, or with detected ones."""
    core = ledger._core
    if core.start.entries:
        return core if core.intake else core.model_copy(update={"intake": begun.intake})
    return core.model_copy(update={"intake": begun.intake, "entries": (*begun.entries, *core.entries)})
