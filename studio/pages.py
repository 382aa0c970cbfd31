"""The pages that hold the interface; they ask the API for everything else."""

from __future__ import annotations

from functools import lru_cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import ensure_csrf_cookie

_MISSING = (
    "<!doctype html><title>Mellow Glass</title><p>The interface isn't built yet. "
    "Run <code>./run demo</code>, or <code>npm ci && npm run build</code> in <code>web/</code>."
)
# Nothing of an installation is for search engines.
_ROBOTS = "User-agent: *\nDisallow: /\n"


@lru_cache(maxsize=4)
def _built(name: str, changed: float) -> bytes:
    return (settings.WEB_DIST / name).read_bytes()


def _page(name: str) -> HttpResponse:
    try:
        body = _built(name, (settings.WEB_DIST / name).stat().st_mtime)
    except FileNotFoundError:
        return HttpResponse(_MISSING, status=503)
    return HttpResponse(body, headers={"Cache-Control": "no-cache"})


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """Serve the built interface for every address that isn't the API's."""
    return _page("index.html")


def client_page(request: HttpRequest, token: str) -> HttpResponse:
    """The page of a client: of its own, so that nothing of the studio comes along.

    Its address is a secret: it isn't told to other pages, and search engines leave it alone.
    """
    answer = _page("showing.html")
    answer.headers["Referrer-Policy"] = "no-referrer"
    answer.headers["X-Robots-Tag"] = "noindex, nofollow, noarchive"
    return answer


def no_such_address(request: HttpRequest) -> JsonResponse:
    """The answer of the API where it has nothing, in the form of all its problems."""
    return JsonResponse(
        {"code": "not_found", "message": "The API has nothing at this address."}, status=404
    )


def robots(request: HttpRequest) -> HttpResponse:
    """What search engines may look at: nothing."""
    return HttpResponse(_ROBOTS, content_type="text/plain")
