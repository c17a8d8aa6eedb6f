"""Files that lie about themselves: each is refused in words, or read with what is odd about it told."""

from __future__ import annotations

import re

import pytest

from tests.intake.broken import BROKEN
from zembra.core.errors import Refusal
from zembra.service.reading import read_file

# what is said of those that are read, or asked
READ = {
    "an archive that points out of itself": "",
    "a quote too many, and another later": "a quote may be missing there",
    "numbers beyond all numbers": "1e999",
    "days beyond all calendars": "99999-01-05",
    "letters that turn the line round": "",
    "formulas": "=cmd",
    "letters of four bytes": "",
}
NAMED = {
    "an archive that is encrypted": "is encrypted",
    "an archive of an unknown method": "method is not supported",
    "an archive whose deflate is broken": "decompressing",
    "a workbook with a string that is not there": "index not found",
    "a workbook that names a file of the machine": "unrecognized entity",
    "an open document of a billion rows": "repeated more than 1,048,576 times",
    "an open document of a billion columns": "more than 5,000",
    "JSON that says a name twice": "the same name twice",
    "JSON of JSON": "nested too deeply",
    "a page of tables in tables": "tables in tables",
    "a quote that never ends": "A quote opens a cell and never closes, so that all that follows would be one cell. Where: row 6",
}


@pytest.mark.parametrize("name", BROKEN)
def test_it_is_refused_in_words_or_what_is_odd_is_told(name: str) -> None:
    data = BROKEN[name]()
    if name in READ:
        found = read_file(data)
        undated = " ".join(one.text for one in found.observations.undated)
        texts = " ".join(
            found.observations.frames["value" if "value" in found.observations.frames else "\u202eeulav"]["text"]
        )
        told = f"{undated} {texts} {' '.join(one.text for one in found.notices)}"
        assert READ[name] in told
        assert found.table.height <= 28
    else:
        with pytest.raises(Refusal) as refused:
            read_file(data)
        assert NAMED.get(name, "") in str(refused.value)
        assert not re.search(r"Traceback|Error\(|<class|object at 0x", str(refused.value))
