"""Read a zip archive of tables, offered like sheets."""

from __future__ import annotations

from collections.abc import Callable

from zembra.core.errors import Refusal
from zembra.core.intake.foreign import files_in, guarded, open_zip
from zembra.core.intake.several import ReadTable
from zembra.core.intake.table import TextTable

# what is no table, whatever it holds
_OTHERS = (".pdf", ".png", ".jpg", ".jpeg", ".gif", ".svg", ".doc", ".docx", ".md", ".xml", ".zip", ".py", ".sql")


def members_of(data: bytes) -> tuple[str, ...]:
    """Return the files that may be tables. Raises Refusal if there is none."""
    names = files_in(open_zip(data))
    found = tuple(name for name in names if not name.lower().endswith(_OTHERS))
    if not found:
        raise Refusal("The zip archive holds no table.", place=f"it holds {', '.join(names[:5]) or 'nothing'}")
    return found


def reader_of(data: bytes, read: Callable[[bytes], TextTable]) -> ReadTable:
    """Return a function that reads a member by name.

    read: makes a table of a file's bytes
    """
    archive = open_zip(data)

    def table(name: str) -> TextTable:
        content: bytes = guarded("zip", lambda: archive.read(name))
        return read(content)

    return table
