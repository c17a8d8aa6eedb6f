"""zembra entries: list the entry kinds with their words."""

from __future__ import annotations

import argparse
import json

from zembra.core.ledger.registry import kinds
from zembra.core.ledger.schema import kind_example, kind_schema
from zembra.core.speaking import plain


def run(args: argparse.Namespace) -> int:
    if args.json:
        print(json.dumps({name: kind_schema(kind) for name, kind in kinds().items()}, indent=2, ensure_ascii=False))
        return 0
    for name, kind in kinds().items():
        entry, nouns = kind_example(kind)
        print(f"{name} ({kind.group.value}): {kind.hint}")
        print(f"    {plain(entry, nouns)}")
        for field, info in kind.model_fields.items():
            print(
                f"    {field}: {info.title}, default {json.dumps(entry.model_dump(mode='json')[field], ensure_ascii=False)}"
            )
    return 0
