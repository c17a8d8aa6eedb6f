"""Write `zembra/entries.py`: every entry kind and every class that a word of one can be, by name."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from enum import Enum
from typing import Any, get_args

from pydantic import BaseModel

from zembra.core.ledger.registry import kinds

HEAD = '''"""Every entry kind, and the words that their sentences take: what a ledger is made of by hand.

Generated from the code by `make generated`; do not edit.
"""

from __future__ import annotations

'''
# built by a function that takes the two usual words by place
BY_HAND = {"Window": "zembra.interface.window"}


def entries_module() -> str:
    """The text of the module. Raises ValueError where two classes have one name."""
    homes: dict[str, str] = {}
    for found in _classes():
        home = BY_HAND.get(found.__name__, found.__module__)
        if homes.setdefault(found.__name__, home) != home:
            raise ValueError(f"{found.__name__} is a class of {homes[found.__name__]} and of {home}: rename one")
    by_home: dict[str, list[str]] = defaultdict(list)
    for name, home in homes.items():
        by_home[home].append(name)
    imports = [_imported(home, sorted(names, key=str.lower)) for home, names in sorted(by_home.items())]
    listed = "".join(f'    "{name}",\n' for name in sorted(homes))
    return f"{HEAD}{''.join(imports)}\n__all__ = [\n{listed}]\n"


def _imported(home: str, names: list[str]) -> str:
    line = f"from {home} import {', '.join(names)}\n"
    return (
        line if len(line) <= 121 else f"from {home} import (\n{''.join(f'    {name},{chr(10)}' for name in names)})\n"
    )


def _classes() -> Iterator[type]:
    """Kinds of Zembra, models and choices that their fields take, each once."""
    seen: set[type] = set()
    left: list[Any] = [kind for kind in kinds().values() if not kind.made_in]
    while left:
        hint = left.pop()
        left += get_args(hint)
        if not isinstance(hint, type) or not issubclass(hint, BaseModel | Enum) or hint in seen:
            continue
        seen.add(hint)
        yield hint
        if issubclass(hint, BaseModel):
            left += [field.annotation for field in hint.model_fields.values()]
