"""The sentence of a feed: its source, how often it is fetched, and what happens to new rows."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from zembra.core.errors import Refusal
from zembra.core.feeds.webaddress import WebAddress
from zembra.core.grammar import Choice, Clause, Given, Sentence, Word

SINCE = "{since}"  # in an address: the day from which on rows are asked for
_HEADER = re.compile(r"[A-Za-z0-9!#$%&'*+.^_`|~-]+")  # RFC 9110, field names


class Often(Choice):
    ASKED = ("asked", "only when asked")
    HOUR = ("hour", "every hour")
    DAY = ("day", "every day")
    WEEK = ("week", "every week")

    @property
    def apart(self) -> timedelta | None:
        """The interval between fetches, or None for manual ones."""
        return _APART.get(self)


_APART = {Often.HOUR: timedelta(hours=1), Often.DAY: timedelta(days=1), Often.WEEK: timedelta(weeks=1)}


class Then(Choice):
    WAIT = ("wait", "waits for a decision")
    ITSELF = ("itself", "is taken in by itself where nothing but new periods and foreseen revisions came")


class Source(Clause):
    """A source of rows.

    file_by_file: whether it holds several files, each fetched by itself
    """

    file_by_file: ClassVar[bool] = False

    def check(self) -> None:
        """Raise Refusal if the source is invalid."""
        raise NotImplementedError


class Address(Source):
    """A web address.

    url: HTTP or HTTPS, with {since} where only newer rows are requested
    header: that carries the key
    back: days before the newest one to request again
    """

    label: ClassVar[str] = "the address"

    kind: Literal["address"] = "address"
    url: Annotated[Given, Field(title="address", max_length=2000), Word(empty="that is to be given")] = ""
    header: Annotated[str, Field(title="header of the key", max_length=100), Word(empty="no header")] = "Authorization"
    back: Annotated[int, Field(title="days asked for again", ge=0, le=3650)] = 7

    def template(self) -> str:
        again = ", asking again from {back} days before the newest on" if SINCE in self.url else ""
        return f"{{self}} {{url}}{again}[, with its key in {{header}}]"

    def read(self) -> WebAddress:
        """Parse the address. Raises Refusal."""
        return WebAddress.parse(self.url.replace(SINCE, "0001-01-01"))

    def check(self) -> None:
        self.read()
        if not _HEADER.fullmatch(self.header):
            raise Refusal("A header cannot have this name.", place=self.header or "it is empty", todo="Write X-Key.")


class WatchedFolder(Source):
    """A folder on the server.

    pattern: of file names
    """

    label: ClassVar[str] = "files"
    file_by_file: ClassVar[bool] = True

    kind: Literal["folder"] = "folder"
    pattern: Annotated[str, Field(title="pattern of the names", min_length=1, max_length=200)] = "*.csv"
    folder: Annotated[Given, Field(title="folder", max_length=1000), Word(empty="that is to be given")] = ""

    def template(self) -> str:
        return "{self} like {pattern} in the folder {folder}"

    def check(self) -> None:
        if not self.folder.startswith("/"):
            raise Refusal("The folder is not told from the root.", place=self.folder or "it is empty")
        if "/" in self.pattern or "**" in self.pattern:
            raise Refusal(
                "The pattern is one of names, not of folders.", place=self.pattern, todo="Write counts-*.csv."
            )


class DatabaseTable(Source):
    """A database query.

    address: SQLAlchemy URL without password
    select: one SELECT
    """

    label: ClassVar[str] = "what a database gives"

    kind: Literal["database"] = "database"
    select: Annotated[Given, Field(title="SELECT", max_length=10_000), Word(empty="a SELECT that is to be given")] = ""
    address: Annotated[
        Given, Field(title="address of the database", max_length=1000), Word(empty="an address that is to be given")
    ] = ""

    def template(self) -> str:
        return "{self} for {select}, at {address}"

    def check(self) -> None:
        if not re.match(r"(?is)\s*(select|with)\b", self.select):
            raise Refusal("What is asked of the database is no SELECT.", place=self.select[:60] or "it is empty")


AnySource = Address | WatchedFolder | DatabaseTable


class FeedHow(Sentence):
    """The settings of a feed.

    source: where rows come from
    often: how often it is fetched while Zembra runs
    then: what happens to new rows
    """

    source: Annotated[AnySource, Field(title="where from", discriminator="kind")] = Address()
    often: Annotated[Often, Field(title="how often")] = Often.ASKED
    then: Annotated[Then, Field(title="what becomes of it")] = Then.WAIT

    def template(self) -> str:
        return "Look at {source}, {often}; what comes {then}."
