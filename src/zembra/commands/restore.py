"""zembra restore: replace the database by a backup."""

from __future__ import annotations

import argparse

from zembra.store.backups import backups, restore
from zembra.store.home import Home


def run(args: argparse.Namespace) -> int:
    home = Home(args.home)
    if args.file is None:
        for backup in backups(home):
            print(
                f"{backup.made_at:%Y-%m-%d %H:%M} UTC  {backup.why.value:16}  {backup.size:>12,} bytes  {backup.path}"
            )
        print("Say which one: zembra restore FILE")
        return 0
    with home.locked("zembra restore"):
        aside = restore(home, args.file)
    print(f"Put back: {args.file}")
    if aside is not None:
        print(f"What was there before is kept: {aside}")
    return 0
