"""Make the files that a study is handed over as."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any, TypeVar

from zembra.core.dress.model import Picture
from zembra.core.english import spoken_date
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.handover.frames import lines_frame, parquet, points_frame
from zembra.core.handover.handedfiles import HandedFile
from zembra.core.handover.nativechart import native_chart, native_charts
from zembra.core.handover.package import StudyFile, package_zip
from zembra.core.handover.report import account_sections, answered, method_note, report_json
from zembra.core.handover.slides import picture_pptx, slides_pptx
from zembra.core.handover.tables import followup_csv, lines_csv, points_csv
from zembra.core.handover.workbook import followup_xlsx, numbers_xlsx
from zembra.core.intake.bringin import Progress
from zembra.core.intake.howread import Settled
from zembra.core.ledger.model import Ledger
from zembra.core.ledger.run import Result
from zembra.core.study.followup import Item, Noted, follow_up
from zembra.core.watching.find import Found
from zembra.rendering.account import account_pdf
from zembra.rendering.engine import inks_of
from zembra.rendering.files import alt_of, picture_file
from zembra.rendering.page import page_html
from zembra.service.process_pools import HANDING
from zembra.work.executor import EndReason, Report, TaskLimits, advised, run_watched


@dataclass(frozen=True, slots=True)
class Handed:
    """What files are made of.

    name, as_of: of the study
    file, sha256: of the received file; received: its bytes if included
    place: index of the picture; times: scale of a PNG
    """

    name: str
    as_of: date
    ledger: Ledger
    settings: FigureSettings
    result: Result
    file: str
    sha256: str
    noted: tuple[Noted, ...] = ()
    called: tuple[Found, ...] = ()
    place: int = 0
    times: float = 2.0
    received: bytes | None = None

    @property
    def settled(self) -> tuple[Settled, ...]:
        return self.ledger.intake.settled if self.ledger.intake else ()

    @property
    def items(self) -> list[Item]:
        return follow_up(self.result, self.noted, self.called)

    @property
    def pictures(self) -> tuple[Picture, ...]:
        return self.settings.every_picture(self.name)

    @property
    def picture(self) -> Picture:
        return self.settings.picture_at(self.place, self.name)

    @property
    def asked(self) -> list[str]:
        """Questions about the file with their answers."""
        return [f"{question.question} {answered(question)}" for question in self.settled]

    @property
    def note(self) -> str:
        return method_note(self.result, self.name, self.sha256, self.settled, self.items)

    def figure(self, picture: Picture) -> Figure:
        return picture_figure(self.result, self.settings, picture)


@dataclass(frozen=True, slots=True)
class Frozen:
    """The content of a snapshot."""

    svg: str
    alt: str
    note: str
    points: bytes
    lines: bytes
    account: bytes
    png: bytes


LIMITS = TaskLimits(seconds=900, resident_mb=6000)  # of what draws and typesets, which may hang and grow
Made = TypeVar("Made")
Make = Callable[[Handed, Progress], str | bytes]


def make_file(of: Handed, name: HandedFile, progress: Progress) -> str | bytes:
    """Make a file in a child process. Raises Refusal."""
    return _in_child(_make_file, of, name, doing=f"making {name}", progress=progress)


def make_snapshot(of: Handed, progress: Progress) -> Frozen:
    """Make a snapshot in a child process. Raises Refusal."""
    return _in_child(_freeze, of, doing="making the snapshot", progress=progress)


def _in_child(function: Callable[..., Made], *task: Any, doing: str, progress: Progress) -> Made:
    todo = "Show fewer series, or a shorter stretch."
    with advised({EndReason.MEMORY: todo, EndReason.TIME: todo}):
        return run_watched(HANDING, function, *task, name=doing, limits=LIMITS, step=(doing, 0.0), progress=progress)


def _make_file(report: Report, of: Handed, name: HandedFile) -> str | bytes:
    return FILES[name](of, lambda *step: report("step", step))


def _freeze(_: Report, of: Handed) -> Frozen:
    figure = of.figure(of.picture)
    return Frozen(
        svg=picture_file(figure, of.picture, "svg", title=of.name).decode(),
        alt=alt_of(of.picture, figure),
        note=of.note,
        points=parquet(points_frame(of.result)),
        lines=parquet(lines_frame(of.result)),
        account=_account(of),
        png=picture_file(figure, of.picture, "png", title=of.name, times=of.times),
    )


def plain_name(name: str) -> str:
    """Return a name that is valid in file names everywhere."""
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:80]


def file_name(of: Handed, name: str) -> str:
    """Return the download name: study, picture if there are several, as-of date, kind."""
    parts = [plain_name(of.name)]
    if name.startswith(("picture.", "slides.")) and len(of.pictures) > 1:
        parts.append(plain_name(of.picture.name))
    return "-".join(part for part in (*parts, of.as_of.isoformat(), name) if part)


def _picture(form: str) -> Make:
    def make(of: Handed, _: Progress) -> bytes:
        return picture_file(of.figure(of.picture), of.picture, form, title=of.name, times=of.times)

    return make


def _of(make: Callable[[Handed], str | bytes]) -> Make:
    """Wrap a function that reports no progress."""
    return lambda of, _: make(of)


def _account(of: Handed) -> bytes:
    figure = of.figure(of.picture)
    return account_pdf(
        figure, of.result, title=of.name, sha256=of.sha256, alt=alt_of(of.picture, figure), asked=of.asked
    )


def _workbook(of: Handed) -> bytes:
    figure = of.figure(of.picture)
    chart = native_chart(figure, of.result.state.grain, inks_of(figure))
    return numbers_xlsx(of.result, of.items, of.note, chart)


def _slides(of: Handed) -> bytes:
    figure = of.figure(of.picture)
    charts = native_charts(figure, of.result.state.grain, inks_of(figure))
    return slides_pptx(charts, alt_of(of.picture, figure))


def _picture_slide(of: Handed, _: Progress) -> bytes:
    figure = of.figure(of.picture)
    png = picture_file(figure, of.picture, "png", title=of.name, times=of.times)
    return picture_pptx(png, of.picture.page.pixels, alt_of(of.picture, figure))


def _page(of: Handed) -> str:
    figure = of.figure(of.picture)
    return page_html(
        figure,
        title=of.picture.headings.title or of.name,
        about=alt_of(of.picture, figure),
        account=account_sections(of.result, of.asked),
        foot=f"From {of.file}, as of {spoken_date(of.as_of)} · SHA-256 of the file {of.sha256}",
    )


def _everything(of: Handed, progress: Progress) -> bytes:
    pictures: dict[str, bytes] = {}
    for n, picture in enumerate(of.pictures, 1):
        progress(f"drawing picture {n} of {len(of.pictures)}", (n - 1) / len(of.pictures))
        figure = of.figure(picture)
        stem = f"{n:02} {plain_name(picture.name)}".strip()
        for form in ("svg", "png"):
            pictures[f"{stem}.{form}"] = picture_file(figure, picture, form, title=of.name)
    progress("packing", 0.95)
    study = StudyFile(
        name=of.name,
        as_of=of.as_of,
        file=of.file,
        sha256=of.sha256,
        ledger=of.ledger,
        figure=of.settings,
        notes=list(of.noted),
    )
    return package_zip(
        of.result, study, note=of.note, settled=of.settled, items=of.items, pictures=pictures, data=of.received
    )


FILES: dict[HandedFile, Make] = {
    HandedFile.PICTURE_PNG: _picture("png"),
    HandedFile.PICTURE_SVG: _picture("svg"),
    HandedFile.PICTURE_PDF: _picture("pdf"),
    HandedFile.PICTURE_PAGE: _of(_page),
    HandedFile.PICTURE_SLIDE: _picture_slide,
    HandedFile.SLIDES: _of(_slides),
    HandedFile.POINTS_CSV: _of(lambda of: points_csv(of.result)),
    HandedFile.LINES_CSV: _of(lambda of: lines_csv(of.result)),
    HandedFile.POINTS_PARQUET: _of(lambda of: parquet(points_frame(of.result))),
    HandedFile.LINES_PARQUET: _of(lambda of: parquet(lines_frame(of.result))),
    HandedFile.WORKBOOK: _of(_workbook),
    HandedFile.REPORT: _of(lambda of: report_json(of.result, of.settled)),
    HandedFile.METHOD_NOTE: _of(lambda of: of.note),
    HandedFile.ACCOUNT: _of(_account),
    HandedFile.FOLLOW_UP_CSV: _of(lambda of: followup_csv(of.items)),
    HandedFile.FOLLOW_UP_WORKBOOK: _of(lambda of: followup_xlsx(of.items)),
    HandedFile.LEDGER: _of(lambda of: of.ledger.model_dump_json(indent=2) + "\n"),
    HandedFile.EVERYTHING: _everything,
}
