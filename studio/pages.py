"""The one page that holds the interface; it asks the API for everything else."""

from __future__ import annotations

from functools import lru_cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie

_MISSING = (
    "<!doctype html><title>Mellow Glass</title><p>The interface isn't built yet. "
    "Run <code>./run demo</code>, or <code>npm ci && npm run build</code> in <code>web/</code>."
)


@lru_cache(maxsize=1)
def _index(changed: float) -> bytes:
    return (settings.WEB_DIST / "index.html").read_bytes()


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """Serve the built interface for every address that isn't the API's."""
    try:
        body = _index((settings.WEB_DIST / "index.html").stat().st_mtime)
    except FileNotFoundError:
        return HttpResponse(_MISSING, status=503)
    return HttpResponse(body, headers={"Cache-Control": "no-cache"})
