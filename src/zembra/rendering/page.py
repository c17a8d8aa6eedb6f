"""Write a picture as one self-contained HTML page, with values under the pointer, a draggable window, the numbers and
the account."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Sequence
from functools import lru_cache
from html import escape

from zembra.core.figure.model import Figure
from zembra.core.handover.report import Section
from zembra.rendering.engine import DRAWING, faces, picture_svg
from zembra.version import __version__

STYLE = """
*{box-sizing:border-box}
body{margin:0;font:15px/1.5 'Source Sans 3',sans-serif;color:#1d2a30;background:#fff}
main{max-width:1180px;margin:0 auto;padding:20px}
#picture{position:relative;outline-offset:2px;touch-action:pan-y;cursor:crosshair}
#picture svg{display:block;width:100%;height:auto}
.frame{position:relative}
#reading{position:absolute;top:12%;max-width:320px;padding:8px 10px;background:#fff;color:#1d2a30;border:1px solid #c9c3b4;
border-radius:4px;font-size:13px;pointer-events:none}
#reading h2{margin:0 0 4px;font-size:13px}
#reading p{margin:0}
#reading div{display:flex;flex-wrap:wrap;gap:0 7px;align-items:baseline}
#reading i{width:9px;height:9px;border-radius:2px}
#reading b{margin-left:auto;font-variant-numeric:tabular-nums}
#reading em{flex-basis:100%;padding-left:16px;font-style:normal;color:#5b676d}
#strip{display:block;width:100%;height:38px;margin-top:6px;background:#f4f1e8;border-radius:3px;color:#0f5c63}
#strip rect{cursor:ew-resize;fill:#0f5c63}
#strip rect[data-grip=body]{cursor:grab;fill-opacity:.14}
.under{display:flex;gap:12px;align-items:baseline;margin:6px 0 22px;color:#5b676d;font-size:13px}
button{font:inherit;font-size:13px;color:#0f5c63;background:#fff;border:1px solid #b9c9c8;border-radius:3px;padding:1px 9px;cursor:pointer}
h1,h2{font-family:'Source Serif 4',serif;font-weight:600}
h2{font-size:18px;margin:26px 0 6px;color:#0f5c63}
.card{background:#fff;color:#1d2a30}
#numbers{overflow:auto;max-height:440px;border:1px solid #e6e1d6;border-radius:3px}
table{border-collapse:collapse;min-width:100%;font-variant-numeric:tabular-nums;font-size:13px}
th,td{padding:2px 12px;text-align:right;white-space:nowrap;border-bottom:1px solid #efebe1;vertical-align:top}
thead th{position:sticky;top:0;background:#fff;font-weight:600}
th:first-child{text-align:left;font-weight:400}
td small{display:block;color:#5b676d}
#numbers button{margin:8px}
footer{margin:30px 0 10px;color:#5b676d;font-size:12px;overflow-wrap:anywhere}
:focus-visible{outline:2px solid #c8502b}
[hidden]{display:none}
"""


def page_html(figure: Figure, *, title: str, about: str, account: Sequence[Section], foot: str) -> str:
    """Return a self-contained HTML page.

    figure: dressed
    title: of the page
    about: description of the picture
    account: sections below it
    foot: source of the numbers
    """
    data = figure.model_dump_json()
    style = STYLE + faces(data + title)
    script = _script()
    policy = (
        f"default-src 'none'; script-src '{_hash(script)}'; style-src '{_hash(style)}'; font-src data:; img-src data:; "
        "base-uri 'none'; form-action 'none'"
    )
    # a text of JSON within a page: nothing in it may end the element that holds it
    safe = data.replace("<", "\\u003c")
    said = "".join(map(_section, account))
    svg = picture_svg(figure, about=about)
    return f"""<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="{policy}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{escape(title)}</title>
<style>{style}</style>
</head>
<body>
<main>
<div class="frame">
<div id="picture" tabindex="0" role="group" aria-roledescription="chart" aria-label="{escape(about)}">{svg}</div>
<div id="reading" role="status" hidden></div>
</div>
<svg id="strip" preserveAspectRatio="none" role="group" aria-label="All of the time there is"></svg>
<p class="under"><span id="stretch"></span><button id="all" type="button">All of it</button>
<span>Drag the chart or the strip; the wheel widens and narrows. Keys on the chart: ← → read, Page ↑ ↓ move, + − widen, Home all.</span></p>
<div class="card">
<h2>The numbers</h2>
<div id="numbers" tabindex="0" role="region" aria-label="The numbers"></div>
{said}
<footer>{escape(foot)} · Zembra {__version__}. This page is complete: it asks for nothing from anywhere.</footer>
</div>
</main>
<script type="application/json" id="figure">{safe}</script>
<script>{script}</script>
</body>
</html>
"""


@lru_cache(maxsize=1)
def _script() -> str:
    # nothing in it may end the element that holds it
    return (DRAWING / "page.js").read_text(encoding="utf-8").replace("</script", "<\\/script")


def _hash(text: str) -> str:
    return f"sha256-{base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()}"


def _section(section: Section) -> str:
    tag = "ol" if section.ordered else "ul"
    lines = "".join(f"<li>{escape(line)}</li>" for line in section.lines)
    return f"<h2>{escape(section.heading)}</h2><{tag}>{lines}</{tag}>"
