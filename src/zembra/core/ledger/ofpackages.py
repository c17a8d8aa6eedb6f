"""Load entry kinds of other packages from the entry-point group `zembra.entries` (docs/own-entries.md)."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterator
from importlib.metadata import EntryPoint, entry_points
from typing import TypeVar

from zembra.core.ledger.isolation import GROUP, Origin, isolated, load

_NAME = re.compile(r"[a-z][a-z0-9-]*:[a-z][a-z0-9-]*")  # the package's own word, then the kind's
log = logging.getLogger(__name__)
Kind = TypeVar("Kind")


def kinds_of_packages(base: type[Kind]) -> Iterator[type[Kind]]:
    """Yield the installed third-party kinds. A kind that cannot be loaded is logged and left out; ledgers show its
    entries switched off.
    """
    found: set[str] = set()
    for point in sorted(entry_points(group=GROUP), key=lambda entry_point: (entry_point.name, entry_point.value)):
        kind = _loaded(point, base)
        if kind is None:
            continue
        name = str(getattr(kind, "kind", ""))
        if not _NAME.fullmatch(name) or name in found:
            log.warning("%s brings an entry kind that is named “%s”: such as acme:drift, each once", point.value, name)
            continue
        found.add(name)
        made_in = f"{point.dist.name} {point.dist.version}" if point.dist else point.value
        yield isolated(kind, Origin(point.name, point.value, made_in))


def _loaded(point: EntryPoint, base: type[Kind]) -> type[Kind] | None:
    try:
        kind = load(point)
    except BaseException:
        log.warning("the entry kind %s cannot be loaded", point.value, exc_info=True)
        return None
    if isinstance(kind, type) and issubclass(kind, base):
        return kind
    log.warning("%s is no entry kind", point.value)
    return None
