"""The watches of a study, their findings, and the news feed."""

from __future__ import annotations

import contextlib
import json
from datetime import datetime

from flask import Flask, Response, request
from flask_openapi3 import Tag
from pydantic import ValidationError

from zembra.api.application import application
from zembra.api.models.feeds import CallView, WatchRequest, WatchView
from zembra.api.models.problem import Problem
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import sentence_view
from zembra.core.errors import Refusal
from zembra.core.ledger.model import first_fault
from zembra.core.watching.watchwords import WatchWords
from zembra.service.watching.news import MOST_ENTRIES, atom
from zembra.service.watching.schedule import begin_watch, watch_begun
from zembra.service.watching.watchlook import watching
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.tables import WatchFinding
from zembra.store.watching import findings_of, troubled_tellings, watch_by_token, watch_of, words_of_watch
from zembra.work.queue import Busy

NEWS = "/news/"
MOST_GONE = 20  # that are told with those that hold

blueprint = Resource(
    "watching",
    __name__,
    url_prefix="/api/studies/<int:study_id>/watch",
    abp_tags=[Tag(name="watching")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.get("", summary="What a study watches, and what that found", responses={200: WatchView})
def watch(path: StudyPath) -> Response:
    return _answer(kept_study(application().engine, path.study_id))


@blueprint.post("/look", summary="Look at what the watch has not seen yet", responses={200: WatchView})
def look(path: StudyPath) -> Response:
    """Evaluate the watches; findings are stored for those who may write."""
    with contextlib.suppress(Busy):
        begin_watch(application(), path.study_id)
    return _answer(kept_study(application().engine, path.study_id))


@blueprint.put("", summary="Have a study watch itself", responses={200: WatchView})
def keep(path: StudyPath, body: WatchRequest) -> Response:
    try:
        words = WatchWords.model_validate(body.model_dump())
    except ValidationError as error:
        raise Refusal(f"What to watch cannot be read: {first_fault(error)}") from None
    watching(application(), path.study_id, words)
    with contextlib.suppress(Busy):
        begin_watch(application(), path.study_id)
    return _answer(kept_study(application().engine, path.study_id))


def register_news(app: Flask) -> None:
    """Serve news feeds without a key to anybody who knows the secret address."""

    def news(token: str) -> Response:
        shared = application()
        known = watch_by_token(shared.engine, token)
        kept = kept_study(shared.engine, known.study_id)
        findings = findings_of(shared.engine, known.study_id, also_gone=True)[:MOST_ENTRIES]
        body = atom(kept.study.name, token, request.base_url, findings)
        return Response(body, mimetype="application/atom+xml")

    app.add_url_rule(f"{NEWS}<token>.atom", "news", news)


def _answer(kept: KeptStudy) -> Response:
    shared = application()
    assert kept.study.id is not None
    study_id = kept.study.id
    known = watch_of(shared.engine, study_id)
    words = words_of_watch(known) if known else WatchWords()
    work = watch_begun(shared, study_id)
    trouble = "" if work is None or work.failure is None else str(work.failure)
    findings = findings_of(shared.engine, study_id, also_gone=True)
    nouns = shared.runs.run_quickly(kept).result.state.nouns
    return reply(
        WatchView(
            watches=[sentence_view(watched, nouns) for watched in words.watches],
            tell=sentence_view(words.tell, nouns),
            findings=[_finding(finding) for finding in findings if finding.gone_at is None],
            gone=[_finding(finding) for finding in findings if finding.gone_at is not None][:MOST_GONE],
            unsaid=json.loads(known.unsaid) if known else [],
            untold=sorted(
                {
                    f"{telling.way.partition(':')[2]}: {telling.trouble}"
                    for telling in troubled_tellings(shared.engine, study_id)
                }
            ),
            news=f"{NEWS}{known.token}.atom" if known else None,
            looking=work is not None and not trouble,
            trouble=trouble,
        )
    )


def _finding(finding: WatchFinding) -> CallView:
    def stamp(moment: datetime | None) -> str | None:
        return moment.isoformat() if moment else None

    return CallView(
        id=finding.id or 0,
        kind=finding.kind,
        series=finding.series,
        period=finding.period,
        text=finding.text,
        found_at=stamp(finding.found_at) or "",
        gone_at=stamp(finding.gone_at),
    )
