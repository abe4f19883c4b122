"""What a page's script is answered: what is wrong where, what was understood, and the parts of the page drawn anew."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.http import JsonResponse
from django.template.loader import render_to_string

from cantrel.quantities import explain
from treecore.errors import CoreError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping

    from django.http import HttpRequest, HttpResponse


def by_script(request: HttpRequest) -> bool:
    """Whether a page's script asks, which wants an answer rather than a page."""
    return request.headers.get("X-Requested-With") == "fetch"


def answer(
    errors: Mapping[str, Any] | None = None, fragments: Mapping[str, str] | None = None, **more: Any
) -> HttpResponse:
    """An answer to a change: errors by field, parts by name, and whatever else the script is told."""
    return JsonResponse({"errors": errors or {}, "values": {}, "fragments": fragments or {}} | more)


def refusal(text: str, **more: Any) -> HttpResponse:
    """An answer that says in one line why nothing was changed."""
    return answer({"__all__": [text]}, **more)


def clashed(said: Mapping[str, str], revision: int) -> HttpResponse:
    """An answer to a save that says at each field what somebody else made of it: told that, the page stands on their
    revision, and saving again keeps one's own. What is said of the whole page is no clash one could decide there.
    """
    told = {} if "__all__" in said else {"revision": revision}
    return answer({name: [text] for name, text in said.items()}, values=told, saved=False)


def parts(
    room: str, names: Iterable[str], context: dict[str, Any], request: HttpRequest | None = None
) -> dict[str, str]:
    """Parts of a room's pages, drawn anew."""
    return {name: render_to_string(f"{room}{name}.html", context, request) for name in names}


def or_broken(make: Callable[[], dict[str, Any]], system: str) -> dict[str, Any]:
    """What a page shows, or the sentence that says why it can't."""
    try:
        return make()
    except CoreError as error:
        return {"broken": explain(error, system)}
