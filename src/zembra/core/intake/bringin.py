"""The whole way from a file's bytes to observations."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

from zembra.core.intake.detect import read_table, understand
from zembra.core.intake.howread import HowRead
from zembra.core.intake.observe import Observations, observe
from zembra.core.intake.table import TextTable


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """A file as read. questions: what Zembra could not decide by itself."""

    table: TextTable
    how: HowRead
    observations: Observations
    questions: tuple[str, ...]


def sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def bring_in(data: bytes, how: HowRead | None = None) -> BroughtIn:
    """Read a file as `how` says, or as Zembra understands it. Raises Refusal."""
    questions: tuple[str, ...] = ()
    if how is None:
        understood = understand(data)
        how, questions = understood.how, understood.questions
    table = read_table(data, how.table)
    return BroughtIn(table, how, observe(table, how, sha256(data)), questions)
