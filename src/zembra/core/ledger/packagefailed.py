"""The error of a third-party entry kind that failed."""

from __future__ import annotations

from zembra.core.errors import Refusal

MOST_TEXT = 20_000  # letters of one text
SWITCH_OFF = "Switch the entry off, or ask who made it."  # what there is to do about a package that failed


class PackageFailed(Refusal):
    """What a package brings failed, or gave what cannot be taken: it is not tried on the next line."""


def plain_text(text: object) -> str:
    """As it can be written down: without halves of letters."""
    return str(text)[:MOST_TEXT].encode("utf-8", "replace").decode()
