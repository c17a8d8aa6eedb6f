"""Typeset the account as a PDF of one or two pages."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from zembra.core.english import number, spoken_date
from zembra.core.figure.model import Figure
from zembra.core.handover.report import account_sections
from zembra.core.ledger.evidence import Table
from zembra.core.ledger.run import Result
from zembra.rendering.engine import picture_svg
from zembra.rendering.image import typeset
from zembra.version import __version__

MOST_SERIES, MOST_WARNINGS = 24, 20  # what is more is counted
JUDGED = "projection"

PAGE = """
#let d = json(bytes(sys.inputs.data))
#set document(title: d.title, date: none)
#set page(paper: "a4", margin: (x: 18mm, top: 16mm, bottom: 18mm), footer: context [
  #set text(8pt, fill: rgb("#68757B"))
  #d.footer #h(1fr) #counter(page).display("1 / 1", both: true)
])
#set text(font: "Source Sans 3", size: 9.5pt, fill: rgb("#1D2A30"), lang: "en")
#set par(leading: 0.58em)
#show heading: set text(font: "Source Serif 4", weight: 600, fill: rgb("#0F5C63"))
#show heading.where(level: 2): set text(11.5pt)
#show heading.where(level: 2): it => block(above: 1.3em, below: 0.7em, it)
#text(font: "Source Serif 4", weight: 600, size: 17pt, d.title)
#v(-4pt)
#text(fill: rgb("#68757B"), d.under)
#v(2pt)
#image("picture.svg", width: 100%, alt: d.alt)
#for section in d.sections [
  == #section.heading
  #if section.ordered { enum(..section.lines.map(line => [#line])) } else { list(..section.lines.map(line => [#line])) }
]
#for judged in d.judged [
  == #judged.title
  #table(
    columns: judged.columns.len(), stroke: none, inset: (x: 4pt, y: 2.5pt),
    table.hline(stroke: 0.5pt),
    table.header(..judged.columns.map(c => text(8.5pt, fill: rgb("#68757B"), c))),
    table.hline(stroke: 0.5pt + rgb("#E6E1D6")),
    ..judged.rows.flatten().map(c => text(8.5pt, c)),
  )
]
"""


def account_pdf(figure: Figure, result: Result, *, title: str, sha256: str, alt: str, asked: list[str]) -> bytes:
    """Return the account as a PDF.

    figure: of the picture, dressed
    asked: questions about the file with their answers
    """
    state = result.state
    sections = account_sections(result, asked, most_warnings=MOST_WARNINGS, most_series=MOST_SERIES)
    data: dict[str, Any] = {
        "title": title,
        "under": f"From {state.file_name}, as of {spoken_date(state.as_of)}.",
        "alt": alt,
        "sections": [asdict(section) for section in sections],
        "judged": [_as_text(projection) for projection in _of_projections(result)],
        "footer": f"SHA-256 of the file {sha256} · Zembra {__version__}",
    }
    svg = picture_svg(figure, about=alt)
    return typeset(PAGE, {"picture.svg": svg.encode()}, {"data": json.dumps(data, ensure_ascii=False)})


def _of_projections(result: Result) -> list[Table]:
    """Return the evidence about projections."""
    return [
        table
        for report in result.reports
        if report.kind == JUDGED and report.on
        for table in report.outcome.evidence
        if isinstance(table, Table) and table.rows and len(table.columns) <= 9
    ][:3]


def _as_text(table: Table) -> dict[str, Any]:
    def spoken(cell: object) -> str:
        if cell is None:
            return "—"
        return cell if isinstance(cell, str) else number(float(f"{float(cell):.5g}"))  # type: ignore[arg-type]

    return {
        "title": table.title,
        "columns": [column.title for column in table.columns],
        "rows": [[spoken(cell) for cell in row] for row in table.rows[:30]],
    }
