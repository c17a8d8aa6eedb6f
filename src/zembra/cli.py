"""The command line: zembra serve, demo, run, picture, entries."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import socket
import sys
import tempfile
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from zembra import __version__
from zembra.apart import read_apart, start_reader
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.grammar import plain
from zembra.core.handover.package import unpacked
from zembra.core.handover.report import report_json, warnings_of
from zembra.core.handover.tables import lines_csv, points_csv
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.formats import detect_table
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.entry import kinds
from zembra.core.ledger.model import Ledger, parse_ledger
from zembra.core.ledger.run import run
from zembra.core.ledger.schema import kind_example, kind_schema
from zembra.picturing import draw_study, picture_of_run, write_whole
from zembra.rendering.engine import warm_up as warm_up_engine

READY_AFTER = 20.0  # seconds
HOST = "127.0.0.1"


def main(argv: Sequence[str] | None = None) -> int:
    """Exit status: 0 done, 2 bad input with one clear line on standard error."""
    args = _parser().parse_args(argv)
    try:
        return int(args.do(args))
    except Refusal as refusal:
        print(f"zembra: {refusal}", file=sys.stderr)
    except OSError as error:
        print(f"zembra: {error.strerror or error}: {error.filename or ''}".rstrip(": "), file=sys.stderr)
    return 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="zembra", description="Time-series line charts that can be believed.")
    parser.add_argument("--version", action="version", version=f"zembra {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    serve = commands.add_parser("serve", help="serve the application on this machine")
    demo = commands.add_parser("demo", help="serve the application with the demo data")
    for command in (serve, demo):
        command.add_argument("--port", type=int, default=int(os.environ.get("ZEMBRA_PORT", "8420")))
        command.add_argument(
            "--home", type=Path, default=Path(os.environ.get("ZEMBRA_HOME", "var")), help="folder of the database"
        )
    serve.set_defaults(do=lambda args: _serve(args.home / "zembra.db", args.port, with_demo=False))
    demo.set_defaults(do=lambda args: _serve(args.home / "demo.db", args.port, with_demo=True))

    runs = commands.add_parser("run", help="carry out a ledger on a file")
    runs.add_argument("ledger", type=Path, metavar="LEDGER.json", help="or everything of a study, zipped")
    runs.add_argument("--data", type=Path, default=None, metavar="FILE", help="not needed where the zip holds it")
    runs.add_argument(
        "--sheet", default=None, metavar="NAME", help="sheet of a workbook, or resource of a data package"
    )
    runs.add_argument("--as-of", type=_day, default=None, metavar="YYYY-MM-DD", help="the day the study believes it is")
    runs.add_argument("--out", type=Path, required=True, metavar="DIR")
    runs.add_argument("--picture", type=Path, default=None, metavar="FILE", help="a picture too: png, svg or pdf")
    runs.set_defaults(do=_run)

    draws = commands.add_parser("picture", help="draw a picture of a study that is kept")
    draws.add_argument("study", metavar="STUDY", help="its name or number")
    draws.add_argument("--out", type=Path, required=True, metavar="FILE", help="png, svg or pdf")
    draws.add_argument(
        "--picture", default=None, metavar="NAME", help="which of its pictures; the first one if not said"
    )
    draws.add_argument("--database", default="zembra", choices=("zembra", "demo"))
    draws.add_argument("--home", type=Path, default=Path(os.environ.get("ZEMBRA_HOME", "var")))
    draws.set_defaults(do=draw_study)
    for command in (runs, draws):
        command.add_argument("--style", type=Path, default=None, metavar="FILE", help="a house style, as a file")
        command.add_argument(
            "--times", type=_times, default=1.0, metavar="N", help="pixels of a PNG for one of the sheet"
        )

    entries = commands.add_parser("entries", help="list every entry kind")
    entries.add_argument("--json", action="store_true", help="with the JSON Schema of their parameters")
    entries.set_defaults(do=_entries)
    return parser


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not a date like 2026-10-31") from None


def _times(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = 0.0
    if not 0.25 <= value <= 4:
        raise argparse.ArgumentTypeError(f"“{text}” is not a number from 0.25 to 4")
    return value


def _serve(database: Path, port: int, *, with_demo: bool) -> int:
    from waitress import create_server

    from zembra.api import create_app
    from zembra.api.context import warm_up
    from zembra.demo import AS_OF
    from zembra.demo.seed import seed

    app = create_app(database, (lambda: AS_OF) if with_demo else date.today)
    if with_demo:
        seed(app.extensions["zembra"].engine)
    if port and _taken(port):
        raise Refusal(f"Port {port} is taken: perhaps Zembra runs already.", todo="Set ZEMBRA_PORT to another one.")
    # the process that others are forked from is made ready when the first rush of a start is over
    ready = threading.Timer(READY_AFTER, start_reader)
    ready.daemon = True
    ready.start()
    server = create_server(app, host=HOST, port=port, threads=8)
    threading.Thread(target=warm_up, args=(app.extensions["zembra"],), daemon=True).start()
    print(f"Zembra is at http://{HOST}:{server.effective_port}", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    return 0


def _taken(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex((HOST, port)) == 0


def _run(args: argparse.Namespace) -> int:
    if args.picture is not None:
        # made ready while the file is read
        threading.Thread(target=warm_up_engine, daemon=True).start()
    asked = _asked(args)
    ledger = asked.ledger
    brought = _brought(asked.data, ledger.intake, args.sheet)
    result = run(brought.observations, ledger, asked.as_of, file_name=asked.name)
    if result.problems:
        first = result.problems[0]
        raise Refusal(f"“{first.sentence}” {first.problem}", place=f"entry {first.id}")
    settled = ledger.intake.settled if ledger.intake else ()
    files = {
        "points.csv": points_csv(result),
        "lines.csv": lines_csv(result),
        "report.json": report_json(result, settled),
    }
    drawn = None
    if args.picture is not None:
        drawn = picture_of_run(result, asked.figure, args.picture, args.style, times=args.times)
    args.out.mkdir(parents=True, exist_ok=True)
    # all three are made, then moved into place: nothing is ever half-written
    with tempfile.TemporaryDirectory(dir=args.out) as folder:
        for name, text in files.items():
            (Path(folder) / name).write_text(text, encoding="utf-8", newline="")
        for name in files:
            os.replace(Path(folder) / name, args.out / name)
    if drawn is not None:
        write_whole(args.picture, drawn)
    for warning in warnings_of(result):
        print(f"note: {warning}")
    return 0


@dataclass(frozen=True, slots=True)
class _Asked:
    """What `run` is to carry out. name: of the file of rows."""

    ledger: Ledger
    data: bytes
    name: str
    as_of: date
    figure: FigureSettings


def _asked(args: argparse.Namespace) -> _Asked:
    """From a ledger and a file of rows, or from a study that was handed over whole. Raises Refusal."""
    told = args.ledger.read_bytes()
    data = args.data.read_bytes() if args.data else None
    if not told.startswith(b"PK"):
        if data is None:
            raise Refusal("There are no rows to run the ledger on.", todo="Say which file with --data.")
        return _Asked(parse_ledger(told), data, args.data.name, args.as_of or date.today(), FigureSettings())
    package = unpacked(told)
    study, rows = package.study, data or package.data
    if rows is None:
        raise Refusal("The package does not hold the received file.", todo="Say where it is with --data.")
    name = args.data.name if args.data else study.file
    return _Asked(study.ledger, rows, name, args.as_of or study.as_of, study.figure)


def _brought(data: bytes, how: HowRead | None, sheet: str | None) -> BroughtIn:
    """The file as the ledger says it was read; --sheet replaces the sheet it names."""
    if sheet is None:
        return read_apart(data, how)
    if how is not None:
        return read_apart(data, how.model_copy(update={"table": how.table.model_copy(update={"sheet": sheet})}))
    return read_apart(data, table_how=detect_table(data, sheet))


def _entries(args: argparse.Namespace) -> int:
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


if __name__ == "__main__":
    raise SystemExit(main())
