"""zembra export: write all data into one zip file."""

from __future__ import annotations

import argparse

from zembra.commands.carried import print_left_out
from zembra.commands.opened import opened_home
from zembra.store.home import Home
from zembra.store.transfer import export_home


def run(args: argparse.Namespace) -> int:
    with opened_home(Home(args.home)) as engine:
        carried = export_home(engine, args.file)
    print(f"Exported: {carried.files} files and {carried.studies} studies, into {args.file}")
    return print_left_out(carried)
