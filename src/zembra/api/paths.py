"""What addresses are made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

# as large as SQLite keeps one
Identifier = Annotated[int, Field(ge=0, lt=2**63)]
# milliseconds since 1970 that a browser's dates reach
Moment = Annotated[int, Field(ge=-8_640_000_000_000_000, le=8_640_000_000_000_000)]


class StudyPath(BaseModel):
    study_id: Identifier
