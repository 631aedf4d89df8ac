"""Live posing over the real consumer: who may, what comes back, and what is announced."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from asgiref.sync import async_to_sync
from channels.testing import WebsocketCommunicator
from django.test import Client, TransactionTestCase

from hame.evaluate.evaluate import evaluate, joints
from server.asgi import application
from server.characters import store as characters
from server.shots.models import Take
from tests.server.base import furnish
from tests.server.binary import drag_of, motion_of


def unpack(data: bytes) -> tuple[int, dict[int, float], np.ndarray]:
    """Of an answer about one figure: sequence number, changed channels, joints."""
    seq, figures = drag_of(data)
    [moved] = figures.values()
    return seq, moved.changed, moved.joints


class SocketTest(TransactionTestCase):
    """A socket to the real consumer, as a page has it."""

    def setUp(self) -> None:
        furnish(self)
        self.rig = characters.rig(self.casting.version)  # type: ignore[attr-defined]

    def socket(self, user: str | None, origin: str = "http://localhost") -> WebsocketCommunicator:
        headers = [(b"origin", origin.encode()), (b"host", b"localhost")]
        if user:
            client = Client()
            client.force_login(getattr(self, user))
            headers.append((b"cookie", f"sessionid={client.cookies['sessionid'].value}".encode()))
        return WebsocketCommunicator(application, f"/live/takes/{self.take.pk}", headers)  # type: ignore[attr-defined]

    async def answer(self, socket: WebsocketCommunicator, message: dict[str, Any]) -> Any:
        """The next answer that is no announcement of people."""
        await socket.send_to(text_data=json.dumps(message))
        while True:
            got = await socket.receive_output(5)
            if got.get("bytes") is not None:
                return got["bytes"]
            told = json.loads(got["text"])
            if told["type"] not in ("came", "left"):
                return told


class LiveTest(SocketTest):
    def test_only_members_come_in_and_only_from_our_own_page(self) -> None:
        async def tries() -> list[bool]:
            found = []
            for user, origin in (
                (None, "http://localhost"), ("stranger", "http://localhost"), ("isla", "http://elsewhere.example"),
                ("isla", "http://localhost"), ("tam", "http://localhost"),
            ):  # fmt: skip
                socket = sockets[user, origin]
                connected, _ = await socket.connect(5)
                found.append(connected)
                await socket.disconnect()
            return found

        keys = [(None, "http://localhost"), ("stranger", "http://localhost"), ("isla", "http://elsewhere.example"),
                ("isla", "http://localhost"), ("tam", "http://localhost")]  # fmt: skip
        sockets = {key: self.socket(*key) for key in keys}
        self.assertEqual(async_to_sync(tries)(), [False, False, False, True, True])

    def test_a_drag_answers_with_what_hangs_as_it_will_be(self) -> None:
        take, cast, client = self.take.pk, self.casting.pk, Client()  # type: ignore[attr-defined]
        client.force_login(self.isla)  # type: ignore[attr-defined]

        def edit(**what: Any) -> None:
            revision = Take.objects.get(pk=take).revision
            body = {"revision": revision, "casting": cast, "edit": what}
            answer = client.post(f"/api/takes/{take}/edits", json.dumps(body), content_type="application/json")
            self.assertEqual(answer.status_code, 200, answer.content)

        for frame, angle in ((1, 0.0), (10, 0.4), (30, -0.2)):
            edit(kind="pose", frame=frame, values={"head/rx": angle})
        edit(kind="spring", controls=["beard"], start=1, end=48)
        socket = self.socket("isla")

        async def drag() -> Any:
            await socket.connect(5)
            await self.answer(socket, {"do": "begin", "seq": 1, "casting": cast, "frame": 30})
            turn = {"do": "turn", "seq": 2, "controls": ["head"], "axis": [1, 0, 0], "angle": 0.7, "axes": "own"}
            answer = await self.answer(socket, turn)
            await socket.disconnect()
            return answer

        seq, changed, pose = unpack(async_to_sync(drag)())
        self.assertEqual({self.rig.addresses[c] for c in changed}, {"head/rx"})  # what the hand has set, and no more
        edit(kind="pose", frame=30, values={self.rig.addresses[c]: v for c, v in changed.items()})
        got = client.get(f"/api/takes/{take}/motion?casting={cast}&first=30&last=30")
        then = motion_of(got.content)[2][cast].joints[0]
        np.testing.assert_allclose(pose, then, atol=1e-5)

    def test_a_drag_answers_with_the_pose_the_core_computes(self) -> None:
        socket = self.socket("isla")
        cast = self.casting.pk  # type: ignore[attr-defined]

        async def drag() -> Any:
            await socket.connect(5)
            await self.answer(socket, {"do": "begin", "seq": 1, "casting": cast, "frame": 1})
            moved = await self.answer(
                socket, {"do": "move", "seq": 2, "controls": ["leg.L.goal"], "offset": [0, 0.2, 0.1], "axes": "world"}
            )
            turned = await self.answer(
                socket, {"do": "turn", "seq": 3, "controls": ["head"], "axis": [0, 1, 0], "angle": 0.5, "axes": "own"}
            )
            both = await self.answer(
                socket,
                {
                    "do": "set",
                    "seq": 4,
                    "controls": ["leg.L.goal"],
                    "values": {"leg.L.goal/tx": 0.055},
                    "sides": "opposite",
                },
            )
            await socket.disconnect()
            return moved, turned, both

        moved, turned, both = async_to_sync(drag)()
        seq, changed, pose = unpack(moved)
        self.assertEqual(seq, 2)
        self.assertEqual(
            {self.rig.addresses[c]: round(v, 9) for c, v in changed.items()},
            {"leg.L.goal/ty": 0.2, "leg.L.goal/tz": 0.1},
        )
        values = self.rig.rest.copy()
        for c, v in changed.items():
            values[c] = v
        np.testing.assert_allclose(pose, joints(self.rig, evaluate(self.rig, values[None]))[0], atol=1e-6)
        # Each message counts from its start, so the foot is back in place while the head turns.
        self.assertEqual({self.rig.addresses[c] for c in unpack(turned)[1]}, {"head/ry"})
        self.assertEqual(
            {self.rig.addresses[c]: v for c, v in unpack(both)[1].items()},
            {"leg.L.goal/tx": 0.055, "leg.R.goal/tx": -0.055},
        )

    def test_refusals_name_the_reason_and_the_socket_stays_open(self) -> None:
        isla, tam = self.socket("isla"), self.socket("tam")
        cast = self.casting.pk  # type: ignore[attr-defined]

        async def tries() -> list[str]:
            await isla.connect(5)
            found = [
                (await self.answer(isla, message))["message"]
                for message in (
                    {"do": "move", "seq": 1, "controls": ["head"], "offset": [0, 0, 0]},
                    {"do": "begin", "seq": 2, "casting": 999_999, "frame": 1},
                    {"do": "explode", "seq": 3},
                )
            ]
            await self.answer(isla, {"do": "begin", "seq": 4, "casting": cast, "frame": 1})
            for message in (
                {"do": "move", "seq": 5, "controls": ["tail"], "offset": [0, 0, 0]},
                {"do": "move", "seq": 6, "controls": ["body"], "offset": [float("nan"), 0, 0]},
                {"do": "set", "seq": 7, "controls": ["jaw"], "values": {"jaw/rx": 4}},
                {"do": "turn", "seq": 8, "controls": ["head"], "axis": [0, 0, 0], "angle": 1},
            ):
                found.append((await self.answer(isla, message))["message"])
            await tam.connect(5)
            found.append((await self.answer(tam, {"do": "begin", "seq": 1, "casting": cast, "frame": 1}))["message"])
            await isla.disconnect()
            await tam.disconnect()
            return found

        for said, words in zip(
            async_to_sync(tries)(),
            (
                "has to be begun",
                "does not play",
                "not understood",
                "no control",
                "not",
                "past its limit",
                "axis",
                "guest",
            ),
            strict=True,
        ):
            self.assertIn(words, said)

    def test_a_committed_step_is_announced_to_everybody(self) -> None:
        isla, tam = self.socket("isla"), self.socket("tam")
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        from channels.db import database_sync_to_async

        def commit() -> int:
            body = {"revision": 0, "casting": self.casting.pk, "edit": {"kind": "key", "frame": 1}}  # type: ignore[attr-defined]
            return client.post(
                f"/api/takes/{self.take.pk}/edits", json.dumps(body), content_type="application/json"
            ).status_code  # type: ignore[attr-defined]

        async def watch() -> list[dict[str, Any]]:
            await isla.connect(5)
            await tam.connect(5)
            self.assertEqual(await database_sync_to_async(commit)(), 200)
            told = []
            for socket in (isla, tam):
                while True:
                    message = json.loads((await socket.receive_output(5))["text"])
                    if message["type"] == "changed":
                        told.append(message)
                        break
            await isla.disconnect()
            await tam.disconnect()
            return told

        for message in async_to_sync(watch)():
            self.assertEqual(
                (message["revision"], message["label"], message["by"]), (1, "Key the whole character at 1", "Isla")
            )
        self.assertEqual(Take.objects.get().revision, 1)

    def test_an_edit_can_be_looked_at_without_being_made(self) -> None:
        """As a breakdown slider does while it is dragged."""
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        take, cast = self.take.pk, self.casting.pk  # type: ignore[attr-defined]
        for revision, (frame, value) in enumerate(((1, 0.0), (9, 0.8))):
            edit = {"kind": "pose", "frame": frame, "values": {"head/ry": value}}
            body = json.dumps({"revision": revision, "casting": cast, "edit": edit})
            client.post(f"/api/takes/{take}/edits", body, content_type="application/json")
        socket = self.socket("isla")
        number = self.rig.number("head/ry")

        async def look() -> tuple[float, Any, Any]:
            await socket.connect()
            wish = {"kind": "breakdown", "frame": 5, "share": 0.25, "controls": None, "keying": "changed"}
            ask = {"do": "try", "casting": cast, "frame": 5}
            _, changed, _ = unpack(await self.answer(socket, {**ask, "seq": 1, "edit": wish}))
            refused = await self.answer(socket, {**ask, "seq": 2, "edit": {**wish, "share": 3.0}})
            odd = await self.answer(socket, {**ask, "seq": 3, "edit": {"kind": "no such thing"}})
            await socket.disconnect()
            return changed[number], refused, odd

        value, refused, odd = async_to_sync(look)()
        self.assertAlmostEqual(value, 0.2)
        self.assertIn("from -50% to 150%", refused["message"])
        self.assertEqual(odd["type"], "error")
        self.assertEqual(Take.objects.get().revision, 2)
