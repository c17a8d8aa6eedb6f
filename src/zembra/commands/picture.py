"""Draw pictures on the command line, of a run or of a kept study."""

from __future__ import annotations

import argparse
from pathlib import Path

from zembra.core.dress.style import HouseStyle, parse_style
from zembra.rendering.run_picture import picture_of_run
from zembra.store.whole import whole_file


def form_of(out: Path) -> str:
    """Return the format of a file name."""
    return out.suffix.lower().removeprefix(".")


def style_in(file: Path | None) -> HouseStyle | None:
    """Load a style. Raises Refusal, OSError."""
    return None if file is None else parse_style(file.read_bytes())


def run(args: argparse.Namespace) -> int:
    """Run zembra picture STUDY --out FILE. Raises Refusal."""
    from zembra.commands.opened import opened_home, study_named
    from zembra.service.application import Application
    from zembra.store.home import Home

    with opened_home(Home(args.home)) as engine:
        shared = Application(engine, Home(args.home))
        kept = study_named(engine, args.study)
        result = shared.runs.run_whole(kept).result
        settings = kept.figure.model_copy(update={"title": kept.study.name})
        form, style = form_of(args.out), style_in(args.style)
        drawn = picture_of_run(result, settings, form, style, name=args.picture, times=args.times)
    write_whole(args.out, drawn)
    return 0


def write_whole(path: Path, data: bytes) -> None:
    """Write a file atomically."""
    with whole_file(path) as beside:
        beside.write_bytes(data)
