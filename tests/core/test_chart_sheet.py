"""The chart of a workbook, read back by another library: its numbers, gaps, dashes, limits and names."""

from __future__ import annotations

import io
import re
import zipfile
from itertools import takewhile

import numpy as np
import openpyxl
import pytest

from tests.help import result_of, smoothing
from zembra.core.dress.model import Headings, Notes, Picture
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.handover.nativechart import NativeChart, native_chart
from zembra.core.handover.workbook import numbers_xlsx
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area, Curve, Rests
from zembra.rendering.engine import inks_of


def chart_of(result: Result, *shown: str) -> NativeChart:
    picture = Picture(headings=Headings(title="Passengers"), notes=Notes(source="sailings.csv"))
    figure = picture_figure(result, FigureSettings(shown=shown), picture)
    return native_chart(figure, result.state.grain, inks_of(figure))


@pytest.fixture(scope="module")
def result() -> Result:
    return result_of(
        "sailings.csv", Outliers(), Blanks(longest=3), Average(window=Window(length=28, need=20)), smoothing(7)
    )


def test_the_numbers_stand_beside_it_with_gaps_as_gaps(result: Result) -> None:
    book = openpyxl.load_workbook(io.BytesIO(numbers_xlsx(result, (), "", chart_of(result, "Outer Isles"))))
    sheet = book["Chart"]
    # beside the chart, a column further on, stands what it does not show
    heads = [cell.value for cell in takewhile(lambda cell: cell.value, sheet[1])]
    assert sheet.cell(1, len(heads) + 2).value.startswith("Not in this chart: ")
    assert heads[:3] == ["period", "Outer Isles", "Outer Isles, not measured"]
    assert heads[-4:] == [
        "lower limit, 95 %",
        *(f"{name} %, above the one before" for name in ("lower limit, 80", "upper limit, 80", "upper limit, 95")),
    ]
    line = next(line for line in result.state.lines if line.name == "Outer Isles")
    labels = [row[0].value.date().isoformat() for row in sheet.iter_rows(min_row=2, max_col=1)]
    for n, label in enumerate(result.state.grain.labels(line.periods)):
        measured, other = (sheet.cell(labels.index(label) + 2, column).value for column in (2, 3))
        if line.condition[n] == 0:
            assert measured == pytest.approx(line.value[n])
        else:
            assert measured is None
            if np.isnan(line.value[n]) or line.condition[n] == 3:
                assert other is None
            else:
                assert other == pytest.approx(line.value[n])
    projection = next(
        shape for shape in result.state.shapes if isinstance(shape, Curve) and shape.rests is Rests.PROJECTED
    )
    area = max(
        (shape for shape in result.state.shapes if isinstance(shape, Area) and shape.curve_id == projection.id),
        key=lambda a: a.level or 0,
    )
    at = labels.index(result.state.grain.label(int(area.periods[-1]))) + 2
    edges = [sheet.cell(at, len(heads) - back).value for back in (3, 2, 1, 0)]
    assert min(edges[1:]) >= 0
    assert (edges[0], sum(edges)) == pytest.approx((area.lower[-1], area.upper[-1]))
    # a native chart: of limits, and of lines over them
    (chart,) = sheet._charts
    every = [chart, *chart._charts]
    kinds = {type(one).__name__ for one in every}
    assert kinds == {"AreaChart", "LineChart"}


def test_dashes_names_and_gaps_are_those_of_the_chart_itself(result: Result) -> None:
    data = numbers_xlsx(result, (), "", chart_of(result, "Outer Isles"))
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        xml = archive.read("xl/charts/chart1.xml").decode()
    # what stands there without a word is a gap
    assert "dispBlanksAs" not in xml
    series = re.findall(r"<c:ser>.*?</c:ser>", xml, re.DOTALL)
    dashed = [one for one in series if 'prstDash val="dash"' in one]
    # what was not measured, and what is projected
    assert len(dashed) == 2
    for name in ("Outer Isles", "28-day average", "projection"):
        assert f"<a:t>{name}</a:t>" in xml
    assert "<a:t>Outer Isles, not measured</a:t>" not in xml
    assert "<a:t>Passengers</a:t>" in xml
    assert "as of 31 Oct 2026 · sailings.csv</a:t>" in xml


def test_periods_that_are_no_dates_and_studies_without_limits() -> None:
    upkeep, fuel = result_of("upkeep_by_month.xlsx"), result_of("fuel_contract.csv")
    plain = numbers_xlsx(upkeep, (), "", chart_of(upkeep))
    (chart,) = openpyxl.load_workbook(io.BytesIO(plain))["Chart"]._charts
    assert type(chart).__name__ == "LineChart"
    irregular = numbers_xlsx(fuel, (), "", chart_of(fuel))
    assert openpyxl.load_workbook(io.BytesIO(irregular))["Chart"].max_row > 10
