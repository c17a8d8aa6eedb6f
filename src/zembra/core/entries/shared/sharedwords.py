"""Words that several entries share."""

from __future__ import annotations

from zembra.core.grammar import Choice


class Counting(Choice):
    """Whether provisional periods count."""

    NOT = ("not", "not counted")
    COUNTED = ("counted", "counted")

    @property
    def yes(self) -> bool:
        return self is Counting.COUNTED
