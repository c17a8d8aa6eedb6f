"""zembra rescue: copy what can be read of a damaged home into a new one."""

from __future__ import annotations

import argparse
import sys

from zembra.commands.carried import print_left_out
from zembra.store.home import Home
from zembra.store.rescue import rescue


def run(args: argparse.Namespace) -> int:
    found = rescue(Home(args.folder), Home(args.to))
    for part in found.unread:
        print(part, file=sys.stderr)
    print(f"Taken into {args.to}: {found.carried.files} files and {found.carried.studies} studies")
    return max(print_left_out(found.carried), 1 if found.unread else 0)
