"""The drawing in an embedded V8: figure in, SVG out. The bundle is made from the modules that the picture room draws with."""

from __future__ import annotations

import atexit
import base64
import json
import threading
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zembra.core.figure.model import Figure

if TYPE_CHECKING:
    from py_mini_racer import MiniRacer

DRAWING = Path(__file__).parent.parent / "drawing"
FONTS = DRAWING / "fonts"
FACES = (
    ("Source Sans 3", 400, "source-sans-3-400"),
    ("Source Sans 3", 600, "source-sans-3-600"),
    ("Source Serif 4", 600, "source-serif-4-600"),
)
_lock = threading.Lock()


def picture_svg(figure: Figure, *, about: str = "", with_fonts: bool = False) -> str:
    """A figure that has a page, as an SVG text. about: its written description. with_fonts: whether the faces go along."""
    alone: dict[str, Any] = {"about": about}
    if with_fonts:
        alone["faces"] = _faces()
    # text of JSON is text of the script, but for two line separators that old scripts did not allow
    description = figure.model_dump_json()
    with _lock:
        svg: str = str(_engine().eval(f"zembra.pictureSvg({description}, {json.dumps(alone)})"))
    return svg


def warm_up() -> None:
    """Have the engine ready before the first picture is asked for."""
    with _lock:
        _engine()


@lru_cache(maxsize=1)
def _engine() -> MiniRacer:
    # slow to import
    from py_mini_racer import MiniRacer

    engine = MiniRacer()
    # left to the end of the interpreter, its threads wait for a Python that no longer answers, and the process never ends
    atexit.register(engine.close)
    engine.eval((DRAWING / "drawing.js").read_text(encoding="utf-8"))
    return engine


@lru_cache(maxsize=1)
def _faces() -> str:
    rules = []
    for family, weight, file in FACES:
        data = base64.b64encode((FONTS / f"{file}.woff2").read_bytes()).decode()
        rules.append(
            f"@font-face{{font-family:'{family}';font-weight:{weight};"
            f"src:url(data:font/woff2;base64,{data}) format('woff2')}}"
        )
    return "".join(rules)
