"""Live posing and announcements over a WebSocket. Nothing that must last passes here.

Up, as JSON: ``begin`` names a casting and a frame (and values that are not
stored yet) and is the start of a drag; ``move``, ``turn`` and ``set`` then ask for the pose at the
present state of the drag, each from that start. ``try`` asks how the pose at a frame would be
after an edit, which is not made by that. Down, as bytes, by scene: uint32
sequence number and figures, and of each figure four uint32 (casting, joints,
controls, changed channels); then for each figure its changed channels as float64
pairs (number, value), and float32 joints (J, 8) and controls (K, 12). Figures
that do not move are left out. ``pull`` and ``few`` (:mod:`server.shots.pulls`) are drags by parts of the body: after
the figures of their answers JSON follows, of what gave, and
of how the body stands where ``begin`` asked for it. What a drag does to the paths that ``begin`` named is ``traced``
as JSON, after its answer and when there is time. Announcements come down as JSON.

A state of a drag that is asked for while the one before it still waits takes
its place; of that one it is said that it was ``passed``. Two messages may be answered in another
order than they were sent.
"""

from __future__ import annotations

import asyncio
import json
import logging
import struct
import time
from collections.abc import Awaitable, Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from types import MappingProxyType
from typing import Annotated, Any, Literal

import numpy as np
from channels.layers import get_channel_layer
from django.contrib.auth import get_user_model
from django.http import Http404
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from hame.character.rig import Rig
from hame.clip.plants import Plant
from hame.edits.byhand import moved_by_hand
from hame.edits.chosen import refuse_derived
from hame.edits.making import made
from hame.edits.pose import check_values
from hame.edits.reading import AnyEdit
from hame.errors import HameError
from hame.evaluate.evaluate import pose_of
from hame.evaluate.line import is_tied
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.balance import balances
from hame.scene.gripped import limbs_planted, planted_parts
from hame.scene.joined import bound_to, seen
from hame.scene.scene import Figure, Scene
from hame.solve import pull as pulling
from hame.solve.pull import Begun
from server.errors import Refused
from server.productions.access import need, shared
from server.productions.models import Role
from server.rights import person_group, session_group
from server.shots import store
from server.shots.balance import balance_out
from server.shots.drags import batches, behind, in_thread
from server.shots.models import Take
from server.shots.pulls import Few, Pull, pulled
from server.shots.scenes import cast_of
from server.shots.watching import Watch, changed_values, paths_after, paths_dragged

MAX_MESSAGE = 200_000
# Messages a socket may send: so many at once, and so many a second. A hand moves as often as a screen draws: 60 to
# 144 times a second.
BURST, A_SECOND = 480.0, 240.0
LOOK_AGAIN = 20.0  # seconds: so old may be what a socket knows of its rights
GONE = 4403
DEAF = 1012  # "service restart": the page comes again by itself, and asks for what it missed

_log = logging.getLogger("hame.live")
Number = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Triple = Annotated[list[Number], Field(min_length=3, max_length=3)]
Quaternion = Annotated[list[Number], Field(min_length=4, max_length=4)]
Seq = Annotated[int, Field(ge=0, le=2**32 - 1)]
FrameNumber = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]
RowId = Annotated[int, Field(ge=0, le=2**63 - 1)]
AxesName = Literal["world", "parent", "own", "view"]
SidesName = Literal["one", "mirrored", "opposite"]


class Begin(BaseModel):
    """The start of a drag."""

    do: Literal["begin"]
    seq: Seq
    casting: RowId
    frame: FrameNumber
    values: dict[str, float] = {}
    balance: bool = False
    watch: Watch | None = None


class _Drag(BaseModel):
    seq: Seq
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
    angle: float = Field(ge=-1000, le=1000, allow_inf_nan=False)
    pivot: Triple | None = None


class Set(_Drag):
    do: Literal["set"]
    values: dict[str, float]


class Try(BaseModel):
    """An edit looked at before it is made: the pose at a frame as it would be."""

    do: Literal["try"]
    seq: Seq
    casting: RowId
    frame: FrameNumber
    edit: AnyEdit
    watch: Watch | None = None


_message: TypeAdapter[Begin | Move | Turn | Set | Pull | Few | Try] = TypeAdapter(
    Annotated[Begin | Move | Turn | Set | Pull | Few | Try, Field(discriminator="do")]
)


def dragged(rig: Rig, start: Array, message: Move | Turn | Set, nodes: Array | None = None) -> Array:
    """Channel values (C,) for the present state of a drag that began at ``start``, whose nodes may be known.

    Raises
    ------
    HameError
        If a control is unknown, an axis has no length, the view no turn or a value is past its limits.
    """
    by, angle, pivot, values = np.zeros(3), 0.0, None, {}
    if isinstance(message, Move):
        by = np.array(message.offset, float)
    elif isinstance(message, Turn):
        by, angle = np.array(message.axis, float), message.angle
        pivot = None if message.pivot is None else np.array(message.pivot, float)
    else:
        values = message.values
    return moved_by_hand(
        rig, start, message.do, tuple(message.controls), by, angle, values, message.axes,
        np.array(message.view, float), pivot, message.sides, nodes,
    )  # fmt: skip


@dataclass(frozen=True)
class Moved:
    """A figure that an answer is about.

    Attributes
    ----------
    start, after : channel values (C,) it began at, and those that the hand has set
    shown : channel values (C,) it stands at by that: what is tied follows
    """

    casting: int
    rig: Rig
    start: Array
    after: Array
    shown: Array


def packed_drag(figures: Sequence[Moved], seq: int, said: Mapping[str, Any] | None = None) -> bytes:
    head = [struct.pack("<II", seq, len(figures))]
    parts: list[bytes] = []
    for figure in figures:
        _, joints, controls = pose_of(figure.rig, figure.shown)
        changed = np.flatnonzero(figure.after != figure.start)
        pairs = np.empty((len(changed), 2))
        pairs[:, 0], pairs[:, 1] = changed, figure.after[changed]
        head.append(struct.pack("<IIII", figure.casting, len(joints), len(controls), len(changed)))
        parts += [pairs.tobytes(), joints.tobytes(), controls.tobytes()]
    told = [] if said is None else [json.dumps(said).encode()]
    return b"".join([*head, *parts, *told])


@dataclass(frozen=True, eq=False)
class Start:
    """Where a drag began: whose, at which frame and channel values (C,), and the nodes (N, 8) of that pose.

    ``waiting`` are values that are not stored yet, and ``bound`` those who are tied to it, itself among them; nobody
    where there are no ties.
    """

    casting: int
    rig: Rig
    frame: int
    values: Array
    nodes: Array
    waiting: Mapping[str, float]
    bound: Mapping[int, Figure]
    stood: Mapping[int, Array]
    figure: Figure
    weighed: bool
    scene: Scene
    watch: Watch | None

    @cached_property
    def pull(self) -> Begun:
        """All that a pull from here needs to know; raises :class:`HameError` for a prop."""
        planted = limbs_planted(self.rig, self.figure.clip, self.frame)
        return pulling.begin(self.rig, self.values, self.nodes, self.figure.protected, planted)

    @cached_property
    def planted(self) -> dict[str, Plant]:
        """By part of the body, what a plant holds."""
        return planted_parts(self.rig, self.figure.clip, self.frame)


def _followed(start: Start, after: Array) -> list[Moved]:
    """Everybody who moves when a hand has brought a figure to channel values (C,), itself first."""
    if not start.bound:
        return [Moved(start.casting, start.rig, start.values, after, after)]
    set_by_hand = {start.rig.addresses[n]: float(after[n]) for n in np.flatnonzero(after != start.values)}
    now = seen(start.bound, start.frame, {start.casting: {**start.waiting, **set_by_hand}})
    own = Moved(start.casting, start.rig, start.values, after, now[start.casting].values[0])
    others = [
        Moved(number, posed.rig, start.stood[number], start.stood[number], posed.values[0])
        for number, posed in now.items()
        if number != start.casting
    ]
    return [own, *others]


def _stands(start: Start, moved: Moved) -> dict[str, Any] | None:
    """How a figure stands in the pose of a drag; None for a prop."""
    nodes = pose_of(moved.rig, moved.shown)[0]
    found = balances(start.figure.clip, Posed(moved.rig, moved.shown[None], nodes[None]), start.frame)
    return balance_out(moved.rig, nodes, found[0]).model_dump() if found else None


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
            message = _message.validate_json(text)
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
                    await self._say({"type": "passed", "seq": passed})
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

    def _posed(self, start: Start, message: Move | Turn | Set | Pull | Few) -> bytes:
        said: dict[str, Any] = {}
        if isinstance(message, Pull | Few):
            result, said = pulled(start.pull, start.planted, start.figure.protected, message)
            after = result.values
        else:
            after = dragged(start.rig, start.values, message, start.nodes)
        moved = _followed(start, after)
        if start.weighed:
            said["balance"] = _stands(start, moved[0])
        self.changed = changed_values(start.rig.addresses, start.values, after)
        return packed_drag(moved, message.seq, said or None)

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

        behind().put(self, seq, trace, lambda paths: self._say({"type": "traced", "seq": seq, "paths": paths}))

    def _begun(self, message: Begin) -> bytes:
        self.start = None  # until this one stands, there is none
        take = self._take()
        revision = take.revision  # clips may be read later than this
        scene, of = self._scene(take), message.casting
        figure = scene.figure(of)
        if not (message.watch and message.watch.layer):
            refuse_derived(figure.clip, [message.frame])
        rig = figure.rig
        waiting = check_values(rig, message.values)
        bound = bound_to(scene.figures, of)
        stood = {n: posed.values[0] for n, posed in seen(bound, message.frame, {of: waiting}).items()}
        tied = any(is_tied(one.clip) for one in bound.values())
        values = stood[of]
        self.start = Start(
            of, rig, message.frame, values, pose_of(rig, values)[0], waiting, bound if tied else {}, stood, figure,
            message.balance, scene, message.watch,
        )  # fmt: skip
        # What the drag counts from is what its step is made on.
        return packed_drag(_followed(self.start, values), message.seq, {"revision": revision})

    def _tried(self, message: Try) -> bytes:
        scene, of = self._scene(self._take()), message.casting
        clips = made(message.edit, scene, of).clips
        before = bound_to(scene.figures, of)
        changed = {**scene.figures, **{n: scene.figure(n).with_clip(clip) for n, clip in clips.items()}}
        after = bound_to(changed, of)
        stood = seen(before | {n: scene.figure(n) for n in after}, message.frame)
        moved = [
            Moved(number, posed.rig, stood[number].values[0], posed.values[0], posed.values[0])
            for number, posed in seen({**{n: changed[n] for n in before}, **after}, message.frame).items()
        ]
        paths = None if message.watch is None else paths_after(scene, message.watch, clips)
        return packed_drag(moved, message.seq, None if message.watch is None else {"paths": paths})

    def _take(self) -> Take:
        found = Take.objects.select_related("shot").filter(pk=self.take_id).first()
        if found is None:
            raise HameError("this take was deleted, so nothing can be dragged in it any more")
        return found

    def _scene(self, take: Take) -> Scene:
        return cast_of(take.shot).scene(lambda casting: store.open_clip(take, casting))

    async def _answer(self, seq: int, result: bytes | str) -> None:
        if self._closed:
            return
        if isinstance(result, bytes):
            await self._send({"type": "websocket.send", "bytes": result})
        else:
            await self._fail(seq, result)

    async def _fail(self, seq: int, message: str) -> None:
        await self._say({"type": "error", "seq": seq, "message": message})

    async def _say(self, message: dict[str, Any]) -> None:
        if not self._closed:
            await self._send({"type": "websocket.send", "text": json.dumps(message)})

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
            await self._say({**event, "type": "changed"})
        elif kind == "paths.changed":
            await self._say({"type": "paths"})
        elif kind == "cast.changed":
            await self._say({"type": "cast"})
        elif kind == "person.left":
            await self._say({**event, "type": "left"})
        elif kind in ("person.came", "person.here"):
            await self._say({**event, "type": "came"})
            if kind == "person.came" and event["who"] != self.channel:  # so that the newcomer learns who is here
                here = {"type": "person.here", "name": self._name(), "who": self.channel}
                await self.layer.send(event["who"], here)

    async def _announce(self, kind: str) -> None:
        message = {"type": kind, "name": self._name(), "who": self.channel}
        await self.layer.group_send(store.group_of(self.take_id), message)

    def _name(self) -> str:
        return str(self.user.get_full_name() or self.user.get_username())
