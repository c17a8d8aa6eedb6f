"""Render sentences from templates, with agreeing numbers and articles."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from functools import lru_cache
from itertools import chain
from typing import Any

from zembra.core.english import article, listed, number, spoken_date, upper_first
from zembra.core.grammar import Clause, Nouns, Sentence
from zembra.core.slots import Slot, slots


@dataclass(frozen=True, slots=True)
class Part:
    """A piece of a rendered sentence.

    slot: field name if editable, with the field of its clause before it ("rule.far")
    quiet: whether a small screen may leave it out
    name: whether it is a name, which keeps its case
    """

    text: str
    slot: str | None = None
    quiet: bool = False
    name: bool = False


_TOKEN = re.compile(r"\{(@?)([a-z_]+)\}")

_STRETCH = re.compile(r"\[([^\]]*)\]")


def parts(sentence: Sentence, nouns: Nouns) -> list[Part]:
    """Render the sentence as plain and editable pieces, with agreement of numbers and articles."""
    return _agreeing(list(_parts(sentence, nouns, None, False)), nouns)


# what counts time; one of them loses its last letter
_UNITS = frozenset({"minutes", "hours", "days", "weeks", "months", "quarters", "years", "dates"})

_ARTICLE = re.compile(r"(^|[\s(])(an?)(\s+)$")


def _agreeing(pieces: list[Part], nouns: Nouns) -> list[Part]:
    """Apply agreement: “1 day”, “an exponential”."""
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
            singular = nouns["period"] if word == nouns["periods"] else word[:-1] if word in _UNITS else word
            found[following] = replace(after, text=after.text.replace(word, singular, 1)) if word else after
        found_article = _ARTICLE.search(piece.text)
        if found_article and not piece.slot and after.text.strip():
            right = article(after.text)
            start, end = found_article.span(2)
            found[n] = replace(piece, text=piece.text[:start] + right + piece.text[end:])
    return found


def _parts(sentence: Sentence, nouns: Nouns, within: str | None, all_quiet: bool) -> Iterator[Part]:
    """Render one level.

    within: the field that holds the sentence, if it is a clause
    """
    # every second stretch stood in brackets
    for n, stretch in enumerate(_stretches(sentence.template())):
        usual = n % 2 == 1 and all(_usual(sentence, piece.name) for piece in stretch if piece.what is _What.WORD)
        yield from _pieces(sentence, nouns, stretch, within, all_quiet or usual)


class _What(Enum):
    TEXT = 1
    NOUN = 2
    WORD = 3


@dataclass(frozen=True, slots=True)
class _Token:
    """A token of a template.

    name: of a noun or word; or literal text
    """

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
    """Return the nouns of a sentence and its clauses."""
    named: set[str] = set()
    for token in chain.from_iterable(_stretches(sentence.template())):
        held = getattr(sentence, token.name, None) if token.what is _What.WORD else None
        if token.what is _What.NOUN:
            named.add(token.name)
        elif isinstance(held, Clause):
            named |= nouns_in(held)
    return named


def plain(sentence: Sentence, nouns: Nouns) -> str:
    """Render the sentence as plain text."""
    return written(parts(sentence, nouns))


def written(pieces: Sequence[Part]) -> str:
    """Join pieces to a sentence; an initial name keeps its case."""
    text = "".join(piece.text for piece in pieces)
    return text if pieces and pieces[0].name else upper_first(text)


def speak(slot: Slot, value: Any) -> str:
    """Render a value."""
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
        named = [f"{item.period} of {item.series}" for item in value]
        return listed(named) if len(named) < 3 else f"{len(named)} points"
    if slot.type == "events":
        return listed([item.name for item in value]) if len(value) < 4 else f"{len(value)} events"
    if slot.type == "names":
        if slot.spoken == "shortened" and len(value) > 4:
            return f"{', '.join(str(v) for v in value[:3])} and {len(value) - 3} more"
        return ", then ".join(map(str, value)) if slot.spoken == "ordered" else listed([str(v) for v in value])
    if slot.type in ("date", "moment"):
        return spoken_date(value)
    if slot.type == "dates":
        return listed([spoken_date(day) for day in value]) if len(value) < 4 else f"{len(value)} days"
    return str(value)


def _unit(slot: Slot) -> str:
    return f" {slot.unit}" if slot.unit else ""


def _span(order: Sequence[str], chosen: Sequence[str], slot: Slot) -> str:
    """Render choices in order; three or more in a row as "first to last"."""
    labels = {choice[0]: choice[1] for choice in slot.choices}
    places = sorted(order.index(str(c)) for c in chosen)
    if slot.spoken == "span" and len(places) > 2 and places[-1] - places[0] == len(places) - 1:
        return f"{labels[order[places[0]]]} to {labels[order[places[-1]]]}"
    return listed([labels[order[place]] for place in places])
