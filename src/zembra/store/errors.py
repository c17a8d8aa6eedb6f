"""What the store raises."""

from __future__ import annotations


class NotKept(LookupError):
    """There is no such study or dataset."""


class Stale(RuntimeError):
    """An edit was made on a revision that is no longer the study's head. head: the current one."""

    def __init__(self, head: int, what: str) -> None:
        super().__init__(f"the study is at revision {head}")
        self.head = head
        self.what = what
