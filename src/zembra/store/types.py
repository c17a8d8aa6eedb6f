"""Moments and days as they lie in the database, read so that one which is none hurts only what it belongs to."""

from __future__ import annotations

from datetime import UTC, date, datetime

from sqlalchemy import String, TypeDecorator
from sqlalchemy.engine import Dialect

from zembra.core.errors import Refusal

MOMENT = "%Y-%m-%d %H:%M:%S.%f"


class Moment(TypeDecorator[datetime]):
    """A moment in UTC. Reading one that is none raises Refusal."""

    impl = String
    cache_ok = True

    @property
    def python_type(self) -> type[datetime]:
        return datetime

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> str | None:
        return None if value is None else value.astimezone(UTC).strftime(MOMENT)

    def process_result_value(self, value: str | None, dialect: Dialect) -> datetime | None:
        if value is None:
            return None
        try:
            return datetime.fromisoformat(value).replace(tzinfo=UTC)
        except (ValueError, TypeError):
            raise _unreadable(value) from None


class Day(TypeDecorator[date]):
    """A day. Reading one that is none raises Refusal."""

    impl = String
    cache_ok = True

    @property
    def python_type(self) -> type[date]:
        return date

    def process_bind_param(self, value: date | None, dialect: Dialect) -> str | None:
        return None if value is None else value.isoformat()

    def process_result_value(self, value: str | None, dialect: Dialect) -> date | None:
        if value is None:
            return None
        try:
            return date.fromisoformat(value)
        except (ValueError, TypeError):
            raise _unreadable(value) from None


def _unreadable(value: object) -> Refusal:
    return Refusal(
        f"A date that is kept cannot be read: “{str(value)[:40]}”.",
        todo="zembra check tells what is hurt; zembra restore puts a backup back.",
    )
