"""zembra update: fetch and take in new rows of a study without a browser."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict, dataclass, replace
from typing import Any

from zembra.commands.compared import score_said
from zembra.commands.opened import opened_home, study_named
from zembra.core.calendar.grain import Grain
from zembra.core.english import counted, number, spoken_label
from zembra.core.intake.bringin import quiet
from zembra.core.newrows.changes import Kind, RevisedPeriod
from zembra.core.newrows.issued import Score, scored
from zembra.core.speaking import plain
from zembra.service.application import Application
from zembra.service.feeds.feedlook import look
from zembra.service.newrows import Incoming, as_told, incoming, take_in
from zembra.service.reading import read_file
from zembra.service.watching.tell import tell_due
from zembra.service.watching.watchlook import watch_over, would_find
from zembra.store.datasets import dataset, keep_dataset
from zembra.store.feeds import feed_of
from zembra.store.home import Home
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.tables import Dataset
from zembra.store.watching import findings_of, watch_of

NOTHING_NEW, WAITS = 0, 1
MOST_SAID = 20  # revised periods


def run(args: argparse.Namespace) -> int:
    """Run; exit status 0 if nothing is new or it was taken in, 1 if it waits. Raises Refusal."""
    home = Home(args.home)
    with opened_home(home) as engine:
        application = Application(engine, home)
        try:
            kept = study_named(engine, args.study)
            report = _updated(application, kept, args)
            tell_due(application)
        finally:
            application.queue.close()
    print(_as_json(report) if args.json else _as_text(report))
    return WAITS if report.new and not report.taken else NOTHING_NEW


@dataclass(frozen=True, slots=True)
class UpdateReport:
    """The report.

    kept: study before
    found: new rows, or None; said: outcome of the fetch
    calls, unsaid: findings of watches, and what they could not evaluate
    """

    kept: KeptStudy
    found: Incoming | None
    scores: tuple[Score, ...]
    taken: bool
    said: str
    calls: tuple[str, ...]
    unsaid: tuple[str, ...]

    @property
    def new(self) -> bool:
        return self.found is not None and (self.found.changes is None or self.found.changes.any)


def _updated(application: Application, kept: KeptStudy, args: argparse.Namespace) -> UpdateReport:
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
    report = UpdateReport(kept, found, (), False, said, (), ())
    if found is not None:
        every = scored([as_told(kept, before)], found.result.state.lines, before.state.grain)
        report = replace(report, scores=tuple(score for score in every if score.points))
    if args.take and report.new and found is not None:
        take_in(application, kept, before, found, skip_questions=args.waved, base=kept.study.head)
        report = replace(report, taken=True)
    return _watched(application, report, kept_by_feed=args.data is None)


def _watched(application: Application, report: UpdateReport, *, kept_by_feed: bool) -> UpdateReport:
    """Add findings of watches, stored where the rows are: in the study or waiting."""
    study_id = report.kept.study.id or 0
    watch = watch_of(application.engine, study_id)
    if watch is None:
        return report
    if report.taken or kept_by_feed:
        watch_over(application, study_id)
        calls = [finding.text for finding in findings_of(application.engine, study_id)]
        looked = watch_of(application.engine, study_id)
        return replace(report, calls=tuple(calls), unsaid=tuple(json.loads(looked.unsaid)) if looked else ())
    before = application.runs.run_whole(report.kept).result
    gave, _ = would_find(application, report.kept, before, watch, report.found)
    return replace(report, calls=tuple(found.text for found in gave.found), unsaid=gave.unsaid)


def _as_text(report: UpdateReport) -> str:
    lines = [report.said] if report.said else []
    if report.found is not None:
        lines += _about(report, report.found)
    lines += [f"needs a look: {call}" for call in report.calls]
    lines += [f"not looked at: {sentence}" for sentence in report.unsaid]
    if report.taken and report.found is not None:
        lines.append(f"Taken in, as of {spoken_label(report.found.as_of.isoformat())}.")
    elif report.new:
        lines.append("Nothing was taken in: --take does that.")
    elif not report.said:
        lines.append("Nothing is new.")
    return "\n".join(lines)


def _about(report: UpdateReport, found: Incoming) -> list[str]:
    lines = [f"{found.received.name}: {plain(found.how, found.result.state.nouns)}"]
    lines += [f"{name} is taken for {known}." for name, known in found.names.items()]
    if found.changes is None:
        lines.append("It lies on another calendar than the study: nothing can be compared.")
    else:
        counts = found.changes.counts
        foreseen = f" ({found.changes.foreseen} of them provisional)" if counts[Kind.REVISED] else ""
        lines.append(
            f"{number(counts[Kind.NEW])} new, {number(counts[Kind.REVISED])} revised{foreseen}, "
            f"{number(counts[Kind.GONE])} gone, {number(counts[Kind.BLANK])} blank now."
        )
        if found.changes.new_series:
            lines.append(f"New series: {', '.join(found.changes.new_series[:MOST_SAID])}.")
        if found.changes.lost_series:
            gone = sum(row.series in found.changes.lost_series for row in found.changes.of(Kind.GONE))
            names = ", ".join(found.changes.lost_series[:MOST_SAID])
            lines.append(f"Not in it any more: {names}, with {counted(gone, 'number')}.")
        revised = found.changes.of(Kind.REVISED)
        lines += [f"  revised: {_said(row, found.changes.grain)}" for row in revised[:MOST_SAID]]
        if len(revised) > MOST_SAID:
            lines.append(f"  and {number(len(revised) - MOST_SAID)} more")
    if report.scores:
        lines.append(f"How the projection of {spoken_label(report.kept.as_of.isoformat())} did:")
        lines += [f"  {score_said(score)}" for score in report.scores]
    lines += [f"no longer fits: {misfit.sentence} {misfit.problem}" for misfit in found.result.problems]
    return [*lines, *(f"open question: {question.full_text}" for question in found.questions)]


def _said(row: RevisedPeriod, grain: Grain) -> str:
    was, now = (float("nan") if value is None else value for value in (row.was, row.now))
    return f"{row.series}, {grain.spoken(row.period)}: {number(was)}, now {number(now)}"


def _as_json(report: UpdateReport) -> str:
    found = report.found
    changes = found.changes if found else None
    about: dict[str, Any] = {
        "study": report.kept.study.name,
        "said": report.said,
        "file": found.received.name if found else None,
        "how": found.how.model_dump(mode="json") if found else None,
        "as_of": found.as_of.isoformat() if found else report.kept.as_of.isoformat(),
        "counts": {kind.value: count for kind, count in changes.counts.items()} if changes else None,
        "foreseen": changes.foreseen if changes else None,
        "new_series": list(changes.new_series) if changes else [],
        "lost_series": list(changes.lost_series) if changes else [],
        "renamed": dict(found.names) if found else {},
        "rows": [
            {
                "kind": row.kind.value,
                "series": row.series,
                "period": changes.grain.label(row.period),
                "was": row.was,
                "now": row.now,
            }
            for row in changes.rows
        ]
        if changes
        else [],
        "projection": {"as_of": report.kept.as_of.isoformat(), "scores": [asdict(score) for score in report.scores]},
        "misfits": [f"{misfit.sentence} {misfit.problem}" for misfit in (found.result.problems if found else ())],
        "questions": [question.full_text for question in (found.questions if found else ())],
        "calls": list(report.calls),
        "not_looked_at": list(report.unsaid),
        "taken": report.taken,
    }
    return json.dumps(about, ensure_ascii=False, indent=2)
