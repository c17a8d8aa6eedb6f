"""Real tables as a mailbox holds them, against what stands in them: `../shared/trials`, where it is there."""

from __future__ import annotations

import json
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context

import polars as pl

from benchmarks.measure import Ratio
from benchmarks.trialfiles import TRIALS, Truth, Verdict, judged
from benchmarks.trialpairs import pair_truths, pair_verdict

MOST_ASKED_ASTRAY = 3  # files of 150
MOST_ASKED_ASTRAY_IN_MAIL = 8  # of 403
MOST_REFUSED_IN_MAIL = 12
MOST_QUESTIONS = 0.2  # for each file that is read right
SILENT = ("wrong silently", "lost", "taken apart")


@dataclass(frozen=True)
class MailFile:
    """truths: those that are as good. word: what the truth says instead of numbers: ask, refuse or judge. soft: whether a
    question or a refusal is the right thing."""

    name: str
    truths: tuple[Truth, ...]
    word: str
    soft: bool


def truths() -> dict[str, Truth]:
    """By file and series: the number of each period."""
    found: dict[str, Truth] = defaultdict(lambda: defaultdict(dict))
    rows = pl.read_csv(TRIALS / "intake-truth.csv", schema_overrides={"period": pl.String})
    for name, series, period, value in rows.select("file", "series", "period", "value").iter_rows():
        if value is not None:
            found[name][str(series)][period] = value
    return found


def mail_files() -> list[MailFile]:
    said = json.loads((TRIALS / "mailbox" / "truth.json").read_text())
    return [
        MailFile(
            name,
            tuple(_points(truth) for truth in (entry["truth"], *entry["alt"]) if isinstance(truth, Mapping)),
            "" if isinstance(entry["truth"], Mapping) else str(entry["truth"]),
            bool(entry["soft"]),
        )
        for name, entry in said.items()
    ]


def _points(truth: Mapping[str, list[tuple[str, float | None]]]) -> Truth:
    return {name: {moment: value for moment, value in cells if value is not None} for name, cells in truth.items()}


def mail_verdict(file: MailFile) -> Verdict:
    """As `judged`, with a refusal or a question that is the right thing said to be right."""
    found = judged((TRIALS / "mailbox" / "tables" / file.name).read_bytes(), file.truths, by_moment=True)
    if file.word == "judge":
        return Verdict("for a person to judge", found.questions, found.about)
    if found.kind == "refused" and file.soft:
        return Verdict("refused rightly", about=found.about)
    if found.kind == "asked astray" and file.soft:
        return Verdict("asked rightly", found.questions, found.about)
    return found


def trial_verdict(item: tuple[str, Truth]) -> Verdict:
    name, truth = item
    return judged((TRIALS / "intake" / name).read_bytes(), [truth])


def measure() -> Iterator[Ratio]:
    if not TRIALS.is_dir():
        print("     trials: ../shared/trials is not here, skipped")
        return
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        yield from _counted(
            "trial files", list(pool.map(trial_verdict, truths().items(), chunksize=4)), MOST_ASKED_ASTRAY, 0
        )
        yield from _counted(
            "mailed files",
            list(pool.map(mail_verdict, mail_files(), chunksize=4)),
            MOST_ASKED_ASTRAY_IN_MAIL,
            MOST_REFUSED_IN_MAIL,
        )
        pairs = Counter(found.kind for found in pool.map(pair_verdict, pair_truths().items(), chunksize=2))
    detail = ", ".join(f"{n} {kind}" for kind, n in pairs.most_common())
    yield Ratio("files of a next month taken wrong", pairs["taken wrong"], 0, detail)


def _counted(name: str, found: list[Verdict], most_astray: int, most_refused: int) -> Iterator[Ratio]:
    count = Counter(verdict.kind for verdict in found)
    detail = ", ".join(f"{n} {kind}" for kind, n in count.most_common())
    right = [verdict for verdict in found if verdict.kind.startswith("right")]
    asked = sum(len(verdict.questions) for verdict in right)
    yield Ratio(f"{name} wrong, short of cells or taken apart without a word", sum(count[k] for k in SILENT), 0, detail)
    yield Ratio(f"{name} asked without the right answer", count["asked astray"], most_astray, detail)
    yield Ratio(f"{name} refused wrongly", count["refused"], most_refused, detail)
    yield Ratio(
        f"questions for one of the {name} that is right", asked / max(1, len(right)), MOST_QUESTIONS, f"{asked} asked"
    )
