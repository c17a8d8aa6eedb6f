"""Settings from environment variables, each named ZEMBRA_ and its field."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

from pydantic import Field, NonNegativeInt, PositiveFloat, PositiveInt, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from zembra.core.calendar.budget import Budget
from zembra.core.errors import Refusal

PREFIX = "ZEMBRA_"
_USUAL = Budget()
# what is said of a value, by how Pydantic names its fault
_FAULTS = {
    "int": "is not a whole number above zero",
    "float": "is not a number above zero",
    "greater": "is not a number above zero",
    "less": "is too large",
    "bool": "is neither 1 nor 0",
}


class Settings(BaseSettings):
    """The current settings. Sizes are in MB (10⁶ bytes), durations in seconds."""

    model_config = SettingsConfigDict(env_prefix=PREFIX, env_ignore_empty=True, frozen=True, extra="ignore")

    home: Annotated[Path | None, Field(description="folder of all that is kept, where --home does not say another")] = (
        None
    )
    port: Annotated[NonNegativeInt, Field(le=65_535, description="port of the server; 0 takes a free one")] = 8420
    key: Annotated[str, Field(description="key that is asked for; needed where others than this machine can come")] = ""
    behind_proxy: Annotated[
        bool, Field(description="1 where a server with TLS on this machine stands before Zembra")
    ] = False
    max_upload_mb: Annotated[PositiveInt, Field(description="largest file taken, in MB")] = 150
    reader_memory_mb: Annotated[PositiveInt, Field(description="memory of a process that reads a file, in MB")] = 2048
    reader_seconds: Annotated[PositiveFloat, Field(description="how long reading a file may take")] = 60
    most_points: Annotated[PositiveInt, Field(description="points of a run, over all series")] = _USUAL.points
    most_run_mb: Annotated[PositiveInt, Field(description="memory of a run, in MB")] = _USUAL.bytes // 1_000_000
    run_seconds: Annotated[PositiveInt, Field(description="how long a run may take")] = 120
    entry_seconds: Annotated[PositiveInt, Field(description="how long a slow entry may take")] = 900
    package_seconds: Annotated[
        PositiveInt,
        Field(description="how long an entry of another package may take on a series, unless it is a slow one"),
    ] = 20
    feed_seconds: Annotated[PositiveInt, Field(description="how long fetching new rows from a feed may take")] = 120
    feed_folders: Annotated[
        str,
        Field(
            description="folders with files and SQLite databases that feeds may read, with “:” between; without it any, "
            "where nobody shares the home, and none, where others do"
        ),
    ] = ""
    smtp: Annotated[
        str, Field(description="mail server for what watches find: smtp://host:port, or smtps, with user:password@")
    ] = ""
    mail_from: Annotated[str, Field(description="address that mails come from")] = "zembra@localhost"
    describes: Annotated[
        bool, Field(description="1 while the description of the API is written, by `make generated`")
    ] = False

    @property
    def run_budget(self) -> Budget:
        return Budget(points=self.most_points, bytes=self.most_run_mb * 1_000_000)


def settings() -> Settings:
    """Read the environment. Raises Refusal for the first invalid value."""
    try:
        return Settings()
    except ValidationError as error:
        fault: Any = error.errors()[0]
        name = str(fault["loc"][0])
        kind = next((said for start, said in _FAULTS.items() if fault["type"].startswith(start)), "cannot be meant")
        raise Refusal(f"“{fault['input']}” {kind}.", place=f"{PREFIX}{name.upper()}") from None
