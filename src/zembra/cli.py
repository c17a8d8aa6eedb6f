"""The command line: zembra serve, demo, run, picture, entries, and commands for a whole home."""

from __future__ import annotations

import argparse
import gc
import sys
import warnings
from collections.abc import Callable, Sequence
from datetime import date
from importlib import import_module
from pathlib import Path

from zembra.commands.access import LOOPBACK
from zembra.core.errors import Refusal
from zembra.store.home import usual_home
from zembra.version import __version__


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command. Exit status: 0 for success, 2 for bad input with one line on standard error."""
    if not sys.warnoptions:
        # library warnings are for programmers, not for analysts
        warnings.simplefilter("ignore")
    try:
        args = _parser().parse_args(argv)
        if isinstance(getattr(args, "home", None), _UsualHome):
            args.home = args.home.folder
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

    serves = commands.add_parser("serve", help="serve the application on this machine")
    demo = commands.add_parser("demo", help="serve the application with the demo data, in a home of its own")
    for command in (serves, demo):
        command.add_argument("--port", type=int, default=None)
        command.add_argument(
            "--host",
            default=LOOPBACK,
            metavar="ADDRESS",
            help="where it listens; beyond this machine with ZEMBRA_KEY only",
        )
        command.add_argument("--no-open", action="store_true", help="do not open the browser")
        command.add_argument(
            "--certificate", type=Path, metavar="FILE", help="serve TLS, through nginx: its chain, in PEM"
        )
        command.add_argument(
            "--certificate-key", type=Path, metavar="FILE", help="the certificate's private key, in PEM"
        )
    _add_home(serves)
    _add_home(demo, "zembra-demo")
    serves.set_defaults(do=_later("serve"), with_demo=False)
    demo.set_defaults(do=_later("serve"), with_demo=True)

    runs = commands.add_parser("run", help="carry out a ledger on a file")
    runs.add_argument("ledger", type=Path, metavar="LEDGER.json", help="or everything of a study, zipped")
    runs.add_argument("--data", type=Path, default=None, metavar="FILE", help="not needed where the zip holds it")
    runs.add_argument(
        "--sheet", default=None, metavar="NAME", help="sheet of a workbook, or resource of a data package"
    )
    runs.add_argument("--as-of", type=_day, default=None, metavar="YYYY-MM-DD", help="the day the study believes it is")
    runs.add_argument("--out", type=Path, required=True, metavar="DIR")
    runs.add_argument("--picture", type=Path, default=None, metavar="FILE", help="a picture too: png, svg or pdf")
    runs.add_argument(
        "--compare", type=Path, default=None, metavar="OLD_DIR", help="say what changed since an earlier run"
    )
    runs.set_defaults(do=_later("run"))

    draws = commands.add_parser("picture", help="draw a picture of a study that is kept")
    draws.add_argument("study", metavar="STUDY", help="its name or number")
    draws.add_argument("--out", type=Path, required=True, metavar="FILE", help="png, svg or pdf")
    draws.add_argument(
        "--picture", default=None, metavar="NAME", help="which of its pictures; the first one if not said"
    )
    _add_home(draws)
    draws.set_defaults(do=_later("picture"))
    for command in (runs, draws):
        command.add_argument("--style", type=Path, default=None, metavar="FILE", help="a house style, as a file")
        command.add_argument(
            "--times", type=_times, default=1.0, metavar="N", help="pixels of a PNG for one of the sheet"
        )

    updates = commands.add_parser(
        "update", help="what new rows would change in a study that is kept, and taking them in"
    )
    updates.add_argument("study", metavar="STUDY", help="its name or number")
    updates.add_argument(
        "--data", type=Path, default=None, metavar="FILE", help="the new rows; what the study looks at, if not said"
    )
    updates.add_argument("--take", action="store_true", help="take them in, where there is anything new")
    updates.add_argument("--waved", action="store_true", help="wave open questions about the file through")
    updates.add_argument(
        "--as-of", type=_day, default=None, metavar="YYYY-MM-DD", help="the day the study believes it is then"
    )
    updates.add_argument("--json", action="store_true", help="as JSON")
    _add_home(updates)
    updates.set_defaults(do=_later("update"))

    many = commands.add_parser("many", help="carry out a ledger on very many series, part by part")
    many.add_argument("ledger", type=Path, metavar="LEDGER.json")
    many.add_argument("--data", required=True, metavar="FILE", help="a file, a folder or a pattern: CSV, gz, Parquet")
    many.add_argument("--out", type=Path, required=True, metavar="DIR")
    many.add_argument("--as-of", type=_day, default=None, metavar="YYYY-MM-DD", help="the day the study believes it is")
    many.add_argument("--processes", type=int, default=None, metavar="N", help="of this machine; as many as cores")
    many.add_argument("--cluster", default=None, metavar="ADDRESS", help="of a Dask scheduler, tcp://host:port")
    many.add_argument("--quiet", action="store_true", help="say nothing while it runs")
    many.set_defaults(do=_later("many"))

    feeds = commands.add_parser("feed", help="a simulated service with made-up counts, to try feeds with")
    feeds.add_argument("--port", type=int, default=8460)
    feeds.add_argument("--today", type=_day, default=None, metavar="YYYY-MM-DD", help="the day it believes it is")
    feeds.add_argument("--key", default="", help="asked for, in the header Authorization")
    feeds.add_argument("--page", type=int, default=0, metavar="ROWS", help="send so many rows a page")
    feeds.add_argument("--slow", type=float, default=0.0, metavar="SECONDS", help="before each of twenty pieces")
    feeds.add_argument("--fail", type=int, default=0, metavar="N", help="answer that many requests by 503 first")
    feeds.add_argument("--half", action="store_true", help="break off in the middle")
    feeds.add_argument("--rubbish", action="store_true", help="send a page of a web site")
    feeds.add_argument("--huge", action="store_true", help="send 200 MB")
    feeds.add_argument("--elsewhere", default="", metavar="ADDRESS", help="redirect there")
    feeds.set_defaults(do=_later("feed"))

    entries = commands.add_parser("entries", help="list every entry kind")
    entries.add_argument("--json", action="store_true", help="with the JSON Schema of their parameters")
    entries.set_defaults(do=_later("entries"))

    for name, module, summary, file in (
        ("backup", "backup", "copy the database into one file, checked, while it is in use", "the backup"),
        ("restore", "restore", "put a backup in the place of the database", "none: list those there are"),
        ("check", "check", "look whether all that is kept is whole", None),
        ("export", "export", "everything that is kept, in one zip", "the zip"),
        ("import", "importing", "add what was exported to what is there", "the zip"),
    ):
        command = commands.add_parser(name, help=summary)
        if file is not None:
            command.add_argument("file", type=Path, metavar="FILE", help=file, nargs="?" if name == "restore" else None)
        _add_home(command)
        command.set_defaults(do=_later(module))
        if name == "check":
            command.add_argument("--backups", action="store_true", help="look at the backups instead")
            command.add_argument("--accept", action="store_true", help="take note of what went missing")
        if name == "import":
            command.add_argument("--all-or-nothing", action="store_true", help="nothing of an export that is not whole")
    folk = commands.add_parser("people", help="who shares the home, each with a key").add_subparsers(
        required=True, metavar="WHAT"
    )
    for name, function, summary in (
        ("add", "add", "give somebody a key"),
        ("list", "list_all", "who there is"),
        ("remove", "remove", "take their key away"),
    ):
        command = folk.add_parser(name, help=summary)
        if name != "list":
            command.add_argument("name", metavar="NAME")
        if name == "add":
            command.add_argument("--may-look", action="store_true", help="they may change nothing")
        _add_home(command)
        command.set_defaults(do=_later("people", function))
    rescues = commands.add_parser("rescue", help="take what can be read of a damaged home into a new one")
    rescues.add_argument("folder", type=Path, metavar="HOME", help="the damaged one, which is only read")
    rescues.add_argument("--to", type=Path, required=True, metavar="NEW", help="the new one")
    rescues.set_defaults(do=_later("rescue"))
    return parser


class _UsualHome:
    """The default home, looked up when needed."""

    def __init__(self, name: str) -> None:
        self._name = name

    @property
    def folder(self) -> Path:
        return usual_home(self._name).folder

    def __str__(self) -> str:
        return str(self.folder)


def _later(module: str, name: str = "run") -> Callable[[argparse.Namespace], int]:
    """A command whose module is imported on use, as imports take time."""

    def do(args: argparse.Namespace) -> int:
        # freeze imported objects, as garbage collection of them would take a fifth of a short command
        gc.disable()
        command = getattr(import_module(f"zembra.commands.{module}"), name)
        gc.freeze()
        gc.enable()
        return int(command(args))

    return do


def _add_home(command: argparse.ArgumentParser, name: str = "zembra") -> None:
    explanation = "folder of all that is kept (%(default)s)"
    command.add_argument("--home", type=Path, default=_UsualHome(name), metavar="DIR", help=explanation)


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


if __name__ == "__main__":
    raise SystemExit(main())
