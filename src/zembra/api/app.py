"""Build the Flask application."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path

from flask import Response
from flask_openapi3 import Info, OpenAPI
from werkzeug.exceptions import NotFound

from zembra.api import (
    allseries,
    catalogue,
    datasets,
    events,
    feeds,
    followup,
    handover,
    import_profiles,
    judging,
    keeping,
    newrows,
    packages,
    pictures,
    seriessums,
    snapshots,
    studies,
    styles,
    values,
    watching,
    work,
)
from zembra.api.description import register_description
from zembra.api.frontend import register_front_end
from zembra.api.guard import register_guard
from zembra.api.incoming import SMALL_BODY, register_incoming
from zembra.api.login import register_login
from zembra.api.problems import invalid_request, register_problems
from zembra.api.watching import register_news
from zembra.service.application import Application
from zembra.settings import settings
from zembra.store.database import open_database
from zembra.store.home import Home
from zembra.store.people import people
from zembra.version import __version__


def create_app(
    database: Path,
    today: Callable[[], date] = date.today,
    limit_mb: int | None = None,
    key: str = "",
    before_migration: Callable[[], object] = lambda: None,
    looked_at: Home | None = None,
) -> OpenAPI:
    """Create the Flask application on a database file. Raises Refusal as `open_database` does.

    today: clock for studies without as-of date
    limit_mb: largest upload, by default ZEMBRA_MAX_UPLOAD_MB
    key: required key; without one, only this machine is served
    before_migration: see `open_database`
    looked_at: the read-only home that the database is a copy of
    """
    configured = settings()
    limit = limit_mb or configured.max_upload_mb
    app = OpenAPI(
        "zembra",
        info=Info(title="Zembra", version=__version__),
        validation_error_status=422,
        validation_error_callback=invalid_request,
        static_folder=None,
        doc_ui=False,
    )
    app.config["MAX_CONTENT_LENGTH"] = limit * 1024 * 1024
    app.config["MAX_FORM_MEMORY_SIZE"] = SMALL_BODY
    home = looked_at or Home(database.parent, database.name)
    engine = open_database(database, before_migration)
    asks = bool(key or people(engine))
    app.extensions["zembra"] = Application(engine, home, today, configured, key, shared=asks)
    register_guard(app, any_host=asks, read_only_home=looked_at is not None)
    if asks:
        register_login(app, key, engine)
    # after authentication
    register_incoming(app, home)
    register_problems(app, limit)
    for resource in (
        catalogue,
        datasets,
        import_profiles,
        studies,
        newrows,
        feeds,
        watching,
        allseries,
        seriessums,
        values,
        followup,
        events,
        judging,
        pictures,
        handover,
        packages,
        styles,
        snapshots,
        work,
        keeping,
    ):
        app.register_api(resource.blueprint)

    # plain rules: these are not part of the described API
    register_description(app)
    register_news(app)
    app.add_url_rule("/api/<path:rest>", "unknown", _unknown)
    register_front_end(app)
    return app


def _unknown(rest: str) -> Response:
    raise NotFound(f"There is nothing at /api/{rest}.")
