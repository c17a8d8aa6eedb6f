"""zembra import: add an export to a home."""

from __future__ import annotations

import argparse
from pathlib import Path

from zembra.commands.carried import print_left_out
from zembra.commands.opened import opened_database
from zembra.store.home import Home
from zembra.store.transfer import TransferCounts, import_home
from zembra.work.executor import Report, TaskLimits, run_one
from zembra.work.processes import Processes

MEMORY_MB = 4_096
IMPORTING = Processes(1)  # what is brought in comes from anywhere


def run(args: argparse.Namespace) -> int:
    home = Home(args.home)
    home.make()
    carried = run_one(
        IMPORTING,
        _import,
        home,
        args.file,
        args.all_or_nothing,
        name=f"reading {args.file.name}",
        limits=TaskLimits(memory_mb=MEMORY_MB),
    )
    known = f"; {carried.known} studies were there already" if carried.known else ""
    print(f"Imported: {carried.files} files and {carried.studies} studies{known}")
    return print_left_out(carried)


def _import(_: Report, home: Home, source: Path, all_or_nothing: bool) -> TransferCounts:
    with opened_database(home) as engine:
        return import_home(engine, source, all_or_nothing=all_or_nothing)
