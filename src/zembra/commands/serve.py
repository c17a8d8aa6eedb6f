"""zembra serve and zembra demo: run one server on a home, and shut it down cleanly."""

from __future__ import annotations

import argparse
import contextlib
import logging
import os
import signal
import socket
import sys
import tempfile
import threading
from collections.abc import Callable, Iterator
from datetime import date
from functools import partial
from typing import TYPE_CHECKING, Any, NoReturn

from sqlmodel import Session

from zembra.commands.access import BEHIND_PROXY, LOOPBACK, check_key
from zembra.commands.ports import listens
from zembra.commands.tls import Certificate, certificate_of, encrypted
from zembra.core.errors import Refusal
from zembra.rendering.extra import check_installed
from zembra.settings import settings
from zembra.store.backups import Why, keep_backup
from zembra.store.database import close_database
from zembra.store.home import Home
from zembra.store.leftovers import clear_leftovers
from zembra.store.mark import gaps
from zembra.store.people import has_people
from zembra.store.readonlycopy import readable
from zembra.work.platform import allow_open_files, open_browser
from zembra.work.processes import ready

if TYPE_CHECKING:
    from zembra.service.application import Application

READY_AFTER = 20.0  # seconds from the start to what nobody waits for
HOUSE_EVERY = 600.0  # seconds
LOOK_EVERY = 30.0  # seconds between two rounds of the feeds and the watches
THREADS = 8
MOST_CONNECTIONS = 4_000
SILENT = 30  # seconds after which a connection on which nothing comes is closed
CLEANED_UP = 5  # seconds between two looks for them
MOST_FILES = 8_192  # that are open, a connection one of them


def run(args: argparse.Namespace) -> int:
    """Serve until stopped. Raises Refusal if drawing is not installed, the home is in use, damaged or newer, or
    others could connect without a key.
    """
    check_installed("The server's pictures")
    now = settings()
    home, host, key, with_demo = Home(args.home), args.host, now.key, args.with_demo
    port = now.port if args.port is None else args.port
    certificate = certificate_of(args.certificate, args.certificate_key)
    check_key(
        host, key, shared=has_people(home.database), encrypted=certificate is not None, behind_proxy=now.behind_proxy
    )
    if port and listens(host, port):
        raise Refusal(f"Port {port} is taken: perhaps Zembra runs already.", todo="Set ZEMBRA_PORT to another one.")
    if home.database.exists() and not home.may_write:
        with readable(home) as database:
            copy = Home(database.parent, database.name)
            return _serve(copy, host, port, key, certificate, looked_at=home, opens=not args.no_open)
    with home.locked("zembra demo" if with_demo else "zembra serve"):
        return _serve(home, host, port, key, certificate, with_demo=with_demo, opens=not args.no_open)


def _serve(
    home: Home,
    host: str,
    port: int,
    key: str,
    certificate: Certificate | None,
    *,
    with_demo: bool = False,
    looked_at: Home | None = None,
    opens: bool = False,
) -> int:
    """Serve.

    looked_at: the read-only home this one is a copy of
    opens: whether to open the browser
    """
    from waitress import create_server
    from waitress.buffers import TempfileBasedBuffer

    from zembra.api import create_app
    from zembra.api.incoming import MOST_BODY
    from zembra.demo import AS_OF
    from zembra.demo.seed import seed
    from zembra.service.rounds import look_round

    def before_migration() -> None:
        keep_backup(home, Why.MIGRATION)

    # suppress messages about briefly queued requests
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    clear_leftovers(home)
    allow_open_files(MOST_FILES)
    home.incoming.mkdir(parents=True, exist_ok=True, mode=0o700)
    # the server buffers large bodies beside the database too, deleted with the process; a folder
    # for all temporary files would also hold the sockets of children, whose paths must be short
    TempfileBasedBuffer.newfile = lambda _: tempfile.TemporaryFile("w+b", dir=home.incoming)  # noqa: SIM115
    today = (lambda: AS_OF) if with_demo else date.today
    app = create_app(home.database, today, key=key, before_migration=before_migration, looked_at=looked_at)
    shared: Application = app.extensions["zembra"]
    try:
        if with_demo:
            seed(shared, lambda step: print(f"The demo: {step}", flush=True))
        server = create_server(
            app,
            host=LOOPBACK if certificate else host,
            port=0 if certificate else port,
            threads=THREADS,
            connection_limit=MOST_CONNECTIONS,
            channel_timeout=SILENT,
            cleanup_interval=CLEANED_UP,
            # beyond the limit that is refused in words, the server stops reading
            max_request_body_size=2 * app.config["MAX_CONTENT_LENGTH"] + MOST_BODY,
            asyncore_use_poll=True,
            **(BEHIND_PROXY if certificate or settings().behind_proxy else {}),
        )
        threading.Thread(target=_warm_up, args=(shared,), daemon=True).start()
        with Session(shared.engine) as session:
            for gap in gaps(session):
                print(
                    f"The last {gap.confirmed - gap.found} changes that had been confirmed are not in the database any more: "
                    "zembra check tells what can be done.",
                    file=sys.stderr,
                )
        # a read-only copy needs no housekeeping
        tidy = (lambda: None) if looked_at else shared.housekeeper.keep
        rounds = (lambda: None) if looked_at else partial(look_round, shared)
        # start the fork server after the initial rush
        with (
            _each(READY_AFTER, ready, once=True),
            _each(HOUSE_EVERY, tidy),
            _each(LOOK_EVERY, rounds),
            contextlib.ExitStack() as front,
        ):
            address = f"http://{_shown(host)}:{server.effective_port}"
            if certificate:
                outside = f"{_shown(host)}:{port or _free_port(host)}"
                front.enter_context(
                    encrypted(
                        certificate,
                        outside,
                        server.effective_port,
                        folder=home.incoming,
                        most_body=server.adj.max_request_body_size,
                        ended=_end_with_front,
                    )
                )
                address = f"https://{outside}"
            print(f"Zembra is at {address} (its data: {_place(looked_at or home)})", flush=True)
            if opens and host == LOOPBACK:
                open_browser(address)
            signal.signal(signal.SIGTERM, _stop)
            with contextlib.suppress(KeyboardInterrupt, SystemExit):
                server.run()
    finally:
        shared.queue.close()
        close_database(shared.engine)
    return 0


def _warm_up(shared: Application) -> None:
    """Load the catalogue, and run the newest studies as far as that is fast."""
    from zembra.api.catalogue import catalogue_view
    from zembra.core.intake.dates import forms_like
    from zembra.store.studies import kept_studies

    catalogue_view()
    forms_like("Mar 2026")  # the names of months are many
    for kept in kept_studies(shared.engine).studies[:3]:
        with contextlib.suppress(Refusal):
            shared.runs.unanswered(shared.runs.run_quickly(kept))


def _place(home: Home) -> str:
    return f"{home.folder}" if home.may_write else f"{home.folder}, which may only be read"


def _stop(_number: int, _frame: Any) -> NoReturn:
    raise SystemExit


@contextlib.contextmanager
def _each(seconds: float, do: Callable[[], object], *, once: bool = False) -> Iterator[None]:
    """Run a job in a thread at intervals, until left."""
    over = threading.Event()

    def go() -> None:
        if over.wait(min(seconds, READY_AFTER)):
            return
        do()
        while not once and not over.wait(seconds):
            do()

    thread = threading.Thread(target=go, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join(SILENT)


def _end_with_front() -> None:
    print("nginx, which served TLS, has ended; so does Zembra.", file=sys.stderr, flush=True)
    os.kill(os.getpid(), signal.SIGTERM)


def _free_port(host: str) -> int:
    with socket.create_server((host, 0), family=socket.AF_INET6 if ":" in host else socket.AF_INET) as listener:
        return int(listener.getsockname()[1])


def _shown(host: str) -> str:
    return f"[{host}]" if ":" in host else host
