"""Detect the encoding of a text file, and decode it."""

from __future__ import annotations

import codecs
import re

from zembra.core.errors import Refusal
from zembra.core.intake.months import month_words

SAMPLE = 64 * 1024
ENCODINGS = (
    "utf-8", "utf-16", "utf-32", "windows-1252", "windows-1250", "windows-1251", "windows-1253", "windows-1254", "iso-8859-2",
    "koi8-r", "cp850", "mac-roman", "shift_jis", "euc_jp", "gb18030", "big5", "euc_kr",
)  # fmt: skip
# what Western European tables hold beyond ASCII, as Windows-1252 has it
_WESTERN = frozenset("ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÑÒÓÔÕÖØÙÚÛÜßàáâãäåæçèéêëìíîïñòóôõöøùúûüÿŒœ€£¥°±²³µ½¼·«»§©®–—‘’“”…\u00a0")

# Signatures of files that are not text at all, with what to call them.
_SIGNATURES = (
    (b"\x89PNG", "a PNG picture"),
    (b"\xff\xd8\xff", "a JPEG picture"),
    (b"%PDF", "a PDF document"),
    (b"7z\xbc\xaf", "a 7z archive"),
    (b"GIF8", "a GIF picture"),
    (b"\x7fELF", "a program"),
    (b"SQLite format 3", "a SQLite database"),
)


def refuse_non_text(data: bytes) -> None:
    """Raise Refusal for an empty or binary file."""
    nothing = b" \t\r\n\x00\xef\xbb\xbf"
    if not data[:SAMPLE].strip(nothing) and not data.strip(nothing):
        raise Refusal("The file is empty.", todo="Choose a file with a header row and at least one row of data.")
    for signature, name in _SIGNATURES:
        if data.startswith(signature):
            raise Refusal(
                f"The file is {name}, not a table.", place="the first bytes", todo="Save it as CSV and try again."
            )


def detect_encoding(data: bytes) -> str:
    """Return one of ENCODINGS: by a byte order mark, else UTF-8 if valid, else Windows-1252 if its letters look
    Western European, else what charset-normalizer says. Raises Refusal if none fits.
    """
    refuse_non_text(data)
    sample = data[:SAMPLE]
    if data.startswith(_BOMS_32) or _looks_utf32(sample):
        return "utf-32"
    if data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    nul = sample.find(b"\x00")
    if nul >= 0:
        if _looks_utf16(sample):
            return "utf-16"
        raise Refusal(
            "The file is not text: it holds a zero byte.",
            place=f"byte {nul + 1}",
            todo="Save the table as CSV, a workbook, JSON or Parquet and try again.",
        )
    if data.isascii():
        return "utf-8"
    try:
        data.decode("utf-8")
        return "utf-8"
    except UnicodeDecodeError:
        control = sum(byte < 32 and byte not in (9, 10, 13) for byte in sample)
        if control > len(sample) // 100:
            raise Refusal(
                "The file is not text: it is full of control characters.",
                place="the first 64 KB",
                todo="Save the table as CSV, a workbook, JSON or Parquet and try again.",
            ) from None
        return _older(data)


def _by_months(lines: bytes) -> str | None:
    """Return the encoding in which most non-ASCII words are month names, or None."""
    counts: dict[str, int] = {}
    for name in _ONE_BYTE:
        words = re.findall(r"[^\W\d_]{3,}", lines.decode(_PYTHON_NAMES.get(name, name), errors="replace").lower())
        counts[name] = sum(not word.isascii() and word in month_words() for word in words)
    best = max(counts, key=lambda name: counts[name])
    return best if counts[best] else None


def _older(data: bytes) -> str:
    lines = b"\n".join(line for line in data[: 4 * SAMPLE].splitlines() if not line.isascii())[:SAMPLE]
    if (named := _by_months(lines)) is not None:
        return named
    western = lines.decode("cp1252", errors="replace")
    beyond = [letter for letter in western if ord(letter) > 127]
    if all(letter in _WESTERN for letter in beyond) and not _long_runs(western):
        return "windows-1252"
    from charset_normalizer import from_bytes

    found = from_bytes(
        lines,
        cp_isolation=[_PYTHON_NAMES.get(name, name) for name in ENCODINGS if not name.startswith(("utf-16", "utf-32"))],
    )
    best = found.best()
    if best is None:
        return "windows-1252"
    if best.encoding in _EASTERN:
        return max(_EASTERN, key=lambda name: _eastern_share(lines, name))
    names = {_PYTHON_NAMES.get(name, name): name for name in ENCODINGS}
    return names.get(best.encoding, "windows-1252")


# per encoding, the first bytes of the signs that words are mostly made of
_EASTERN = {
    "gb18030": range(0xB0, 0xD8), "big5": range(0xA4, 0xC7), "euc_kr": range(0xB0, 0xC9),
    "shift_jis": (0x82, 0x83, *range(0x88, 0x98)), "euc_jp": (0xA4, 0xA5, *range(0xB0, 0xD0)),
}  # fmt: skip


def _eastern_share(lines: bytes, encoding: str) -> float:
    """Return the share of common characters among double-byte ones."""
    try:
        text = lines.decode(encoding)
    except UnicodeDecodeError:
        return -1.0
    signs = [sign.encode(encoding) for sign in text if ord(sign) > 127]
    double = [sign for sign in signs if len(sign) == 2]
    return sum(sign[0] in _EASTERN[encoding] for sign in double) / max(1, len(signs))


_PYTHON_NAMES = {
    "utf-8": "utf_8", "windows-1252": "cp1252", "windows-1250": "cp1250", "windows-1251": "cp1251",
    "windows-1253": "cp1253", "windows-1254": "cp1254", "iso-8859-2": "iso8859_2", "koi8-r": "koi8_r",
    "mac-roman": "mac_roman",
}  # fmt: skip


_ONE_BYTE = (
    "windows-1252", "windows-1250", "windows-1251", "windows-1253", "windows-1254", "iso-8859-2", "koi8-r", "cp850", "mac-roman",
)  # fmt: skip
_BOMS_32 = (codecs.BOM_UTF32_LE, codecs.BOM_UTF32_BE)


def _looks_utf32(sample: bytes) -> bool:
    if len(sample) < 16:
        return False
    empty = [not any(sample[n::4]) for n in range(4)]
    return (empty[0] and empty[1]) or (empty[2] and empty[3])


def _long_runs(text: str) -> bool:
    """Return whether three or more non-ASCII characters follow each other, which Western European words never have."""
    run = 0
    for letter in text:
        run = run + 1 if ord(letter) > 127 and letter not in "\u00a0–—…“”‘’" else 0
        if run > 2:
            return True
    return False


def _looks_utf16(sample: bytes) -> bool:
    odd = sample[1::2].count(0)
    even = sample[0::2].count(0)
    return max(odd, even) > len(sample) // 5 and min(odd, even) == 0


def decode(data: bytes, encoding: str) -> bytes:
    """Return UTF-8 bytes without byte order mark, line ends unchanged. Raises Refusal naming the first invalid byte."""
    if encoding == "utf-8":
        body = data.removeprefix(codecs.BOM_UTF8)
        if not body.isascii():
            _check(body, "utf-8")
        return body
    if encoding == "utf-32" and not data.startswith(_BOMS_32):
        return _check(data, "utf-32-be" if not any(data[1:SAMPLE:4]) else "utf-32-le").encode()
    if encoding == "utf-16" and not data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        zeros_second = data[1:SAMPLE:2].count(0) >= data[0:SAMPLE:2].count(0)
        return _check(data, "utf-16-le" if zeros_second else "utf-16-be").encode()
    if encoding == "windows-1252":
        # Five byte values mean nothing in Windows-1252; they are kept as replacement characters.
        return data.decode("cp1252", errors="replace").encode()
    return _check(data, encoding).encode()


def _check(data: bytes, encoding: str) -> str:
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise Refusal(
            f"The file is not {encoding.upper()}.",
            place=f"byte {error.start + 1}, line {line}",
            todo="Choose another encoding, or save the file as UTF-8.",
        ) from None
