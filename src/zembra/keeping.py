"""zembra backup, restore, check, export, import: what is done with a whole home."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Engine, exc

from zembra.apart import Tell, in_child, limit_memory
from zembra.core.errors import Refusal
from zembra.core.grammar import counted
from zembra.store.backups import back_up, backups, restore
from zembra.store.checking import Checked, check_all, check_file
from zembra.store.database import check_readable, close_database, newest_schema, open_database
from zembra.store.errors import NotKept
from zembra.store.home import Home
from zembra.store.looking import readable
from zembra.store.mark import accept_gaps
from zembra.store.people import add_person, people, remove_person
from zembra.store.rescue import rescue
from zembra.store.transfer import Carried, export_home, import_home

IMPORT_MB = 4_096  # of memory that an import may need


@contextmanager
def opened_home(home: Home) -> Iterator[Engine]:
    """The database of a home, which a server may be at work on. Raises Refusal."""
    if not home.database.exists():
        raise Refusal(f"There is no database at {home.database}.", todo="Say where with --home, or start Zembra once.")
    with readable(home) as database, _opened(Home(database.parent, database.name)) as engine:
        yield engine


@contextmanager
def _opened(home: Home) -> Iterator[Engine]:
    """A database that is made where there is none; one that is there must not need to be changed for it."""
    if home.database.exists() and check_readable(home.database) != newest_schema():
        raise Refusal("The database is that of an older Zembra.", todo="Start Zembra once: it brings it up to date.")
    engine = open_database(home.database)
    try:
        yield engine
    except exc.DatabaseError as error:
        raise Refusal(
            f"The database does not do what is asked of it: {error.orig}.", place=str(home.database)
        ) from None
    finally:
        close_database(engine)


def back_up_to(args: argparse.Namespace) -> int:
    home = Home(args.home)
    if not home.database.exists():
        raise Refusal(f"There is no database at {home.database}.", todo="Say where with --home.")
    with readable(home) as database:
        back_up(database, args.file)
    print(f"Backed up and checked: {args.file}, {args.file.stat().st_size:,} bytes")
    return 0


def restore_from(args: argparse.Namespace) -> int:
    home = Home(args.home)
    if args.file is None:
        for one in backups(home):
            print(f"{one.made_at:%Y-%m-%d %H:%M} UTC  {one.why.value:16}  {one.size:>12,} bytes  {one.path}")
        print("Say which one: zembra restore FILE")
        return 0
    with home.locked("zembra restore"):
        aside = restore(home, args.file)
    print(f"Put back: {args.file}")
    if aside is not None:
        print(f"What was there before is kept: {aside}")
    return 0


def check(args: argparse.Namespace) -> int:
    home = Home(args.home)
    if args.backups:
        return max((_told(check_file(one.path), one.path.name) for one in backups(home)), default=0)
    with opened_home(home) as engine:
        if args.accept:
            print(f"Taken note of: {counted(accept_gaps(engine), 'time')} that something had gone missing")
        return _told(check_all(engine))


def _told(found: Checked, name: str = "") -> int:
    for one in found.findings:
        print(f"{name + ': ' if name else ''}{one.place}: {one.what}. {one.todo}", file=sys.stderr)
    wrong = len(found.findings)
    print(
        f"{name + ': ' if name else ''}{found.files} files, {found.studies} studies and {found.revisions} revisions looked at: "
        + (f"{wrong} of what was found is not whole" if wrong else "everything is whole")
    )
    return 1 if wrong else 0


def export_to(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        carried = export_home(engine, args.file)
    print(f"Exported: {carried.files} files and {carried.studies} studies, into {args.file}")
    return _left_out(carried)


def import_from(args: argparse.Namespace) -> int:
    home = Home(args.home)
    home.make()
    try:
        # what is brought in comes from anywhere
        carried = in_child(_imported, (home, args.file, args.all_or_nothing), lambda _, __: None, lambda: None)
    except EOFError:
        raise Refusal(
            f"The export needs more than {IMPORT_MB:,} MB of memory to be read.", place=str(args.file)
        ) from None
    known = f"; {carried.known} studies were there already" if carried.known else ""
    print(f"Imported: {carried.files} files and {carried.studies} studies{known}")
    return _left_out(carried)


def _imported(_: Tell, home: Home, source: Path, all_or_nothing: bool) -> Carried:
    limit_memory(IMPORT_MB)
    with _opened(home) as engine:
        return import_home(engine, source, all_or_nothing=all_or_nothing)


def add_people(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        key = add_person(engine, args.name, may_change=not args.may_look)
    may = "may look" if args.may_look else "may change things"
    print(f"{args.name} {may}. Their key, which is told this once: {key}")
    print("A server that runs without any key asks for keys when it is started again.")
    return 0


def list_people(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        found = people(engine)
    for one in found:
        print(f"{one.name}  {'may change things' if one.may_change else 'may look'}  since {one.added_at:%Y-%m-%d}")
    if not found:
        print("Nobody: whoever has the key, or this machine, may change everything.")
    return 0


def remove_people(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        try:
            remove_person(engine, args.name)
        except NotKept as error:
            raise Refusal(str(error)) from None
    print(f"{args.name} has no key any more; what they did stays.")
    return 0


def rescue_to(args: argparse.Namespace) -> int:
    found = rescue(Home(args.folder), Home(args.to))
    for one in found.unread:
        print(one, file=sys.stderr)
    print(f"Taken into {args.to}: {found.carried.files} files and {found.carried.studies} studies")
    return max(_left_out(found.carried), 1 if found.unread else 0)


def _left_out(carried: Carried) -> int:
    for one in carried.left_out:
        print(f"Left out: {one}", file=sys.stderr)
    return 1 if carried.left_out else 0
