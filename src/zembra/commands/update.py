"""zembra update: new rows of a kept study, looked at and taken in without a browser."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict, dataclass, replace
from typing import Any

from zembra.commands.compared import score_said
from zembra.commands.opened import opened_home, study_named
from zembra.core.calendar.grain import Grain
from zembra.core.english import number, spoken_label
from zembra.core.intake.bringin import quiet
from zembra.core.newrows.changes import Change, Kind
from zembra.core.newrows.issued import Score, scored
from zembra.core.speaking import plain
from zembra.service.application import Application
from zembra.service.feeds.look import look
from zembra.service.newrows import Incoming, as_told, incoming, take_in
from zembra.service.reading import read_file
from zembra.service.watching.look import watch_over, would_find
from zembra.service.watching.tell import tell_due
from zembra.store.datasets import dataset, keep_dataset
from zembra.store.feeds import feed_of
from zembra.store.home import Home
from zembra.store.studies import Kept, kept_study
from zembra.store.tables import Dataset
from zembra.store.watching import findings_of, watch_of

NOTHING_NEW, WAITS = 0, 1
MOST_SAID = 20  # revised periods


def run(args: argparse.Namespace) -> int:
    """Exit status: 0 where nothing is new or it was taken in, 1 where it waits for a decision. Raises Refusal."""
    home = Home(args.home)
    with opened_home(home) as engine:
        application = Application(engine, home)
        try:
            kept = study_named(engine, args.study)
            told = _updated(application, kept, args)
            tell_due(application)
        finally:
            application.queue.close()
    print(_as_json(told) if args.json else _as_text(told))
    return WAITS if told.new and not told.taken else NOTHING_NEW


@dataclass(frozen=True, slots=True)
class Told:
    """What there is to say. kept: the study before. found: what came, None where the feed has nothing that waits; said: what
    it said then. calls, unsaid: what the watch found and could not look at."""

    kept: Kept
    grain: Grain
    found: Incoming | None
    scores: tuple[Score, ...]
    taken: bool
    said: str
    calls: tuple[str, ...]
    unsaid: tuple[str, ...]

    @property
    def new(self) -> bool:
        return self.found is not None and (self.found.changes is None or self.found.changes.any)


def _updated(application: Application, kept: Kept, args: argparse.Namespace) -> Told:
    engine, study_id = application.engine, kept.study.id or 0
    before = application.runs.run_whole(kept).result
    said = ""
    received: Dataset | None
    if args.data is not None:
        data = args.data.read_bytes()
        received = keep_dataset(engine, args.data.name, data, read_file(data).how)
    else:
        said = look(application, study_id, quiet, asked=True).said
        # it may have been taken in by itself
        kept = kept_study(engine, study_id)
        before = application.runs.run_whole(kept).result
        feed = feed_of(engine, study_id)
        received = None if feed is None or feed.received_id is None else dataset(engine, feed.received_id)
    found = None if received is None else incoming(application, kept, before, received, None, args.as_of)
    told = Told(kept, before.state.grain, found, (), False, said, (), ())
    if found is not None:
        every = scored([as_told(kept, before)], found.result.state.lines, before.state.grain)
        told = replace(told, scores=tuple(score for score in every if score.points))
    if args.take and told.new and found is not None:
        take_in(application, kept, before, found, waved=args.waved, base=kept.study.head)
        told = replace(told, taken=True)
    return _watched(application, told, kept_by_feed=args.data is None)


def _watched(application: Application, told: Told, *, kept_by_feed: bool) -> Told:
    """With what the watch finds, which is kept where what came is: in the study, or waiting for it."""
    study_id = told.kept.study.id or 0
    watch = watch_of(application.engine, study_id)
    if watch is None:
        return told
    if told.taken or kept_by_feed:
        watch_over(application, study_id)
        calls = [finding.text for finding in findings_of(application.engine, study_id)]
        looked = watch_of(application.engine, study_id)
        return replace(told, calls=tuple(calls), unsaid=tuple(json.loads(looked.unsaid)) if looked else ())
    before = application.runs.run_whole(told.kept).result
    gave, _ = would_find(application, told.kept, before, watch, told.found)
    return replace(told, calls=tuple(found.text for found in gave.found), unsaid=gave.unsaid)


def _as_text(told: Told) -> str:
    lines = [told.said] if told.said else []
    if told.found is not None:
        lines += _about(told, told.found)
    lines += [f"needs a look: {call}" for call in told.calls]
    lines += [f"not looked at: {sentence}" for sentence in told.unsaid]
    if told.taken and told.found is not None:
        lines.append(f"Taken in, as of {spoken_label(told.found.as_of.isoformat())}.")
    elif told.new:
        lines.append("Nothing was taken in: --take does that.")
    elif not told.said:
        lines.append("Nothing is new.")
    return "\n".join(lines)


def _about(told: Told, found: Incoming) -> list[str]:
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
        lines += [f"  revised: {_said(row, told.grain)}" for row in revised[:MOST_SAID]]
        if len(revised) > MOST_SAID:
            lines.append(f"  and {number(len(revised) - MOST_SAID)} more")
    if told.scores:
        lines.append(f"How the projection of {spoken_label(told.kept.as_of.isoformat())} did:")
        lines += [f"  {score_said(score)}" for score in told.scores]
    lines += [f"no longer fits: {report.sentence} {report.problem}" for report in found.result.problems]
    return [*lines, *(f"open question: {question.full_text}" for question in found.questions)]


def _said(row: Change, grain: Grain) -> str:
    was, now = (float("nan") if value is None else value for value in (row.was, row.now))
    return f"{row.series}, {grain.spoken(row.period)}: {number(was)}, now {number(now)}"


def _as_json(told: Told) -> str:
    found = told.found
    changes = found.changes if found else None
    about: dict[str, Any] = {
        "study": told.kept.study.name,
        "said": told.said,
        "file": found.received.name if found else None,
        "how": found.how.model_dump(mode="json") if found else None,
        "as_of": found.as_of.isoformat() if found else told.kept.as_of.isoformat(),
        "counts": {kind.value: count for kind, count in changes.counts.items()} if changes else None,
        "foreseen": changes.foreseen if changes else None,
        "rows": [
            {
                "kind": row.kind.value,
                "series": row.series,
                "period": told.grain.label(row.period),
                "was": row.was,
                "now": row.now,
            }
            for row in (changes.rows if changes else ())
        ],
        "projection": {"as_of": told.kept.as_of.isoformat(), "scores": [asdict(score) for score in told.scores]},
        "misfits": [f"{report.sentence} {report.problem}" for report in (found.result.problems if found else ())],
        "questions": [question.full_text for question in (found.questions if found else ())],
        "calls": list(told.calls),
        "not_looked_at": list(told.unsaid),
        "taken": told.taken,
    }
    return json.dumps(about, ensure_ascii=False, indent=2)
