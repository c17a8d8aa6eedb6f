"""Run a ledger on a reading."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

import polars as pl

from zembra.core.dress.style import HouseStyle
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.handover.frames import lines_frame, points_frame
from zembra.core.handover.report import method_note, sentences_of, warnings_of
from zembra.core.intake.bringin import sha256
from zembra.core.ledger.evidence import periods_of
from zembra.core.ledger.run import Result
from zembra.core.ledger.run import run as carry_out
from zembra.interface.frames import evidence_frames
from zembra.interface.html import listed, titled
from zembra.interface.ledger import Ledger, onto
from zembra.interface.reading import Reading, read


class Run:
    """The result of a ledger on a reading.

    ledger: as it was run, with source and calendar
    """

    def __init__(self, reading: Reading, result: Result, ledger: Ledger, figure: FigureSettings) -> None:
        self.reading, self.ledger = reading, ledger
        self._result, self._figure = result, figure

    @property
    def points(self) -> pl.DataFrame:
        """Return a row for each series and period, as in points.csv (docs/headless.md)."""
        return points_frame(self._result)

    @property
    def lines(self) -> pl.DataFrame:
        """Return all readings and projections, as in lines.csv (docs/headless.md)."""
        return lines_frame(self._result)

    @property
    def evidence(self) -> dict[str, pl.DataFrame]:
        """Return all tables of evidence, by entry and title."""
        return evidence_frames(self._result)

    @property
    def findings(self) -> pl.DataFrame:
        """Return periods to ask about: series, period, value, away_by, found_by."""
        to_ask = [finding for report in self._result.reports for finding in report.outcome.findings if finding.listed]
        return pl.DataFrame(
            {
                "series": [finding.series for finding in to_ask],
                "period": self._result.state.grain.labels(periods_of(to_ask)) if to_ask else [],
                "value": [finding.value for finding in to_ask],
                "away_by": [finding.distance for finding in to_ask],
                "found_by": [finding.found_by for finding in to_ask],
            },
            schema={
                "series": pl.String, "period": pl.String, "value": pl.Float64, "away_by": pl.Float64, "found_by": pl.String,
            },
        )  # fmt: skip

    @property
    def warnings(self) -> tuple[str, ...]:
        return tuple(warnings_of(self._result))

    @property
    def unanswered(self) -> tuple[str, ...]:
        """Questions about the file that were skipped."""
        return tuple(question.text for question in self.reading.questions)

    @property
    def sentences(self) -> tuple[str, ...]:
        """Each entry's sentence with its effect."""
        return tuple(sentences_of(self._result))

    @property
    def note(self) -> str:
        """The method note for the chart."""
        settled = self.reading._brought.how.settled
        return method_note(self._result, self.reading.name, sha256(self.reading._data), settled)

    def picture(
        self,
        path: str | Path | None = None,
        *,
        form: str | None = None,
        name: str | None = None,
        style: str | Path | None = None,
        times: float = 2.0,
    ) -> bytes:
        """Return the bytes of a picture, and write them to a path if given. Raises Refusal.

        form: svg, png or pdf; by default the extension of the path
        name: of one of the study's pictures
        style: a house style file
        times: scale of a PNG
        """
        from zembra.rendering.run_picture import picture_of_run

        if form is None:
            form = "svg" if path is None else Path(path).suffix.lower().removeprefix(".")
        found = None if style is None else _style(style)
        data = picture_of_run(self._result, self._figure, form, found, name=name, times=times)
        if path is not None:
            Path(path).write_bytes(data)
        return data

    def _repr_svg_(self) -> str:
        return self.picture(form="svg").decode()

    def _repr_html_(self) -> str:
        # as wide as the cell, where that is narrower
        svg = self._repr_svg_().replace("<svg ", '<svg style="max-width:100%;height:auto" ', 1)
        bodies = [svg, listed(self.sentences)]
        said = [*self.warnings, *(f"Not asked: {text}" for text in self.unanswered)]
        if said:
            bodies.append(titled("To be known", listed(said, ordered=False)))
        return titled(self.reading.name, *bodies)

    def __repr__(self) -> str:
        return (
            f"<Run on {self.reading.name}: {len(self._result.state.lines)} series, {len(self._result.reports)} entries>"
        )


def run(
    data: Any, ledger: Ledger | None = None, *, as_of: date | None = None, waved: bool = False, figure: Any = None
) -> Run:
    """Run a ledger. Raises Refusal if a question is open or an entry cannot run.

    data: a Reading, or anything that `read` takes
    ledger: by default the series as they came
    as_of: the as-of day
    waved: skip open questions, and report them with the run
    """
    ledger = ledger or Ledger()
    reading = data if isinstance(data, Reading) else read(data, as_of=as_of)
    if not isinstance(data, Reading) and ledger._core.intake is not None:
        reading = Reading.by(reading, ledger._core)
    elif not waved and reading.questions:
        first = reading.questions[0]
        raise Refusal(
            f"The file can be read in two ways: {first.text}",
            place=f"{first.key}: {', '.join(first.answers)}",
            todo="Answer it (read(…, answers={…})), or wave what is open through (waved=True).",
        )
    core = onto(ledger, reading._begun)
    result = carry_out(reading._brought.observations, core, as_of or reading.as_of, file_name=reading.name)
    if result.problems:
        problem = result.problems[0]
        raise Refusal(f"“{problem.sentence}” {problem.problem}", place=f"in the entry {type(problem.entry).title}")
    return Run(reading, result, Ledger._of(core), figure or FigureSettings())


def _style(path: str | Path) -> HouseStyle:
    from zembra.core.dress.style import parse_style

    return parse_style(Path(path).read_bytes())
