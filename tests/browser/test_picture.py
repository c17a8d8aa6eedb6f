"""Dressing a picture as an analyst does, and handing it over: the screen's picture is the one that leaves."""

from __future__ import annotations

import io
import struct
import time
from collections.abc import Iterator
from datetime import date, timedelta
from itertools import product
from pathlib import Path
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
import openpyxl
from defusedxml.ElementTree import fromstring
from pypdf import PdfReader
from selenium.webdriver.common.action_chains import ActionChains

from tests.browser.machine import Browser, Server
from tests.drawing.test_picture import studied
from zembra.core.dress.dresswords import Drawn, Light, Runs, TextSize, Ticks, ValuesAt
from zembra.core.dress.model import Headings, LineDress, Page, Picture, TimeAxis, ValueScale
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import Arrangement, Figure, FigureSettings, Shape
from zembra.rendering.engine import DRAWING, picture_svg

FIRST = date(2026, 1, 1)
SIZE = 150
VALUES = np.round(900 + 2.0 * np.arange(SIZE) + 120 * np.sin(np.arange(SIZE) * 2 * np.pi / 7), 1)
SVG = "{http://www.w3.org/2000/svg}"

DIFFERENCE = """
const [svg, png, done] = arguments;
const load = (src) => new Promise((ok) => { const one = new Image(); one.onload = () => ok(one); one.src = src; });
Promise.all([load(svg), load(png)]).then((images) => {
  const [width, height] = [640, 360];
  const pixels = images.map((one) => {
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [width, height];
    const pen = canvas.getContext("2d");
    pen.fillStyle = "#fff"; pen.fillRect(0, 0, width, height);
    pen.drawImage(one, 0, 0, width, height);
    return pen.getImageData(0, 0, width, height).data;
  });
  let sum = 0, ink = 0;
  for (let n = 0; n < pixels[0].length; n++) {
    sum += Math.abs(pixels[0][n] - pixels[1][n]);
    ink += 255 - pixels[0][n];
  }
  done([sum / pixels[0].length, ink / pixels[0].length]);
});
"""


def begun(browser: Browser, server: Server, tmp_path: Path) -> str:
    """A study with an average and a line held against; the number of the study."""
    path = tmp_path / "outer isles.csv"
    path.write_text("day,passengers\n" + "".join(f"{FIRST + timedelta(n)},{v}\n" for n, v in enumerate(VALUES)))
    browser.hand_in(server.address, path)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    study = browser.driver.current_url.rsplit("/", 1)[1]
    for revision, (group, kind) in enumerate((("Readings", "Average"), ("Readings", "Line to hold against")), 2):
        browser.click(f"[aria-label='Add to {group}']")
        browser.click(".kind", kind)
        browser.kept_revision(revision)
    browser.click(".ant-segmented-item-label", "Picture")
    browser.find(".sheet svg")
    return study


def flat(root: Element) -> list[tuple[str, dict[str, str], str]]:
    """Every element in order, without what a file has more: fonts and the description."""
    return [
        (one.tag.removeprefix(SVG), dict(one.attrib), one.text or "")
        for one in root.iter()
        if one.tag not in (f"{SVG}style", f"{SVG}desc")
    ]


def shown(browser: Browser) -> Element:
    text = browser.driver.execute_script(
        "return new XMLSerializer().serializeToString(document.querySelector('.sheet svg'))"
    )
    root: Element = fromstring(text)
    return root


FETCH = """
const [address, done] = arguments;
(async () => {
  let answer = await fetch(address);
  while (answer.status === 202) {
    await new Promise((later) => setTimeout(later, 200));
    answer = await fetch(address);
  }
  done(Array.from(new Uint8Array(await answer.arrayBuffer())));
})();
"""


def fetched(browser: Browser, address: str) -> bytes:
    """A file that is handed over: asked for again as long as it is being made."""
    return bytes(browser.driver.execute_async_script(FETCH, address))


def text_of(browser: Browser, text: str) -> Any:
    """The text of the picture, if it is there."""
    return next((one for one in browser.all(".sheet text") if one.text == text), None)


def settled(browser: Browser) -> None:
    """Until every edit is kept and the kept picture is drawn."""
    seen = ""

    def still() -> bool:
        nonlocal seen
        now = browser.find(".kept").text + str(len(browser.find(".sheet").get_attribute("innerHTML") or ""))
        same, seen = now == seen, now
        time.sleep(0.3)
        return same and "keeping" not in now

    browser.wait(still, "kept")


def test_the_demo_of_a_board_slide_is_dressed_and_handed_over(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    # said in words: title, scale, the average thick, the days thin and pale
    browser.type_word("headings", "title", "Outer Isles carries more & more")
    browser.wait(lambda: text_of(browser, "Outer Isles carries more & more"), "title")
    browser.choose("left", "low", "zero")
    browser.wait(lambda: text_of(browser, "0"), "from zero")
    browser.choose("passengers", "weight", "hair-thin")
    browser.choose("passengers", "colour", "pale lagoon")
    browser.choose("passengers", "points", "with its first and last point")
    settled(browser)
    # what is clicked lights up its sentence
    browser.click(".sheet text", "Outer Isles carries more & more")
    browser.wait(lambda: "carries more" in browser.find(".dress-card.chosen").text, "lit up")
    # a note, dragged to another place
    browser.click("button.link", "Add a note")
    browser.find(".sheet [data-note] text")
    settled(browser)
    note = browser.find(".sheet [data-note] text")
    before = (note.location["x"], note.location["y"])
    ActionChains(browser.driver).drag_and_drop_by_offset(note, -60, -20).perform()
    browser.wait(lambda: browser.find(".sheet [data-note] text").location["x"] < before[0] - 30, "moved")

    # the picture that leaves is the one on the screen, element by element
    settled(browser)
    address = f"{server.address}/api/studies/{study}/handover"
    svg = fetched(browser, f"{address}/picture.svg")
    screen, file = flat(shown(browser)), flat(fromstring(svg))
    assert len(screen) == len(file)
    for one, other in zip(screen, file, strict=True):
        assert one == other
    png = fetched(browser, f"{address}/picture.png?times=1")
    assert struct.unpack(">II", png[16:24]) == (1280, 720)
    # and the image differs from the browser's own drawing by the smoothing of edges only
    difference, ink = browser.driver.execute_async_script(
        DIFFERENCE, f"{address}/picture.svg", f"{address}/picture.png?times=1"
    )
    assert ink > 1
    assert difference < 0.6

    # the files, by their buttons
    saved = browser.download(lambda: browser.click(".picture-handover button", "PDF"), "picture.pdf")
    (page,) = PdfReader(io.BytesIO(saved.read_bytes())).pages
    assert "Outer Isles carries more & more" in page.extract_text()
    saved = browser.download(lambda: browser.click(".picture-handover button", "workbook"), "numbers.xlsx")
    rows = list(openpyxl.load_workbook(saved)["Points"].iter_rows(min_row=2, values_only=True))
    np.testing.assert_allclose([row[3] for row in rows], VALUES)
    # a snapshot, compared with now
    browser.find("[aria-label='Name of the snapshot']").send_keys("autumn review")
    browser.click(".snapshots button", "snapshot")
    browser.click(".snapshots a", "autumn review")
    browser.wait(lambda: browser.find("main").text.count("None: they are as they were.") == 2, "compared")
    assert not [one for one in browser.driver.get_log("browser") if one["level"] == "SEVERE"]


def test_pictures_are_copied_named_and_undone(browser: Browser, server: Server, tmp_path: Path) -> None:
    begun(browser, server, tmp_path)
    browser.click(".picture-deeds button", "copy")
    browser.wait(lambda: len(browser.all(".picture-tabs .ant-segmented-item")) == 2, "two pictures")
    browser.click(".picture-tabs .ant-segmented-item-label", "the whole, again")
    browser.choose("page", "light", "by night")
    browser.wait(lambda: "1A2327" in shown_fill(browser), "dark")
    browser.find("[aria-label='Name of a new house style']").send_keys("night")
    browser.click(".house-styles button", "keep")
    browser.click(".picture-tabs .ant-segmented-item-label", "the whole")
    browser.wait(lambda: "FFFFFF" in shown_fill(browser), "light")
    browser.click(".house-styles .ant-select")
    browser.click(".ant-select-item-option", "night")
    browser.wait(lambda: "1A2327" in shown_fill(browser), "in the style")
    browser.click("button", "Undo")
    browser.wait(lambda: "FFFFFF" in shown_fill(browser), "undone")


def shown_fill(browser: Browser) -> str:
    return browser.find(".sheet rect[data-part=page]").get_attribute("fill") or ""


def test_points_alone_are_drawn_and_a_scale_says_what_it_cuts(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    browser.choose("passengers", "drawn", "points only")
    circles = '.sheet [data-line="passengers"] circle'
    browser.wait(lambda: len(browser.all(circles)) == SIZE, "a point for every day")
    assert not browser.all('.sheet [data-line="passengers"] path')
    browser.choose("left", "low", "the value")
    browser.type_word("left", "low.value", "1000")
    bench: Any = browser.answer(f"{server.address}/api/studies/{study}")
    (average,) = (one for one in bench["figure"]["shapes"] if one["shape"] == "curve")
    cut = sum(v < 1000 for v in [*VALUES, *(v for v in average["v"] if v is not None)])
    assert cut > (VALUES < 1000).sum() > 0
    browser.wait(lambda: text_of(browser, f"{cut} values lie below"), "at the end of the scale")
    assert f"{cut} values lie below the left scale." in browser.find("main").text
    settled(browser)
    address = f"{server.address}/api/studies/{study}/handover"
    file = fromstring(fetched(browser, f"{address}/picture.svg"))
    assert f"{cut} values lie below" in [one.text for one in file.iter(f"{SVG}text")]
    account = PdfReader(io.BytesIO(fetched(browser, f"{address}/account.pdf")))
    assert f"{cut} values lie below the left scale." in " ".join(page.extract_text() for page in account.pages)


def test_browser_and_server_draw_the_same_of_everything(browser: Browser, demo: Server) -> None:
    """Every demo study, and sixty generated ones of all shapes, arrangements and scales: one text."""
    browser.open(demo.address)
    browser.driver.execute_script((DRAWING / "drawing.js").read_text() + "; window.zembra = zembra;")
    figures = list(generated())
    assert len(figures) >= 60
    studies = browser.answer(f"{demo.address}/api/studies")["studies"]
    for one in studies:
        told = browser.answer(f"{demo.address}/api/studies/{one['study']['id']}/pictures/0")
        figures.append(Figure.model_validate(told["figure"]))
    for figure in figures:
        script = "return zembra.pictureSvg(JSON.parse(arguments[0]), {about: ''})"
        assert browser.driver.execute_script(script, figure.model_dump_json()) == picture_svg(figure)
    # what the page shows is that
    first = studies[0]["study"]["id"]
    browser.open(f"{demo.address}/studies/{first}/picture")
    browser.find(".sheet svg")
    settled(browser)
    file = fromstring(fetched(browser, f"{demo.address}/api/studies/{first}/handover/picture.svg"))
    assert flat(shown(browser)) == flat(file)


def generated() -> Iterator[Figure]:
    for n, (shape, arrangement, runs) in enumerate(product(Shape, Arrangement, Runs)):
        result = studied(("Harbour Loop", "North Head", "Kittiwake Bay"), days=25 + 3 * n, seed=n)
        names = tuple(one.name for one in result.state.lines)
        for drawn in (Drawn.LINE, Drawn.AREA):
            lines = tuple(LineDress(id=name, drawn=drawn, values=ValuesAt.ENDS) for name in names)
            picture = Picture(
                lines=lines, left=ValueScale(runs=runs, counts="Fahrgäste, дни"), headings=Headings(title=f"№ {n}"),
                page=Page(text=list(TextSize)[n % 4], light=list(Light)[n % 2]), time=TimeAxis(ticks=list(Ticks)[n % 7]),
            )  # fmt: skip
            settings = FigureSettings(shown=names, shape=shape, arrangement=arrangement)
            yield picture_figure(result, settings, picture)
