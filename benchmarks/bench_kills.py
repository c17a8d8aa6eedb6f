"""Hundreds of kills at random moments: how much of what was confirmed is lost, and what is not whole afterwards."""

from __future__ import annotations

import random
import tempfile
from collections.abc import Iterator
from pathlib import Path

from tests.kills import Trial

from benchmarks.measure import Ratio

KILLS, MIGRATIONS, TAKINGS, AT_ONE_HOME = 80, 20, 52, 20
CARRIED = ("backup", "restore", "export", "import")
EACH = 5  # of these, at one home


def measure() -> Iterator[Ratio]:
    lost: list[str] = []
    confirmed = files = snapshots = 0
    for seed in range(KILLS // AT_ONE_HOME):
        with tempfile.TemporaryDirectory() as folder:
            trial = Trial(Path(folder), random.Random(seed))
            lost += [one for _ in range(AT_ONE_HOME) for one in trial.kill_once()]
            lost += [one for _ in range(TAKINGS * AT_ONE_HOME // KILLS) for one in trial.take_in_once()]
            lost += [one for _ in range(MIGRATIONS * AT_ONE_HOME // KILLS) for one in trial.migrate_once()]
            lost += [one for what in CARRIED * EACH for one in trial.carry_once(what)]
            confirmed += len(trial.confirmed)
            files += len(trial.files)
            snapshots += len(trial.snapshots)
    others = EACH * KILLS // AT_ONE_HOME
    detail = (
        f"{KILLS} kills of a server at work, {TAKINGS} while new rows are taken in, {MIGRATIONS} of a migration, {others} each of {', '.join(CARRIED)}; "
        f"{confirmed} edits, {files} files and {snapshots} snapshots confirmed; {lost[:3]}"
    )
    yield Ratio("lost or damaged after kills", len(lost), 0, detail)
