"""Entry kinds of other packages, held apart: whatever they do is carried out by somebody who can do without it, and what it gives is looked
at before it is taken.

What runs here is Zembra's own; what a package brings is asked for by name, and may crash, hang or grow where it is carried out.
"""

from __future__ import annotations

import dataclasses
import logging
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from importlib.metadata import EntryPoint
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from zembra.core.errors import Refusal

if TYPE_CHECKING:
    from zembra.core.ledger.entry import Entry

# the name of a deed, the function that does it, and what that is given; slow: whether it may take as long as a slow entry
CarryOut = Callable[..., Any]
DEEDS = (
    "template", "apply", "on_line", "account", "make_ready", "settled", "works_on", "others", "refers_to", "seconds_on", "words_for",
)  # fmt: skip
CLASS_DEEDS = ("suggest", "upgraded")
SLOW = frozenset({"apply", "on_line", "account", "make_ready"})  # of a kind that says how long it takes
GROUP = "zembra.entries"  # of entry points
MOST_TEXT = 20_000  # letters of one text
log = logging.getLogger(__name__)
Kind = TypeVar("Kind")


def here(_name: str, function: Callable[..., Any], *args: Any, slow: bool = False) -> Any:
    """Without holding apart."""
    return function(*args)


class PackageFailed(Refusal):
    """What a package brings failed, or gave what cannot be taken: it is not tried on the next line."""


class _Carrier:
    """Who carries it out."""

    carry_out: CarryOut = staticmethod(here)


def _carry_out(name: str, function: Callable[..., Any], *args: Any, slow: bool = False) -> Any:
    return _Carrier.carry_out(name, function, *args, slow=slow)


def carried_out_by(carry_out: CarryOut) -> None:
    """From now on what kinds of other packages do is done by `carry_out(name, function, *args, slow=…)`, the function being one that is found
    by its name in another process. Raises there what the function raises, and PackageFailed where it ends otherwise."""
    _Carrier.carry_out = staticmethod(carry_out)


def load(point: EntryPoint) -> Any:
    """What an entry point names, loaded here once that was seen to end well elsewhere. Raises Refusal, and whatever loading raises."""
    _carry_out(f"loading {point.value}", _load, point.name, point.value)
    return point.load()


def _load(name: str, value: str) -> None:
    _ended(value, EntryPoint(name, value, GROUP).load)


class Origin(NamedTuple):
    """Where a kind comes from. name, value: of its entry point. made_in: the package that brings it."""

    name: str
    value: str
    made_in: str


# in a process that carries something out stands what was asked for, and no other kind
_HELD: dict[Origin, Any] = {}
_ORIGINS: dict[type, Origin] = {}


def _kind_from(origin: Origin) -> Any:
    if origin not in _HELD:
        held_apart(EntryPoint(origin.name, origin.value, GROUP).load(), origin)
    return _HELD[origin]


def held_apart(kind: type[Kind], origin: Origin) -> type[Kind]:
    """The kind as Zembra uses it."""
    from zembra.core.ledger.entry import Entry
    from zembra.core.ledger.lineentry import LineEntry

    base: type[Entry] = LineEntry if issubclass(kind, LineEntry) else Entry
    own = {name for name in (*DEEDS, *CLASS_DEEDS, "needs") if getattr(kind, name, None) != getattr(base, name, None)}
    says_how_long = "seconds_on" in own
    namespace: dict[str, Any] = {name: _deed(name, says_how_long) for name in DEEDS if name in own}
    namespace |= {name: classmethod(_class_deed(name)) for name in CLASS_DEEDS if name in own}
    if "needs" in own:
        namespace["needs"] = property(_deed("needs", slow=False))
    namespace |= {
        "__module__": kind.__module__,
        "__qualname__": kind.__qualname__,
        "__doc__": kind.__doc__,
        "__reduce__": _reduce,
        "model_validate": classmethod(_validated),
    }
    namespace["made_in"] = origin.made_in
    make: Any = type(kind)
    held: type[Kind] = make(kind.__name__, (kind,), namespace)
    _HELD[origin], _ORIGINS[held] = held, origin
    return held


def _reduce(self: Entry) -> tuple[Any, ...]:
    held: Any = type(self)
    return _entry, (_ORIGINS[held], {name: getattr(self, name) for name in held.model_fields})


def _entry(origin: Origin, words: Mapping[str, Any]) -> Any:
    return _kind_from(origin).model_construct(**words)


def _deed(name: str, slow: bool) -> Callable[..., Any]:
    def ask(self: Entry, *args: Any) -> Any:
        if name == "apply" and len(args) > 2:
            args = args[:2]  # how lines are carried out is the affair of whoever carries it out
        said = type(self).made_in
        given = _carry_out(f"what {said} brings", _done, self, name, args, slow=slow and name in SLOW)
        return checked(given, name, said)

    if name != "template":
        return ask
    # a sentence is the same as long as its words are
    cached: Callable[..., Any] = lru_cache(maxsize=1024)(ask)

    def template(self: Entry) -> Any:
        return cached(self)

    return template


def _class_deed(name: str) -> Callable[..., Any]:
    def ask(cls: Any, *args: Any) -> Any:
        given = _carry_out(f"what {cls.made_in} brings", _done_by_kind, _ORIGINS[cls], name, args)
        return checked(given, name, cls.made_in)

    return ask


def _validated(cls: Any, /, words: Any, **how: Any) -> Any:
    # validators are the package's too: they are seen to end elsewhere first
    _carry_out(f"what {cls.made_in} brings", _tried, _ORIGINS[cls], words)
    return super(cls, cls).model_validate(words, **how)


def _done(entry: Entry, name: str, args: Sequence[Any]) -> Any:
    """In the process that holds it."""

    def do() -> Any:
        own = getattr(super(type(entry), entry), name)
        return own(*args) if callable(own) else own

    return _ended(type(entry).made_in, do)


def _done_by_kind(origin: Origin, name: str, args: Sequence[Any]) -> Any:
    held = _kind_from(origin)
    return _ended(held.made_in, lambda: getattr(super(held, held), name)(*args))


def _tried(origin: Origin, words: Any) -> None:
    from pydantic import ValidationError

    held = _kind_from(origin)

    def validate() -> None:
        try:
            super(held, held).model_validate(words)
        except ValidationError:
            return  # said where the words are validated once more

    _ended(held.made_in, validate)


def _ended(made_in: str, do: Callable[[], Any]) -> Any:
    """What a package does, and whatever it raises as a refusal."""
    try:
        return do()
    except Refusal as refusal:
        raise Refusal(
            _text(refusal.what),
            place=None if refusal.place is None else _text(refusal.place),
            todo=None if refusal.todo is None else _text(refusal.todo),
        ) from None
    except MemoryError:
        raise
    except BaseException as error:
        log.warning("%s failed", made_in, exc_info=True)
        raise PackageFailed(
            _text(f"{made_in}, which brings it, failed: {type(error).__name__}: {error}."),
            todo="Switch the entry off, or ask who made it.",
        ) from None


def _text(text: object) -> str:
    """As it can be written down: without halves of letters."""
    return str(text)[:MOST_TEXT].encode("utf-8", "replace").decode()


def checked(given: Any, name: str, made_in: str) -> Any:
    """What a deed gave, its texts as they can be written down. Raises Refusal where it is not what a deed of this name gives."""
    from zembra.core.ledger.entry import Entry, Needs
    from zembra.core.ledger.lineentry import Account, Made
    from zembra.core.ledger.state import Outcome

    kinds_of: dict[str, Any] = {
        "template": str, "apply": Outcome, "on_line": Made, "account": Account, "make_ready": type(None), "settled": Sequence,
        "works_on": bool, "others": tuple, "refers_to": tuple, "seconds_on": (int, float), "words_for": Mapping, "needs": Needs,
        "suggest": Entry, "upgraded": Mapping,
    }  # fmt: skip
    if not isinstance(given, kinds_of[name]) or (name == "seconds_on" and given != abs(given)):
        raise _wrong(made_in, f"{name} gives {type(given).__name__}")
    if name == "suggest":
        return given
    return _Looked(made_in).at(given)


def _wrong(made_in: str, what: str) -> PackageFailed:
    return PackageFailed(
        f"{made_in}, which brings it, gives what cannot be taken: {_text(what)}.",
        todo="Switch the entry off, or ask who made it.",
    )


@dataclasses.dataclass(frozen=True, slots=True)
class _Looked:
    """Looks through all that a package gave."""

    made_in: str

    def at(self, value: Any) -> Any:
        """The value, its texts as they can be written down. Raises Refusal."""
        import numpy as np

        if isinstance(value, str):
            return value if type(value) is not str else _text(value)
        if isinstance(value, bool | int | None):
            return value
        if isinstance(value, float):
            return self._number(value)
        if isinstance(value, complex):
            raise _wrong(self.made_in, f"the number {value}")
        if isinstance(value, np.ndarray):
            return self._array(value)
        if isinstance(value, np.generic):
            return self.at(value.item())
        if isinstance(value, Mapping):
            return {self.at(key): self.at(part) for key, part in value.items()}
        if isinstance(value, tuple) and hasattr(value, "_fields"):
            return type(value)(*(self.at(part) for part in value))
        if isinstance(value, list | tuple):
            return type(value)(self.at(part) for part in value)
        if dataclasses.is_dataclass(value) and not isinstance(value, type):
            return self._object(value)
        return value

    def _number(self, value: float) -> float:
        if value in (float("inf"), float("-inf")):
            raise _wrong(self.made_in, f"the number {value}")
        return value

    def _array(self, value: Any) -> Any:
        import numpy as np

        if value.ndim != 1 or value.dtype.kind not in "biuf":
            raise _wrong(self.made_in, f"an array of {value.ndim} dimensions of {value.dtype}")
        if value.dtype.kind == "f" and np.isinf(value).any():
            raise _wrong(self.made_in, f"the number {value[np.isinf(value)][0]}")
        return value

    def _object(self, value: Any) -> Any:
        import numpy as np

        parts = {field.name: self.at(getattr(value, field.name)) for field in dataclasses.fields(value) if field.init}
        periods = parts.get("periods")
        if isinstance(periods, np.ndarray):
            if periods.dtype.kind not in "iu" or not (np.diff(periods) > 0).all():
                raise _wrong(self.made_in, "periods that do not follow one another")
            for name, part in parts.items():
                if isinstance(part, np.ndarray) and part.size != periods.size:
                    raise _wrong(self.made_in, f"{part.size} of “{name}” for {periods.size} periods")
        return dataclasses.replace(value, **parts)
