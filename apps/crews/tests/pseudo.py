"""A language that is none: every marked text in brackets, its letters changed, and two fifths longer."""

import re
from contextlib import contextmanager
from html.parser import HTMLParser

from django.apps import apps
from django.db import models
from django.test import override_settings
from django.utils import translation
from django.utils.translation import trans_real

CODE = "en-xa"
OPEN, CLOSE = "⟦", "⟧"
_LETTERS = str.maketrans("aeioucnAEIOUCN", "áéíóúçñÁÉÍÓÚÇÑ")
_FILLED = re.compile(r"(\{[^{}]*\}|%\(\w+\)[a-z]|%[sd])")
_TOLD = ("aria-label", "title", "placeholder", "alt")
_WORD = re.compile(r"[^\W\d_]{3,}")


class Pseudo:
    """What Django asks of a catalogue."""

    def gettext(self, message):
        message = message.rpartition("\x04")[2]  # what stands before is the context it is said in
        if not message or message.startswith(OPEN):
            return message
        parts = _FILLED.split(message)
        said = "".join(p if _FILLED.fullmatch(p) else p.translate(_LETTERS) for p in parts)
        return f"{OPEN}{said}{('~~~~~~ ' * len(message))[: 2 * len(message) // 5]}{CLOSE}"

    def ngettext(self, one, many, count):
        return self.gettext(one if count == 1 else many)

    def language(self):
        return "en"

    def to_language(self):
        return CODE


@contextmanager
def pseudo():
    """Speak it."""
    trans_real._translations[CODE] = Pseudo()
    try:
        with translation.override(CODE), override_settings(LANGUAGE_CODE=CODE):
            yield
    finally:
        trans_real._translations.pop(CODE)


class _Texts(HTMLParser):
    def __init__(self):
        super().__init__()
        self.found, self.left_out = [], 0

    def handle_starttag(self, tag, attrs):
        if tag in ("script", "style", "textarea"):
            self.left_out += 1
        self.found += [value for name, value in attrs if name in _TOLD and value]

    def handle_endtag(self, tag):
        if tag in ("script", "style", "textarea"):
            self.left_out -= 1

    def handle_data(self, data):
        if not self.left_out:
            self.found.append(data)


def typed_by_people():
    """Every text a person typed, longest first."""
    found = set()

    def take(value):
        if isinstance(value, str):
            found.add(value.strip())
            found.update(line.strip() for line in value.splitlines())
        elif isinstance(value, dict):
            for inner in value.values():
                take(inner)
        elif isinstance(value, list | tuple):
            for inner in value:
                take(inner)

    for model in apps.get_models():
        for row in model._default_manager.all():
            for field in model._meta.concrete_fields:
                if isinstance(field, models.CharField | models.TextField | models.JSONField) and not field.choices:
                    take(getattr(row, field.attname))
    return sorted((text for text in found if len(text) > 2), key=len, reverse=True)


def unmarked(html, typed):
    """Words of a page that no catalogue was asked for, those people typed left out."""
    texts = _Texts()
    texts.feed(html)
    left = []
    for text in texts.found:
        bare = text
        while OPEN in bare and re.search(rf"{OPEN}[^{OPEN}{CLOSE}]*{CLOSE}", bare):
            bare = re.sub(rf"{OPEN}[^{OPEN}{CLOSE}]*{CLOSE}", " ", bare)
        for known in typed:
            bare = bare.replace(known, " ")
        if _WORD.search(bare):
            left.append(" ".join(text.split()))
    return left
