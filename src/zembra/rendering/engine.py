"""Draw figures in an embedded V8: figure in, SVG out.

To be used in a process that may end, by one thread: on some processors the engine crashes when another one closes it.
"""

from __future__ import annotations

import atexit
import base64
import io
import json
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zembra.core.figure.legend import SIGNS
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
# what needs no look into the faces: letters up to here, marks of Zembra's own texts, which the Latin ones have, and glyphs of signs, which
# stand in a figure and are drawn as patterns
LAST_PLAIN = 0xFF
PLAIN = frozenset("\N{THIN SPACE}–—‘’“”…•−").union(*(sign.glyph for sign in SIGNS))


def picture_svg(figure: Figure, *, about: str = "", with_fonts: bool = False) -> str:
    """Draw a figure with a page as SVG.

    about: its description
    with_fonts: whether to embed the fonts
    """
    alone: dict[str, Any] = {"about": about}
    # JSON is valid JavaScript except for two line separators in old engines
    description = figure.model_dump_json()
    if with_fonts:
        alone["faces"] = faces(description)
    return str(_engine().eval(f"zembra.pictureSvg({description}, {json.dumps(alone)})"))


ROLES = ("ink", "muted", "rule")


def inks_of(figure: Figure) -> dict[str, str]:
    """Return the colours of a dressed figure as #rrggbb, by name and by role (ink, muted, rule, ground)."""
    assert figure.page is not None
    names = sorted({line.look.colour for line in (*figure.series, *figure.shapes) if line.look})
    page = figure.page.model_dump_json()
    script = (
        f"(() => {{ const page = {page}; const palette = zembra.paletteOf(page);"
        f" const roles = {json.dumps(ROLES)}.map((name) => [name, palette[name]]);"
        f" const lines = {json.dumps(names)}.map((name) => [name, zembra.colourOf(name, page)]);"
        " return JSON.stringify(Object.fromEntries([...roles, ['ground', zembra.groundOf(page)], ...lines])); })()"
    )
    found: dict[str, str] = json.loads(str(_engine().eval(script)))
    return found


def warm_up() -> None:
    """Start the engine before the first picture."""
    _engine()


@lru_cache(maxsize=1)
def _engine() -> MiniRacer:
    # slow to import
    from py_mini_racer import MiniRacer

    engine = MiniRacer()
    # at interpreter shutdown its threads would wait for Python forever
    atexit.register(engine.close)
    engine.eval((DRAWING / "drawing.js").read_text(encoding="utf-8"))
    return engine


def faces(text: str) -> str:
    """Return the fonts for a text as CSS: Latin, and other scripts as needed."""
    unusual = {letter for letter in set(text) - PLAIN if ord(letter) > LAST_PLAIN}
    others = "".join(sorted(letter for letter in unusual if ord(letter) not in _latin_letters()))
    return _latin_faces() + (_other_faces(others) if others else "")


@lru_cache(maxsize=1)
def _latin_faces() -> str:
    return "".join(_rule(family, weight, (FONTS / f"{file}.woff2").read_bytes()) for family, weight, file in FACES)


@lru_cache(maxsize=8)
def _other_faces(letters: str) -> str:
    """Subset fonts, so that a picture carries only the letters it needs."""
    # slow to import
    from fontTools.subset import Options, Subsetter
    from fontTools.ttLib import TTFont

    rules = []
    for family, weight, file in FACES:
        font = TTFont(FONTS / f"{file}.ttf")
        known = [letter for letter in letters if ord(letter) in font.getBestCmap()]
        if not known:
            continue
        cut = Subsetter(Options(layout_features=[]))
        cut.populate(text="".join(known))
        cut.subset(font)
        font.flavor = "woff2"
        out = io.BytesIO()
        font.save(out)
        ranges = ",".join(f"U+{ord(letter):X}" for letter in known)
        rules.append(_rule(family, weight, out.getvalue(), f";unicode-range:{ranges}"))
    return "".join(rules)


def _rule(family: str, weight: int, font: bytes, more: str = "") -> str:
    data = base64.b64encode(font).decode()
    return (
        f"@font-face{{font-family:'{family}';font-weight:{weight};"
        f"src:url(data:font/woff2;base64,{data}) format('woff2'){more}}}"
    )


@lru_cache(maxsize=1)
def _latin_letters() -> frozenset[int]:
    # slow to import
    from fontTools.ttLib import TTFont

    return frozenset(TTFont(FONTS / f"{FACES[0][2]}.woff2").getBestCmap())
