"""Draw a projection: its curve, and an area for each level of its limits."""

from __future__ import annotations

from collections.abc import Iterator

from zembra.core.english import number
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.shapes import Area, Curve, Rests, Shape, shape_id
from zembra.core.ledger.state import Study


def projected_shapes(projected: SeriesProjection, study: Study, kind: str, before: str = "") -> Iterator[Shape]:
    """Yield the curve and areas of a projection.

    before: label of the last known period, for a projection that was held back
    """
    part = "projection held back" if before else "projection"
    name = f"projection as of {before}" if before else "projection"
    curve = Curve(
        id=shape_id(study.entry_id, projected.series, part),
        entry=study.entry_id,
        series=projected.series,
        name=name,
        rests=Rests.PROJECTED,
        kind=kind,
        periods=projected.periods,
        value=projected.found.mean,
        held_back_error=projected.judged.mae if projected.judged and not before else None,
        label=(name,)
        if before or projected.tested >= projected.periods.size
        else (name, _limits_tested(projected, study)),
    )
    yield curve
    for limits in projected.found.limits:
        yield Area(
            id=shape_id(study.entry_id, projected.series, f"{part} limits {limits.level:g}"),
            entry=study.entry_id,
            series=projected.series,
            name=f"{number(limits.level)} % limits",
            rests=Rests.PROJECTED,
            curve_id=curve.id,
            periods=projected.periods,
            lower=limits.lower,
            upper=limits.upper,
            level=limits.level,
            tested=projected.tested,
        )


def _limits_tested(projected: SeriesProjection, study: Study) -> str:
    """Return the text at the end of a projection whose limits were tested part of the way."""
    if not projected.tested:
        return "limits untested"
    return f"limits tested {projected.tested} {study.grain.singular if projected.tested == 1 else study.grain.plural} ahead"
