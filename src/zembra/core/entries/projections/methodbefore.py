"""Offer another projection method: that of the ledger's time, or one that takes the calendar into account."""

from __future__ import annotations

from collections.abc import Sequence

from zembra.core.entries.projections.calendarleft import calendar_offers
from zembra.core.entries.projections.clauses.methods import BeforeNow, Method, UsualMean
from zembra.core.entries.projections.projectiondoubts import rounded
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.state import Offer, Study


def was_another(method: Method) -> bool:
    """Return whether the ledger was written under another default method, and nobody has decided since."""
    return isinstance(method, UsualMean) and method.before is BeforeNow.FIVE


def offers_of(done: Sequence[SeriesProjection], method: Method, kind: str, study: Study) -> tuple[Offer, ...]:
    """Return what a projection entry offers about its method."""
    return (
        _offers_of_change(done[0], kind, study) if was_another(method) else calendar_offers(done, method, kind, study)
    )


def _offers_of_change(seen: SeriesProjection, kind: str, study: Study) -> tuple[Offer, ...]:
    """Offer to keep the default method of the ledger's time, or to take the current one."""
    at = study.grain.spoken(int(seen.periods[0]))
    was = "nothing" if seen.before is None else rounded(seen.before)
    why = (
        "The usual method has changed since this ledger was made, from the mean of five methods to the average of many models: "
        f"of {at} it said {was} for {seen.series}, now it says {rounded(float(seen.found.mean[0]))}."
    )
    return (
        Offer(why, "Take the new one", kind, {"method": {"kind": "usual"}}, change=True),
        Offer("The mean of five methods is still there.", "Keep it", kind, {"method": {"kind": "five"}}, change=True),
    )
