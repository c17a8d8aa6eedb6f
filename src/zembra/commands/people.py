"""zembra people: manage who shares a home, each with a key."""

from __future__ import annotations

import argparse

from zembra.commands.opened import opened_home
from zembra.core.errors import Refusal
from zembra.store.errors import NotKept
from zembra.store.home import Home
from zembra.store.people import add_person, people, remove_person


def add(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        key = add_person(engine, args.name, may_change=not args.may_look)
    may = "may look" if args.may_look else "may change things"
    print(f"{args.name} {may}. Their key, which is told this once: {key}")
    print("A server that runs without any key asks for keys when it is started again.")
    return 0


def list_all(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        found = people(engine)
    for person in found:
        print(
            f"{person.name}  {'may change things' if person.may_change else 'may look'}  since {person.added_at:%Y-%m-%d}"
        )
    if not found:
        print("Nobody: whoever has the key, or this machine, may change everything.")
    return 0


def remove(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        try:
            remove_person(engine, args.name)
        except NotKept as error:
            raise Refusal(str(error)) from None
    print(f"{args.name} has no key any more; what they did stays.")
    return 0
