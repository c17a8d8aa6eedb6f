"""Tell where data is kept, how large it is and whether it is intact, and delete what may go."""

from __future__ import annotations

import secrets
import tempfile
from collections.abc import Callable
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from flask import Response, g, send_file
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.models.datasets import DatasetView
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import DatasetPath, Identifier
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import dataset_view, work_view
from zembra.api.waiting import answer_of
from zembra.core.intake.bringin import Progress
from zembra.store.actor import own_session
from zembra.store.backups import Backup, Why, backups, keep_backup
from zembra.store.checking import Checked, CheckFinding, check_all
from zembra.store.database import fold_log
from zembra.store.datasets import (
    erase_dataset,
    remove_dataset,
    removed_datasets,
    restore_dataset,
    unused_datasets,
)
from zembra.store.errors import NotKept
from zembra.store.housekeeping import REMOVED_STAY, Space, give_back, space_of
from zembra.store.logins import end_login, logins
from zembra.store.tables import Login
from zembra.store.transfer import export_home
from zembra.work.queue import Lane, Noticed, Work

blueprint = Resource(
    "keeping",
    __name__,
    url_prefix="/api/keeping",
    abp_tags=[Tag(name="keeping")],
    abp_responses={404: Problem, 422: Problem, 503: Problem},
)


class BackupView(BaseModel):
    """A backup.

    why: daily, before-migration, before-restore or by-hand
    size: bytes
    """

    name: str
    why: str
    made_at: str
    size: int


class CheckView(BaseModel):
    """What was checked, and the defects."""

    at: str
    files: int
    studies: int
    revisions: int
    findings: tuple[CheckFinding, ...]


class SessionView(BaseModel):
    """A browser session.

    who: person, empty for the owner
    here: whether it is the current one
    """

    id: int
    who: str
    agent: str
    made_at: str
    seen_at: str
    here: bool


class SessionPath(BaseModel):
    session_id: Identifier


class KeepingView(BaseModel):
    """The state of a home.

    trouble: last housekeeping error
    sessions: empty without a key
    stay: days until removed items are erased
    unused: files without studies
    """

    folder: str
    database: str
    space: Space
    backups: list[BackupView]
    stay: int
    unused: list[DatasetView]
    removed: list[DatasetView]
    sessions: list[SessionView]
    trouble: str


class BackupPath(BaseModel):
    name: str = Field(max_length=120)


@blueprint.get("", summary="Where everything is, and how it stands", responses={200: KeepingView})
def state() -> Response:
    return reply(_state())


@blueprint.post("/backups", summary="Make a backup now", responses={201: BackupView, 202: WorkView})
def back_up() -> Response:
    home = application().home
    return answer_of(_begun(lambda _: _backup_view(keep_backup(home, Why.BY_HAND)), lambda view: reply(view, 201)))


@blueprint.get("/backups/<name>", summary="A backup, as a file", responses={200: None})
def backup_file(path: BackupPath) -> Response:
    found = next((backup for backup in backups(application().home) if backup.path.name == path.name), None)
    if found is None:
        raise NotKept(f"There is no backup named “{path.name}”.")
    return send_file(found.path.resolve(), "application/vnd.sqlite3", as_attachment=True, download_name=path.name)


@blueprint.post("/check", summary="Look whether everything is whole", responses={200: CheckView, 202: WorkView})
def check() -> Response:
    engine = application().engine
    return answer_of(_begun(lambda progress: _check_view(check_all(engine, progress)), reply))


@blueprint.post("/space", summary="Give back what nothing holds any more", responses={200: KeepingView})
def space() -> Response:
    give_back(application().engine)
    return reply(_state())


@blueprint.post("/export", summary="Everything that is kept, for another home", responses={202: WorkView})
def export() -> Response:
    engine, folder = application().engine, application().home.folder

    def work(progress: Progress) -> Noticed:
        progress("writing everything into one zip", 0.1)
        with tempfile.NamedTemporaryFile(dir=folder, prefix=".export-", suffix=".zip", delete=False) as made:
            path = Path(made.name)
        return Noticed(path, export_home(engine, path).left_out)

    def answer(made: Path) -> Response:
        file = made.open("rb")
        made.unlink()  # it goes when it has been read
        return send_file(file, "application/zip", as_attachment=True, download_name=f"zembra-{day}.zip")

    day = application().today().isoformat()
    # follow its messages, then fetch the result
    return reply(work_view(_begun(work, answer)), 202)


@blueprint.delete("/files/<int:dataset_id>", summary="Take a file off that no study stands on", responses={204: None})
def remove(path: DatasetPath) -> Response:
    remove_dataset(application().engine, path.dataset_id)
    return Response(status=204)


@blueprint.post("/files/<int:dataset_id>/restore", summary="Bring a removed file back", responses={204: None})
def restore(path: DatasetPath) -> Response:
    restore_dataset(application().engine, path.dataset_id)
    return Response(status=204)


@blueprint.delete("/files/<int:dataset_id>/removed", summary="Remove a removed file for good", responses={204: None})
def erase(path: DatasetPath) -> Response:
    erase_dataset(application().engine, path.dataset_id)
    fold_log(application().engine)
    return Response(status=204)


@blueprint.delete("/sessions/<int:session_id>", summary="End a session", responses={204: None})
def end_session(path: SessionPath) -> Response:
    """End a session: one's own, or any for the owner."""
    if all(login.id != path.session_id for login, _ in _own_logins()):
        raise NotKept("That session has ended already.")
    with own_session():
        end_login(application().engine, path.session_id)
    return Response(status=204)


def _state() -> KeepingView:
    home, engine = application().home, application().engine
    return KeepingView(
        folder=str(home.folder.resolve()),
        database=home.database.name,
        space=space_of(home, engine),
        backups=[_backup_view(backup) for backup in backups(home)],
        stay=REMOVED_STAY.days,
        unused=[dataset_view(dataset) for dataset in unused_datasets(engine)],
        removed=[dataset_view(dataset) for dataset in removed_datasets(engine)],
        sessions=_sessions(),
        trouble=application().housekeeper.trouble,
    )


def _sessions() -> list[SessionView]:
    shared = application()
    here = g.get("login")
    return [
        SessionView(
            id=login.id or 0,
            who=who,
            agent=login.agent,
            made_at=login.made_at.isoformat(),
            seen_at=shared.seen.of(login).isoformat(),
            here=here is not None and here.id == login.id,
        )
        for login, who in _own_logins()
    ]


def _own_logins() -> list[tuple[Login, str]]:
    """Return the requester's sessions, or all for the owner."""
    shared, person = application(), g.get("person")
    every = logins(shared.engine, shared.key)
    return every if person is None else [(login, who) for login, who in every if login.key_hash == person.key_hash]


def _begun(do: Callable[[Progress], object], answer: Callable[[Any], Response]) -> Work:
    return application().queue.submit(secrets.token_hex(8), Lane.KEEPING, do, answer=answer)


def _backup_view(backup: Backup) -> BackupView:
    return BackupView(name=backup.path.name, why=backup.why.value, made_at=backup.made_at.isoformat(), size=backup.size)


def _check_view(found: Checked) -> CheckView:
    return CheckView(at=datetime.now(UTC).isoformat(), **asdict(found))
