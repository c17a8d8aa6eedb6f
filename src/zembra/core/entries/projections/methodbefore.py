"""Tell when a ledger was written under an earlier default projection method, and offer to keep that method."""

from __future__ import annotations

from zembra.core.entries.projections.projectiondoubts import rounded
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.state import Offer, Study


def offers_of_change(seen: SeriesProjection, kind: str, study: Study) -> tuple[Offer, ...]:
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
