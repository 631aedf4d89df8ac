"""What is bounded before Django sees a request: how long its body may be, and where a socket may come from."""

from __future__ import annotations

import json
import re
from collections.abc import Awaitable, Callable
from typing import Any
from urllib.parse import urlsplit

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

MEGA = 1024 * 1024
UNKNOWN = 64 * 1024  # of somebody without a session: a name and a password
USUAL = 12 * MEGA
# By path, what is longer: a character's file, a picture of the reference sheet.
LONGER = (
    (re.compile(r"^/api/productions/\d+/characters$"), 66 * MEGA),
    (re.compile(r"^/api/shots/\d+/sheet$"), 9 * MEGA),
)


class BoundedBodies:
    """Answers 413 to a body that is too long, before more of it than that has been taken."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self.app(scope, receive, send)
            return
        headers = {name.lower(): value for name, value in scope["headers"]}
        most = limit_of(scope["path"], b"sessionid=" in headers.get(b"cookie", b""))
        told = headers.get(b"content-length", b"0")
        if not told.isdigit() or len(told) > 15 or int(told) > most:
            await _too_long(send, most)
            return
        taken, answered = 0, False

        async def counted() -> dict[str, Any]:
            nonlocal taken, answered
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                if not answered:
                    answered = True
                    await _too_long(send, most)
                return {"type": "http.disconnect"}
            return message

        async def unless_answered(message: dict[str, Any]) -> None:
            if not answered:
                await send(message)

        await self.app(scope, counted, unless_answered)


def limit_of(path: str, signed_in: bool) -> int:
    """How many bytes a request to a path may bring."""
    if not signed_in:
        return UNKNOWN
    return next((most for pattern, most in LONGER if pattern.match(path)), USUAL)


async def _too_long(send: Send, most: int) -> None:
    size = f"{most // MEGA} MB" if most >= MEGA else f"{most // 1024} kB"
    body = json.dumps({"message": f"At most {size} are taken here; nothing was stored."}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode()),
               (b"connection", b"close")]  # fmt: skip
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": body})


class OwnOrigin:
    """Lets sockets in only from pages of the very host and port that they ask, or of origins that are named."""

    def __init__(self, app: App, trusted: list[str]) -> None:
        self.app, self.trusted = app, {origin.rstrip("/").lower() for origin in trusted}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = {name.lower(): value.decode("latin-1") for name, value in scope["headers"]}
        if own_origin(headers.get(b"origin", ""), headers.get(b"host", ""), self.trusted):
            await self.app(scope, receive, send)
            return
        await send({"type": "websocket.close", "code": 4403})


def own_origin(origin: str, host: str, trusted: set[str]) -> bool:
    """Whether a page of ``origin`` is ours, asked for under ``host``."""
    if origin.lower() in trusted:
        return True
    try:
        found = urlsplit(origin)
        default = {"http": 80, "https": 443}.get(found.scheme)
        asked = urlsplit(f"//{host}")
        if default is None or not found.hostname:
            return False
        return (found.hostname, found.port or default) == (asked.hostname, asked.port or default)
    except ValueError:
        return False
