"""Pictures: what their sentences say, and what the figure becomes in their dress."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from pydantic import ValidationError

from tests.help import FIRST, run_csv
from zembra.core.calendar.months import CalendarUnit
from zembra.core.dress.dresswords import (
    Drawn,
    MadeFor,
    Numbers,
    Role,
    Runs,
    Shaded,
    Side,
    Taken,
    Together,
    UnitStands,
    Weight,
)
from zembra.core.dress.model import (
    Beyond,
    FromDay,
    FromSmallest,
    FromZero,
    HighValue,
    LastSo,
    LineDress,
    Page,
    Picture,
    RightScale,
    TimeAxis,
    ToLast,
    ValueScale,
    What,
)
from zembra.core.dress.style import in_style, parse_style, style_of
from zembra.core.entries.projections.clauses.methods import LastSeason
from zembra.core.entries.projections.clauses.projected import AheadPeriods, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.errors import Refusal
from zembra.core.figure.described import described
from zembra.core.figure.dressed import in_dress, picture_figure, undressed
from zembra.core.figure.lines import merged, picture_lines
from zembra.core.figure.model import FigureSettings
from zembra.core.grammar import Nouns
from zembra.core.ledger.run import Result
from zembra.core.speaking import plain

DAYS = 60
A = np.arange(DAYS) % 7 * 10.0 + 100
B = 3000 + 50.0 * np.arange(DAYS)
AVERAGE, PROJECTED = "t1/Harbour Loop/average", "t2/Harbour Loop/projection"


def made() -> Result:
    """Two series, the first with a blank; averaged, provisional at the end, the first projected."""
    rows = ["day,Harbour Loop,Dunlin"]
    rows += [f"{FIRST + timedelta(n)},{'' if n == 20 else A[n]},{B[n]}" for n in range(DAYS)]
    ahead = Projection(ahead=AheadPeriods(count=7), method=LastSeason(), season=SeasonOf(), series=("Harbour Loop",))
    entries = (Provisional(rule=LastFew(last=2)), Average(window=Window(length=7, need=5)), ahead)
    return run_csv("\n".join(rows).encode(), *entries)


RESULT = made()


def figure_of(**words: object):  # type: ignore[no-untyped-def]
    return picture_figure(RESULT, FigureSettings(), Picture(**words))  # type: ignore[arg-type]


def ms(day: date) -> int:
    return int(np.datetime64(day, "ms").astype(np.int64))


def test_sentences_say_what_was_chosen() -> None:
    line = LineDress(id="a", weight=Weight.THICK, colour="pale lagoon", called="daily")
    told = plain(line, Nouns({"line": "Harbour Loop"}))
    assert told.startswith("Harbour Loop is a line, thick and unbroken, in pale lagoon")
    assert "called daily" in told
    assert plain(line.model_copy(update={"taken": Taken.OUT}), Nouns({"line": "x"})) == "x is left out of the picture."
    page = Page(made_for=MadeFor.MILLIMETRES, width=85, height=60)
    assert plain(page, Nouns()).startswith("Made for a size in millimetres, 85 by 60, text as set, on white")
    assert page.pixels == (321, 227)
    with pytest.raises(ValidationError, match="a colour is one of the list"):
        LineDress(id="a", colour="url(x)")


def test_lines_are_drawn_in_the_order_said_and_the_others_keep_their_neighbours() -> None:
    lines = picture_lines(undressed(RESULT, FigureSettings(), Picture()))
    keys = [line.key for line, _ in merged(lines, ())]
    assert keys[-1] == PROJECTED
    said = (lines[keys.index(PROJECTED)].usual, lines[keys.index("Dunlin")].usual)
    told = [line.key for line, _ in merged(lines, said)]
    assert sorted(told) == sorted(keys)
    assert told.index(PROJECTED) < told.index("Dunlin")
    assert told.index("Harbour Loop") < told.index(AVERAGE)
    roles = {line.key: line.role for line in lines}
    assert roles[PROJECTED] is Role.PROJECTION
    # of many points under a reading none is marked, and the reading is what is seen
    assert lines[keys.index(AVERAGE)].usual.weight is Weight.THICK


def test_what_is_left_out_is_left_out_of_the_picture_only() -> None:
    out = LineDress(id="Dunlin", taken=Taken.OUT)
    figure = figure_of(lines=(out,))
    assert [one.name for one in figure.series] == ["Harbour Loop"]
    assert any(shape.series == "Dunlin" for shape in figure.shapes)
    assert {one.name for one in in_dress(undressed(RESULT, FigureSettings(), Picture()), RESULT, Picture(lines=(out,))).series} == {
        "Harbour Loop", "Dunlin",
    }  # fmt: skip
    assert figure_of(what=What(shown=("Dunlin",))).series[0].name == "Dunlin"
    # an unknown line is one that is gone: it is passed over
    assert len(figure_of(lines=(LineDress(id="gone"),)).series) == 2


def test_time_runs_from_where_to_where_it_is_said() -> None:
    last = FIRST + timedelta(DAYS - 1)
    time = figure_of().time
    assert (time.start, time.end) == (ms(FIRST), ms(last + timedelta(5)))  # it begins after what is complete
    time = figure_of(time=TimeAxis(start=LastSo(count=1), end=ToLast())).time
    assert (time.start, time.end) == (ms(date(2026, 2, 1)), ms(last))
    beyond = Beyond(count=2, unit=CalendarUnit.WEEK)
    words = TimeAxis(start=FromDay(day=date(2026, 2, 14)), end=beyond, shaded=Shaded.WEEKENDS)
    time = figure_of(time=words).time
    assert (time.start, time.end) == (ms(date(2026, 2, 14)), ms(last + timedelta(14)))
    # 14 February 2026 is a Saturday
    assert (time.shaded[0].start, time.shaded[0].end) == (ms(date(2026, 2, 14)), ms(date(2026, 2, 16)))
    assert len(time.shaded) == 5


def test_scales_say_how_they_run_and_how_numbers_are_written() -> None:
    left = ValueScale(
        counts="passengers", unit="€", unit_stands=UnitStands.BEFORE, low=FromZero(), high=HighValue(value=5000),
        numbers=Numbers.THOUSANDS, decimals=1,
    )  # fmt: skip
    (scale,) = figure_of(left=left).scales
    assert (scale.low, scale.high, scale.title) == (0, 5000, "passengers, thousands")
    assert scale.form
    assert (scale.form.before, scale.form.divide, scale.form.decimals) == ("€\u00a0", 1000, 1)
    tight = figure_of(left=ValueScale(low=FromSmallest(), numbers=Numbers.PERCENT)).scales[0]
    assert tight.tight
    assert tight.form
    assert (tight.form.after, tight.form.divide) == ("\u00a0%", 0.01)
    assert "no place on a logarithmic scale" not in figure_of(left=ValueScale(runs=Runs.LOG)).page.warning


def test_two_scales_that_differ_say_so_and_equal_ones_do_not() -> None:
    on_right = (LineDress(id="Dunlin", side=Side.RIGHT),)
    figure = figure_of(lines=on_right)
    assert [one.name for one in figure.scales] == ["values", "right"]
    assert "Two scales that differ: Harbour Loop" in figure.page.warning
    assert "Dunlin at the right" in figure.page.warning
    assert {one.name: one.scale for one in figure.series} == {"Harbour Loop": "values", "Dunlin": "right"}
    equal = figure_of(lines=on_right, right=RightScale(together=Together.EQUAL))
    assert equal.scales[1].same
    assert equal.page.warning == ""


def test_both_at_a_hundred_divides_by_the_number_at_the_day() -> None:
    day = date(2026, 1, 11)
    figure = figure_of(right=RightScale(together=Together.HUNDRED, hundred_at=day))
    assert figure.scales[0].title == "index, 11 Jan 2026 = 100"
    harbour, dunlin = figure.series
    np.testing.assert_allclose([v for v in dunlin.v if v is not None], 100 * B / B[10])
    assert harbour.v[10] == 100
    assert harbour.v[20] is None
    average = next(one for one in figure.shapes if one.id == AVERAGE)
    whole = next(one for one in undressed(RESULT, FigureSettings(), Picture()).shapes if one.id == AVERAGE)
    np.testing.assert_allclose(average.v[30], 100 * whole.v[30] / A[10])


def test_the_description_tells_numbers_and_what_was_not_measured() -> None:
    told = described(figure_of())
    assert "Line chart of Harbour Loop and Dunlin" in told
    assert "Dunlin begins at 3 000 on 1 Jan 2026 and ends at 5 950 on 1 Mar 2026" in told
    assert "highest 5 950 on 1 Mar 2026, lowest 3 000 on 1 Jan 2026" in told
    assert "2 not complete yet" in told
    assert "Projected, not measured:" in told
    assert "80 % limits" in told


def test_a_house_style_goes_with_another_picture_and_leaves_what_it_says() -> None:
    bare = undressed(RESULT, FigureSettings(), Picture())
    lines = picture_lines(bare)
    blue = LineDress(id="Dunlin", drawn=Drawn.BARS, colour="#123456", called="ferry", taken=Taken.OUT)
    first = Picture(page=Page(made_for=MadeFor.SQUARE), left=ValueScale(counts="a", low=FromZero()), lines=(blue,))
    style = parse_style(style_of(first, [dress for _, dress in merged(lines, first.lines)]).model_dump_json())
    other = Picture(name="other", left=ValueScale(counts="b"))
    done = in_style(other, style, [dress for _, dress in merged(lines, other.lines)])
    assert done.page.made_for is MadeFor.SQUARE
    assert done.left.counts == "b"
    assert done.left.low == FromZero()
    dunlin = next(one for one in done.lines if one.id == "Dunlin")
    assert (dunlin.drawn, dunlin.colour, dunlin.called, dunlin.taken) == (Drawn.BARS, "#123456", None, Taken.IN)
    with pytest.raises(Refusal, match="house style cannot be read"):
        parse_style('{"page": {"text": "huge"}}')
    with pytest.raises(Refusal, match=r"zembra\.style/9"):
        parse_style('{"format": "zembra.style/9"}')
