"""Validate what third-party entry kinds return: types, finite numbers, one for each period, encodable texts."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping, Sequence
from typing import Any

from zembra.core.ledger.packagefailed import SWITCH_OFF, PackageFailed, plain_text


def checked(given: Any, name: str, made_in: str) -> Any:
    """Validate what a method of an entry kind returned, and clean its texts. Raises PackageFailed.

    name: of the method
    made_in: the package
    """
    from zembra.core.ledger.entry import Entry, Needs
    from zembra.core.ledger.lineentry import Account, LineResult
    from zembra.core.ledger.state import Outcome

    kinds_of: dict[str, Any] = {
        "template": str, "apply": Outcome, "on_line": LineResult, "account": Account, "make_ready": type(None), "after_all_lines": Sequence,
        "works_on": bool, "others": tuple, "refers_to": tuple, "seconds_on": (int, float), "words_for": Mapping, "needs": Needs,
        "suggest": Entry, "upgraded": Mapping,
    }  # fmt: skip
    if not isinstance(given, kinds_of[name]) or (name == "seconds_on" and given != abs(given)):
        raise _wrong(made_in, f"{name} gives {type(given).__name__}")
    if name == "suggest":
        return given
    return _Checker(made_in).at(given)


def _wrong(made_in: str, what: str) -> PackageFailed:
    return PackageFailed(
        f"{made_in}, which brings it, gives what cannot be taken: {plain_text(what)}.",
        todo=SWITCH_OFF,
    )


@dataclasses.dataclass(frozen=True, slots=True)
class _Checker:
    """Walks through everything that a package returned."""

    made_in: str

    def at(self, value: Any) -> Any:
        """Return the value with clean texts. Raises Refusal."""
        import numpy as np

        if isinstance(value, str):
            return value if type(value) is not str else plain_text(value)
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
