"""Compute cache keys for the lines and entries of a run, and look results up by them."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.ledger.digest import digest, expected_digest, line_digest, words_digest
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.lineentry import LineEntry, LineResult
from zembra.core.ledger.memo import Kept, Memo, Whole
from zembra.core.ledger.model import Record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.shapes import TOGETHER
from zembra.core.ledger.state import State, Study


def kind_key(item: Record) -> str:
    """Return kind and package version, as another version may give another result for the same parameters."""
    kind = kinds().get(item.kind)
    return f"{item.kind} {kind.made_in}" if kind is not None and kind.made_in else item.kind


class Recall:
    """The memo of a run, with the cache keys of the lines in its state."""

    def __init__(self, memo: Memo | None) -> None:
        self._memo = memo
        self._line_keys: dict[str, str] = {}  # by the name of the line
        self._made_by: dict[tuple[str, str], str] = {}  # by entry and line: the key of what the entry made of it
        self._study = ""  # digest of what all entries see of the study

    def find(self, key: str) -> Kept | None:
        return self._memo.get(key) if self._memo is not None else None

    def keep(self, key: str, kept: Kept, given: Iterable[np.ndarray]) -> None:
        if self._memo is not None:
            self._memo.put(key, kept, given)

    def line_key(self, line: Line) -> str:
        """Return the digest of a line, computed on first use."""
        if line.name not in self._line_keys:
            self._line_keys[line.name] = line_digest(line)
        return self._line_keys[line.name]

    def whole_key(self, state: State, item: Record) -> str:
        """Return the cache key of an entry that works on all lines at once."""
        about = (
            state.observations.digest,
            state.as_of.isoformat(),
            state.file_name,
            repr(state.selection),
            self._study,
        )
        lines = (self.line_key(line) for line in state.lines)
        return digest(*about, *lines, item.id, kind_key(item), words_digest(item.params))

    def keys_of_lines_made(self, lines: tuple[Line, ...] | None) -> tuple[str, ...]:
        """Return digests of new lines; empty without a memo, as they are rarely needed then."""
        return () if self._memo is None or lines is None else tuple(line_digest(line) for line in lines)

    def key_maker(self, state: State, item: Record, entry: LineEntry) -> Callable[[Line, Study], str]:
        """Return a function that gives the cache key of an entry on a line."""
        line_keys = {id(line): self.line_key(line) for line in state.lines}
        kind = kind_key(item)
        own_words = type(entry).words_for is not LineEntry.words_for
        same_words = "" if own_words else words_digest(entry.words_for(""))

        def key_of(line: Line, study: Study) -> str:
            others = [line_keys.get(id(other)) or line_digest(other) for other in study.others]
            names = (TOGETHER, line.name)
            earlier = [self._made_by.get((reading, name), "") for reading in entry.refers_to() for name in names]
            words = words_digest(entry.words_for(line.name)) if own_words else same_words
            return digest(self._study, self.line_key(line), *others, "|", *earlier, item.id, kind, words)

        return key_of

    def note_whole(self, item: Record, key: str, known: Whole, after: State) -> None:
        """Record that an entry has worked on all lines at once."""
        lines = known.outcome.adds.lines
        if lines is not None:
            names = (line.name for line in lines)
            self._line_keys = dict(zip(names, known.keys, strict=bool(known.keys)))
        self._made_by[item.id, TOGETHER] = key
        self._study = digest(expected_digest(after.expected), after.as_of.isoformat(), repr(after.events))

    def note_lines(self, item: Record, made_keys: dict[str, str], before: State, after: State) -> None:
        """Record that an entry has worked on lines one by one.

        made_keys: cache key of each result, by name of the line
        """
        for old, new in zip(before.lines, after.lines, strict=False):
            if old is not new:
                self._line_keys[new.name] = made_keys[old.name]
        for new in after.lines[len(before.lines) :]:
            self._line_keys[new.name] = line_digest(new)
        self._made_by.update({(item.id, name): key for name, key in made_keys.items()})


def remembered_whole(recall: Recall, key: str, entry: Entry, item: Record, state: State) -> Whole:
    """Return the cached or computed outcome of an entry that works on all lines at once. Refusals are cached too.
    Raises Refusal.
    """
    known = recall.find(key)
    if known is None:
        try:
            outcome = entry.apply(state, item.id)
        except Refusal as refusal:
            known = refusal
        else:
            known = Whole(outcome, recall.keys_of_lines_made(outcome.adds.lines))
        recall.keep(key, known, (array for line in state.lines for array in line.arrays()))
    if isinstance(known, Refusal):
        raise known
    assert not isinstance(known, LineResult)
    return known
