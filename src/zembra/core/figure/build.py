"""Build the description of a figure from a run."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from zembra.core.calendar.lines import Line, Quantity
from zembra.core.figure.axis import axis_end, opening_window
from zembra.core.figure.legend import signs_for
from zembra.core.figure.model import Arrangement, Ends, Figure, FigureSettings, ScaleView
from zembra.core.figure.parts.base import Canvas
from zembra.core.figure.parts.models import shape_view
from zembra.core.figure.parts.series import series_view
from zembra.core.figure.stack import ended_together, stack_edges
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import TOGETHER, VALUES, Area, Bars, Curve, Rule, Shape

FIRST_SHOWN = 4
COLOURS = 12
MOST_NAMED = 2  # measures that are named at one axis


def build_figure(result: Result, settings: FigureSettings, window: tuple[int, int] | None = None) -> Figure:
    """Describe the shown series and their shapes. Pure.

    window: stretch to which long lines are thinned, milliseconds since 1970 UTC; None for all
    """
    state = result.state
    names = [line.name for line in state.lines]
    shown = shown_names(result, settings)
    every = dict(zip(names, state.lines, strict=True))
    chosen: Mapping[str, Line] = {name: every[name] for name in shown}
    if settings.ends is Ends.TOGETHER:
        chosen = ended_together(chosen)
    stacked = settings.arrangement is Arrangement.STACKED
    edges = stack_edges(list(chosen.values()), settings.stack) if stacked else {}
    canvas = Canvas(state.expected, _colours(names, list(chosen)), window)
    series = [series_view(line, canvas, edges.get(name)) for name, line in chosen.items()]
    shapes = [shape_view(shape, canvas) for shape in _shown(state.shapes, chosen, stacked)]
    return Figure.model_construct(
        title=settings.title,
        scales=[
            ScaleView(
                name=VALUES,
                title=_axis_name([drawn_line.quantity for drawn_line in chosen.values()], state.grain.singular),
            )
        ],
        grain=state.grain.unit.value,
        period=state.grain.singular,
        periods=state.grain.plural,
        view=settings.view,
        arrangement=settings.arrangement,
        scale=settings.scale,
        as_of=state.as_of.isoformat(),
        shape=settings.shape,
        markers=settings.markers,
        raw=settings.raw,
        follows=settings.follows,
        until=(reach := axis_end(canvas, chosen.values(), state.shapes, settings)),
        opens=opening_window(canvas, chosen.values(), settings, reach),
        series=series,
        shapes=shapes,
        signs=signs_for(shapes, state.grain),
        thinned=canvas.thinned,
    )


def shown_names(result: Result, settings: FigureSettings) -> list[str]:
    """Return the drawn series, in order."""
    names = [line.name for line in result.state.lines]
    return [name for name in (settings.shown or names[:FIRST_SHOWN]) if name in names]


def _colours(names: Sequence[str], shown: Sequence[str]) -> dict[str, int]:
    """Assign a colour to each drawn series: its own in the study, but distinct while colours last."""
    places: dict[str, int] = {}
    taken: set[int] = set()
    for name in shown:
        own = names.index(name) % COLOURS
        free = next((n for k in range(COLOURS) if (n := (own + k) % COLOURS) not in taken), own)
        places[name] = free
        taken.add(free)
    return places


def _shown(shapes: Iterable[Shape], chosen: Mapping[str, Line], stacked: bool) -> list[Shape]:
    """Return the shapes of the chosen series. A stack shows nothing at the height of a single series."""
    there = {*chosen, TOGETHER}
    own = [shape for shape in shapes if shape.series in there and not (isinstance(shape, Curve) and not shape.drawn)]
    if stacked:
        own = [name for name in own if not isinstance(name, Curve | Area | Bars)]
    # one rule a shift: what was found gives way to what was marked by hand on the same period
    last = {(name.series, name.period): name.id for name in own if isinstance(name, Rule) and name.period is not None}
    return [
        name
        for name in own
        if not isinstance(name, Rule) or name.period is None or last[name.series, name.period] == name.id
    ]


def _axis_name(quantities: list[Quantity], period: str) -> str:
    """Return the title of the value axis."""
    names = [name for name in dict.fromkeys(quantity.at_axis(period) for quantity in quantities) if name]
    units = {quantity.unit for quantity in quantities}
    if len(names) > MOST_NAMED:
        unit = units.pop() if len(units) == 1 else ""
        return f"{len(names)} measures{f', {unit}' if unit else ''}"
    return "; ".join(names)
