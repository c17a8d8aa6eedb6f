"""Work in processes of its own: foreign files are read there, with limits, and heavy entries are carried out.

A workbook, Parquet, JSON, HTML or packed file can ask for any amount of memory while it is read, and a
reader written in another language can end its process. Here that is a sentence, and nothing else ends.
Plain delimited text of no great size is read where it is: what it needs is bounded by that.
"""

from __future__ import annotations

import contextlib
import io
import json
import multiprocessing
import os
import resource
import time
from collections.abc import Callable
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zembra.core.errors import Refusal
from zembra.core.grammar import upper_first
from zembra.core.intake.bringin import BroughtIn, Progress, bring_in, quiet
from zembra.core.intake.foreign import guarded
from zembra.core.intake.formats import detect_table, file_form
from zembra.core.intake.howread import FileForm, HowRead, TableHow, ValueKind
from zembra.core.ledger.lineentry import LineEntry, Made, directly
from zembra.core.ledger.run import Task

if TYPE_CHECKING:
    import polars as pl

    from zembra.core.handover.changed import Changes
    from zembra.core.handover.package import Unpacked
    from zembra.core.judging.asked import Asked
    from zembra.core.judging.everyseries import SeriesVerdict
    from zembra.core.judging.verdict import Bench, Verdict
    from zembra.handing import Frozen, Handed

MEMORY_MB = int(os.environ.get("ZEMBRA_READER_MEMORY_MB", "2048"))
SECONDS = float(os.environ.get("ZEMBRA_READER_SECONDS", "60"))
LATER = 10  # how much judging stands back for what somebody waits for
# what children need is imported once, in the process that they are forked from
PRELOADED = (
    "zembra.core.intake.bringin",
    "zembra.core.intake.workbook",
    "zembra.apart",
    "zembra.core.judging.everyseries",
    "zembra.handing",
    "zembra.heavy",
)
SMALL = 20_000_000  # bytes
JSON_MB = 256  # of memory that a body of JSON may need
_HARMLESS = (FileForm.TEXT, FileForm.FIXED)
# a child a core: threads of the linear algebra library would only get in each other's way
for _threads in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_threads, "1")
_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(list(PRELOADED))
Tell = Callable[[str, Any], None]


def start_reader() -> None:
    """Have the process that children are forked from ready before the first of them is needed."""
    forkserver.ensure_running()


def read_apart(
    data: bytes,
    how: HowRead | None = None,
    *,
    table_how: TableHow | None = None,
    kind: ValueKind | None = None,
    sheet: str | None = None,
    progress: Progress = quiet,
) -> BroughtIn:
    """`bring_in`, in a child process unless the file is plain text of no great size. sheet: the table of a file of several.
    Raises Refusal."""
    words: dict[str, Any] = {"table_how": table_how, "kind": kind}
    if sheet is None and len(data) <= SMALL and plain_text(data):
        return bring_in(data, how, progress=progress, **words)
    found: BroughtIn = _within_budget(_read, (data, how, sheet, words), progress, "the file")
    return found


def package_apart(data: bytes) -> Unpacked:
    """A study that was handed over whole, unpacked in a child process. Raises Refusal."""
    found: Unpacked = _within_budget(_unpack, (data,), quiet, "the package")
    return found


def changes_apart(frozen: bytes, now: pl.DataFrame, table: str, most: int) -> Changes:
    """`changes` since frozen numbers, which may come from anywhere, read in a child process. Raises Refusal."""
    found: Changes = _within_budget(_compare, (frozen, now, table, most), quiet, "the snapshot's numbers")
    return found


def weighed_apart(body: bytes) -> None:
    """Nothing where JSON of some size needs no more memory than it may. Raises Refusal."""
    _within_budget(_weigh, (body,), quiet, "what was sent", JSON_MB)


def _within_budget(
    work: Callable[..., Any], args: tuple[Any, ...], progress: Progress, what: str, megabytes: int = MEMORY_MB
) -> Any:
    """What a reader gives of what is foreign, in a child process that may take so much memory and so many seconds."""
    end = time.monotonic() + SECONDS

    def still() -> None:
        progress(f"reading {what}", 0.3)
        if time.monotonic() > end:
            raise Refusal(
                f"{upper_first(what)} is not read within {SECONDS:g} seconds.",
                todo="Cut it, save it as CSV, or raise ZEMBRA_READER_SECONDS and start Zembra again.",
            )

    try:
        return in_child(work, args, lambda _, step: progress(*step), still)
    except EOFError:
        raise Refusal(
            f"{upper_first(what)} needs more than {megabytes} MB of memory to be read, the most Zembra gives one.",
            todo="Cut it, save it as CSV, or raise ZEMBRA_READER_MEMORY_MB and start Zembra again.",
        ) from None


def made_apart(
    entry: LineEntry, tasks: tuple[Task, ...], on_made: Callable[[int, Made | Refusal], None], still: Callable[[], None]
) -> None:
    """What an entry makes of some lines, in a child process, told one by one. Whatever `still` raises ends it."""
    try:
        in_child(_make, (entry, tasks), lambda _, found: on_made(*found), still)
    except EOFError:
        raise Refusal(
            f"{entry.title} ended before it was done: it may have needed more memory than there is.",
            todo="Choose fewer series, or a shorter history.",
        ) from None


def judged_apart(
    asked: Asked,
    share: tuple[int, int],
    known: frozenset[str],
    on_bench: Callable[[Bench], None],
    on_verdict: Callable[[str, str, Verdict], None],
    on_step: Callable[[float], None],
    still: Callable[[], None],
) -> None:
    """`verdicts`, in a child process, told one by one. Raises Refusal."""

    def on_told(what: str, found: Any) -> None:
        if what == "bench":
            on_bench(found)
        elif what == "verdict":
            on_verdict(*found)
        else:
            on_step(found)

    try:
        in_child(_judge, (asked, share, known), on_told, still)
    except EOFError:
        raise _judging_ended() from None


def series_judged_apart(
    asked: Asked, names: tuple[str, ...], on_judged: Callable[[SeriesVerdict], None], still: Callable[[], None]
) -> None:
    """`series_verdicts`, in a child process, told one by one. Raises Refusal."""
    try:
        in_child(_judge_series, (asked, names), lambda _, one: on_judged(one), still)
    except EOFError:
        raise _judging_ended() from None


def file_apart(of: Handed, name: str, progress: Progress) -> str | bytes:
    """`make_file`, in a child process. Raises Refusal."""
    told = f"making {name}"
    found: str | bytes = _handed(_make_file, (of, name), told, progress)
    return found


def snapshot_apart(of: Handed, progress: Progress) -> Frozen:
    """`frozen`, in a child process. Raises Refusal."""
    found: Frozen = _handed(_freeze, (of,), "making the snapshot", progress)
    return found


def _handed(work: Callable[..., Any], args: tuple[Any, ...], told: str, progress: Progress) -> Any:
    far = [(told, 0.0)]

    def on_step(_: str, step: tuple[str, float]) -> None:
        far[0] = step

    try:
        return in_child(work, args, on_step, lambda: progress(*far[0]))
    except EOFError:
        raise Refusal(
            "What is handed over could not be made: it may have needed more memory than there is.",
            todo="Show fewer series, or a shorter stretch.",
        ) from None


def in_child(
    work: Callable[..., Any], args: tuple[Any, ...], on_told: Callable[[str, Any], None], still: Callable[[], None]
) -> Any:
    """What `work(tell, *args)` gives, carried out in a child process. on_told: what it tells meanwhile. still: asked
    while nothing is told; whatever it raises ends the child. Raises Refusal, OSError, and EOFError where the child dies."""
    ours, theirs = _CONTEXT.Pipe()
    child = _CONTEXT.Process(target=_carry_out, args=(theirs, work, args), daemon=True)
    child.start()
    theirs.close()
    try:
        while True:
            if not ours.poll(0.1):
                still()
                continue
            what, found = ours.recv()
            if what == "done":
                return found
            if what == "refused":
                raise found
            on_told(what, found)
            still()
    finally:
        child.terminate()
        child.join()
        ours.close()


def plain_text(data: bytes) -> bool:
    """Whether a file is text that no reader of a foreign form needs to look into."""
    start = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if data.startswith((b"PK", b"PAR1", b"\x1f\x8b", b"\xd0\xcf\x11\xe0")) or start[:1] in (b"{", b"[", b"<"):
        return False
    return file_form(data) in _HARMLESS


def _judging_ended() -> Refusal:
    return Refusal("Judging ended before it was done.", todo="Hold back less, or from fewer starting points.")


def _carry_out(pipe: Connection, work: Callable[..., Any], args: tuple[Any, ...]) -> None:
    """The child's side. It may die at any point; the parent sees the pipe end."""
    try:
        pipe.send(("done", work(lambda what, found: pipe.send((what, found)), *args)))
    except (Refusal, OSError) as refusal:
        pipe.send(("refused", refusal))
    except (MemoryError, BrokenPipeError):  # too little room, or nobody listens any more
        os._exit(1)


def limit_memory(megabytes: int = MEMORY_MB) -> None:
    """Give this process no more memory than it has and so much."""
    # what is mapped already, libraries and their threads, is none of the file's
    mapped = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (mapped + megabytes * 1024 * 1024,) * 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _limited(megabytes: int = MEMORY_MB) -> None:
    limit_memory(megabytes)
    with contextlib.suppress(OSError), open(os.devnull, "w") as nowhere:  # the last words of an aborted reader
        os.dup2(nowhere.fileno(), 2)


def _read(tell: Tell, data: bytes, how: HowRead | None, sheet: str | None, words: dict[str, Any]) -> BroughtIn:
    _limited()

    def told() -> BroughtIn:
        if sheet is not None:
            words["table_how"] = detect_table(data, sheet)
        return bring_in(data, how, progress=lambda *step: tell("progress", step), **words)

    found: BroughtIn = guarded("received", told)
    return found


def _unpack(_: Tell, data: bytes) -> Unpacked:
    from zembra.core.handover.package import unpacked

    _limited()
    found: Unpacked = guarded("received", lambda: unpacked(data))
    return found


def _compare(_: Tell, frozen: bytes, now: pl.DataFrame, table: str, most: int) -> Changes:
    import polars as pl

    from zembra.core.handover.changed import changes

    _limited()
    found: Changes = guarded("snapshot's", lambda: changes(pl.read_parquet(io.BytesIO(frozen)), now, table, most))
    return found


def _weigh(_: Tell, body: bytes) -> None:
    _limited(JSON_MB)
    with contextlib.suppress(ValueError, RecursionError):  # that it is none is told where it is taken
        json.loads(body)


def _judge(tell: Tell, asked: Asked, share: tuple[int, int], known: frozenset[str]) -> None:
    # judging, like drawing below, is imported by those who do it
    from zembra.core.judging.verdict import verdicts

    os.nice(LATER)
    verdicts(
        asked,
        share,
        known,
        lambda bench: tell("bench", bench),
        lambda *verdict: tell("verdict", verdict),
        lambda far: tell("step", far),
    )


def _judge_series(tell: Tell, asked: Asked, names: tuple[str, ...]) -> None:
    from zembra.core.judging.everyseries import series_verdicts

    os.nice(LATER)
    series_verdicts(asked, names, lambda one: tell("series", one))


def _make_file(tell: Tell, of: Handed, name: str) -> str | bytes:
    from zembra.handing import make_file

    return make_file(of, name, lambda *step: tell("step", step))


def _freeze(_: Tell, of: Handed) -> Frozen:
    from zembra.handing import frozen

    return frozen(of)


def _make(tell: Tell, entry: LineEntry, tasks: tuple[Task, ...]) -> None:
    for n, task in enumerate(tasks):
        tell("made", (n, directly(entry, task.line, task.study)))
