"""A picture without a browser, against a plain plotting script of the same chart; and a hundred of them in one process."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

from benchmarks.bench_ledger import AS_OF
from benchmarks.measure import Ratio, compare
from zembra.core.dress.model import Picture
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.model import record
from zembra.core.ledger.run import run
from zembra.demo import demo_file
from zembra.rendering.files import picture_file

MANY = 100
ROUTES = ("Outer Isles", "Harbour Loop", "North Head", "Kittiwake Bay")
PLOT = """
import sys
import matplotlib
matplotlib.use("Agg")
import matplotlib.pyplot as plt
import pandas as pd
frame = pd.read_csv(sys.argv[1], parse_dates=["day"])
frame["passengers"] = pd.to_numeric(frame["passengers"], errors="coerce")
routes = sys.argv[4:]
wide = frame[frame["route"].isin(routes)].pivot_table(index="day", columns="route", values="passengers").asfreq("D")
averages = wide.rolling(28, min_periods=20).mean()
for _ in range(int(sys.argv[3])):
    figure, axes = plt.subplots(figsize=(12.8, 7.2), dpi=100)
    for n, route in enumerate(routes):
        axes.plot(wide.index, wide[route], color=f"C{n}", alpha=0.4, linewidth=1)
        axes.plot(wide.index, averages[route], color=f"C{n}", linewidth=3, label=route)
    axes.set_title("Saltmarch Ferries", loc="left")
    axes.set_ylabel("passengers")
    axes.grid(axis="y")
    axes.legend(frameon=False)
    axes.set_ylim(0)
    figure.savefig(sys.argv[2])
    plt.close(figure)
"""


def measure() -> Iterator[Ratio]:
    brought = bring_in(demo_file("sailings.csv"))
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    average = record(Average(window=Window(length=28, need=20)), "a")
    ledger = begun.model_copy(update={"entries": (*begun.entries, average)})
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "ledger.json").write_text(ledger.model_dump_json())
        (folder / "sailings.csv").write_bytes(demo_file("sailings.csv"))

        def ours() -> None:
            command = [sys.executable, "-m", "zembra.cli", "run", "ledger.json", "--data", "sailings.csv"]
            command += ["--as-of", AS_OF.isoformat(), "--out", "out", "--picture", "ours.png"]
            subprocess.run(command, cwd=folder, check=True, capture_output=True)

        def theirs(times: int = 1, routes: Sequence[str] = ROUTES) -> None:
            command = [sys.executable, "-c", PLOT, "sailings.csv", "theirs.png", str(times), *routes]
            subprocess.run(command, cwd=folder, check=True, capture_output=True)

        yield compare("a PNG from the command line, with all numbers, against a plotting script", 1.5, ours, theirs, 3)
        result = run(brought.observations, ledger, AS_OF)
        settings, picture = FigureSettings(shown=ROUTES[:1]), Picture()
        picture_file(picture_figure(result, settings, picture), picture, "png", title="x", times=1)
        start = time.perf_counter()
        for _ in range(MANY):
            picture_file(picture_figure(result, settings, picture), picture, "png", title="x", times=1)
        mine = (time.perf_counter() - start) / MANY
        start = time.perf_counter()
        theirs(20, ROUTES[:1])
        plotted = (time.perf_counter() - start) / 20
        yield Ratio(
            f"{MANY} pictures in one process, each against one of the script",
            mine / plotted,
            1.0,
            f"{mine * 1000:.0f} ms against {plotted * 1000:.0f} ms",
        )
