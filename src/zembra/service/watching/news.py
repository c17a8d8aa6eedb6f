"""Write findings as an Atom feed, as text, as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any
from xml.etree import ElementTree

from zembra.core.english import counted
from zembra.store.tables import Telling, WatchFinding

ATOM = "http://www.w3.org/2005/Atom"  # RFC 4287
MOST_ENTRIES = 100


def atom(study: str, token: str, address: str, findings: Sequence[WatchFinding]) -> bytes:
    """Return an Atom feed of findings, newest first.

    address: of the feed
    """
    ElementTree.register_namespace("", ATOM)
    feed = ElementTree.Element(f"{{{ATOM}}}feed")
    newest = sorted(findings, key=_changed, reverse=True)[:MOST_ENTRIES]
    latest = _changed(newest[0]) if newest else datetime(2026, 1, 1, tzinfo=UTC)
    for name, text in (
        ("id", f"urn:zembra:{token}"),
        ("title", f"{study}: what needs a look"),
        ("updated", _stamp(latest)),
    ):
        ElementTree.SubElement(feed, f"{{{ATOM}}}{name}").text = text
    ElementTree.SubElement(feed, f"{{{ATOM}}}link", {"rel": "self", "href": address})
    author = ElementTree.SubElement(feed, f"{{{ATOM}}}author")
    ElementTree.SubElement(author, f"{{{ATOM}}}name").text = "Zembra"
    for finding in newest:
        entry = ElementTree.SubElement(feed, f"{{{ATOM}}}entry")
        for name, text in (
            ("id", f"urn:zembra:{token}:{finding.id}"),
            ("title", f"No longer: {finding.text}" if finding.gone_at else finding.text),
            ("published", _stamp(finding.found_at)),
            ("updated", _stamp(_changed(finding))),
            ("summary", finding.text),
        ):
            ElementTree.SubElement(entry, f"{{{ATOM}}}{name}").text = text
    return bytes(ElementTree.tostring(feed, encoding="utf-8", xml_declaration=True))


def as_text(study: str, tellings: Sequence[tuple[Telling, WatchFinding]]) -> tuple[str, str]:
    """Return subject and body of a mail."""
    found = [finding for telling, finding in tellings if not telling.gone]
    gone = [finding for telling, finding in tellings if telling.gone]
    subject = (
        f"{study}: {counted(len(found), 'thing needs', 'things need')} a look"
        if found
        else f"{study}: it holds no longer"
    )
    lines = [finding.text for finding in found]
    if gone:
        lines += [*([""] if lines else []), "No longer:", *(f"  {finding.text}" for finding in gone)]
    return subject, "\n".join(lines) + "\n"


def as_json(study: str, tellings: Sequence[tuple[Telling, WatchFinding]]) -> dict[str, Any]:
    return {
        "study": study,
        "found": [_about(finding) for telling, finding in tellings if not telling.gone],
        "no_longer": [_about(finding) for telling, finding in tellings if telling.gone],
    }


def _about(finding: WatchFinding) -> dict[str, Any]:
    return {
        "id": finding.id,
        "kind": finding.kind,
        "series": finding.series,
        "period": finding.period,
        "value": finding.value,
        "text": finding.text,
        "found_at": _stamp(finding.found_at),
    }


def _changed(finding: WatchFinding) -> datetime:
    return finding.gone_at or finding.found_at


def _stamp(moment: datetime) -> str:
    return moment.astimezone(UTC).isoformat(timespec="seconds")
