"""The files that a study can be handed over as, with their purposes."""

from __future__ import annotations

from enum import StrEnum
from typing import Self


class FileGroup(StrEnum):
    """The group of a file on the screen."""

    PICTURE = "picture"
    NUMBERS = "numbers"
    ACCOUNT = "account"


class HandedFile(StrEnum):
    """KEY = (name, group, purpose), in the order of the screen.

    about: the purpose, empty for files that no screen lists
    """

    group: FileGroup
    about: str

    def __new__(cls, name: str, group: FileGroup, about: str = "") -> Self:
        member = str.__new__(cls, name)
        member._value_ = name
        member.group = group
        member.about = about
        return member

    @property
    def form(self) -> str:
        """The extension: "csv"."""
        return self.value.rpartition(".")[2]

    PICTURE_PNG = ("picture.png", FileGroup.PICTURE, "at twice the size of the sheet, for slides and mail")
    PICTURE_SVG = ("picture.svg", FileGroup.PICTURE, "scales without loss, its fonts inside")
    PICTURE_PDF = ("picture.pdf", FileGroup.PICTURE, "a page of its size, as vectors")
    SLIDES = (
        "slides.pptx",
        FileGroup.PICTURE,
        "a slide with a chart that can be edited there, and one a series where there are several",
    )
    PICTURE_SLIDE = ("picture.pptx", FileGroup.PICTURE, "a slide filled by the picture, as an image")
    PICTURE_PAGE = (
        "picture.html",
        FileGroup.PICTURE,
        "a page that opens without Zembra: values under the pointer, the numbers, the account",
    )
    POINTS_CSV = (
        "points.csv",
        FileGroup.NUMBERS,
        "every period of every series: as received, now, its condition and why",
    )
    LINES_CSV = ("lines.csv", FileGroup.NUMBERS, "readings and projections, with their limits")
    POINTS_PARQUET = ("points.parquet", FileGroup.NUMBERS)
    LINES_PARQUET = ("lines.parquet", FileGroup.NUMBERS)
    WORKBOOK = ("numbers.xlsx", FileGroup.NUMBERS, "all of it as a workbook: points, lines, evidence, follow-up, note")
    FOLLOW_UP_CSV = ("follow-up.csv", FileGroup.NUMBERS, "the periods to ask about, with notes and states")
    FOLLOW_UP_WORKBOOK = ("follow-up.xlsx", FileGroup.NUMBERS, "the same as a workbook")
    METHOD_NOTE = ("method-note.txt", FileGroup.ACCOUNT, "the sentences, what each touched, and the warnings")
    ACCOUNT = ("account.pdf", FileGroup.ACCOUNT, "a page or two to read without Zembra, with the picture")
    EVERYTHING = ("everything.zip", FileGroup.ACCOUNT, "an open data package that another Zembra takes back whole")
    REPORT = ("report.json", FileGroup.ACCOUNT, "the account for a program, with all evidence")
    LEDGER = ("ledger.json", FileGroup.ACCOUNT, "the decisions, to run again on other rows")
