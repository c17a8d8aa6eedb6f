"""The exception for input that is refused."""

from __future__ import annotations


class Refusal(ValueError):
    """Input that is refused, with what an analyst can do.

    what: the problem, one plain sentence
    place: where (row, column, cell text, entry and word), if known
    todo: what to do about it
    """

    def __init__(self, what: str, *, place: str | None = None, todo: str | None = None) -> None:
        super().__init__(what)
        self.what = what
        self.place = place
        self.todo = todo

    def __str__(self) -> str:
        parts = [self.what]
        if self.place:
            parts.append(f"Where: {self.place}.")
        if self.todo:
            parts.append(self.todo)
        return " ".join(parts)
