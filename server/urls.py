from __future__ import annotations

from django.conf import settings
from django.contrib import admin
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.urls import path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie

from server.api import api


@never_cache
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponseBase:
    """The one page of the front end; it finds its own way from the address."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built; run ./start.", status=503, content_type="text/plain")
    return HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")


urlpatterns = [
    path("api/", api.urls),
    path("admin/", admin.site.urls),
    re_path(r"^(?!api/|admin/|static/|assets/|live/).*$", page),
]
