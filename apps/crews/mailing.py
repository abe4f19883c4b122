"""Links by mail, where the yard's server may send any."""

from __future__ import annotations

import logging
import smtplib
from typing import TYPE_CHECKING

from django.conf import settings
from django.core.mail import send_mail
from django.utils.translation import gettext, gettext_lazy

if TYPE_CHECKING:
    from apps.crews.models import Person

log = logging.getLogger("cantrel.mail")
SUBJECTS = {"join": gettext_lazy("You are invited to {yard}"), "reset": gettext_lazy("A new password for {yard}")}
TEXTS = {
    "join": gettext_lazy(
        "{name},\n\n{by} invites you to {yard} in Cantrel. This link works once, for a week:\n\n{link}\n"
    ),
    "reset": gettext_lazy("{name},\n\n{by} sends you a link to choose a new password. It works once:\n\n{link}\n"),
}


def send_link(route: str, email: str, name: str, by: Person, link: str) -> bool:
    """Whether a link went out by mail; where it can't, the page shows it all the same."""
    if not email or not getattr(settings, "EMAIL_HOST", "") or "dummy" in settings.EMAIL_BACKEND:
        return False
    words = {"name": name, "by": by.shown_name(), "yard": by.crew.name, "link": link}
    subject = gettext(SUBJECTS[route]).format(**words).replace("\n", " ").replace("\r", " ")
    try:
        return bool(send_mail(subject, gettext(TEXTS[route]).format(**words), None, [email]))
    except (smtplib.SMTPException, OSError):
        log.exception("no mail to %r", email)
        return False
