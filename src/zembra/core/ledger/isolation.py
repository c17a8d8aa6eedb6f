"""Run the methods of third-party entry kinds in another process, and check what they return.

A package's code may crash, hang or grow there; here runs nothing of it but the loading of its module and the validation of its words, once
both have ended well in the other process.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from importlib.metadata import EntryPoint
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from zembra.core.errors import Refusal
from zembra.core.ledger.packagefailed import SWITCH_OFF, PackageFailed, plain_text
from zembra.core.ledger.packageresult import checked

if TYPE_CHECKING:
    from zembra.core.ledger.entry import Entry

# (what it does in words, a function, its arguments; slow: whether it may take as long as a slow entry) to what the function returns
Runner = Callable[..., Any]
METHODS = (
    "template", "apply", "on_line", "account", "make_ready", "after_all_lines", "works_on", "others", "refers_to", "seconds_on", "words_for",
)  # fmt: skip
CLASS_METHODS = ("suggest", "upgraded")
SLOW = frozenset({"apply", "on_line", "account", "make_ready"})  # of a kind that says how long it takes
GROUP = "zembra.entries"  # of entry points
log = logging.getLogger(__name__)
Kind = TypeVar("Kind")


def run_here(_name: str, function: Callable[..., Any], *args: Any, slow: bool = False) -> Any:
    """Call the function in this process."""
    return function(*args)


class _Running:
    """Holds the runner of this process."""

    runner: Runner = staticmethod(run_here)


def _run(name: str, function: Callable[..., Any], *args: Any, slow: bool = False) -> Any:
    return _Running.runner(name, function, *args, slow=slow)


def isolate_with(runner: Runner) -> None:
    """Run methods of third-party kinds with this runner from now on.

    runner: called as `runner(name, function, *args, slow=…)` with a picklable function. It raises what the function
    raises, and PackageFailed if the function does not return.
    """
    _Running.runner = staticmethod(runner)


def load(point: EntryPoint) -> Any:
    """Load an entry point here, after loading it in another process has succeeded. Raises Refusal and whatever
    loading raises.
    """
    _run(f"loading {point.value}", _load, point.name, point.value)
    return point.load()


def _load(name: str, value: str) -> None:
    _ended(value, EntryPoint(name, value, GROUP).load)


class Origin(NamedTuple):
    """Where a kind comes from.

    name, value: of its entry point
    made_in: package and version
    """

    name: str
    value: str
    made_in: str


# in a process that carries something out stands what was asked for, and no other kind
_KINDS: dict[Origin, Any] = {}
_ORIGINS: dict[type, Origin] = {}


def _kind_from(origin: Origin) -> Any:
    if origin not in _KINDS:
        isolated(EntryPoint(origin.name, origin.value, GROUP).load(), origin)
    return _KINDS[origin]


def isolated(kind: type[Kind], origin: Origin) -> type[Kind]:
    """Wrap a third-party kind so that its methods run isolated."""
    from zembra.core.ledger.entry import Entry
    from zembra.core.ledger.lineentry import LineEntry

    base: type[Entry] = LineEntry if issubclass(kind, LineEntry) else Entry
    own = {
        name for name in (*METHODS, *CLASS_METHODS, "needs") if getattr(kind, name, None) != getattr(base, name, None)
    }
    says_how_long = "seconds_on" in own
    namespace: dict[str, Any] = {name: _isolated_method(name, says_how_long) for name in METHODS if name in own}
    namespace |= {name: classmethod(_isolated_class_method(name)) for name in CLASS_METHODS if name in own}
    if "needs" in own:
        namespace["needs"] = property(_isolated_method("needs", slow=False))
    namespace |= {
        "__module__": kind.__module__,
        "__qualname__": kind.__qualname__,
        "__doc__": kind.__doc__,
        "__reduce__": _reduce,
        "model_validate": classmethod(_validated),
    }
    namespace["made_in"] = origin.made_in
    make: Any = type(kind)
    isolated_kind: type[Kind] = make(kind.__name__, (kind,), namespace)
    _KINDS[origin], _ORIGINS[isolated_kind] = isolated_kind, origin
    return isolated_kind


def _reduce(self: Entry) -> tuple[Any, ...]:
    isolated_kind: Any = type(self)
    return _entry, (_ORIGINS[isolated_kind], {name: getattr(self, name) for name in isolated_kind.model_fields})


def _entry(origin: Origin, words: Mapping[str, Any]) -> Any:
    return _kind_from(origin).model_construct(**words)


def _isolated_method(name: str, slow: bool) -> Callable[..., Any]:
    def ask(self: Entry, *args: Any) -> Any:
        if name == "apply" and len(args) > 2:
            args = args[:2]  # how lines are carried out is the affair of whoever carries it out
        said = type(self).made_in
        given = _run(f"what {said} brings", _done, self, name, args, slow=slow and name in SLOW)
        return checked(given, name, said)

    if name != "template":
        return ask
    # a sentence is the same as long as its words are
    cached: Callable[..., Any] = lru_cache(maxsize=1024)(ask)

    def template(self: Entry) -> Any:
        return cached(self)

    return template


def _isolated_class_method(name: str) -> Callable[..., Any]:
    def ask(cls: Any, *args: Any) -> Any:
        given = _run(f"what {cls.made_in} brings", _done_by_kind, _ORIGINS[cls], name, args)
        return checked(given, name, cls.made_in)

    return ask


def _validated(cls: Any, /, words: Any, **how: Any) -> Any:
    # validators are third-party code too, so run them elsewhere first
    _run(f"what {cls.made_in} brings", _tried, _ORIGINS[cls], words)
    return super(cls, cls).model_validate(words, **how)


def _done(entry: Entry, name: str, args: Sequence[Any]) -> Any:
    """Call the method. Runs in the isolated process."""

    def do() -> Any:
        own = getattr(super(type(entry), entry), name)
        return own(*args) if callable(own) else own

    return _ended(type(entry).made_in, do)


def _done_by_kind(origin: Origin, name: str, args: Sequence[Any]) -> Any:
    isolated_kind = _kind_from(origin)
    return _ended(isolated_kind.made_in, lambda: getattr(super(isolated_kind, isolated_kind), name)(*args))


def _tried(origin: Origin, words: Any) -> None:
    from pydantic import ValidationError

    isolated_kind = _kind_from(origin)

    def validate() -> None:
        try:
            super(isolated_kind, isolated_kind).model_validate(words)
        except ValidationError:
            return  # said where the words are validated once more

    _ended(isolated_kind.made_in, validate)


def _ended(made_in: str, do: Callable[[], Any]) -> Any:
    """Call third-party code, and turn whatever it raises into a refusal."""
    try:
        return do()
    except PackageFailed:
        raise
    except Refusal as refusal:
        raise Refusal(
            plain_text(refusal.what),
            place=None if refusal.place is None else plain_text(refusal.place),
            todo=None if refusal.todo is None else plain_text(refusal.todo),
        ) from None
    except MemoryError:
        raise
    except BaseException as error:
        log.warning("%s failed", made_in, exc_info=True)
        raise PackageFailed(
            plain_text(f"{made_in}, which brings it, failed: {type(error).__name__}: {error}."),
            todo=SWITCH_OFF,
        ) from None
