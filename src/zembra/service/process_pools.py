"""The child-process pools of the application: purposes, sizes, imports."""

from __future__ import annotations

import os

from zembra.work.processes import Processes, preload

CORES = max(1, os.cpu_count() or 1)
PRELOADED = (
    "zembra.core.intake.bringin",
    "zembra.core.intake.workbook",
    "zembra.core.judging.everyseries",
    "zembra.service.process_pools",
    "zembra.service.feeds.feedlook",
    "zembra.service.handing",
    "zembra.service.judging",
    "zembra.service.many.work",
    "zembra.service.reading",
    "zembra.service.runs",
    "zembra.service.watching.tell",
    "zembra.work.preloaded",
)
preload(PRELOADED)
# none of them stands in the way of another: a file is read while candidates are judged
READING = Processes(2 * CORES)
FEEDS = Processes(max(4, CORES))  # they wait more than they work
TELLING = Processes(4)
ENTRIES = Processes(CORES)
JUDGING = Processes(CORES)
HANDING = Processes(max(2, CORES))
MANY = Processes(CORES)
