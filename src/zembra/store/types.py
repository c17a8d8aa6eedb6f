"""Column types for moments and days; an unreadable one spoils only its own row."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, date, datetime
from typing import TypeVar

from sqlalchemy import String, TypeDecorator
from sqlalchemy.engine import Dialect

from zembra.core.errors import Refusal

Value = TypeVar("Value")
MOMENT = "%Y-%m-%d %H:%M:%S.%f"


class Moment(TypeDecorator[datetime]):
    """A UTC moment. Raises Refusal when an invalid one is read."""

    impl = String
    cache_ok = True

    @property
    def python_type(self) -> type[datetime]:
        return datetime

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> str | None:
        return None if value is None else value.astimezone(UTC).strftime(MOMENT)

    def process_result_value(self, value: str | None, dialect: Dialect) -> datetime | None:
        return _read(value, lambda text: datetime.fromisoformat(text).replace(tzinfo=UTC))


class Day(TypeDecorator[date]):
    """A day. Raises Refusal when an invalid one is read."""

    impl = String
    cache_ok = True

    @property
    def python_type(self) -> type[date]:
        return date

    def process_bind_param(self, value: date | None, dialect: Dialect) -> str | None:
        return None if value is None else value.isoformat()

    def process_result_value(self, value: str | None, dialect: Dialect) -> date | None:
        return _read(value, date.fromisoformat)


def _read(value: str | None, read: Callable[[str], Value]) -> Value | None:
    if value is None:
        return None
    try:
        return read(value)
    except (ValueError, TypeError):
        raise Refusal(
            f"A date that is kept cannot be read: “{str(value)[:40]}”.",
            todo="zembra check tells what is hurt; zembra restore puts a backup back.",
        ) from None
