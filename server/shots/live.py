"""Live posing and announcements over a WebSocket. Nothing that must last passes here.

Up, as JSON: ``hold`` names a casting and a frame (and values that are not
stored yet) and is the start of a drag; ``move``, ``turn`` and ``set`` then ask for the pose at the
present state of the drag, each from that start. ``try`` asks how the pose at a frame would be
after an edit, which is not made by that. Down, as bytes: four uint32
(sequence number, joints, controls, changed channels), the changed channels as
float64 pairs (number, value), then float32 joints (J, 8) and controls
(K, 12). Announcements come down as JSON.
"""

from __future__ import annotations

import json
import struct
from typing import Annotated, Any, Literal

import numpy as np
from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from django.http import Http404
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.pose import check_values
from hame.errors import HameError
from hame.evaluate.evaluate import controls, evaluate, joints, overlaid, pose_values
from hame.maths.rotations import Array
from hame.solve import drag
from server.characters import store as characters
from server.errors import Refused
from server.productions.access import need, shared
from server.productions.models import Role
from server.shots import store
from server.shots.edits import function_of
from server.shots.models import Casting, Take
from server.shots.schemas import AnyEdit

MAX_MESSAGE = 200_000
Triple = Annotated[list[float], Field(min_length=3, max_length=3)]
Quaternion = Annotated[list[float], Field(min_length=4, max_length=4)]
AxesName = Literal["world", "parent", "own", "view"]
SidesName = Literal["one", "mirrored", "opposite"]


class Hold(BaseModel):
    do: Literal["hold"]
    seq: int
    casting: int
    frame: int
    values: dict[str, float] = {}


class _Drag(BaseModel):
    seq: int
    controls: list[str] = Field(max_length=2000)
    axes: AxesName = "world"
    view: Quaternion = [0, 0, 0, 1]
    sides: SidesName = "one"


class Move(_Drag):
    do: Literal["move"]
    offset: Triple


class Turn(_Drag):
    do: Literal["turn"]
    axis: Triple
    angle: float
    pivot: Triple | None = None


class Set(_Drag):
    do: Literal["set"]
    values: dict[str, float]


class Try(BaseModel):
    """An edit looked at before it is made: the pose at a frame as it would be."""

    do: Literal["try"]
    seq: int
    casting: int
    frame: int
    edit: AnyEdit


_message: TypeAdapter[Hold | Move | Turn | Set | Try] = TypeAdapter(
    Annotated[Hold | Move | Turn | Set | Try, Field(discriminator="do")]
)


def dragged(rig: Rig, start: Array, message: Move | Turn | Set) -> Array:
    """Channel values (C,) for the present state of a drag that began at ``start``.

    Raises
    ------
    HameError
        If a control is unknown or a number is not finite.
    """
    for name in message.controls:
        rig.control(name)
    view = np.array(message.view)
    if isinstance(message, Move):
        _finite([*message.offset, *message.view])
        after = drag.move(rig, start, message.controls, np.array(message.offset), message.axes, view)
    elif isinstance(message, Turn):
        _finite([*message.axis, message.angle, *(message.pivot or []), *message.view])
        pivot = None if message.pivot is None else np.array(message.pivot)
        axis = np.array(message.axis)
        if np.linalg.norm(axis) < 1e-9:
            raise HameError("a turn needs an axis with a length")
        after = drag.turn(rig, start, message.controls, axis, message.angle, message.axes, view, pivot)
    else:
        after = overlaid(rig, start, check_values(rig, message.values))
    return drag.on_both_sides(rig, start, after, message.controls, message.sides)


def _finite(numbers: list[float]) -> None:
    if not np.isfinite(numbers).all():
        raise HameError("a number of the drag is not finite")


def packed_drag(rig: Rig, start: Array, after: Array, seq: int) -> bytes:
    nodes = evaluate(rig, after[None])
    changed = np.flatnonzero(after != start)
    head = struct.pack("<IIII", seq, len(rig.skeleton), len(rig.controls), len(changed))
    pairs = np.stack([changed.astype("<f8"), after[changed]], axis=1).astype("<f8")
    parts = [joints(rig, nodes)[0], controls(rig, nodes)[0]]
    return head + pairs.tobytes() + b"".join(part.astype("<f4").tobytes() for part in parts)


class LiveTake(AsyncWebsocketConsumer):  # type: ignore[misc]
    """One page that has a take open."""

    rig: Rig | None = None
    start: Array | None = None

    async def connect(self) -> None:
        self.user = self.scope["user"]
        self.take_id: int = self.scope["url_route"]["kwargs"]["take_id"]
        self.may_change = False
        if not self.user.is_authenticated or not await self._may_look():
            await self.close(code=4403)
            return
        await self.accept()
        await self.channel_layer.group_add(store.group_of(self.take_id), self.channel_name)
        await self._tell("person.came")

    async def disconnect(self, code: int) -> None:
        await self.channel_layer.group_discard(store.group_of(self.take_id), self.channel_name)
        if self.user.is_authenticated:
            await self._tell("person.left")

    @database_sync_to_async  # type: ignore[untyped-decorator]
    def _may_look(self) -> bool:
        try:
            take: Take = shared(self.user, Take.objects.select_related("shot"), "shot__production", pk=self.take_id)
        except Http404:
            return False
        try:
            need(self.user, take.shot.production_id, Role.ANIMATOR)
            self.may_change = True
        except Refused:  # a guest: looks only
            self.may_change = False
        return True

    def _clip(self, casting_id: int) -> tuple[Casting, Rig, Clip]:
        take = Take.objects.get(pk=self.take_id)
        casting = Casting.objects.select_related("version", "shot").filter(pk=casting_id, shot_id=take.shot_id).first()
        if casting is None:
            raise HameError("this character does not play in this shot")
        return casting, characters.rig(casting.version), store.open_clip(take, casting.pk)

    @database_sync_to_async  # type: ignore[untyped-decorator]
    def _open(self, message: Hold) -> tuple[Rig, Array]:
        _, rig, clip = self._clip(message.casting)
        return rig, pose_values(rig, clip, message.frame)

    @database_sync_to_async  # type: ignore[untyped-decorator]
    def _tried(self, message: Try) -> bytes:
        casting, rig, clip = self._clip(message.casting)
        start = pose_values(rig, clip, message.frame)
        after = pose_values(rig, function_of(message.edit, rig, casting)(clip).clip, message.frame)
        return packed_drag(rig, start, after, message.seq)

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        if not text_data or len(text_data) > MAX_MESSAGE:
            return
        seq = -1
        try:
            message = _message.validate_json(text_data)
            seq = message.seq
            if not self.may_change:
                raise HameError("a guest only looks; ask the lead of the production to change that")
            if isinstance(message, Try):
                await self.send(bytes_data=await self._tried(message))
                return
            if isinstance(message, Hold):
                self.rig, start = await self._open(message)
                self.start = overlaid(self.rig, start, check_values(self.rig, message.values))
                after = self.start
            elif self.rig is None or self.start is None:
                raise HameError("a drag begins with a hold")
            else:
                after = dragged(self.rig, self.start, message)
            await self.send(bytes_data=packed_drag(self.rig, self.start, after, seq))
        except ValidationError as error:
            await self._say({"type": "error", "seq": seq, "message": f"not understood: {error.errors()[0]['msg']}"})
        except HameError as error:
            await self._say({"type": "error", "seq": seq, "message": str(error)})

    async def _say(self, message: dict[str, Any]) -> None:
        await self.send(text_data=json.dumps(message))

    async def _tell(self, kind: str) -> None:
        name = self.user.get_full_name() or self.user.get_username()
        await self.channel_layer.group_send(
            store.group_of(self.take_id), {"type": kind, "name": name, "who": self.channel_name}
        )

    async def take_changed(self, event: dict[str, Any]) -> None:
        await self._say({**event, "type": "changed"})

    async def person_came(self, event: dict[str, Any]) -> None:
        await self._say({**event, "type": "came"})
        if event["who"] != self.channel_name:  # so that the newcomer learns who is here
            name = self.user.get_full_name() or self.user.get_username()
            await self.channel_layer.send(event["who"], {"type": "person.here", "name": name, "who": self.channel_name})

    async def person_here(self, event: dict[str, Any]) -> None:
        await self._say({**event, "type": "came"})

    async def person_left(self, event: dict[str, Any]) -> None:
        await self._say({**event, "type": "left"})
