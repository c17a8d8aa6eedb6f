"""Store watches, findings and notifications."""

from __future__ import annotations

import json
import secrets
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import Engine
from sqlmodel import Session, col, select

from zembra.core.errors import Refusal
from zembra.core.watching.find import Found
from zembra.core.watching.watchwords import WatchWords
from zembra.store.errors import NotKept
from zembra.store.tables import Study, Telling, WatchFinding, WatchOf, now

MAIL, POST = "mail:", "post:"
MOST_KEPT = 500  # findings of a study that hold no more


@dataclass(frozen=True, slots=True)
class Due:
    """A recipient with due notifications.

    tellings: with their findings
    """

    study_id: int
    study: str
    way: str
    private: bool
    tellings: tuple[tuple[Telling, WatchFinding], ...]


def watch_of(engine: Engine, study_id: int) -> WatchOf | None:
    with Session(engine, expire_on_commit=False) as session:
        return session.get(WatchOf, study_id)


def watch_by_token(engine: Engine, token: str) -> WatchOf:
    """Return the watch of a news feed. Raises NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        found = session.exec(select(WatchOf).where(WatchOf.token == token)).first()
        if found is None:
            raise NotKept("There is no such feed of news.")
        return found


def words_of_watch(watch: WatchOf) -> WatchWords:
    """Return the settings of a watch. Raises Refusal."""
    try:
        return WatchWords.model_validate_json(watch.words)
    except ValidationError:
        raise Refusal("What the study watches cannot be read.", todo="Say it anew.") from None


def keep_watch(engine: Engine, study_id: int, words: WatchWords, *, private: bool) -> WatchOf:
    with Session(engine, expire_on_commit=False) as session:
        watch = session.get(WatchOf, study_id)
        if watch is None:
            watch = WatchOf(study_id=study_id, words="", token=secrets.token_urlsafe(24))
        watch.words, watch.private, watch.looked = words.model_dump_json(), private, ""
        session.add(watch)
        session.commit()
        return watch


def watching_studies(engine: Engine) -> list[int]:
    """Return existing studies with watches."""
    with Session(engine) as session:
        query = select(WatchOf.study_id).join(Study).where(col(Study.removed_at).is_(None))
        return list(session.exec(query.order_by(col(WatchOf.study_id))))


def findings_of(engine: Engine, study_id: int, *, also_gone: bool = False) -> list[WatchFinding]:
    """Return findings, newest first."""
    with Session(engine, expire_on_commit=False) as session:
        query = select(WatchFinding).where(WatchFinding.study_id == study_id)
        if not also_gone:
            query = query.where(col(WatchFinding.gone_at).is_(None))
        return list(session.exec(query.order_by(col(WatchFinding.id).desc())))


def every_finding(engine: Engine) -> dict[int, list[WatchFinding]]:
    """Return current findings by study, newest first."""
    with Session(engine, expire_on_commit=False) as session:
        query = select(WatchFinding).where(col(WatchFinding.gone_at).is_(None)).order_by(col(WatchFinding.id).desc())
        found: dict[int, list[WatchFinding]] = {}
        for finding in session.exec(query):
            found.setdefault(finding.study_id, []).append(finding)
        return found


def called_for(engine: Engine, study_id: int) -> tuple[Found, ...]:
    """Return current findings of a study."""
    return tuple(_found(finding) for finding in findings_of(engine, study_id))


def reconcile(
    engine: Engine,
    study_id: int,
    looked: str,
    found: Sequence[Found],
    unsaid: Sequence[str],
    is_same: Callable[[Found, Found], bool],
) -> None:
    """Store current findings: new ones are to be told, gone ones withdrawn. Nothing is stored if the watch changed
    meanwhile.

    looked: digest of its inputs
    """
    with Session(engine) as session:
        session.connection().exec_driver_sql("BEGIN IMMEDIATE")
        watch = session.get(WatchOf, study_id)
        if watch is None:
            return
        ways = _ways(words_of_watch(watch))
        query = select(WatchFinding).where(WatchFinding.study_id == study_id, col(WatchFinding.gone_at).is_(None))
        held = list(session.exec(query))
        fresh = list(found)
        for finding in held:
            again = next((new for new in fresh if is_same(_found(finding), new)), None)
            if again is None:
                finding.gone_at = now()
                _take_back(session, finding)
            else:
                fresh.remove(again)
                finding.text, finding.value, finding.period = again.text, again.value, again.period
        for new in fresh:
            finding = WatchFinding(
                study_id=study_id, kind=new.kind, series=new.series, period=new.period, text=new.text, value=new.value
            )
            session.add(finding)
            session.flush()
            assert finding.id is not None
            session.add_all(Telling(finding_id=finding.id, way=way) for way in ways)
        watch.looked, watch.unsaid = looked, json.dumps(list(unsaid))
        _forget_old(session, study_id)
        session.commit()


def _ways(words: WatchWords) -> list[str]:
    return [f"{kind}{to}" for kind, to in ((MAIL, words.tell.mail), (POST, words.tell.post)) if to]


def _found(finding: WatchFinding) -> Found:
    return Found(finding.kind, finding.series, finding.period, finding.text, finding.value)


def _take_back(session: Session, finding: WatchFinding) -> None:
    """Tell recipients that a finding is gone, if they heard of it."""
    for telling in session.exec(select(Telling).where(Telling.finding_id == finding.id, col(Telling.gone).is_(False))):
        if telling.told_at is None:
            session.delete(telling)
        else:
            session.add(Telling(finding_id=telling.finding_id, way=telling.way, gone=True))


def _forget_old(session: Session, study_id: int) -> None:
    query = select(WatchFinding).where(WatchFinding.study_id == study_id, col(WatchFinding.gone_at).is_not(None))
    for finding in session.exec(query.order_by(col(WatchFinding.id).desc()).offset(MOST_KEPT)).all():
        for telling in session.exec(select(Telling).where(Telling.finding_id == finding.id)):
            session.delete(telling)
        session.delete(finding)


def due_tellings(engine: Engine, at: datetime) -> list[Due]:
    """Return due recipients with their notifications."""
    with Session(engine, expire_on_commit=False) as session:
        query = (
            select(Telling, WatchFinding, Study, WatchOf)
            .join(WatchFinding, col(WatchFinding.id) == col(Telling.finding_id))
            .join(Study, col(Study.id) == col(WatchFinding.study_id))
            .join(WatchOf, col(WatchOf.study_id) == col(WatchFinding.study_id))
            .where(col(Telling.told_at).is_(None), col(Telling.due_at) <= at, col(Study.removed_at).is_(None))
            .order_by(col(Telling.id))
        )
        grouped: dict[tuple[int, str], list[tuple[Telling, WatchFinding]]] = {}
        about: dict[int, tuple[str, bool]] = {}
        for telling, finding, study, watch in session.exec(query):
            grouped.setdefault((finding.study_id, telling.way), []).append((telling, finding))
            about[finding.study_id] = (study.name, watch.private)
        return [
            Due(study, about[study][0], way, about[study][1], tuple(rows)) for (study, way), rows in grouped.items()
        ]


def change_tellings(engine: Engine, numbers: Collection[int | None], change: Callable[[Telling], None]) -> None:
    with Session(engine) as session:
        for telling in session.exec(select(Telling).where(col(Telling.id).in_(numbers))):
            change(telling)
        session.commit()


def troubled_tellings(engine: Engine, study_id: int) -> list[Telling]:
    """Return failed notifications."""
    with Session(engine, expire_on_commit=False) as session:
        query = (
            select(Telling)
            .join(WatchFinding)
            .where(WatchFinding.study_id == study_id, col(Telling.told_at).is_(None), col(Telling.trouble) != "")
        )
        return list(session.exec(query))
