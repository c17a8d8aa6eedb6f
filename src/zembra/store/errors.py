"""Errors of the store."""

from __future__ import annotations


class NotKept(LookupError):
    """There is no such study or dataset."""


class Damaged(RuntimeError):
    """A study whose newest revision cannot be read. Its other revisions and its file are untouched. dataset_id: of
    that file, None where it is not known either."""

    def __init__(self, study_id: int, name: str, why: str, dataset_id: int | None = None) -> None:
        super().__init__(f"study {study_id}, “{name}”: {why}")
        self.dataset_id = dataset_id
        self.study_id = study_id
        self.name = name
        self.why = why


class Altered(RuntimeError):
    """The bytes of a received file are others than were received: nothing can be said of it any more."""

    def __init__(self, name: str) -> None:
        super().__init__(f"the file “{name}” is not as it was received")
        self.name = name


class Stale(RuntimeError):
    """An edit was made on a revision that is no longer the study's head. head: the current one."""

    def __init__(self, head: int, what: str) -> None:
        super().__init__(f"the study is at revision {head}")
        self.head = head
        self.what = what
