"""zembra feed: run the simulated feed service on this machine."""

from __future__ import annotations

import argparse
import contextlib
import logging
from datetime import date

from zembra.commands.access import LOOPBACK
from zembra.commands.ports import listens
from zembra.core.errors import Refusal


def run(args: argparse.Namespace) -> int:
    """Serve until stopped. Raises Refusal."""
    from waitress import create_server

    from zembra.demo.feed.service import ADDRESS, Manners, create_feed

    if args.port and listens(LOOPBACK, args.port):
        raise Refusal(f"Port {args.port} is taken.", todo="Choose another one with --port.")
    # hide messages about connections that it breaks off on purpose
    logging.getLogger("waitress").setLevel(logging.CRITICAL)
    manners = Manners(
        key=args.key,
        page=args.page,
        slow=args.slow,
        fail=args.fail,
        half=args.half,
        rubbish=args.rubbish,
        huge=args.huge,
        elsewhere=args.elsewhere,
    )
    day = args.today
    app = create_feed(manners, (lambda: day) if day else date.today)
    server = create_server(app, host=LOOPBACK, port=args.port, threads=4)
    print(f"The made-up port office is at http://{LOOPBACK}:{server.effective_port}{ADDRESS}", flush=True)
    with contextlib.suppress(KeyboardInterrupt, SystemExit):
        server.run()
    return 0
