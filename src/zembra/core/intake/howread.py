"""How a file was read: what Zembra understood, as sentences whose every word can be changed."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from zembra.core.grammar import Choice, Sentence, Word
from zembra.core.intake.dates import DateForm
from zembra.core.intake.numbers import BLANK_WORDS, DecimalMark


class Encoding(Choice):
    UTF8 = ("utf-8", "UTF-8")
    UTF16 = ("utf-16", "UTF-16")
    CP1252 = ("windows-1252", "Windows-1252", "the older Western European encoding")


class Delimiter(Choice):
    COMMA = (",", "commas")
    SEMICOLON = (";", "semicolons")
    TAB = ("\t", "tabs")
    PIPE = ("|", "vertical bars")


class TableHow(Sentence):
    """How bytes become rows and cells."""

    encoding: Annotated[Encoding, Field(title="text encoding")] = Encoding.UTF8
    delimiter: Annotated[Delimiter, Field(title="what parts the cells")] = Delimiter.COMMA
    header_row: Annotated[int, Field(ge=1, le=1000, title="row of the column names")] = 1
    skip_last: Annotated[int, Field(ge=0, le=1000, title="rows left out at the end"), Word(empty="none")] = 0

    def template(self) -> str:
        return (
            "The file is {encoding} text, its cells parted by {delimiter}. Row {header_row} names the columns; "
            "{skip_last} rows at the end are left out."
        )


class DatesHow(Sentence):
    column: Annotated[str, Field(title="date column"), Word(options="columns")]
    form: Annotated[DateForm, Field(title="how dates are written")] = DateForm.ISO_DAY

    def template(self) -> str:
        return "The dates are in {column}, written as {form}."


class SeriesHow(Sentence):
    column: Annotated[str | None, Field(title="series column"), Word(options="columns", empty="column of numbers")] = (
        None
    )

    def template(self) -> str:
        return "Each {column} is a series of its own."


class ValuesHow(Sentence):
    columns: Annotated[tuple[str, ...], Field(min_length=1, title="columns of numbers"), Word(options="columns")]
    decimal: Annotated[DecimalMark, Field(title="decimal mark")] = DecimalMark.POINT
    blank_words: Annotated[
        tuple[str, ...], Field(title="texts that mean blank"), Word(empty="no text", spoken="shortened")
    ] = BLANK_WORDS

    def template(self) -> str:
        return "The numbers are in {columns}, written with {decimal}. An empty cell is blank, and so is one that says {blank_words}."


class HowRead(BaseModel):
    """Everything that turns a file's bytes into observations."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    table: TableHow = TableHow()
    dates: DatesHow
    series: SeriesHow = SeriesHow()
    values: ValuesHow
