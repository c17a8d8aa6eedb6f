"""Send mail through the configured server."""

from __future__ import annotations

import contextlib
import re
import smtplib
import ssl
from email.message import EmailMessage
from urllib.parse import unquote, urlsplit

from zembra.core.errors import Refusal
from zembra.settings import Settings

TIMEOUT = 20.0  # seconds
_ADDRESS = re.compile(r"[\w.!#$%&'*+/=?^`{|}~-]+@[\w.-]+")
_PORTS = {"smtp": 25, "smtps": 465}


def check_mail(settings: Settings, to: str) -> None:
    """Raise Refusal if mail is not configured."""
    if not settings.smtp:
        raise Refusal(
            "Zembra knows no mail server.",
            place="ZEMBRA_SMTP",
            todo="Set it to smtp://host:port, and start Zembra again.",
        )
    if not _ADDRESS.fullmatch(to):
        raise Refusal("This is no address of a mail.", place=to)


def send(settings: Settings, to: str, subject: str, text: str, about: str) -> None:
    """Send a mail. Raises Refusal, OSError, smtplib.SMTPException.

    about: identifies the message, so that duplicates are recognisable
    """
    check_mail(settings, to)
    none = Refusal("The address of the mail server is none.", place="ZEMBRA_SMTP", todo="Write smtp://host:port.")
    try:
        parts = urlsplit(settings.smtp)
        port = parts.port or _PORTS.get(parts.scheme)
    except ValueError:
        raise none from None
    if port is None or parts.scheme not in _PORTS or not parts.hostname:
        raise none
    message = EmailMessage()
    message["From"], message["To"] = settings.mail_from, to
    message["Subject"] = " ".join(subject.split())
    message["Message-ID"] = f"<{about}@zembra>"
    message.set_content(text)
    context = ssl.create_default_context()
    secure = parts.scheme == "smtps"
    opened = (
        smtplib.SMTP_SSL(parts.hostname, port, timeout=TIMEOUT, context=context)
        if secure
        else smtplib.SMTP(parts.hostname, port, timeout=TIMEOUT)
    )
    try:
        opened.ehlo()
        if not secure and opened.has_extn("starttls"):
            opened.starttls(context=context)
            secure = True
        if parts.username:
            if not secure:
                raise Refusal("The mail server would be given the password in the clear.", place=parts.hostname)
            opened.login(unquote(parts.username), unquote(parts.password or ""))
        opened.send_message(message)
        # it was accepted; a failed QUIT is no reason to send it again
        with contextlib.suppress(OSError):
            opened.putcmd("quit")
    finally:
        opened.close()
