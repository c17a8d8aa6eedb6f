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
    """Its kind, and the version of the package that brings it: another one may make something else of the same words."""
    kind = kinds().get(item.kind)
    return f"{item.kind} {kind.made_in}" if kind is not None and kind.made_in else item.kind


class Recall:
    """The memo of a run, and the keys of what is in its state: the digest of all that made a line what it is."""

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
        """The digest of a line of the state, made when it is first asked for."""
        if line.name not in self._line_keys:
            self._line_keys[line.name] = line_digest(line)
        return self._line_keys[line.name]

    def whole_key(self, state: State, item: Record) -> str:
        """Digest of all that an entry sees that works on all lines at once."""
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
        """Digests of lines that were made anew; without a memo few of them are ever asked for."""
        return () if self._memo is None or lines is None else tuple(line_digest(line) for line in lines)

    def key_maker(self, state: State, item: Record, entry: LineEntry) -> Callable[[Line, Study], str]:
        """What gives the digest of all that an entry sees when it works on a line."""
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
        """An entry has worked on all lines at once."""
        lines = known.outcome.adds.lines
        if lines is not None:
            names = (line.name for line in lines)
            self._line_keys = dict(zip(names, known.keys, strict=bool(known.keys)))
        self._made_by[item.id, TOGETHER] = key
        self._study = digest(expected_digest(after.expected), after.as_of.isoformat(), repr(after.events))

    def note_lines(self, item: Record, made_keys: dict[str, str], before: State, after: State) -> None:
        """An entry has worked on lines one by one. made_keys: by the name of the line, that of what was made."""
        for old, new in zip(before.lines, after.lines, strict=False):
            if old is not new:
                self._line_keys[new.name] = made_keys[old.name]
        for new in after.lines[len(before.lines) :]:
            self._line_keys[new.name] = line_digest(new)
        self._made_by.update({(item.id, name): key for name, key in made_keys.items()})


def remembered_whole(recall: Recall, key: str, entry: Entry, item: Record, state: State) -> Whole:
    """What an entry makes of all lines at once, found or made. Raises Refusal, which is remembered too."""
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
