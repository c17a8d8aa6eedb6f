"""zembra many: run a ledger on very many series, on the cores of this machine or on a cluster."""

from __future__ import annotations

import argparse
import os
import sys
import time
from contextlib import ExitStack
from datetime import date

from zembra.core.english import counted, number
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.ledger.model import parse_ledger
from zembra.service.many.drive import ManyRequest, run_many
from zembra.service.many.rows import files_of
from zembra.work.executor import Executor, Here

STOPPED = 130  # as shells tell of what Ctrl-C ended
EVERY = 0.5  # seconds between two lines of progress
MOST_SAID = 20  # series that could not be carried out


def run(args: argparse.Namespace) -> int:
    """Run; exit status 0 if all series succeeded, else 1. Raises Refusal."""
    ledger = parse_ledger(args.ledger.read_bytes())
    asked = ManyRequest(files_of(args.data), ledger, args.as_of or date.today(), args.out)
    with ExitStack() as held:
        try:
            ran = run_many(asked, _executor(args, held), _teller(quiet=args.quiet))
        except KeyboardInterrupt:
            print("Stopped; the same command goes on where it was.", file=sys.stderr)
            return STOPPED
    print(f"{counted(ran.series, 'series', 'series')}, {number(ran.again)} of them carried out now: {args.out}")
    for entry, why in ran.refused:
        print(f"left out: {entry}: {why}")
    for part, why in ran.lost:
        print(f"lost: part {part}: {why}")
    for series, why in ran.failed[:MOST_SAID]:
        print(f"could not be carried out: {series}: {why}")
    if len(ran.failed) > MOST_SAID:
        print(f"and {number(len(ran.failed) - MOST_SAID)} more: see report.json")
    for note in (*(f"not asked: {question}" for question in ran.unasked), *ran.notes):
        print(f"note: {note}")
    return 1 if ran.failed or ran.lost else 0


def _executor(args: argparse.Namespace, held: ExitStack) -> Executor:
    if args.cluster:
        if args.processes is not None:
            raise Refusal("Either processes of this machine, or a cluster.", todo="Leave out one of the two.")
        from zembra.work.cluster import Cluster

        return held.enter_context(Cluster(args.cluster))
    processes = os.cpu_count() or 1 if args.processes is None else args.processes
    if processes < 0:
        raise Refusal("There are no fewer than no processes.", place=f"--processes {processes}")
    if processes == 0:
        return Here()
    from zembra.work.processes import Processes, preload

    preload(("zembra.service.many.work",))
    return Processes(processes)


def _teller(*, quiet: bool) -> Progress:
    last = 0.0

    def tell(said: str, _share: float) -> None:
        nonlocal last
        now = time.monotonic()
        if quiet or now - last < EVERY:
            return
        last = now
        print(said, file=sys.stderr, flush=True)

    return tell
