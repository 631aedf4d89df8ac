"""HTTP through Django, WebSockets through Channels, only from the page's own origin, and both within bounds."""

from __future__ import annotations

import gc
import os
import sys
import warnings
from typing import Any, cast

from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from django.core.asgi import get_asgi_application
from django.urls import path, re_path

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
# A hand that moves waits for no more than this of what other requests compute in Python, five times less than usual.
sys.setswitchinterval(0.001)
# Files are read whole and are small; Django's advice to stream them asynchronously is not needed here.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume")
http = get_asgi_application()

from django.conf import settings  # noqa: E402

from server import working  # noqa: E402
from server.limits import BoundedBodies, OwnOrigin  # noqa: E402
from server.shots.live import LiveTake  # noqa: E402  (needs the loaded apps)


async def nowhere(scope: dict[str, Any], receive: Any, send: Any) -> None:
    """A socket for which there is no address."""
    await send({"type": "websocket.close", "code": 4404})


sockets = URLRouter([path("live/takes/<int:take_id>", cast(Any, LiveTake.as_asgi())), re_path("", cast(Any, nowhere))])
application = ProtocolTypeRouter(
    {
        "http": BoundedBodies(cast(Any, http)),
        "websocket": OwnOrigin(AuthMiddlewareStack(sockets), settings.CSRF_TRUSTED_ORIGINS),
    }
)
if os.environ.get("HAME_READY"):  # by ./start: nobody waits for it at the first long look
    working.ready()
# What is loaded by now stays: looking through all of it again and again would hold up hands.
gc.collect()
gc.freeze()
