"""How a file is read, as sentences whose words can be changed."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from zembra.core.grammar import Choice, Sentence, Word
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.numbercell import DecimalMark, SaidBeside
from zembra.core.intake.numbers import BLANK_WORDS, Writing


class FileForm(Choice):
    TEXT = ("text", "delimited text")
    FIXED = ("fixed", "text in columns", "columns of a fixed width, or parted by spaces")
    HTML = ("html", "a web page", "an HTML table, saved or pasted")
    WORKBOOK = ("workbook", "a workbook")
    JSON = ("json", "JSON")
    PARQUET = ("parquet", "Parquet")
    ARROW = ("arrow", "Arrow", "an Arrow or Feather file")
    SQLITE = ("sqlite", "a SQLite database")
    ARCHIVE = ("archive", "an archive", "a zip of several tables")
    PACKAGE = ("package", "a data package")


class Encoding(Choice):
    UTF8 = ("utf-8", "UTF-8")
    UTF16 = ("utf-16", "UTF-16")
    UTF32 = ("utf-32", "UTF-32")
    CP1252 = ("windows-1252", "Windows-1252", "the older Western European encoding")
    CP1250 = ("windows-1250", "Windows-1250", "the older Central European encoding")
    CP1251 = ("windows-1251", "Windows-1251", "the older Cyrillic encoding")
    CP1253 = ("windows-1253", "Windows-1253", "the older Greek encoding")
    CP1254 = ("windows-1254", "Windows-1254", "the older Turkish encoding")
    LATIN2 = ("iso-8859-2", "ISO 8859-2", "an older Central European encoding")
    KOI8_R = ("koi8-r", "KOI8-R", "an older Russian encoding")
    CP850 = ("cp850", "code page 850", "the Western European encoding of old consoles")
    MAC = ("mac-roman", "Mac Roman", "the encoding of old Macintoshes")
    SHIFT_JIS = ("shift_jis", "Shift JIS", "an older Japanese encoding")
    EUC_JP = ("euc_jp", "EUC-JP", "an older Japanese encoding")
    GB18030 = ("gb18030", "GB 18030", "a Chinese encoding")
    BIG5 = ("big5", "Big5", "an older Chinese encoding")
    EUC_KR = ("euc_kr", "EUC-KR", "an older Korean encoding")


class Delimiter(Choice):
    COMMA = (",", "commas")
    SEMICOLON = (";", "semicolons")
    TAB = ("\t", "tabs")
    PIPE = ("|", "vertical bars")
    CARET = ("^", "carets")
    TILDE = ("~", "tildes")
    COLON = (":", "colons")


class Headings(Choice):
    """The meaning of a row with text in its first cell only."""

    ROW = ("row", "a row like any other")
    BLOCK = ("block", "the heading of the rows under it", "it becomes a column of its own, named block")


class LeftOut(Choice):
    LEFT_OUT = ("left-out", "left out")
    KEPT = ("kept", "kept")


class TableHow(Sentence):
    """How bytes become cells. header_row 0 means no header."""

    form: Annotated[FileForm, Field(title="form of the file")] = FileForm.TEXT
    encoding: Annotated[Encoding, Field(title="text encoding")] = Encoding.UTF8
    delimiter: Annotated[Delimiter, Field(title="what parts the cells")] = Delimiter.COMMA
    sheet: Annotated[str | None, Field(title="sheet"), Word(options="sheets", empty="the first sheet")] = None
    header_row: Annotated[int, Field(ge=0, le=1000, title="row of the column names; 0 for none")] = 1
    header_rows: Annotated[int, Field(ge=1, le=3, title="rows the column names are spread over")] = 1
    units_row: Annotated[LeftOut, Field(title="the row of units under the names")] = LeftOut.KEPT
    comments: Annotated[
        str | None, Field(title="how lines begin that are remarks", max_length=3), Word(empty="nothing")
    ] = None
    headings: Annotated[Headings, Field(title="what a row with one text is")] = Headings.ROW
    first_row: Annotated[int, Field(ge=0, title="first row of the table; 0 for the one under the names")] = 0
    last_row: Annotated[int, Field(ge=0, title="last row of the table; 0 for the end of the file")] = 0
    skip_last: Annotated[int, Field(ge=0, le=1000, title="rows left out at the end")] = 0
    empty_columns: Annotated[LeftOut, Field(title="empty columns without a name")] = LeftOut.LEFT_OUT
    repeats: Annotated[LeftOut, Field(title="rows repeating the column names")] = LeftOut.LEFT_OUT

    def template(self) -> str:
        if self.form is FileForm.JSON:
            return "The file is JSON, each record a row."
        if self.form in (FileForm.PARQUET, FileForm.ARROW):
            return f"The file is {self.form.label}, with columns of its own."
        if self.form in (FileForm.SQLITE, FileForm.ARCHIVE):
            return f"The table is {{sheet}} of {self.form.label}."
        start = {
            FileForm.WORKBOOK: "The table is sheet {sheet} of a workbook.",
            FileForm.PACKAGE: "The table is {sheet} of a data package.",
            FileForm.HTML: "The table is {sheet} of a web page.",
            FileForm.FIXED: "The file is {encoding} text in columns.",
        }.get(self.form, "The file is {encoding} text, its cells parted by {delimiter}.")
        if self.comments:
            start += " Lines that begin with {comments} are remarks."
        if self.header_row == 0:
            names = "No row ({header_row}) names the columns"
        elif self.header_rows == 1:
            names = "Row {header_row} names the columns"
        else:
            names = "Row {header_row} and those above it, {header_rows} in all, name the columns"
        return (
            f"{start} {names}[; {{skip_last}} rows at the end are left out][, empty columns are {{empty_columns}}, "
            f"rows repeating the names are {{repeats}}]{self._about_rows()}."
        )

    def _about_rows(self) -> str:
        units = ", the row of units is {units_row}" if self.units_row is LeftOut.LEFT_OUT else ""
        part = ", the table begins at row {first_row}" if self.first_row else ""
        part += ", the table ends with row {last_row}" if self.last_row else ""
        return part + units + (", a row with one text is {headings}" if self.headings is Headings.BLOCK else "")


class Down(Choice):
    """The meaning of an empty cell in a column of names."""

    OWN = ("own", "nothing")
    ABOVE = ("above", "the one above", "as merged cells have it")
    COUNTED = (
        "counted",
        "the year above, one on where its months begin again",
        "a year written once for rows of several",
    )


class YearNamed(Choice):
    """Which calendar year names a fiscal year."""

    BEGINS = ("begins", "begins")
    ENDS = ("ends", "ends")


class Century(Choice):
    """The century of two-digit years."""

    USUAL = ("usual", "1936 to 2035")
    BEFORE = ("before", "1836 to 1935")
    AFTER = ("after", "2036 to 2135")


class HourSays(Choice):
    BEGINS = ("begins", "begins", "hours 0 to 23")
    ENDS = ("ends", "ends", "hours 1 to 24")


class TimesHow(Choice):
    """How a column gives the time of day."""

    WRITTEN = ("written", "as it is written")
    CLOCK = ("clock", "hours and minutes", "13.00")
    HOURS = ("hours", "the number of an hour", "0 to 23, 1 to 24, HE01")
    HUNDREDS = ("hundreds", "hours and minutes in one number", "1330")
    HALF_HOURS = ("half-hours", "the number of a half-hour", "1 to 48")
    QUARTER_HOURS = ("quarter-hours", "the number of a quarter of an hour", "1 to 96")
    FROM_TO = ("from-to", "from when to when", "00:00-01:00")


class Names(Choice):
    """When two names are one series."""

    WRITTEN = ("written", "when written alike")
    FOLDED = ("folded", "whatever their capitals, spaces and dashes")


class ValueKind(Choice):
    COLUMNS = ("columns", "The numbers are in columns of their own", "one or more columns of numbers")
    ACROSS = ("across", "The numbers stand under periods that run across the columns", "one series per row")
    EVENTS = ("events", "Each row is an event, to be counted", "no column of numbers")


class DatesHow(Sentence):
    column: Annotated[str | None, Field(title="date column"), Word(options="columns", empty="the column names")] = None
    more: Annotated[
        tuple[str, ...], Field(title="columns that belong to the date"), Word(options="columns", empty="no other")
    ] = ()
    down: Annotated[Down, Field(title="what an empty date cell means")] = Down.OWN
    form: Annotated[DateForm, Field(title="how dates are written")] = DateForm.ISO_DAY
    year_begins: Annotated[int, Field(ge=1, le=12, title="month a year begins with")] = 1
    year_named: Annotated[YearNamed, Field(title="which of its two years names it")] = YearNamed.BEGINS
    century: Annotated[Century, Field(title="what years of two digits are")] = Century.USUAL
    times: Annotated[TimesHow, Field(title="how the time of day is told")] = TimesHow.WRITTEN
    hours: Annotated[HourSays, Field(title="what the number of an hour says")] = HourSays.BEGINS
    zone: Annotated[
        str | None,
        Field(title="clock of a place that changes to summer time"),
        Word(options="zones", empty="as written"),
    ] = None

    def template(self) -> str:
        apart = self.times is not TimesHow.WRITTEN
        clock = "; their clock is {zone}" if self.form.timed or self.form.in_utc or apart else ""
        more = " and {more}" if self.more else ""
        down = ", an empty cell meaning {down}" if self.down is not Down.OWN else ""
        year = "; a year begins with month {year_begins} and is named by the one it {year_named} in"
        year = year if self.year_begins > 1 else ""
        hours = "; the number of an hour says when it {hours}" if self.hours is HourSays.ENDS else ""
        century = "; years of two digits are {century}" if self.century is not Century.USUAL else ""
        times = "; the time of day is {times}" if apart else ""
        return f"The dates are in {{column}}{more}, written as {{form}}{down}{year}{century}{times}{hours}{clock}."


class SeriesHow(Sentence):
    column: Annotated[str | None, Field(title="series column"), Word(options="columns", empty="column of numbers")] = (
        None
    )
    more: Annotated[
        tuple[str, ...], Field(title="columns that name a series with it"), Word(options="columns", empty="no other")
    ] = ()
    down: Annotated[Down, Field(title="what an empty cell means")] = Down.OWN
    names: Annotated[Names, Field(title="when names are the same")] = Names.WRITTEN
    called: Annotated[tuple[str, ...], Field(title="other names of series, as new = old"), Word(empty="none")] = ()

    @property
    def renamed(self) -> dict[str, str]:
        """The display names of series."""
        pairs = (text.partition("=") for text in self.called)
        return {new.strip(): old.strip() for new, equals, old in pairs if equals and new.strip() and old.strip()}

    def template(self) -> str:
        called = "; they are called otherwise: {called}" if self.called else ""
        more = " with {more}" if self.more else ""
        down = ", an empty cell meaning {down}" if self.down is Down.ABOVE else ""
        names = "; names are the same {names}" if self.names is Names.FOLDED else ""
        return f"Each {{column}}{more} is a series of its own{down}{names}{called}."


class ValuesHow(Sentence):
    kind: Annotated[ValueKind, Field(title="where the numbers are")] = ValueKind.COLUMNS
    columns: Annotated[
        tuple[str, ...], Field(title="columns of numbers"), Word(options="columns", empty="every column of periods")
    ] = ()
    decimal: Annotated[DecimalMark, Field(title="decimal mark")] = DecimalMark.POINT
    other_mark: Annotated[
        tuple[str, ...], Field(title="columns written with the other mark"), Word(options="columns", empty="none")
    ] = ()
    blank_words: Annotated[
        tuple[str, ...], Field(title="texts that mean blank"), Word(empty="no text", spoken="shortened")
    ] = BLANK_WORDS
    notes: Annotated[tuple[str, ...], Field(title="texts beside a number that change nothing"), Word(empty="none")] = ()
    negative: Annotated[
        tuple[str, ...], Field(title="texts beside a number that make it negative"), Word(empty="none")
    ] = ()
    left_out: Annotated[tuple[str, ...], Field(title="texts beside a number that is not read"), Word(empty="none")] = ()
    times: Annotated[
        tuple[str, ...],
        Field(title="what numbers with a text beside them are multiplied by, as k = 1000"),
        Word(empty="none"),
    ] = ()

    @model_validator(mode="after")
    def _factors(self) -> Self:
        for text in self.times:
            _factor_of(text)
        return self

    def writing(self, column: str | None = None) -> Writing:
        """Return the number format of a column; None for any."""
        decimal = self.decimal
        if column in self.other_mark:
            decimal = DecimalMark.COMMA if decimal is DecimalMark.POINT else DecimalMark.POINT
        beside = SaidBeside(self.notes, self.negative, self.left_out, tuple(_factor_of(text) for text in self.times))
        return Writing(decimal, self.blank_words, beside)

    def template(self) -> str:
        if self.kind is ValueKind.EVENTS:
            return "{kind}."
        where = ": {columns}" if self.kind is ValueKind.COLUMNS else ""
        other = ", {other_mark} with the other mark" if self.other_mark else ""
        beside = " What says {notes} beside a number changes nothing." if self.notes else ""
        beside += " What says {negative} beside a number makes it negative." if self.negative else ""
        beside += " A number with {left_out} beside it is not read." if self.left_out else ""
        beside += " Numbers are multiplied where a text stands beside them: {times}." if self.times else ""
        return f"{{kind}}{where}, written with {{decimal}}{other}. An empty cell is blank, and so is one that says {{blank_words}}.{beside}"


def _factor_of(text: str) -> tuple[str, float]:
    """Return a text and its factor. Raises ValueError."""
    name, equals, factor = text.rpartition("=")
    try:
        value = float(factor)
    except ValueError:
        value = float("nan")
    if not equals or not 0 < abs(value) < 1e15:
        raise ValueError(f"“{text}” is not a text and what is multiplied by, such as k = 1000")
    return ("" if name.strip() == "no text" else name.strip()), value


class RowTest(Choice):
    ONE_OF = ("one-of", "is one of", "equal to one of the values")
    NOT_ONE_OF = ("not-one-of", "is none of", "equal to none of the values")
    CONTAINS = ("contains", "contains one of", "the text is somewhere in the cell")
    RANGE = ("range", "lies between", "numbers or dates; either end may be left open")


class KeepHow(Sentence):
    """A condition for rows to keep; all must hold."""

    column: Annotated[str, Field(title="column"), Word(options="columns")]
    test: Annotated[RowTest, Field(title="condition")] = RowTest.ONE_OF
    values: Annotated[tuple[str, ...], Field(title="values, with commas between"), Word(empty="nothing yet")] = ()
    low: Annotated[str | None, Field(title="from, included"), Word(empty="any")] = None
    high: Annotated[str | None, Field(title="to, included"), Word(empty="any")] = None

    def template(self) -> str:
        what = "{low} and {high}" if self.test is RowTest.RANGE else "{values}"
        return f"Keep only the rows whose {{column}} {{test}} {what}."


class Settled(BaseModel):
    """A closed question.

    answer: None if it was skipped
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    key: Annotated[str, Field(max_length=300)]
    question: Annotated[str, Field(max_length=600)]
    answer: Annotated[str | None, Field(max_length=300)] = None


class HowRead(BaseModel):
    """All settings that turn bytes into observations."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    table: TableHow = TableHow()
    dates: DatesHow = DatesHow()
    series: SeriesHow = SeriesHow()
    values: ValuesHow = ValuesHow()
    keep: Annotated[tuple[KeepHow, ...], Field(max_length=20)] = ()
    settled: Annotated[tuple[Settled, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _fits(self) -> Self:
        if self.values.kind is not ValueKind.ACROSS and self.dates.column is None:
            raise ValueError("a date column is needed")
        if self.values.kind is ValueKind.COLUMNS and not self.values.columns:
            raise ValueError("a column of numbers is needed")
        return self

    def sentences(self) -> dict[str, Sentence]:
        """Return the sentences by name; conditions are keep.0, keep.1 and so on."""
        named: dict[str, Sentence] = {
            "table": self.table, "dates": self.dates, "series": self.series, "values": self.values,
        }  # fmt: skip
        return named | {f"keep.{n}": condition for n, condition in enumerate(self.keep)}
