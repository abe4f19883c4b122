"""Going back to the page a person came from."""

from __future__ import annotations

from django.utils.http import url_has_allowed_host_and_scheme


def own_page(page: str, otherwise: str) -> str:
    """A page of our own that a form named; another address where it named none, or somebody else's."""
    return page if page.startswith("/") and url_has_allowed_host_and_scheme(page, allowed_hosts=None) else otherwise
