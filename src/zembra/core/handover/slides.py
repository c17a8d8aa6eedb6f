"""Make slides: an editable native chart, or the picture as an image."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.handover.nativechart import NativeChart
from zembra.core.handover.slidechart import dress, numbers_of
from zembra.core.handover.slidexml import rgb

EMU = 9525  # in a pixel of 1/96 inch
WIDE = 1280  # pixels of a slide
PAD = 40
MOST_SLIDES = 40


def slides_pptx(charts: Sequence[NativeChart], about: str) -> bytes:
    """Return a slide for each chart. Raises Refusal.

    about: text for the notes, with what each chart leaves out
    """
    deck = _Deck(charts[0].size)
    for chart in charts[:MOST_SLIDES]:
        more = [about, f"Not in this chart: {' '.join(chart.left_out)}" if chart.left_out else ""]
        if len(charts) > MOST_SLIDES and chart is charts[0]:
            more.append(f"Series after the first {MOST_SLIDES - 1} have no slide of their own.")
        if chart.columns and chart.labels:
            deck.add_chart(chart, about, "\n\n".join(filter(None, more)))
    return deck.done()


def picture_pptx(png: bytes, size: tuple[int, int], about: str) -> bytes:
    """Return one slide filled with the picture. Raises Refusal.

    about: its description
    """
    deck = _Deck(size)
    deck.add_image(png, about)
    return deck.done()


class _Deck:
    """A presentation with slides of the picture's shape."""

    def __init__(self, size: tuple[int, int]) -> None:
        try:
            import pptx  # slow to import, and of an extra
        except ModuleNotFoundError:
            raise Refusal(
                "Slides need the package python-pptx.", todo="Install it with: pip install 'zembra[office]'."
            ) from None
        self._deck: Any = pptx.Presentation()
        self.width, self.height = WIDE, round(WIDE * size[1] / size[0])
        self._deck.slide_width, self._deck.slide_height = (
            pptx.util.Emu(self.width * EMU),
            pptx.util.Emu(self.height * EMU),
        )

    def add_image(self, png: bytes, about: str) -> None:
        slide = self._deck.slides.add_slide(self._deck.slide_layouts[6])
        image = slide.shapes.add_picture(io.BytesIO(png), 0, 0, self._deck.slide_width, self._deck.slide_height)
        _describe(image, about)
        slide.notes_slide.notes_text_frame.text = about

    def add_chart(self, of: NativeChart, about: str, notes: str) -> None:
        slide = self._deck.slides.add_slide(self._deck.slide_layouts[5])  # a title, and nothing else
        slide.background.fill.solid()
        slide.background.fill.fore_color.rgb = rgb(of.inks["ground"])
        top = PAD
        title = slide.shapes.title
        if of.title:
            top = self._text(title, of.title, top, 28, of.inks["ink"], bold=True)
        else:
            title._element.getparent().remove(title._element)
        if of.under:
            top = self._text(slide.shapes.add_textbox(0, 0, 0, 0), of.under, top, 15, of.inks["muted"])
        foot = self.height - PAD - (22 if of.foot else 0)
        if of.foot:
            self._text(slide.shapes.add_textbox(0, 0, 0, 0), of.foot, foot, 11, of.inks["muted"])
        box = (PAD * EMU, (top + 8) * EMU, (self.width - 2 * PAD) * EMU, max(120, foot - top - 16) * EMU)
        frame = slide.shapes.add_chart(_kind(), *box, numbers_of(of))
        frame.name = "Chart"
        _describe(frame, about)
        dress(frame.chart, of, (self.width - 2 * PAD, box[3] // EMU))
        slide.notes_slide.notes_text_frame.text = notes

    def _text(self, box: Any, text: str, top: int, points: int, ink: str, *, bold: bool = False) -> int:
        """Add a text, and return where the next one starts."""
        from pptx.enum.text import MSO_ANCHOR, PP_ALIGN
        from pptx.util import Pt

        letters = (self.width - 2 * PAD) / (points * 0.68)
        height = round(points * 1.75 * max(1, -(-len(text) // int(letters))))
        box.left, box.top, box.width, box.height = (n * EMU for n in (PAD, top, self.width - 2 * PAD, height))
        box.text_frame.word_wrap = True
        box.text_frame.vertical_anchor = MSO_ANCHOR.TOP
        box.text_frame.margin_left = box.text_frame.margin_right = 0
        box.text_frame.margin_top = box.text_frame.margin_bottom = 0
        box.text_frame.text = text
        paragraph = box.text_frame.paragraphs[0]
        paragraph.alignment = PP_ALIGN.LEFT
        paragraph.font.size, paragraph.font.bold = Pt(points), bold
        paragraph.font.color.rgb = rgb(ink)
        return top + height

    def done(self) -> bytes:
        out = io.BytesIO()
        self._deck.save(out)
        return out.getvalue()


def _kind() -> Any:
    from pptx.enum.chart import XL_CHART_TYPE

    return XL_CHART_TYPE.LINE


def _describe(shape: Any, about: str) -> None:
    """Set the alternative text."""
    for element in shape._element.iter():
        if element.tag.endswith("}cNvPr"):
            element.set("descr", about)
            return
