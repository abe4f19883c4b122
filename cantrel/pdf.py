"""A page drawn as PDF, from our own files alone."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.contrib.staticfiles import finders
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

if TYPE_CHECKING:
    from typing import Any

FONT = "static:vendor/archivo/archivo-latin-wght-normal.woff2"


class OwnFiles(URLFetcher):
    """Nothing but our own files is ever loaded."""

    def fetch(self, url: str, headers: Any = None) -> URLFetcherResponse:
        """One of our own files; any other address is refused."""
        path = finders.find(url.removeprefix("static:")) if url.startswith("static:") else None
        if path is None:
            message = f"a page asked for {url}"
            raise ValueError(message)
        with open(path, "rb") as file:
            return URLFetcherResponse(url, file.read(), {"Content-Type": "font/woff2"})


def drawn(html: str, style: str, size: str) -> bytes:
    """A page with a style of its own on paper of a size, as CSS names it."""
    fonts, own = FontConfiguration(), OwnFiles()
    page = f"@page{{size:{size};margin:14mm 12mm 16mm}}"
    font = "".join(f'@font-face{{font-family:Archivo;src:url("{FONT}");font-weight:{w}}}' for w in (400, 700))
    sheets = [CSS(string=page + font + style, font_config=fonts, url_fetcher=own)]
    document = HTML(string=html, url_fetcher=own, base_url="static:")
    found: bytes = document.write_pdf(stylesheets=sheets, font_config=fonts, presentational_hints=True)
    return found
