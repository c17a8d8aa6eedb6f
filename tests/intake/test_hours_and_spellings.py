"""Times of day beside any form of date, and dates in spellings that no form has."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

import pytest

from tests.help import asked, run_csv
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.respelling import respelled

FIRST = datetime(2025, 3, 14)
DATES = ("%Y-%m-%d", "%d/%m/%Y", "%m/%d/%Y", "%d %b %Y", "%d.%m.%Y", "%Y%m%d")
HOURS: dict[str, tuple[int, Callable[[int], str]]] = {
    "hour": (24, str),
    "Hour": (24, lambda n: str(n + 1)),
    "HE": (24, lambda n: f"HE{n + 1:02d}"),
    "from to": (24, lambda n: f"{n:02d}:00-{n + 1:02d}:00"),
    "Uhrzeit": (24, lambda n: f"{n:02d}.00"),
    "Time": (24, lambda n: str(n * 100)),
    "time ending": (24, lambda n: str((n + 1) * 100)),
    "settlement period": (48, lambda n: str(n + 1)),
    "quarter": (96, lambda n: str(n + 1)),
}


def table(date: str, name: str, days: int = 15) -> str:
    size, write = HOURS[name]
    rows = [
        f"{FIRST + timedelta(days=day):{date}};{write(n)};{day * size + n}" for day in range(days) for n in range(size)
    ]
    return "\n".join([f"Day;{name};Load", *rows])


@pytest.mark.parametrize("date", DATES)
@pytest.mark.parametrize("name", HOURS)
def test_each_row_stands_at_its_time(date: str, name: str) -> None:
    brought = bring_in(table(date, name).encode())
    frame = brought.observations.frames["Load"].sort("value")
    step = timedelta(minutes=1440 // HOURS[name][0])
    assert frame["when"].to_list() == [FIRST + n * step for n in range(frame.height)]
    assert brought.observations.series == ("Load",)


def test_half_hours_are_counted_from_midnight_on_days_when_clocks_change() -> None:
    sizes = {28: 48, 29: 48, 30: 46, 31: 48}
    rows = [f"2025-03-{day},{n + 1},{day}" for day, size in sizes.items() for n in range(size)]
    brought = bring_in("\n".join(["Settlement Date,Settlement Period,Demand", *rows]).encode())
    frame = brought.observations.frames["Demand"]
    assert brought.how.dates.zone is not None
    assert frame["when"].diff().drop_nulls().unique().to_list() == [timedelta(minutes=30)]
    assert frame.filter(frame["wall"].dt.date() == datetime(2025, 3, 30).date()).height == 46


def test_hours_across_are_one_series() -> None:
    rows = [f"2025-03-{day},{','.join(str(day * 100 + n) for n in range(24))}" for day in range(10, 16)]
    head = ",".join(f"HE{n + 1}" for n in range(24))
    result = run_csv("\n".join([f"Date,{head}", *rows]).encode())
    (line,) = result.base.lines
    assert len(line) == 6 * 24
    assert result.base.grain.labels(line.periods[:2]) == ["2025-03-10T00:00", "2025-03-10T01:00"]
    assert line.original[:2].tolist() == [1000.0, 1001.0]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("令和7年1月", "2025年1月"), ("民國114年12月", "2025年12月"), ("ม.ค. 2566", "2023-01"), ("二〇二五年十二月", "2025年12月"),
        ("2-8 Dec 2024", "2 Dec 2024"), ("30 Dec - 5 Jan 2025", "30 Dec 2024"), ("30.12.–05.01.2025", "30.12.2024"), ("Jan-Mar 2003", "Jan 2003"),
        ("20241202-20241208", "20241202"), ("w/e 02/06/1990", "02/06/1990"), ("First quarter 2003", "Q1 2003"), ("KW36/24", "2024-W36"),
        ("2024-W36-4", "2024-09-05"), ("Month ended 31 January 2025", "31 January 2025"), ("12 Main St", "12 Main St"), ("R5.1", "2023-01"),
    ],
)  # fmt: skip
def test_a_spelling_is_said_as_a_form_has_it(text: str, said: str) -> None:
    assert respelled(text) == said


def test_what_is_taken_for_granted_of_a_spelling_is_told() -> None:
    rows = [f"令和{5 + n // 12}年{n % 12 + 1}月,{n}" for n in range(24)]
    brought = bring_in("\n".join(["年月,v", *rows]).encode())
    assert any("era" in notice.text for notice in brought.notices)
    assert brought.observations.frames["v"]["when"][0] == datetime(2023, 1, 1)


@pytest.mark.parametrize(("first", "named"), [("1402/01/0{}", "Jalali"), ("2568-0{}", "Buddhist")])
def test_calendars_that_are_not_read_are_refused_by_name(first: str, named: str) -> None:
    rows = [f"{first.format(n)},{n}" for n in range(1, 9)]
    with pytest.raises(Refusal, match=named):
        bring_in("\n".join(["period,v", *rows]).encode())


def test_foreseen_periods_are_asked_about() -> None:
    keys = [
        question.key
        for question in asked(b"GBP m;FY19;FY20;FY21;FY22E\nRevenue;1.5;2.5;3.5;4.5\nCosts;1.1;2.1;3.1;4.1")
    ]
    assert keys == ["foreseen:FY22E"]
    down = "\n".join(
        [
            "month;riders",
            *(f"{m}-25{' F' if m == 'Jun' else ''};5.5" for m in ("Jan", "Feb", "Mar", "Apr", "May", "Jun")),
        ]
    )
    assert [question.key for question in asked(down.encode())] == ["foreseen:Jun-25 F"]
