"""HTTP through Django, WebSockets through Channels, only from the page's own origin."""

from __future__ import annotations

import os
import warnings

from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from channels.security.websocket import AllowedHostsOriginValidator
from django.core.asgi import get_asgi_application
from django.urls import path

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
# Files are read whole and are small; Django's advice to stream them asynchronously is not needed here.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume")
http = get_asgi_application()

from server.shots.live import LiveTake  # noqa: E402  (needs the loaded apps)

application = ProtocolTypeRouter(
    {
        "http": http,
        "websocket": AllowedHostsOriginValidator(
            AuthMiddlewareStack(URLRouter([path("live/takes/<int:take_id>", LiveTake.as_asgi())]))
        ),
    }
)
