"""The current user, and whether they may only read, as context variables."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator
from contextvars import ContextVar
from typing import Any

from zembra.core.errors import Refusal

# the name of who asks; revisions and notes take it down
acting: ContextVar[str] = ContextVar("acting", default="")
# who only looks changes nothing in any table: what is worked out for them is not kept
read_only: ContextVar[bool] = ContextVar("read_only", default=False)
_READS = re.compile(r"\s*(SELECT|WITH|PRAGMA|EXPLAIN|BEGIN|COMMIT|ROLLBACK|SAVEPOINT|RELEASE)\b", re.IGNORECASE)


@contextlib.contextmanager
def own_session() -> Iterator[None]:
    """Allow writing the requester's own session while they only read."""
    token = read_only.set(False)
    try:
        yield
    finally:
        read_only.reset(token)


def refuse_writing(_connection: Any, _cursor: Any, statement: str, *_: Any) -> None:
    """Raise Refusal before a writing statement of a reader."""
    if read_only.get() and not _READS.match(statement):
        raise Refusal("Looking changes nothing: that was not kept.", todo="Ask who may change things.")
