"""Live posing and announcements over a WebSocket: the socket of a take, with its rights and its pace.

Nothing that must last passes here. What is said stands in :mod:`server.shots.messages`; what is asked for is worked
out in :mod:`server.shots.dragging`.

A state of a drag that is asked for while the one before it still waits takes its place; of that one it is said that it
was ``passed``. Two messages may be answered in another order than they were sent.
"""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Awaitable, Callable, Mapping
from types import MappingProxyType
from typing import Any

from channels.layers import get_channel_layer
from django.contrib.auth import get_user_model
from django.http import Http404
from pydantic import BaseModel, ValidationError

from hame.errors import HameError
from server.errors import Refused
from server.productions.access import need, shared
from server.productions.models import Role
from server.rights import person_group, session_group
from server.shots import dragging, store
from server.shots.dragging import Start
from server.shots.drags import batches, behind, in_thread
from server.shots.messages import (
    UP,
    Begin,
    Came,
    CastChanged,
    Drag,
    Failed,
    GuidesChanged,
    Left,
    Passed,
    PathsChanged,
    TakeChanged,
    Traced,
    Try,
)
from server.shots.models import Take
from server.shots.watching import paths_dragged

MAX_MESSAGE = 200_000
# Messages a socket may send: so many at once, and so many a second. A hand moves as often as a screen draws: 60 to
# 144 times a second.
BURST, A_SECOND = 480.0, 240.0
LOOK_AGAIN = 20.0  # seconds: so old may be what a socket knows of its rights
GONE = 4403
DEAF = 1012  # "service restart": the page comes again by itself, and asks for what it missed

_log = logging.getLogger("hame.live")


class LiveTake:
    """One page that has a take open: an ASGI application for its socket.

    Announcements come through the channel layer, on a channel of this socket's own that is in the groups of its take,
    its person and its sign-in.
    """

    start: Start | None = None
    changed: Mapping[str, float] = MappingProxyType({})

    def __init__(self, scope: dict[str, Any], send: Callable[[dict[str, Any]], Awaitable[None]]) -> None:
        self.scope, self._send = scope, send
        self.user = scope["user"]
        self.take_id: int = scope["url_route"]["kwargs"]["take_id"]
        self.layer = get_channel_layer()
        self.may_change = False
        self._looked = 0.0
        self._tokens, self._filled = BURST, time.monotonic()
        self._closed = False

    @classmethod
    def as_asgi(cls) -> Callable[..., Awaitable[None]]:
        async def application(scope: dict[str, Any], receive: Any, send: Any) -> None:
            await cls(scope, send).run(receive)

        return application

    async def run(self, receive: Callable[[], Awaitable[dict[str, Any]]]) -> None:
        if (await receive())["type"] != "websocket.connect":
            return
        if not self.user.is_authenticated or not await in_thread(self._may_look):
            await self._close()
            return
        self.channel = await self.layer.new_channel()
        groups = [store.group_of(self.take_id), person_group(self.user.pk)]
        session = self.scope.get("session")
        if session is not None and session.session_key:
            groups.append(session_group(session.session_key))
        for group in groups:
            await self.layer.group_add(group, self.channel)
        # Only now: what the page asks for when its socket opens and what it is told from then on leave no gap.
        await self._send({"type": "websocket.accept"})
        listening = asyncio.get_running_loop().create_task(self._listen())
        try:
            await self._announce("person.came")
            while not self._closed:
                message = await receive()
                if message["type"] == "websocket.disconnect":
                    break
                await self.hear(message.get("text"))
        finally:
            listening.cancel()
            batches().drop(self)
            behind().drop(self)
            try:
                for group in groups:
                    await self.layer.group_discard(group, self.channel)
                await self._announce("person.left")
            except Exception:
                _log.exception("a socket's leaving could not be told")

    # Rights

    def _may_look(self) -> bool:
        self._looked = time.monotonic()
        try:
            # The person is read anew as well: an account may have been closed.
            user = get_user_model().objects.get(pk=self.user.pk, is_active=True)
            take: Take = shared(user, Take.objects.select_related("shot"), "shot__production", pk=self.take_id)
        except (Http404, get_user_model().DoesNotExist):
            return False
        try:
            need(self.user, take.shot.production_id, Role.ANIMATOR)
            self.may_change = True
        except Refused:  # a guest: looks only
            self.may_change = False
        return True

    async def _still_may(self) -> bool:
        """Whether the page may still look; asked of the database when that was long ago, and closed if not."""
        if self._closed:
            return False
        if time.monotonic() - self._looked > LOOK_AGAIN and not await in_thread(self._may_look):
            await self._close()
        return not self._closed

    async def _close(self, code: int = GONE) -> None:
        if not self._closed:
            self._closed = True
            await self._send({"type": "websocket.close", "code": code})

    # What the page says

    async def hear(self, text: str | None) -> None:
        if not text or len(text) > MAX_MESSAGE or not await self._still_may():
            return
        await self._pace()
        seq = -1
        try:
            message = UP.validate_json(text)
            seq = message.seq
            if not self.may_change:
                raise HameError("a guest only looks; ask the lead of the production to change that")
            if isinstance(message, Try):
                await self._answer(seq, await in_thread(self._guarded, self._tried, message))
            elif isinstance(message, Begin):
                await self._answer(seq, await in_thread(self._guarded, self._begun, message))
            elif self.start is None:
                raise HameError("a drag has to be begun")
            else:
                start = self.start
                passed = batches().put(
                    self,
                    seq,
                    lambda: self._guarded(self._posed, start, message),
                    lambda result: self._answer_drag(start, seq, result),
                )
                if passed is not None:
                    await self._say(Passed(seq=passed))
        except ValidationError as error:
            await self._fail(seq, f"not understood: {error.errors()[0]['msg']}")
        except HameError as error:
            await self._fail(seq, str(error))

    async def _pace(self) -> None:
        """Takes messages no faster than a socket may say them: the rest waits on its way, and none is lost."""
        now = time.monotonic()
        self._tokens = min(BURST, self._tokens + (now - self._filled) * A_SECOND) - 1.0
        self._filled = now
        if self._tokens < 0.0:
            await asyncio.sleep(-self._tokens / A_SECOND)

    def _guarded(self, work: Callable[..., bytes], *arguments: Any) -> bytes | str:
        """The answer as bytes, or in words why there is none."""
        try:
            return work(*arguments)
        except HameError as error:
            return str(error)
        except Exception:
            _log.exception("a drag failed")
            return "this drag could not be computed; nothing was stored or lost by it"

    def _posed(self, start: Start, message: Drag) -> bytes:
        self.changed, answer = dragging.posed(start, message)
        return answer

    async def _answer_drag(self, start: Start, seq: int, result: bytes | str) -> None:
        """The pose that the hand waits for; what it does to watched paths follows when there is time."""
        changed, watch = self.changed, start.watch
        await self._answer(seq, result)
        if watch is None or not watch.things or not isinstance(result, bytes) or self.start is not start:
            return

        def trace() -> Any:
            try:
                return paths_dragged(start.scene, start.casting, start.frame, watch, changed)
            except Exception:
                _log.exception("paths could not be traced")
                return None

        behind().put(self, seq, trace, lambda paths: self._say(Traced(seq=seq, paths=paths)))

    def _begun(self, message: Begin) -> bytes:
        self.start = None  # until this one stands, there is none
        self.start, answer = dragging.begun(self._take(), message)
        return answer

    def _tried(self, message: Try) -> bytes:
        return dragging.tried(self._take(), message, self.user)

    def _take(self) -> Take:
        found = Take.objects.select_related("shot").filter(pk=self.take_id).first()
        if found is None:
            raise HameError("this take was deleted, so nothing can be dragged in it any more")
        return found

    async def _answer(self, seq: int, result: bytes | str) -> None:
        if self._closed:
            return
        if isinstance(result, bytes):
            await self._send({"type": "websocket.send", "bytes": result})
        else:
            await self._fail(seq, result)

    async def _fail(self, seq: int, message: str) -> None:
        await self._say(Failed(seq=seq, message=message))

    async def _say(self, message: BaseModel) -> None:
        if not self._closed:
            await self._send({"type": "websocket.send", "text": message.model_dump_json()})

    # What others say

    async def _listen(self) -> None:
        while not self._closed:
            try:
                event = await self.layer.receive(self.channel)
            except Exception:
                # Nothing can be heard any more. An open socket that is deaf would keep its page on an old state.
                _log.exception("announcements cannot be heard")
                await self._close(DEAF)
                return
            try:
                await self._told(event)
            except Exception:
                _log.exception("an announcement failed")

    async def _told(self, event: dict[str, Any]) -> None:
        kind = event["type"]
        if kind == "rights.gone":
            await self._close()
            return
        if kind == "rights.changed":
            self._looked = -1e9
        if not await self._still_may():
            return
        if kind == "take.changed":
            await self._say(TakeChanged(**{**event, "type": "changed"}))
        elif kind == "paths.changed":
            await self._say(PathsChanged())
        elif kind == "guides.changed":
            await self._say(GuidesChanged())
        elif kind == "cast.changed":
            await self._say(CastChanged())
        elif kind == "person.left":
            await self._say(Left(who=event["who"], name=event["name"]))
        elif kind in ("person.came", "person.here"):
            await self._say(Came(who=event["who"], name=event["name"]))
            if kind == "person.came" and event["who"] != self.channel:  # so that the newcomer learns who is here
                here = {"type": "person.here", "name": self._name(), "who": self.channel}
                await self.layer.send(event["who"], here)

    async def _announce(self, kind: str) -> None:
        message = {"type": kind, "name": self._name(), "who": self.channel}
        await self.layer.group_send(store.group_of(self.take_id), message)

    def _name(self) -> str:
        return str(self.user.get_full_name() or self.user.get_username())
