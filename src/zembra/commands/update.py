"""zembra update: new rows of a kept study, looked at and taken in without a browser."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from typing import Any

from zembra.commands.compared import score_said
from zembra.commands.opened import opened_home, study_named
from zembra.core.calendar.grain import Grain
from zembra.core.english import number, spoken_label
from zembra.core.newrows.changes import Change, Kind
from zembra.core.newrows.issued import Score, scored
from zembra.core.speaking import plain
from zembra.service.application import Application
from zembra.service.newrows import Incoming, as_told, incoming, take_in
from zembra.service.reading import read_file
from zembra.store.datasets import keep_dataset
from zembra.store.home import Home
from zembra.store.studies import Kept

NOTHING_NEW, WAITS = 0, 1
MOST_SAID = 20  # revised periods


def run(args: argparse.Namespace) -> int:
    """Exit status: 0 where nothing is new or it was taken in, 1 where it waits for a decision. Raises Refusal."""
    home = Home(args.home)
    data = args.data.read_bytes()
    with opened_home(home) as engine:
        application = Application(engine, home)
        try:
            kept = study_named(engine, args.study)
            before = application.runs.run_whole(kept).result
            received = keep_dataset(engine, args.data.name, data, read_file(data).how)
            found = incoming(application, kept, before, received, None, args.as_of)
            scores = [
                score
                for score in scored([as_told(kept, before)], found.result.state.lines, before.state.grain)
                if score.points
            ]
            new = found.changes is None or found.changes.any
            taken = bool(args.take and new)
            if taken:
                take_in(application, kept, before, found, waved=args.waved, base=kept.study.head)
        finally:
            application.queue.close()
    grain = before.state.grain
    print(_as_json(kept, found, scores, grain, taken) if args.json else _as_text(kept, found, scores, grain, taken))
    return WAITS if new and not taken else NOTHING_NEW


def _as_text(kept: Kept, found: Incoming, scores: list[Score], grain: Grain, taken: bool) -> str:
    lines = [f"{found.received.name}: {plain(found.how, found.result.state.nouns)}"]
    if found.changes is None:
        lines.append("It lies on another calendar than the study: nothing can be compared.")
    else:
        counts = found.changes.counts
        foreseen = f" ({found.changes.foreseen} of them provisional)" if counts[Kind.REVISED] else ""
        lines.append(
            f"{number(counts[Kind.NEW])} new, {number(counts[Kind.REVISED])} revised{foreseen}, "
            f"{number(counts[Kind.GONE])} gone, {number(counts[Kind.BLANK])} blank now."
        )
        revised = found.changes.of(Kind.REVISED)
        lines += [f"  revised: {_said(row, grain)}" for row in revised[:MOST_SAID]]
        if len(revised) > MOST_SAID:
            lines.append(f"  and {number(len(revised) - MOST_SAID)} more")
    if scores:
        lines.append(f"How the projection of {spoken_label(kept.as_of.isoformat())} did:")
        lines += [f"  {score_said(score)}" for score in scores]
    lines += [f"no longer fits: {report.sentence} {report.problem}" for report in found.result.problems]
    lines += [f"open question: {question.full_text}" for question in found.questions]
    if taken:
        lines.append(f"Taken in, as of {spoken_label(found.as_of.isoformat())}.")
    elif found.changes is None or found.changes.any:
        lines.append("Nothing was taken in: --take does that.")
    else:
        lines.append("Nothing is new.")
    return "\n".join(lines)


def _said(row: Change, grain: Grain) -> str:
    was, now = (float("nan") if value is None else value for value in (row.was, row.now))
    return f"{row.series}, {grain.spoken(row.period)}: {number(was)}, now {number(now)}"


def _as_json(kept: Kept, found: Incoming, scores: list[Score], grain: Grain, taken: bool) -> str:
    changes = found.changes
    about: dict[str, Any] = {
        "study": kept.study.name,
        "file": found.received.name,
        "how": found.how.model_dump(mode="json"),
        "as_of": found.as_of.isoformat(),
        "counts": {kind.value: count for kind, count in changes.counts.items()} if changes else None,
        "foreseen": changes.foreseen if changes else None,
        "rows": [
            {
                "kind": row.kind.value,
                "series": row.series,
                "period": grain.label(row.period),
                "was": row.was,
                "now": row.now,
            }
            for row in (changes.rows if changes else ())
        ],
        "projection": {"as_of": kept.as_of.isoformat(), "scores": [asdict(score) for score in scores]},
        "misfits": [f"{report.sentence} {report.problem}" for report in found.result.problems],
        "questions": [question.full_text for question in found.questions],
        "taken": taken,
    }
    return json.dumps(about, ensure_ascii=False, indent=2)
