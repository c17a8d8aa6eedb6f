"""The moving average."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

import numpy as np

from zembra.core.ledger.entry import register
from zembra.core.ledger.evidence import SERIES, count, measure, table
from zembra.core.ledger.lineentry import Made, Told
from zembra.core.ledger.state import Study
from zembra.core.ledger.windowed import Windowed
from zembra.core.lines import Line
from zembra.core.shapes import Curve, shape_id


@register
class Average(Windowed):
    kind: ClassVar[str] = "average"
    title: ClassVar[str] = "Moving average"
    hint: ClassVar[str] = "The mean over a window of periods; blanks and set-aside points are not counted."
    rank: ClassVar[int] = 1

    def template(self) -> str:
        return f"Average {{window}}, of {{series}}{self.about_tail}."

    def on_line(self, line: Line, study: Study) -> Made:
        mean, faded = self.averaged(line)
        has = ~np.isnan(mean)
        points = int(has.sum())
        curve = Curve(
            id=shape_id(study.by, line.name, "average"),
            entry=study.by,
            series=line.name,
            name=self.window.named(study.grain.singular, "average"),
            kind=self.kind,
            periods=line.periods,
            value=mean,
            faded=faded,
        )
        last = float(mean[has][-1]) if points else None
        rows = ((line.name, points, len(line) - points, last),)
        return Made(shapes=(curve,), touched=points, rows=rows, warnings=self.stopped(line, mean, study))

    def told(self, made: Sequence[Made], study: Study) -> Told:
        if not any(one.touched for one in made):
            raise self.too_few(self.window.need, study)
        columns = (
            SERIES,
            count("points", "Points"),
            count("too_few", f"Too few of {self.window.length}"),
            measure("latest", "Latest average"),
        )
        title = self.window.named(study.grain.singular, "average").capitalize()
        rows = (row for one in made for row in one.rows)
        return Told("points", (table(title, columns, rows),), self.window.lowered)
