"""The window that an average or a band is taken over."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field, ModelWrapValidatorHandler, PrivateAttr, model_validator

from zembra.core.grammar import Choice, Clause


class Reach(Choice):
    TRAILING = ("trailing", "up to and including", "trailing window")
    CENTRED = ("centred", "centred on", "centred window; an even window leans one period back")
    LEADING = ("leading", "from each on, starting with", "leading window")

    def before(self, window: int) -> int:
        """How many periods of the window lie before the point."""
        return {Reach.TRAILING: window - 1, Reach.CENTRED: window // 2, Reach.LEADING: 0}[self]


class Window(Clause):
    """A number of periods at each period, and how many of them need a number."""

    label: ClassVar[str] = "periods"

    kind: Literal["periods"] = "periods"
    length: Annotated[int, Field(title="window", ge=2, le=10_000)] = 28
    reach: Annotated[Reach, Field(title="where the window lies")] = Reach.TRAILING
    need: Annotated[int, Field(title="values needed", ge=1, le=10_000)] = 20

    _asked: int | None = PrivateAttr(None)

    @model_validator(mode="wrap")
    @classmethod
    def _need_fits(cls, data: Any, handler: ModelWrapValidatorHandler[Self]) -> Self:
        """No more values can be needed than a window holds: fewer are, and the entry says so."""
        asked = data.get("need") if isinstance(data, Mapping) else None
        length = data.get("length", cls.model_fields["length"].default) if isinstance(data, Mapping) else None
        if isinstance(asked, int) and isinstance(length, int) and asked > length >= 1:
            made = handler({**data, "need": length})
            made._asked = asked
            return made
        return handler(data)

    def template(self) -> str:
        return "the {length} {@periods} {reach} each {@period}, needing {need} with a number"

    @property
    def before(self) -> int:
        """How many periods of the window lie before the point."""
        return self.reach.before(self.length)

    @property
    def lowered(self) -> tuple[str, ...]:
        """What is said where more were needed than it holds."""
        if self._asked is None:
            return ()
        return (f"{self._asked} of {self.length} cannot be needed: all {self.need} are.",)

    @property
    def lying(self) -> str:
        """What tells windows of one length apart; one up to each period is the usual one."""
        return {Reach.TRAILING: "", Reach.CENTRED: ", centred", Reach.LEADING: ", from each on"}[self.reach]

    def named(self, period: str, what: str) -> str:
        """A short name for what is computed over it: "28-day average"."""
        return f"{self.length}-{period} {what}{self.lying}"


def usual_window(period: str) -> Window:
    """The window first offered for periods of a size."""
    length, need = {"day": (28, 20), "week": (8, 6), "month": (12, 9), "quarter": (4, 3)}.get(period, (5, 3))
    return Window(length=length, need=need)
