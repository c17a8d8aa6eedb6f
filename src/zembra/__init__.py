"""Zembra: time-series line charts that can be believed.

For notebooks and scripts: `read` a file or a frame, `Ledger` of entries (`zembra.entries`), `run` one on the other, `open_study` what was
handed over. What is wrong is a `Refusal`, with its place and what to do. See docs/python.md.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

from zembra.core.ledger.isolation import isolate_with
from zembra.version import __version__

__all__ = ["Ledger", "Question", "Reading", "Refusal", "Run", "Study", "__version__", "open_study", "read", "run"]

if TYPE_CHECKING:
    from zembra.core.errors import Refusal
    from zembra.interface.ledger import Ledger
    from zembra.interface.reading import Question, Reading, read
    from zembra.interface.running import Run, run
    from zembra.interface.study import Study, open_study

# looked up when it is asked for: importing zembra costs next to nothing
_MODULES = {
    "Refusal": "zembra.core.errors",
    "Ledger": "zembra.interface.ledger",
    "Question": "zembra.interface.reading",
    "Reading": "zembra.interface.reading",
    "read": "zembra.interface.reading",
    "Run": "zembra.interface.running",
    "run": "zembra.interface.running",
    "Study": "zembra.interface.study",
    "open_study": "zembra.interface.study",
}


def _run_isolated(*args: Any, **how: Any) -> Any:
    return import_module("zembra.foreign").carry_out(*args, **how)


# whoever imports Zembra, a server, a program or a worker, has entries of other packages carried out in children
isolate_with(_run_isolated)


def __getattr__(name: str) -> object:
    if name not in _MODULES:
        raise AttributeError(f"module 'zembra' has no attribute {name!r}")
    return getattr(import_module(_MODULES[name]), name)


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])
