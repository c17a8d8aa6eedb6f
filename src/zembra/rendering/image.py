"""Convert SVG to PNG and PDF."""

from __future__ import annotations

import tempfile
from pathlib import Path

from zembra.core.errors import Refusal
from zembra.rendering.engine import FACES, FONTS

PIXELS_IN_INCH, POINTS_IN_INCH = 96, 72
MOST_PIXELS = 100_000_000


def png_of(svg: str, size: tuple[int, int], times: float = 1.0) -> bytes:
    """Convert SVG to PNG. Raises Refusal if it is too large.

    size: in pixels
    times: scale
    """
    width, height = (max(1, round(length * times)) for length in size)
    if width * height > MOST_PIXELS:
        raise Refusal(
            f"The picture would have {width} × {height} pixels, more than {MOST_PIXELS // 1_000_000} million.",
            todo="Make it smaller, or hand it over at a smaller size.",
        )
    # slow to import
    from resvg_py import svg_to_bytes

    return bytes(
        svg_to_bytes(
            svg_string=svg,
            width=width,
            height=height,
            font_files=[str(FONTS / f"{file}.ttf") for *_, file in FACES],
            # looking for others takes longer than drawing
            skip_system_fonts=not _needs_more(svg),
            font_family="Source Sans 3",
            sans_serif_family="Source Sans 3",
            serif_family="Source Serif 4",
        )
    )


def _needs_more(svg: str) -> bool:
    """Return whether a text has letters beyond Latin, Greek, Cyrillic and punctuation."""
    return any(letter > "\u052f" and not "\u1e00" <= letter <= "\u24ff" for letter in svg)


def pdf_of(svg: str, size: tuple[int, int], *, title: str, about: str = "") -> bytes:
    """Return a vector PDF page of the picture's size with embedded fonts."""
    width, height = (length * POINTS_IN_INCH / PIXELS_IN_INCH for length in size)
    text = "\n".join(
        (
            "#set document(title: sys.inputs.title, date: none)",
            f"#set page(width: {width:.3f}pt, height: {height:.3f}pt, margin: 0pt)",
            f'#image("picture.svg", width: {width:.3f}pt, height: {height:.3f}pt, alt: sys.inputs.about)',
        )
    )
    return typeset(text, {"picture.svg": svg.encode()}, {"title": title, "about": about})


def typeset(text: str, files: dict[str, bytes], words: dict[str, str]) -> bytes:
    """Typeset a document as PDF.

    files: files it refers to
    words: texts for `sys.inputs`, so that none is parsed as markup
    """
    # slow to import
    import typst

    with tempfile.TemporaryDirectory() as folder:
        for name, data in files.items():
            (Path(folder) / name).write_bytes(data)
        (Path(folder) / "main.typ").write_text(text, encoding="utf-8")
        made = typst.compile(
            str(Path(folder) / "main.typ"), root=folder, font_paths=[str(FONTS)], sys_inputs=words, format="pdf"
        )
    assert isinstance(made, bytes)
    return made
