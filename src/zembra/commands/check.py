"""zembra check: verify that all data is intact."""

from __future__ import annotations

import argparse
import sys

from zembra.commands.opened import opened_home
from zembra.core.english import counted
from zembra.store.backups import backups
from zembra.store.checking import Checked, check_all, check_file
from zembra.store.home import Home
from zembra.store.mark import accept_gaps


def run(args: argparse.Namespace) -> int:
    home = Home(args.home)
    if args.backups:
        return max((_print(check_file(backup.path), backup.path.name) for backup in backups(home)), default=0)
    with opened_home(home) as engine:
        if args.accept:
            print(f"Taken note of: {counted(accept_gaps(engine), 'time')} that something had gone missing")
        return _print(check_all(engine))


def _print(found: Checked, name: str = "") -> int:
    for finding in found.findings:
        print(f"{name + ': ' if name else ''}{finding.place}: {finding.what}. {finding.todo}", file=sys.stderr)
    wrong = len(found.findings)
    print(
        f"{name + ': ' if name else ''}{found.files} files, {found.studies} studies and {found.revisions} revisions looked at: "
        + (f"{wrong} of what was found is not whole" if wrong else "everything is whole")
    )
    return 1 if wrong else 0
