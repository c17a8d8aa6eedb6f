"""Errors of the store."""

from __future__ import annotations


class NotKept(LookupError):
    """There is no such object."""


class Damaged(RuntimeError):
    """A study whose newest revision is unreadable; the others and its file are intact.

    dataset_id: of that file, None if unknown
    """

    def __init__(self, study_id: int, name: str, why: str, dataset_id: int | None = None) -> None:
        super().__init__(f"study {study_id}, “{name}”: {why}")
        self.dataset_id = dataset_id
        self.study_id = study_id
        self.name = name
        self.why = why


class Altered(RuntimeError):
    """The stored bytes of a file changed."""

    def __init__(self, name: str) -> None:
        super().__init__(f"the file “{name}” is not as it was received")
        self.name = name


class Stale(RuntimeError):
    """An edit of a revision that is no longer the head.

    head: the current one
    """

    def __init__(self, head: int, what: str) -> None:
        super().__init__(f"the study is at revision {head}")
        self.head = head
        self.what = what
