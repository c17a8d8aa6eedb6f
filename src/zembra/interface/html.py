"""Render texts as HTML for notebooks."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape


def listed(sentences: Iterable[str], *, ordered: bool = True) -> str:
    tag = "ol" if ordered else "ul"
    return f"<{tag}>{''.join(f'<li>{escape(sentence)}</li>' for sentence in sentences)}</{tag}>"


def titled(title: str, *bodies: str) -> str:
    return f"<section><p><b>{escape(title)}</b></p>{''.join(bodies)}</section>"
