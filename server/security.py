"""Headers that keep a page from running or loading what is not Hame's own."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest
from django.http.response import HttpResponseBase

# Styles are laid in by the front end's style library as it runs; scripts never are. Pictures are drawn by the page
# itself (blob:), and three's loader reads textures of a character that way.
POLICY = "; ".join((
    "default-src 'self'", "script-src 'self'", "style-src 'self' 'unsafe-inline'", "img-src 'self' blob: data:",
    "font-src 'self'", "connect-src 'self' blob:", "worker-src 'self' blob:", "object-src 'none'", "base-uri 'none'",
    "form-action 'self'", "frame-ancestors 'none'",
))  # fmt: skip


def content_security_policy(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    def middleware(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        return response

    return middleware
