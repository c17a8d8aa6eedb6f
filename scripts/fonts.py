"""Fonts for pictures that are drawn without a browser: TTF files, and the widths of their glyphs for the drawing.

Run after the front end's packages are installed. The subsets that npm ships for the web are joined to one face each.
"""

from __future__ import annotations

import json
import shutil
import sys
import tempfile
from pathlib import Path

from fontTools.merge import Merger, Options
from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parent.parent
PACKAGES = ROOT / "frontend" / "node_modules" / "@fontsource"
FONTS = ROOT / "src" / "zembra" / "drawing" / "fonts"
WIDTHS = ROOT / "frontend" / "src" / "figure" / "widths.gen.ts"
FACES = {"sans400": ("source-sans-3", 400), "sans600": ("source-sans-3", 600), "serif600": ("source-serif-4", 600)}
SUBSETS = ("latin", "latin-ext", "greek", "cyrillic")
LAST = 0x24FF  # widths are told up to here


def main() -> int:
    """--check: whether the widths that are kept are those of the fonts."""
    FONTS.mkdir(parents=True, exist_ok=True)
    widths = {}
    for face, (package, weight) in FACES.items():
        files = [PACKAGES / package / "files" / f"{package}-{one}-{weight}-normal.woff2" for one in SUBSETS]
        target = FONTS / f"{package}-{weight}.ttf"
        _joined(files, target)
        # what stands inside a handed-over SVG
        shutil.copyfile(files[0], FONTS / f"{package}-{weight}.woff2")
        shutil.copyfile(PACKAGES / package / "LICENSE", FONTS / f"LICENSE-{package}.txt")
        widths[face] = _widths(TTFont(target))
    text = _as_typescript(widths)
    if "--check" in sys.argv:
        return 0 if WIDTHS.read_text() == text else 1
    WIDTHS.write_text(text)
    return 0


def _joined(files: list[Path], target: Path) -> None:
    with tempfile.TemporaryDirectory() as folder:
        plain = []
        for n, file in enumerate(files):
            font = TTFont(file)
            font.flavor = None
            for table in ("GSUB", "GPOS", "GDEF", "DSIG", "STAT"):
                if table in font:
                    del font[table]
            path = Path(folder) / f"{n}.ttf"
            font.save(path)
            plain.append(str(path))
        options = Options(drop_tables=["vmtx", "vhea"])
        font = Merger(options=options).merge(plain)
        _named(font, *target.stem.rsplit("-", 1))
        font.save(target)


def _named(font: TTFont, package: str, weight: str) -> None:
    """The family's own name: the web's files are cut from a variable font and still bear its first weight."""
    family = package.replace("-", " ").title()
    style = {"400": "Regular", "600": "SemiBold"}[weight]
    names = font["name"]
    names.names = []
    compact = f"{family.replace(' ', '')}-{style}"
    texts = {1: family if style == "Regular" else f"{family} {style}", 2: "Regular", 3: compact}
    texts |= {4: f"{family} {style}", 6: compact, 16: family, 17: style}
    for number, text in texts.items():
        names.setName(text, number, 3, 1, 0x409)


def _widths(font: TTFont) -> dict[str, str]:
    """Runs of widths by the code of their first character, in thousandths of the size."""
    units = font["head"].unitsPerEm
    glyphs, advance = font.getBestCmap(), font["hmtx"]
    runs: dict[str, list[str]] = {}
    start = last = -2
    for code in sorted(code for code in glyphs if 0x20 <= code <= LAST):
        if code != last + 1:
            start = code
            runs[str(start)] = []
        runs[str(start)].append(str(round(1000 * advance[glyphs[code]][0] / units)))
        last = code
    return {start: " ".join(run) for start, run in runs.items()}


def _as_typescript(widths: dict[str, dict[str, str]]) -> str:
    return (
        "/** Widths of glyphs in thousandths of the size, by the code of the first one of a run. Made by scripts/fonts.py. */\n"
        f"export const WIDTHS: Record<string, Record<string, string>> = {json.dumps(widths, indent=2)};\n"
    )


if __name__ == "__main__":
    raise SystemExit(main())
