"""zembra backup: copy the database into one checked file while it is in use."""

from __future__ import annotations

import argparse

from zembra.core.errors import Refusal
from zembra.store.backups import back_up
from zembra.store.home import Home
from zembra.store.readonlycopy import readable


def run(args: argparse.Namespace) -> int:
    home = Home(args.home)
    if not home.database.exists():
        raise Refusal(f"There is no database at {home.database}.", todo="Say where with --home.")
    with readable(home) as database:
        back_up(database, args.file)
    print(f"Backed up and checked: {args.file}, {args.file.stat().st_size:,} bytes")
    return 0
