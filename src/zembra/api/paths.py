"""Path parameters, and the shape of names in requests."""

from __future__ import annotations

from typing import Annotated
from unicodedata import category

from pydantic import AfterValidator, BaseModel, Field, StringConstraints

# as large as SQLite keeps one
Identifier = Annotated[int, Field(ge=0, lt=2**63)]
# milliseconds since 1970 that a browser's dates reach
Moment = Annotated[int, Field(ge=-8_640_000_000_000_000, le=8_640_000_000_000_000)]


def _plain(text: str) -> str:
    """Raise ValueError for characters that no file can hold."""
    if any(category(letter) in ("Cc", "Cs") or ord(letter) & 0xFFFE == 0xFFFE for letter in text):
        raise ValueError("it holds a letter that cannot be written")
    return text


# what somebody calls something
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120), AfterValidator(_plain)]


class StudyPath(BaseModel):
    study_id: Identifier


class DatasetPath(BaseModel):
    dataset_id: Identifier


class WorkPath(BaseModel):
    key: str = Field(max_length=64)
