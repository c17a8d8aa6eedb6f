"""The error of a third-party entry kind that failed."""

from __future__ import annotations

from zembra.core.errors import Refusal

MOST_TEXT = 20_000  # letters of one text
SWITCH_OFF = "Switch the entry off, or ask who made it."  # what there is to do about a package that failed


class PackageFailed(Refusal):
    """Third-party code failed, or returned something invalid. It is not tried on further lines."""


def plain_text(text: object) -> str:
    """Return the text without lone surrogates, so that it can be encoded."""
    return str(text)[:MOST_TEXT].encode("utf-8", "replace").decode()
