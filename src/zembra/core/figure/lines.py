"""List the lines of a figure for its dress: name, role and usual look."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zembra.core.dress.dresswords import (
    COLOURS,
    PALE,
    PLACED,
    Drawn,
    NamedAt,
    PointsAt,
    Role,
    Says,
    Stroke,
    Taken,
    Weight,
)
from zembra.core.dress.model import LineDress, Picture
from zembra.core.figure.model import Figure, Markers, Raw
from zembra.core.figure.parts.models import AnyView
from zembra.core.figure.parts.series import SeriesView
from zembra.core.ledger.shapes import TOGETHER, Rests

DENSE = 200  # points from which a series with a reading over it stands back
OWN_COLOURS = ("olive", "sky", "rose", "ochre", "navy", "moss", "umber", "slate")  # of readings of a lone series
BACK_TO_FRONT = (
    Role.SPAN, Role.AREA, Role.BARS, Role.SERIES, Role.CURVE, Role.PROJECTION, Role.RULE, Role.UPRIGHT, Role.POINTS,
    Role.FLAGS,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class PictureLine:
    """A line of a picture.

    key: of its dress
    name: when several series are drawn
    series: its series, empty for several together
    parts: keys of its extensions, dressed with it
    equation, r2: of a fitted line
    """

    key: str
    name: str
    role: Role
    usual: LineDress
    series: str = ""
    parts: tuple[str, ...] = ()
    equation: str = ""
    r2: str = ""


def picture_lines(figure: Figure) -> list[PictureLine]:
    """Return the lines from back to front, with their usual looks."""
    alone = len(figure.series) == 1
    found = [_of_series(series, figure) for series in figure.series]
    readings: dict[str, int] = {}
    parts: dict[str, list[str]] = {}
    for shape in figure.shapes:
        if shape.shape == "curve" and shape.part_of:
            parts.setdefault(shape.part_of, []).append(shape.id)
    for shape in figure.shapes:
        if shape.shape == "curve" and shape.part_of:
            continue
        role = role_of(shape)
        own = shape.label[0] if shape.shape == "curve" and shape.label else shape.name
        name = own if alone or shape.series == TOGETHER or not own else f"{shape.series}, {own}"
        # only what is a line of its own takes a colour of its own
        lined = role in (Role.CURVE, Role.AREA, Role.RULE, Role.BARS) and shape.rests is not Rests.PROJECTED
        place = readings.setdefault(shape.entry, len(readings)) if lined else 0
        fitted = (shape.equation, shape.r2) if shape.shape == "curve" else ("", "")
        followers = tuple(parts.get(shape.id, ()))
        usual = _usual_of(shape, role, figure, place, bool(followers))
        found.append(PictureLine(shape.id, name, role, usual, shape.series, followers, *fitted))
    return sorted(found, key=lambda line: BACK_TO_FRONT.index(line.role))


def role_of(shape: AnyView) -> Role:
    if shape.shape == "curve":
        return Role.PROJECTION if shape.rests is Rests.PROJECTED else Role.CURVE
    if shape.shape == "rule":
        return Role.RULE if shape.t is None else Role.UPRIGHT
    return Role(shape.shape)


def dressed_lines(figure: Figure, picture: Picture) -> list[tuple[PictureLine, LineDress]]:
    """Return the lines in the dress and order of a picture."""
    return merged(picture_lines(figure), picture.lines)


def merged(lines: Sequence[PictureLine], said: Sequence[LineDress]) -> list[tuple[PictureLine, LineDress]]:
    """Merge lines with their dresses, in drawing order: dressed lines in the order of their dresses, others in
    their usual places.
    """
    by_key = {line.key: line for line in lines}
    pairs = [
        (by_key[dressed_line.id], dressed_line.model_copy(update={"role": by_key[dressed_line.id].role}))
        for dressed_line in said
        if dressed_line.id in by_key
    ]
    order = [line.key for line, _ in pairs]
    rest = [(line, line.usual) for line in lines if line.key not in order]
    if not rest:
        return pairs
    # an undressed line stays behind its usual neighbour
    result = list(pairs)
    usual = [line.key for line in lines]
    for line, dress in rest:
        before = usual[: usual.index(line.key)]
        at = max((n + 1 for n, (dressed_line, _) in enumerate(result) if dressed_line.key in before), default=0)
        result.insert(at, (line, dress))
    return result


def _of_series(series: SeriesView, figure: Figure) -> PictureLine:
    has_reading = any(
        shape.shape == "curve"
        and shape.series == series.name
        and shape.rests is not Rests.PROJECTED
        and not shape.beside
        for shape in figure.shapes
    )
    dense = has_reading and len(series.t) > DENSE
    colour = COLOURS[series.colour % 12]
    points = {Markers.NONE: PointsAt.NONE, Markers.ODD: PointsAt.ODD, Markers.MEASURED: PointsAt.MEASURED}
    usual = LineDress(
        id=series.name,
        role=Role.SERIES,
        weight=Weight.THIN if dense else Weight.MIDDLING,
        colour=f"{PALE}{colour}" if dense else colour,
        points=PointsAt.NONE if dense else points.get(figure.markers, PointsAt.ALL),
        taken=Taken.OUT if figure.raw is Raw.HIDDEN and has_reading else Taken.IN,
    )
    return PictureLine(series.name, series.called, Role.SERIES, usual, series.name)


def _usual_of(shape: AnyView, role: Role, figure: Figure, place: int, carried: bool) -> LineDress:
    alone = len(figure.series) == 1
    colour = COLOURS[shape.colour % 12]
    fitted = shape.shape == "curve" and bool(shape.equation)
    if fitted and not alone:
        # several trend lines of several series are told apart by colours that no series has
        taken = {drawn.colour % 12 for drawn in figure.series}
        lines = list(
            dict.fromkeys(
                drawn.id for drawn in figure.shapes if drawn.shape == "curve" and drawn.equation and not drawn.part_of
            )
        )
        free = [drawn for n, drawn in enumerate(COLOURS[:12]) if n not in taken]
        colour = free[lines.index(shape.id) % len(free)] if free else colour
    if shape.series == TOGETHER:
        colour = "ink"
    elif alone and shape.rests is Rests.PROJECTED:
        colour = "iris"
    elif alone and place > 0:
        colour = OWN_COLOURS[(place - 1) % len(OWN_COLOURS)]
    # points have no end to be named at
    unnamed = role in (*PLACED, Role.AREA, Role.BARS) or (shape.shape == "curve" and not shape.label and not carried)
    named = NamedAt.NOT if unnamed else NamedAt.END
    dress = LineDress(id=shape.id, role=role, colour=colour, named=named)
    if role is Role.CURVE:
        strong = shape.shape == "curve" and shape.strong and not shape.beside
        says = Says.BOTH if fitted else Says.NOTHING
        # draw trend lines above their points
        weight = Weight.THICK if strong else Weight.MIDDLING if fitted else Weight.THIN
        return dress.model_copy(update={"weight": weight, "says": says})
    if role is Role.RULE:
        return dress.model_copy(
            update={"weight": Weight.THIN, "stroke": Stroke.DASHED, "colour": "ink" if alone else colour}
        )
    if role is Role.AREA:
        return dress.model_copy(update={"fill": 12.0})
    if role is Role.BARS:
        return dress.model_copy(update={"drawn": Drawn.BARS})
    return dress
