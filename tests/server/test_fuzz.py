"""The interface asked at random: no answer is a 500, and no socket message ends the socket."""

from __future__ import annotations

import asyncio
import json
import random
from typing import Any, ClassVar

import schemathesis
from asgiref.sync import async_to_sync
from django.conf import settings
from django.test import Client, TransactionTestCase
from hypothesis import HealthCheck, Phase, given, seed
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from hame.edits.kinds import EDITS
from server.openapi import DOCUMENT
from server.shots.models import Take
from tests.server.base import ServerTest
from tests.server.test_live import SocketTest

CASES = 12  # an operation: bounded, since there are many operations
# What the random cases must not do to the tests themselves.
LEFT_OUT = {("DELETE", "/api/session"), ("POST", "/api/session"), ("POST", "/api/session/demo")}


class SchemaTest(ServerTest):
    """Cases made from the published document by schemathesis, sent through Django's own client."""

    def numbers(self) -> dict[str, int]:
        return {"take_id": self.take.pk, "shot_id": self.shot.pk, "casting_id": self.casting.pk,
                "character_id": self.character.pk, "production_id": self.production.pk}  # fmt: skip

    def test_no_operation_of_the_interface_answers_with_a_500(self) -> None:
        schema = schemathesis.openapi.from_dict(json.loads(DOCUMENT.read_text()))
        client = Client(raise_request_exception=False)
        client.force_login(self.maud)  # type: ignore[attr-defined]
        known = self.numbers()
        asked = 0
        for result in schema.get_all_operations():
            operation = result.ok()
            if (operation.method.upper(), operation.path) in LEFT_OUT or "removal" in operation.path:
                continue
            if "multipart" in json.dumps(operation.definition.raw.get("requestBody", {})):
                continue  # files have tests of their own

            @seed(3)
            @hypothesis_settings(
                max_examples=CASES, deadline=None, database=None, phases=[Phase.generate],
                suppress_health_check=list(HealthCheck),
            )  # fmt: skip
            @given(case=operation.as_strategy(), real=st.booleans())
            def ask(case: Any, real: bool) -> None:
                nonlocal asked
                path = {**(case.path_parameters or {}), **(known if real else {})}
                address = case.operation.path
                for name, value in path.items():
                    address = address.replace("{" + name + "}", str(value))
                kept = {"client": client}["client"]
                query = {k: v for k, v in (case.query or {}).items() if v is not None}
                body = json.dumps(case.body) if isinstance(case.body, dict | list) else ""
                answer = kept.generic(
                    case.method.upper(), address, body, content_type="application/json", QUERY_STRING=_query(query)
                )
                asked += 1
                self.assertLess(answer.status_code, 500, (case.method, address, query, body[:300]))

            ask()
        self.assertGreater(asked, 300)

    def test_numbers_and_names_beyond_all_bounds_are_refused(self) -> None:
        take, cast = self.take.pk, self.casting.pk
        far = "1" + "0" * 400
        for body in (
            f'{{"revision": {far}, "casting": {cast}, "edit": {{"kind": "key", "frame": 1}}}}',
            f'{{"revision": 0, "casting": {far}, "edit": {{"kind": "key", "frame": 1}}}}',
            f'{{"revision": 0, "casting": {cast}, "edit": {{"kind": "key", "frame": {far}}}}}',
            f'{{"revision": 0, "casting": {cast}, "edit": {{"kind": "insert", "after": 1, "count": {far}}}}}',
            f'{{"revision": 0, "casting": {cast}, "edit": {{"kind": "pose", "frame": 1, "values": '
            f'{{"head/ry": {far}}}}}}}',
            f'{{"revision": 0, "casting": {cast}, "edit": {{"kind": "label", "frame": 1, "name": "\\ud800"}}}}',
            f'{{"revision": 0, "casting": {cast}, "edit": {{"kind": "pose", "frame": 1, "values": {{"\\udfff": 1}}}}}}',
        ):
            answer = self.client.post(f"/api/takes/{take}/edits", body, content_type="application/json")
            self.assertIn(answer.status_code, (400, 422), body[:120])
            self.assertTrue(answer.json()["message"])
        for path in (f"/shots/{self.shot.pk}", f"/takes/{take}", f"/productions/{self.production.pk}"):
            answer = self.client.patch(f"/api{path}", '{"name": "Lan\\ud83dtern"}', content_type="application/json")
            self.assertIn(answer.status_code, (400, 422), path)
        for path in (
            f"/takes/{take}/motion?casting={cast}&first={far}&last={far}", f"/takes/{far}", f"/shots/{2**70}",
            f"/takes/{take}/checks?casting={cast}&first=1&last={2**80}", f"/takes/{take}/history?limit={far}",
            f"/takes/{take}/changes?since={far}", f"/takes/{take}/changes?since=-5",
            f"/castings/{cast}/reference?kind=walk&start={2**70}&step=12",
        ):  # fmt: skip
            self.assertLess(self.get(path).status_code, 500, path)
        for frame in (2**31, -(2**40), 10**300):
            answer = self.client.post(f"/api/shots/{self.shot.pk}/sheet", {"frame": str(frame)})
            self.assertEqual(answer.status_code, 422)
        self.assertEqual(Take.objects.get(pk=take).revision, 0)


def _query(query: dict[str, Any]) -> str:
    from urllib.parse import urlencode

    return urlencode({k: str(v).encode("utf-8", "replace").decode() for k, v in query.items()})


class SocketFuzzTest(SocketTest):
    """Messages of any shape: each is answered or passed over, and the socket goes on."""

    MESSAGES: ClassVar[int] = 200

    def test_no_message_ends_the_socket(self) -> None:
        rng = random.Random(11)
        socket = self.socket("isla")
        cast = self.casting.pk  # type: ignore[attr-defined]
        begin = {"do": "begin", "seq": 1, "casting": cast, "frame": 1}

        async def run() -> None:
            await socket.connect(5)
            await self.answer(socket, begin)
            for n in range(self.MESSAGES):
                await socket.send_to(text_data=odd_message(rng, cast))
                if n % 20 == 19:
                    await asyncio.sleep(0.2)  # within what a socket may say
            for _ in range(400):
                got = await socket.receive_output(5)
                self.assertNotEqual(got["type"], "websocket.close", got)
                if await socket.receive_nothing(0.3):
                    break
            self.assertIsInstance(await self.answer(socket, {**begin, "seq": 77}), bytes)
            await socket.disconnect()

        async_to_sync(run)()

    def test_an_address_that_there_is_not_is_closed_quietly(self) -> None:
        from channels.testing import WebsocketCommunicator

        from server.asgi import application

        headers = [(b"origin", b"http://localhost"), (b"host", b"localhost")]

        async def knock() -> list[bool]:
            found = []
            for path in ("/live/nowhere", "/live/takes/x", "/", f"/live/takes/{2**80}"):
                connected, _ = await WebsocketCommunicator(application, path, headers).connect(5)
                found.append(connected)
            return found

        self.assertEqual(async_to_sync(knock)(), [False] * 4)


NUMBERS = (0, 1, -1, 2**32, 2**63, 1e308, -1e308, 10**400, 0.5, 1e-320)
WORDS = ("", "head", "leg.L.goal", "\ud800", "x" * 300, "body/tx", "🦀", "world", "own")


def odd_message(rng: random.Random, cast: int) -> str:
    """A message that is nearly right, or not at all."""

    def value(depth: int = 0) -> Any:
        kind = rng.randrange(7)
        if kind == 0:
            return rng.choice(NUMBERS)
        if kind == 1:
            return rng.choice(WORDS)
        if kind == 2 and depth < 3:
            return [value(depth + 1) for _ in range(rng.randrange(5))]
        if kind == 3 and depth < 3:
            return {rng.choice(WORDS): value(depth + 1) for _ in range(3)}
        return rng.choice((None, True, 1.0, [0, 0, 1], [0, 0, 0, 1], ["head"], cast))

    base: dict[str, Any] = rng.choice((
        {"do": "begin", "seq": 5, "casting": cast, "frame": 1, "values": {}},
        {"do": "move", "seq": 6, "controls": ["leg.L.goal"], "offset": [0, 0.1, 0], "axes": "world"},
        {"do": "turn", "seq": 7, "controls": ["head"], "axis": [0, 1, 0], "angle": 0.2, "axes": "own", "pivot": None},
        {"do": "set", "seq": 8, "controls": ["head"], "values": {"head/ry": 0.2}, "sides": "one"},
        {"do": "try", "seq": 9, "casting": cast, "frame": 1, "edit": {"kind": "key", "frame": 1}},
    ))  # fmt: skip
    for _ in range(rng.randrange(3)):
        base[rng.choice(list(base))] = value()
    text = json.dumps(base)
    if rng.random() < 0.15:
        at = rng.randrange(len(text))
        text = text[:at] + rng.choice('{}[]",:\\') + text[at + 1 :]
    return text


def _has_kind(described: dict[str, Any]) -> bool:
    return "kind" in described.get("properties", {})


class EveryKindTest(ServerTest):
    def test_the_document_knows_every_kind_of_edit_with_units_and_bounds(self) -> None:
        """One class in the core is enough: the document that the page's types are made of follows from it."""
        document = json.loads(DOCUMENT.read_text())["components"]["schemas"]
        kinds = {name: d["properties"]["kind"].get("const") for name, d in document.items() if _has_kind(d)}
        told = {kind: document[name] for name, kind in kinds.items()}
        self.assertLessEqual(set(EDITS), set(told))
        drift = told["hold"]["properties"]["drift"]
        self.assertEqual((drift["minimum"], drift["maximum"], drift["x-unit"]), (0.0, 0.5, "share"))


class PageTest(TransactionTestCase):
    def test_every_answer_forbids_scripts_that_are_not_ours(self) -> None:
        for path in ("/", "/api/session", "/admin/login/"):
            policy = self.client.get(path)["Content-Security-Policy"]
            self.assertIn("script-src 'self';", policy)
            self.assertNotIn("unsafe-inline'; script", policy)
            self.assertIn("default-src 'self'", policy)
        page = self.client.get("/").content.decode()
        self.assertNotRegex(page, r"<script(?![^>]*\bsrc=)")
        self.assertFalse(settings.SESSION_COOKIE_SECURE)
