"""What is bounded before Django sees a request, what a socket may, and what a person may ask for at once."""

from __future__ import annotations

import asyncio
import json
import os
import subprocess
import sys
import time
from typing import Any
from unittest import TestCase, mock

from asgiref.sync import async_to_sync, sync_to_async
from channels.testing import WebsocketCommunicator
from django.conf import settings
from django.contrib.sessions.models import Session
from django.test import Client

from server.asgi import application
from server.limits import UNKNOWN, BoundedBodies, limit_of, own_origin
from server.productions.models import Membership
from server.shots import live, pace
from server.shots.drags import Batches
from tests.server.base import ServerTest
from tests.server.test_live import SocketTest


class BodiesTest(TestCase):
    def send(self, chunks: list[bytes], cookie: bytes = b"", length: bytes | None = None, path: str = "/api/x") -> Any:
        """What a request with a body in chunks is answered, and how many of them were taken."""
        taken = 0

        async def app(scope: Any, receive: Any, send: Any) -> None:
            while True:
                message = await receive()
                if message["type"] == "http.disconnect" or not message.get("more_body"):
                    break
            await send({"type": "http.response.start", "status": 200, "headers": []})
            await send({"type": "http.response.body", "body": b"ok"})

        async def receive() -> dict[str, Any]:
            nonlocal taken
            taken += 1
            return {"type": "http.request", "body": chunks[taken - 1], "more_body": taken < len(chunks)}

        sent: list[dict[str, Any]] = []

        async def send(message: dict[str, Any]) -> None:
            sent.append(message)

        headers = [(b"cookie", cookie)] + ([(b"content-length", length)] if length is not None else [])
        scope = {"type": "http", "method": "POST", "path": path, "headers": headers}
        async_to_sync(BoundedBodies(app))(scope, receive, send)
        return sent[0]["status"], taken

    def test_a_body_that_says_it_is_too_long_is_not_read_at_all(self) -> None:
        self.assertEqual(self.send([b"x"], length=b"2000000000"), (413, 0))
        self.assertEqual(self.send([b"x"], length=b"many"), (413, 0))

    def test_one_that_does_not_say_is_read_up_to_the_bound(self) -> None:
        status, taken = self.send([b"x" * 10_000] * 1000)
        self.assertEqual((status, taken), (413, UNKNOWN // 10_000 + 1))

    def test_what_fits_goes_through(self) -> None:
        self.assertEqual(self.send([b"x" * 1000] * 10, length=b"10000"), (200, 10))

    def test_who_has_no_session_may_bring_little_and_a_character_is_long(self) -> None:
        self.assertEqual(limit_of("/api/productions/3/characters", False), UNKNOWN)
        self.assertGreater(limit_of("/api/productions/3/characters", True), settings.UPLOAD_LIMIT)
        self.assertLess(limit_of("/api/productions/3/shots", True), settings.UPLOAD_LIMIT)
        self.assertEqual(self.send([b"x" * 100_000], cookie=b"a=b; sessionid=abc", length=b"100000"), (200, 1))


class OriginTest(TestCase):
    def test_host_and_port_have_to_be_the_page_s_own(self) -> None:
        for origin, host, ours in (
            ("http://desk.example", "desk.example", True), ("http://desk.example:80", "desk.example", True),
            ("https://desk.example", "desk.example:443", True), ("http://127.0.0.1:8000", "127.0.0.1:8000", True),
            ("http://127.0.0.1:8001", "127.0.0.1:8000", False), ("http://desk.example:81", "desk.example", False),
            ("http://elsewhere.example", "desk.example", False), ("", "desk.example", False),
            ("null", "desk.example", False), ("http://desk.example:x", "desk.example", False),
            ("file://desk.example", "desk.example", False),
        ):  # fmt: skip
            self.assertEqual(own_origin(origin, host, set()), ours, (origin, host))
        self.assertTrue(own_origin("https://desk.example", "127.0.0.1:8000", {"https://desk.example"}))


class RightsTest(SocketTest):
    """What a socket may do ends with what its person may."""

    async def closes(self, socket: WebsocketCommunicator) -> int:
        while True:
            got = await socket.receive_output(5)
            if got["type"] == "websocket.close":
                return int(got["code"])

    def run_with(self, act: Any, user: str = "isla") -> int:
        socket = self.socket(user)

        async def run() -> int:
            await socket.connect(5)
            await sync_to_async(act)()
            return await self.closes(socket)

        return int(async_to_sync(run)())

    def as_lead(self, method: str, path: str, body: Any = None) -> None:
        client = Client()
        client.force_login(self.maud)  # type: ignore[attr-defined]
        answer = client.generic(method, f"/api{path}", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, 200)

    def test_it_closes_when_the_person_is_taken_out(self) -> None:
        path = f"/productions/{self.production.pk}/members/isla"  # type: ignore[attr-defined]
        self.assertEqual(self.run_with(lambda: self.as_lead("DELETE", path)), live.GONE)

    def test_it_closes_when_the_person_signs_out(self) -> None:
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        key = client.cookies["sessionid"].value
        headers = [(b"origin", b"http://localhost"), (b"host", b"localhost"), (b"cookie", f"sessionid={key}".encode())]
        socket = WebsocketCommunicator(application, f"/live/takes/{self.take.pk}", headers)  # type: ignore[attr-defined]

        async def run() -> int:
            await socket.connect(5)
            await sync_to_async(lambda: client.delete("/api/session"))()
            return await self.closes(socket)

        self.assertEqual(async_to_sync(run)(), live.GONE)
        self.assertFalse(Session.objects.filter(session_key=key).exists())

    def test_it_looks_again_by_itself_after_a_while(self) -> None:
        """Rights that were changed where no announcement came from: by the admin, by another process."""
        socket = self.socket("isla")
        begin = {"do": "begin", "seq": 1, "casting": self.casting.pk, "frame": 1}  # type: ignore[attr-defined]

        async def run() -> int:
            await socket.connect(5)
            await self.answer(socket, begin)
            await sync_to_async(lambda: Membership.objects.filter(user=self.isla).delete())()  # type: ignore[attr-defined]
            with mock.patch.object(live, "LOOK_AGAIN", 0.0):
                await socket.send_to(text_data=json.dumps(begin))
                return await self.closes(socket)

        self.assertEqual(async_to_sync(run)(), live.GONE)

    def test_an_animator_who_becomes_a_guest_only_looks_from_then_on(self) -> None:
        socket = self.socket("isla")
        begin = {"do": "begin", "seq": 1, "casting": self.casting.pk, "frame": 1}  # type: ignore[attr-defined]
        path = f"/productions/{self.production.pk}/members"  # type: ignore[attr-defined]

        async def run() -> Any:
            await socket.connect(5)
            await self.answer(socket, begin)
            await sync_to_async(lambda: self.as_lead("PUT", path, {"username": "isla", "role": "guest"}))()
            await asyncio.sleep(0.3)
            told = await self.answer(socket, begin)
            await socket.disconnect()
            return told

        self.assertIn("a guest only looks", async_to_sync(run)()["message"])


class PaceTest(SocketTest):
    def test_a_socket_is_heard_at_a_pace_and_every_message_is_answered_or_passed(self) -> None:
        """No message is lost: what waits for its answer would wait for ever."""
        socket = self.socket("isla")
        begin = {"do": "begin", "seq": 1, "casting": self.casting.pk, "frame": 1}  # type: ignore[attr-defined]

        async def run() -> tuple[set[int], float]:
            await socket.connect(5)
            with mock.patch.object(live, "A_SECOND", 100.0), mock.patch.object(live, "BURST", 20.0):
                await self.answer(socket, begin)
                begun = time.monotonic()
                for n in range(120):
                    move = {"do": "move", "seq": 10 + n, "controls": ["body"], "offset": [0, 0.001 * n, 0]}
                    await socket.send_to(text_data=json.dumps(move))
                found: set[int] = set()
                while len(found) < 120:
                    got = await socket.receive_output(5)
                    if got.get("bytes"):
                        found.add(int.from_bytes(got["bytes"][:4], "little"))
                    elif (told := json.loads(got["text"]))["type"] == "passed":
                        found.add(told["seq"])
                took = time.monotonic() - begun
            await socket.disconnect()
            return found, took

        found, took = async_to_sync(run)()
        self.assertEqual(found, set(range(10, 130)))
        self.assertGreater(took, 0.8)  # 120 messages, of which 20 at once and the others a hundred a second

    def test_the_latest_state_of_a_drag_is_always_answered(self) -> None:
        """States that are passed over get no answer; the last one does, or the hand's place would be lost."""
        socket = self.socket("isla")
        begin = {"do": "begin", "seq": 1, "casting": self.casting.pk, "frame": 1}  # type: ignore[attr-defined]

        async def run() -> list[int]:
            await socket.connect(5)
            await self.answer(socket, begin)
            for n in range(100):
                move = {"do": "move", "seq": 10 + n, "controls": ["body"], "offset": [0, 0.001 * n, 0]}
                await socket.send_to(text_data=json.dumps(move))
            found = []
            while not await socket.receive_nothing(0.5):
                got = await socket.receive_output(1)
                if got.get("bytes"):
                    found.append(int.from_bytes(got["bytes"][:4], "little"))
            await socket.disconnect()
            return found

        found = async_to_sync(run)()
        self.assertEqual(found[-1], 109)
        self.assertEqual(found, sorted(found))


class BatchesTest(TestCase):
    def test_a_page_that_does_not_take_its_answer_holds_up_nobody(self) -> None:
        async def run() -> tuple[list[int], int]:
            waiting, taken, computed = Batches(), [], []
            stuck = asyncio.Event()

            async def never(_: Any) -> None:
                await stuck.wait()

            async def take(result: int) -> None:
                taken.append(result)

            for n in range(20):
                waiting.put("slow", n, lambda n=n: computed.append(n), never)  # type: ignore[misc]
                waiting.put("quick", n, lambda n=n: n, take)  # type: ignore[misc]
                await asyncio.sleep(0.01)
            waiting.drop("slow")
            return taken, len(computed)

        taken, computed = async_to_sync(run)()
        self.assertEqual(taken[-1], 19)
        self.assertEqual(computed, 1)  # nothing more for the page that has not taken the first


class AskedForTest(ServerTest):
    def test_motion_and_hand_offs_are_limited_by_person(self) -> None:
        take, cast = self.take.pk, self.casting.pk
        with mock.patch.object(pace.time, "time", return_value=1000.0):
            path = f"/takes/{take}/handoff.glb?casting={cast}&first=1&last=2"
            answers = [self.get(path) for _ in range(pace.HAND_OFF[1] + 2)]
            self.assertEqual([a.status_code for a in answers[-3:]], [200, 429, 429])
            self.assertEqual(answers[-1]["Retry-After"], "20")
            self.assertIn("ask again in 20 seconds", answers[-1].json()["message"])
            far = [self.get(f"/takes/{take}/motion?casting={cast}&first=1&last=99999").status_code for _ in range(61)]
            self.assertEqual((far[0], far[-1]), (422, 429))
            self.as_user("maud")  # another person is not held up by it
            self.assertEqual(self.get(path).status_code, 200)


class BehindTlsTest(TestCase):
    def settings_with(self, **environment: str) -> dict[str, Any]:
        script = (
            "import json; from server import settings as s; print(json.dumps([s.SESSION_COOKIE_SECURE, "
            "s.CSRF_COOKIE_SECURE, s.CSRF_TRUSTED_ORIGINS, 'desk.example' in s.ALLOWED_HOSTS, "
            "hasattr(s, 'SECURE_PROXY_SSL_HEADER')]))"
        )
        env = {k: v for k, v in os.environ.items() if k not in ("HAME_ORIGIN", "HAME_PROXY")} | environment
        done = subprocess.run([sys.executable, "-c", script], env=env, capture_output=True, text=True, check=True)
        names = ("session", "csrf", "origins", "hosts", "proxy")
        return dict(zip(names, json.loads(done.stdout), strict=True))

    def test_cookies_go_over_tls_only_where_there_is_tls_and_headers_are_believed_of_a_named_proxy(self) -> None:
        plain = self.settings_with()
        self.assertEqual((plain["session"], plain["csrf"], plain["proxy"]), (False, False, False))
        safe = self.settings_with(HAME_ORIGIN="https://desk.example/", HAME_PROXY="10.0.0.1")
        self.assertEqual(
            safe, {"session": True, "csrf": True, "origins": ["https://desk.example"], "hosts": True, "proxy": True}
        )
