"""Pictures on the command line: of a run, and of a study that is kept."""

from __future__ import annotations

import argparse
from pathlib import Path

from zembra.core.dress.model import Picture
from zembra.core.dress.style import in_style, parse_style
from zembra.core.errors import Refusal
from zembra.core.figure.dressed import picture_figure, undressed
from zembra.core.figure.lines import dressed_lines
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.run import Result
from zembra.rendering.files import picture_file
from zembra.store.whole import whole_file


def picture_of_run(
    result: Result,
    settings: FigureSettings,
    out: Path,
    style: Path | None,
    *,
    name: str | None = None,
    times: float = 1.0,
) -> bytes:
    """What goes into `out`. style: a house style in a file. name: of the picture; the first one where none is given.
    times: pixels of a PNG for one of the sheet. Raises Refusal."""
    picture = _named(settings, name, result.state.file_name)
    if style is not None:
        figure = undressed(result, settings, picture)
        lines = [dress for _, dress in dressed_lines(figure, picture)]
        picture = in_style(picture, parse_style(style.read_bytes()), lines)
    figure = picture_figure(result, settings, picture)
    form = out.suffix.lower().removeprefix(".")
    return picture_file(figure, picture, form, title=result.state.file_name, times=times)


def _named(settings: FigureSettings, name: str | None, title: str) -> Picture:
    every = settings.every_picture(settings.title or title)
    if name is None:
        return every[0]
    found = next((picture for picture in every if picture.name == name), None)
    if found is None:
        raise Refusal(
            f"There is no picture named “{name}”.",
            place=f"the pictures are {', '.join(picture.name for picture in every)}",
        )
    return found


def run(args: argparse.Namespace) -> int:
    """zembra picture STUDY --out FILE. Raises Refusal."""
    from zembra.commands.opened import opened_home, study_named
    from zembra.service.application import Application
    from zembra.store.home import Home

    with opened_home(Home(args.home)) as engine:
        shared = Application(engine, Home(args.home))
        kept = study_named(engine, args.study)
        result = shared.runs.run_whole(kept).result
        settings = kept.figure.model_copy(update={"title": kept.study.name})
        drawn = picture_of_run(result, settings, args.out, args.style, name=args.picture, times=args.times)
    write_whole(args.out, drawn)
    return 0


def write_whole(path: Path, data: bytes) -> None:
    """The file, or nothing of it."""
    with whole_file(path) as beside:
        beside.write_bytes(data)
