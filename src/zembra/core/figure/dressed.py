"""Apply the dress of a picture to a figure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

import numpy as np

from zembra.core.calendar.grain import Unit
from zembra.core.calendar.months import DayOrLonger, shifted
from zembra.core.dress.dresswords import (
    Halo,
    Light,
    NamedAt,
    Numbers,
    Role,
    Runs,
    Said,
    Shaded,
    Side,
    Stroke,
    Taken,
    Together,
    UnitStands,
)
from zembra.core.dress.language import Speech
from zembra.core.dress.looks import FreeNoteView, Look, NumberForm, PageView, Stretch, TimeLook
from zembra.core.dress.model import (
    Beyond,
    FromDay,
    FromSmallest,
    LastSo,
    LineDress,
    Picture,
    TimeAxis,
    ToDay,
    ToLast,
    ValueScale,
)
from zembra.core.figure.build import build_figure
from zembra.core.figure.legend import signs_for
from zembra.core.figure.lines import PictureLine, dressed_lines
from zembra.core.figure.model import Figure, FigureSettings, Raw, ScaleFollows, ScaleView
from zembra.core.figure.parts.curve import CurveView
from zembra.core.figure.parts.models import AnyView
from zembra.core.figure.parts.series import SeriesView
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import TOGETHER, VALUES, Curve

RIGHT = "right"
MOST_SHADED = 400
DAY = 86_400_000  # milliseconds
Line = tuple[PictureLine, LineDress]


def picture_figure(result: Result, settings: FigureSettings, picture: Picture) -> Figure:
    """Return the figure of a picture. Pure."""
    return dressed(undressed(result, settings, picture), result, picture)


def undressed(result: Result, settings: FigureSettings, picture: Picture) -> Figure:
    """Return the undressed figure of a picture, with all its lines."""
    shown = picture.what.shown or settings.shown
    bare = settings.model_copy(update={"shown": shown, "raw": settings.raw, "follows": ScaleFollows.WINDOW})
    figure = build_figure(result, bare)
    if figure.thinned:
        look = _time(result, figure, picture.time)
        figure = build_figure(result, bare, (look.start, look.end))
    return figure


def dressed(figure: Figure, result: Result, picture: Picture) -> Figure:
    """Dress a figure for a picture.

    figure: with every line that can be dressed
    """
    speech = Speech(picture.language.language, picture.language.own)
    every = dressed_lines(figure, picture)
    inside = [line for line in every if line[1].taken is Taken.IN]
    taken = {key for line, _ in inside for key in (line.key, *line.parts)}
    series = [view for view in figure.series if view.name in taken]
    shapes = [shape for shape in figure.shapes if shape.id in taken]
    time = _time(result, figure.model_copy(update={"series": series, "shapes": shapes}), picture.time)
    warnings = []
    if picture.right.together is Together.HUNDRED:
        series, shapes, missing = _indexed(series, shapes, _hundred_at(picture, time))
        warnings += [speech.say("{name} has no number there to be the hundred.", name=name) for name in missing]
    looks = _looks(inside, result, picture, speech)
    shapes = [_rewritten(shape, speech) for shape in shapes]
    scales, said = _scales(figure, looks, picture, time, series, shapes, speech)
    warnings += said
    return figure.model_copy(
        update={
            "title": picture.headings.title or "",
            "scales": scales,
            # lines are left out of the picture only, so series with readings are not hidden as well
            "raw": Raw.SHOWN,
            "series": [view.model_copy(update=_placed(looks[view.name])) for view in series],
            "shapes": [shape.model_copy(update=_placed(looks[shape.id])) for shape in shapes],
            "signs": signs_for(shapes, result.state.grain, speech),
            "page": _page(figure, picture, warnings, speech),
            "time": time,
            "until": None,
            "opens": None,
        }
    )


def in_dress(figure: Figure, result: Result, picture: Picture) -> Figure:
    """Apply the looks of a picture to the figure of the bench. Everything stays in place, and lines that the
    picture leaves out look as usual.
    """
    lines = dressed_lines(figure, picture)
    looks = _looks([line for line in lines if line[1].taken is Taken.IN], result, picture, Speech())
    return figure.model_copy(
        update={
            "series": [view.model_copy(update={"look": looks.get(view.name)}) for view in figure.series],
            "shapes": [shape.model_copy(update={"look": looks.get(shape.id)}) for shape in figure.shapes],
        }
    )


def _placed(look: Look) -> dict[str, Any]:
    return {"look": look, "scale": RIGHT if look.side == RIGHT else VALUES}


def _rewritten(shape: AnyView, speech: Speech) -> AnyView:
    """Translate numbers and dates in labels that Zembra wrote."""
    if shape.shape == "points":
        return shape.model_copy(update={"labels": [speech.rewritten(text) for text in shape.labels]})
    return shape


def _looks(lines: Sequence[Line], result: Result, picture: Picture, speech: Speech) -> dict[str, Look]:
    running_on = {shape.id for shape in result.state.shapes if isinstance(shape, Curve) and shape.runs_on}
    series = [line.key for line, _ in lines if line.role is Role.SERIES]
    one_scale = picture.right.together is Together.HUNDRED
    sides = {line.key: dress.side for line, dress in lines if line.role is Role.SERIES}
    looks = {}
    for order, (line, dress) in enumerate(lines):
        # readings use the scale of their series, unless dressed otherwise
        side = sides.get(line.series, Side.LEFT) if dress.side is Side.USUAL else dress.side
        own = line.name if len(series) != 1 else line.name.removeprefix(f"{series[0]}, ")
        looks[line.key] = Look(
            role=line.role.value,
            drawn=dress.drawn.value,
            weight=dress.weight.pixels,
            dash=dress.stroke.value,
            colour=dress.colour,
            fill=dress.fill / 100,
            fill_to=next((line_id.key for line_id, _ in lines if dress.fill_to in (line_id.name, line_id.key)), ""),
            points=dress.points.value,
            point_shape=dress.point_shape.value,
            values=dress.values.value,
            named=dress.named.value,
            name=dress.called or own,
            under=[
                speech.rewritten(text)
                for text, said in ((line.equation, dress.says.equation), (line.r2, dress.says.r2))
                if text and said
            ],
            side="right" if side is Side.RIGHT and not one_scale else "left",
            order=order,
            halo=dress.halo is Halo.GROUND,
        )
        # an extended line has its name at the end of the extension
        on = next((key for key in line.parts if key in running_on), "")
        for part in line.parts:
            own_look = looks[line.key].model_copy(update={"dash": Stroke.DASHED.value})
            looks[part] = own_look if part == on else _unnamed(own_look)
        if on:
            looks[line.key] = _unnamed(looks[line.key])
    return looks


def _unnamed(look: Look) -> Look:
    return look.model_copy(update={"named": NamedAt.NOT.value, "under": []})


def _scales(
    figure: Figure,
    looks: dict[str, Look],
    picture: Picture,
    time: TimeLook,
    series: Sequence[SeriesView],
    shapes: Sequence[AnyView],
    speech: Speech,
) -> tuple[list[ScaleView], list[str]]:
    """Return the value axes, and warnings for the reader."""
    hundred = picture.right.together is Together.HUNDRED
    title = figure.scales[0].title
    if hundred:
        day = speech.day(np.datetime64(_hundred_at(picture, time), "ms").astype("datetime64[D]").item())
        title = speech.say("index, {day} = 100", day=day)
    scales = [_scale(VALUES, picture.left, title, speech)]
    warnings = []
    right = any(look.side == RIGHT for look in looks.values())
    if right and picture.right.together is Together.EQUAL:
        scales.append(
            _scale(RIGHT, picture.left, scales[0].title, speech).model_copy(update={"grid": False, "same": True})
        )
    elif right:
        second = _scale(RIGHT, picture.right, picture.right.counts or "", speech).model_copy(update={"grid": False})
        scales.append(second)
        # a series represents its readings, which share its scale
        left_names, right_names = (
            names_on(side, looks, ("series",)) or names_on(side, looks) for side in ("left", RIGHT)
        )
        sides = {"left": _few(left_names, speech), "right": _few(right_names, speech)}
        warnings.append(speech.say("Two scales that differ: {left} at the left, {right} at the right.", **sides))
    scales = [_with_cut(scale, looks, series, shapes, time) for scale in scales]
    for scale in scales:
        for count, way in ((scale.below, "below"), (scale.above, "above")):
            if count:
                side = "right" if scale.name == RIGHT else "left"
                many = f"{{n}} values lie {way} the {side} scale."
                warnings.append(speech.say(many, one=many.replace("values lie", "value lies"), n=count))
        lost = _below_zero(scale.name, looks, series, shapes) if scale.kind == "log" else 0
        if lost:
            many = "{n} values of zero or below have no place on a logarithmic scale."
            warnings.append(speech.say(many, one=many.replace("values", "value").replace("have", "has"), n=lost))
    return scales, warnings


NAMED_ROLES = ("series", "curve", "bars", "projection", "rule")


def names_on(side: str, looks: Mapping[str, Look], roles: Sequence[str] = NAMED_ROLES) -> list[str]:
    """Return the distinct names of lines on a scale."""
    return list(dict.fromkeys(look.name for look in looks.values() if look.side == side and look.role in roles))


def _with_cut(
    scale: ScaleView, looks: dict[str, Look], series: Sequence[SeriesView], shapes: Sequence[AnyView], time: TimeLook
) -> ScaleView:
    """Count drawn values beyond the ends of a scale. Automatic ends are rounded outwards, so only given ends cut."""
    if scale.low is None and scale.high is None:
        return scale
    on_it = "right" if scale.name == RIGHT else "left"
    lines: list[SeriesView | CurveView] = [view for view in series if looks[view.name].side == on_it]
    lines += [shape for shape in shapes if shape.shape == "curve" and looks[shape.id].side == on_it]
    values = [
        value
        for line in lines
        for at, value in zip(line.t, line.v, strict=True)
        if value is not None and time.start <= at <= time.end
    ]
    return scale.model_copy(
        update={
            "below": sum(1 for value in values if scale.low is not None and value < scale.low),
            "above": sum(1 for value in values if scale.high is not None and value > scale.high),
        }
    )


def _few(names: Sequence[str], speech: Speech) -> str:
    first = ", ".join(names[:3])
    return speech.say("{names} and {n} more", names=first, n=len(names) - 3) if len(names) > 3 else first or "—"


def _below_zero(scale: str, looks: dict[str, Look], series: Sequence[SeriesView], shapes: Sequence[AnyView]) -> int:
    on_it = "right" if scale == RIGHT else "left"
    values = [line.v for line in series if looks[line.name].side == on_it]
    values += [shape.v for shape in shapes if shape.shape in ("curve", "bars") and looks[shape.id].side == on_it]
    return sum(1 for column in values for value in column if value is not None and value <= 0)


def _scale(name: str, dress: ValueScale, title: str, speech: Speech) -> ScaleView:
    words = dress.counts or title
    unit = dress.unit or ""
    if unit and dress.unit_stands is UnitStands.NAME:
        words = f"{words}, {unit}" if words else unit
    short = {Numbers.THOUSANDS: "thousands", Numbers.MILLIONS: "millions"}.get(dress.numbers)
    if short:
        short = speech.say(short)
        words = f"{words}, {short}" if words else short
    percent = dress.numbers is Numbers.PERCENT
    after = "\N{NO-BREAK SPACE}%" if percent else ""
    if unit and dress.unit_stands is UnitStands.AFTER:
        after = f"{after}\N{NO-BREAK SPACE}{unit}"
    decimal, group = speech.marks()
    form = NumberForm(
        before=f"{unit}\N{NO-BREAK SPACE}" if unit and dress.unit_stands is UnitStands.BEFORE else "",
        after=after,
        divide={Numbers.THOUSANDS: 1e3, Numbers.MILLIONS: 1e6, Numbers.PERCENT: 0.01}.get(dress.numbers, 1.0),
        decimals=dress.decimals,
        decimal=decimal,
        group=group,
    )
    return ScaleView(
        name=name,
        title=words,
        kind="log" if dress.runs is Runs.LOG else "linear",
        low=dress.low.bound(),
        high=dress.high.bound(),
        tight=isinstance(dress.low, FromSmallest),
        grid=dress.grid.value == "lines",
        line=dress.axis.value == "drawn",
        numbers=dress.axis.value != "bare",
        form=form,
    )


def _time(result: Result, figure: Figure, words: TimeAxis) -> TimeLook:
    expected, grain = result.state.expected, result.state.grain
    first, last_drawn = _reach(figure)
    last = _last_value(figure, last_drawn)
    start, end = first, last_drawn
    if isinstance(words.start, FromDay) and words.start.day is not None:
        start = _at(words.start.day.isoformat())
    elif isinstance(words.start, LastSo):
        start = _moved(last, -words.start.count, words.start.unit)
    if isinstance(words.end, ToLast):
        end = last
    elif isinstance(words.end, ToDay) and words.end.day is not None:
        end = _at(words.end.day.isoformat())
    elif isinstance(words.end, Beyond):
        end = _moved(last, words.end.count, words.end.unit)
    if end <= start:
        start, end = min(start, first), max(last_drawn, start + DAY)
    shaded: list[Stretch] = []
    breaks: list[Stretch] = []
    if grain.seconds <= 86_400 and grain.unit is not Unit.MOMENT:
        days = np.arange(start // DAY, end // DAY + 1, dtype=np.int64)
        weekend = (days + 3) % 7 >= 5
        starts = (days * 86_400).astype("datetime64[s]")
        open_ = expected.days(grain.periods(starts))
        if words.shaded is Shaded.WEEKENDS:
            shaded = _stretches(days, weekend)
        elif words.shaded is Shaded.CLOSED:
            shaded = _stretches(days, ~open_)
        if words.closing:
            breaks = [stretch for stretch in _stretches(days, ~open_) if stretch.end - stretch.start > DAY]
    return TimeLook(
        start=start,
        end=end,
        ticks=words.ticks.value,
        fiscal=words.fiscal,
        shaded=shaded[:MOST_SHADED],
        breaks=breaks[:MOST_SHADED],
        closing=words.closing or "",
        title=words.title or "",
    )


def _reach(figure: Figure) -> tuple[int, int]:
    """Return the first and last drawn moment."""
    times: list[list[int]] = [series.t for series in figure.series]
    times += [shape.t for shape in figure.shapes if shape.shape in ("curve", "area", "points", "bars")]
    ends = [(t[0], t[-1]) for t in times if t]
    if not ends:
        return 0, DAY
    return min(first for first, _ in ends), max(last for _, last in ends)


def _last_value(figure: Figure, otherwise: int) -> int:
    lasts = [
        next((at for at, value in zip(reversed(series.t), reversed(series.v), strict=True) if value is not None), None)
        for series in figure.series
    ]
    return max((last for last in lasts if last is not None), default=otherwise)


def _at(day: str) -> int:
    return int(np.datetime64(day, "ms").astype(np.int64))


def _moved(at: int, count: int, unit: DayOrLonger) -> int:
    moment = np.array([at // 1000], dtype="datetime64[s]")
    return int(shifted(moment, count, unit)[0].astype(np.int64)) * 1000


def _stretches(days: np.ndarray, where: np.ndarray) -> list[Stretch]:
    """Return runs from the start of their first to the end of their last day."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], where, [False])).astype(np.int8)))
    return [
        Stretch(start=int(days[a]) * DAY, end=(int(days[b - 1]) + 1) * DAY)
        for a, b in zip(edges[::2], edges[1::2], strict=True)
    ]


def _hundred_at(picture: Picture, time: TimeLook) -> int:
    day = picture.right.hundred_at
    return time.start if day is None else _at(day.isoformat())


def _indexed(
    series: Sequence[SeriesView], shapes: Sequence[AnyView], at: int
) -> tuple[list[SeriesView], list[AnyView], list[str]]:
    """Index all lines to 100 at a moment, and return the names of series without a number there, which are left out."""
    bases: dict[str, float] = {}
    for line in series:
        base = _first_from(line.t, line.v, at)
        if base:
            bases[line.name] = base
    missing = [line.name for line in series if line.name not in bases]

    def base_of(shape: AnyView) -> float | None:
        if shape.series == TOGETHER:
            return _first_from(shape.t, shape.v, at) if shape.shape == "curve" else None
        return bases.get(shape.series)

    kept = [line.model_copy(update=_over(line, bases[line.name])) for line in series if line.name in bases]
    drawn = [line.model_copy(update=_over(line, base)) for line in shapes if (base := base_of(line))]
    return kept, drawn, missing


def _first_from(t: Sequence[int], v: Sequence[float | None], at: int) -> float | None:
    """Return the first nonzero number from a moment on."""
    return next((value for when, value in zip(t, v, strict=True) if when >= at and value), None)


def _over(line: SeriesView | AnyView, base: float) -> dict[str, Any]:
    """Return the numbers over a base, times 100."""
    found: dict[str, Any] = {}
    for name in ("v", "before", "lower", "upper", "top", "floor"):
        column = getattr(line, name, None)
        if isinstance(column, list):
            found[name] = [None if value is None else 100 * value / base for value in column]
        elif isinstance(column, float):
            found[name] = 100 * column / base
    return found


def _page(figure: Figure, picture: Picture, warnings: Sequence[str], speech: Speech) -> PageView:
    width, height = picture.page.pixels
    notes = picture.notes
    as_of = speech.day(date.fromisoformat(figure.as_of))
    foot = [speech.say("as of {day}", day=as_of)] if notes.as_of is Said.SAID else []
    foot += [notes.source] if notes.source else []
    return PageView(
        width=width,
        height=height,
        text=picture.page.text.factor,
        ground=picture.page.on.value,
        dark=picture.page.light is Light.DARK,
        title=picture.headings.title or "",
        under=picture.headings.under or "",
        said=notes.signs is Said.SAID,
        foot=" · ".join(foot),
        footnote=notes.footnote or "",
        warning=" ".join(warnings),
        notes=[FreeNoteView(**note.model_dump()) for note in picture.free],
        tongue=speech.tongue(),
    )
