"""What is planted in the demo data is what Zembra finds; docs/demo-data.md lists it."""

from datetime import date

import numpy as np

from tests.help import run_csv
from zembra.core.intake.census import census
from zembra.core.lines import Received
from zembra.demo import demo_file
from zembra.demo.sailings import LAST, ROUTES, sailings_csv


def test_the_shipped_file_is_what_the_generator_makes() -> None:
    assert demo_file("sailings.csv") == sailings_csv()


def test_sailings_planted_and_found() -> None:
    result = run_csv(demo_file("sailings.csv"))
    grain = result.state.grain
    for route, line in zip(ROUTES, result.state.lines, strict=True):
        assert line.name == route.name

        def days(kind: Received, line=line) -> set[str]:
            return set(grain.labels(line.periods[line.received == kind]))

        blank_texts = {day for day, text in route.texts.items() if text == "n/a"}
        closed = {
            str(day)
            for first, last in route.closed
            for day in np.arange(first, date(last.year, last.month, last.day + 1))
        }
        assert days(Received.ABSENT) == {str(day) for day in route.no_sailing} | closed
        assert days(Received.BLANK) == {str(day) for day in (*route.blank, *blank_texts)}
        assert days(Received.UNREADABLE) == {str(day) for day in route.texts if day not in blank_texts}
        zeros = grain.labels(line.periods[line.original == 0])
        assert set(zeros) == {str(day) for day in route.zeros}
        for day, value in route.spikes.items():
            assert line.original[line.periods == grain.period(day)] == [value]
    unreadable = next(count for count in census(result.base) if count.key == "unreadable")
    assert {example.text for example in unreadable.examples} == {"closed", "see note", "tbc", "error"}


def test_the_last_days_are_under_reported() -> None:
    line = run_csv(demo_file("sailings.csv")).state.lines[0]
    assert line.original[-1] < 0.5 * np.median(line.original[-30:-5])
    assert line.periods[-1] == np.datetime64(LAST, "D").astype(int)
