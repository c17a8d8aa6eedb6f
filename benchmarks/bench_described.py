"""Thousands of requests made from the OpenAPI description: errors of the server, and answers that are not described."""

from __future__ import annotations

import logging
import tempfile
from collections.abc import Iterator
from pathlib import Path

from tests.api import hostile_ledgers
from tests.api.asking import STUDIES, faults
from tests.api.test_api import begin
from tests.help import AS_OF

from benchmarks.measure import Ratio
from zembra.api import create_app

EXAMPLES = 100  # of each operation
PREVIEWS = 4_000


def measure() -> Iterator[Ratio]:
    logging.disable(logging.CRITICAL)
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "described.db", lambda: AS_OF, limit_mb=2)
        for _ in range(STUDIES):
            begin(app.test_client())
        found = list(faults(app, EXAMPLES))
        app.extensions["zembra"].queue.close()
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "previews.db", lambda: AS_OF, limit_mb=2)
        broken = list(hostile_ledgers.faults(app, PREVIEWS))
        app.extensions["zembra"].queue.close()
    logging.disable(logging.NOTSET)
    yield Ratio("errors in previews of hostile ledgers", len(broken), 0, f"{PREVIEWS} previews; {broken[:1]}")
    yield Ratio("faults in what is asked by the description", len(found), 0, f"{EXAMPLES} of each; {found[:2]}")
