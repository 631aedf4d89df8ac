"""Paths of a take, their faults, charts, states to compare with, layers and ways over the interface."""

from __future__ import annotations

import base64
import json
from typing import Any

import numpy as np
from asgiref.sync import async_to_sync
from django.test import Client

from server.shots import store
from server.shots.models import Take
from tests.server.base import ServerTest
from tests.server.binary import motion_of, pull_of
from tests.server.test_live import SocketTest


class ArcsTest(ServerTest):
    def path(self, **given: Any) -> dict[str, Any]:
        return {"casting": self.casting.pk, "name": "arm.L.goal", "tone": 1, **given}

    def put(self, *paths: dict[str, Any]) -> Any:
        return self.post(f"/takes/{self.take.pk}/paths", {"paths": list(paths)}, "put")

    def moving(self) -> None:
        for frame, z in ((1, 0.0), (13, 0.4), (25, 0.1)):
            self.assertEqual(self.pose(frame, body__tz=z, body__ty=-0.05).status_code, 200)

    def test_paths_are_kept_with_the_take_and_go_with_a_copy(self) -> None:
        told = self.put(self.path(), self.path(name="head", within="chest", shown=False)).json()
        self.assertEqual(
            [(p["name"], p["within"], p["lacks"]) for p in told], [("arm.L.goal", "", ""), ("head", "chest", "")]
        )
        self.assertEqual(self.get(f"/takes/{self.take.pk}/paths").json(), told)
        copy = self.post(f"/shots/{self.shot.pk}/takes", {"name": "Two", "source": self.take.pk}).json()
        self.assertEqual(len(Take.objects.get(pk=copy["id"]).paths), 2)
        self.assertEqual(Take.objects.get(pk=self.take.pk).revision, 0, "they are no step of the history")

    def test_a_path_of_a_part_that_the_rig_lacks_is_refused_and_one_from_before_is_listed(self) -> None:
        for wrong, words in ((self.path(name="tail"), "no control tail"), (self.path(within="tail"), "no control tail"),
                             (self.path(name="x", joint=True), "no joint x"),
                             (self.path(casting=10**9), "does not play")):  # fmt: skip
            answer = self.put(self.path(), wrong)
            self.assertEqual(answer.status_code, 422, answer.content)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.get(f"/takes/{self.take.pk}/paths").json(), [])
        Take.objects.filter(pk=self.take.pk).update(
            paths=[{**self.path(name="tail"), "joint": False, "within": "", "shown": True}]
        )
        (listed,) = self.get(f"/takes/{self.take.pk}/paths").json()
        self.assertIn("no control tail", listed["lacks"])
        self.assertEqual(self.put(self.path(name="tail"), self.path()).status_code, 200, "it can be kept or taken away")

    def test_guests_see_paths_and_change_none_and_strangers_see_nothing(self) -> None:
        self.put(self.path())
        self.as_user("tam")
        self.assertEqual(len(self.get(f"/takes/{self.take.pk}/paths").json()), 1)
        self.assertEqual(self.put().status_code, 403)
        self.as_user("stranger")
        one = f"casting={self.casting.pk}&first=1&last=9"
        asked = [f"{what}?{one}" for what in ("chart", "curves", "alike", "motion")]
        for path in ("paths", "arcs?first=1&last=9", *asked, f"motion?{one}&step=0"):
            self.assertEqual(self.get(f"/takes/{self.take.pk}/{path}").status_code, 404, path)

    def test_faults_come_with_what_mends_them(self) -> None:
        for frame in range(1, 25):
            self.pose(frame, head__ry=0.03 * (frame % 2))
        found = self.get(f"/takes/{self.take.pk}/faults?group=paths&first=1&last=24").json()
        head = next(a for a in found if a["control"] == "head")
        self.assertEqual((head["kind"], head["mend"]["kind"]), ("tremble", "fit keys"))
        self.assertEqual(self.edit(head["mend"]).status_code, 200)
        again = self.get(f"/takes/{self.take.pk}/faults?group=paths&first=1&last=24").json()
        self.assertNotIn("head", [a["control"] for a in again if a["kind"] == "tremble"])
        answer = self.get(f"/takes/{self.take.pk}/faults?group=paths&first=1&last=24&camera={self.casting.pk}")
        self.assertIn("no such camera", answer.json()["message"])

    def test_a_chart_is_told_and_a_tick_is_set(self) -> None:
        self.moving()
        path = f"/takes/{self.take.pk}/chart?casting={self.casting.pk}&first=1&last=13"
        before = self.get(path).json()
        self.assertEqual(len(before["favours"]), 13)
        ticks = [{"time": 0.5, "favour": 0.75}]
        self.assertEqual(self.edit({"kind": "chart", "gaps": [[1, 13]], "ticks": ticks}).status_code, 200)
        self.assertAlmostEqual(self.get(path).json()["favours"][6], 0.75, places=6)
        self.assertEqual(self.get(path + "&control=head").status_code, 422, "nothing goes any way there")
        self.assertEqual(self.get(path + "&control=tail").status_code, 422)

    def test_charts_of_all_gaps_come_together_and_still_ones_are_left_out(self) -> None:
        self.moving()
        path = f"/takes/{self.take.pk}/charts?casting={self.casting.pk}"
        told = self.get(path + "&frame=1&frame=13&frame=25&frame=40").json()
        self.assertEqual([(c["first"], c["last"], len(c["favours"])) for c in told], [(1, 13, 13), (13, 25, 13)])
        self.assertEqual(self.get(path + "&frame=1").status_code, 422)

    def test_curves_are_looked_over(self) -> None:
        self.moving()
        self.pose(1, head__rx=0.0)
        self.pose(9, head__rx=0.0)
        found = self.get(f"/takes/{self.take.pk}/curves?casting={self.casting.pk}&first=1&last=48").json()
        self.assertIn("head/rx", [one["address"] for one in found["idle"]])
        self.assertEqual(found["flips"], [])

    def test_sides_are_compared_or_it_is_said_why_not(self) -> None:
        self.moving()
        told = self.get(f"/takes/{self.take.pk}/alike?casting={self.casting.pk}&first=1&last=25").json()
        self.assertTrue(told["parts"])
        odd = self.get(f"/takes/{self.take.pk}/alike?casting={self.casting.pk}&first=1&last=24").json()
        self.assertIn("even number", odd["said"])

    def motion(self, more: str = "") -> np.ndarray:
        answer = self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=25{more}")
        self.assertEqual(answer.status_code, 200, answer.content)
        return np.asarray(motion_of(answer.content)[2][self.casting.pk].joints)

    def test_another_state_of_the_history_can_be_looked_at_without_going_there(self) -> None:
        before = self.motion()
        self.moving()
        first = Take.objects.get(pk=self.take.pk).edits.order_by("id").first()
        after = self.motion()
        self.assertGreater(np.abs(after - before).max(), 0.1)
        np.testing.assert_array_equal(self.motion("&step=0"), before)
        assert first is not None
        one = self.motion(f"&step={first.pk}")
        self.assertTrue(np.abs(one - before).max() > 0.01 and np.abs(one - after).max() > 0.01)
        np.testing.assert_array_equal(self.motion(), after)
        self.assertEqual(Take.objects.get(pk=self.take.pk).revision, 3, "nothing was changed by looking")
        strange = self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=2&step=999999")
        self.assertIn("does not belong", strange.json()["message"])

    def test_a_layer_is_made_posed_in_looked_at_without_and_undone(self) -> None:
        self.moving()
        plain = self.motion()
        self.assertEqual(self.edit({"kind": "add layer", "name": "Tired"}).status_code, 200)
        edit = {"kind": "pose", "frame": 9, "values": {"spine/rx": 0.4}, "layer": 1}
        self.assertEqual(self.edit(edit).status_code, 200)
        stooped = self.motion()
        self.assertGreater(np.abs(stooped - plain).max(), 0.05)
        np.testing.assert_array_equal(self.motion(f"&without={self.casting.pk}:1"), plain)
        clip = self.clip()
        self.assertEqual(clip["tracks"]["layer/1"][0]["name"], "Tired")
        self.assertIn("#1/spine/rx", clip["curves"])
        store.forget()  # read from the database again
        self.assertIn("#1/spine/rx", self.clip()["curves"])
        revision = Take.objects.get(pk=self.take.pk).revision
        self.assertEqual(self.post(f"/takes/{self.take.pk}/undo", {"revision": revision}).status_code, 200)
        np.testing.assert_array_equal(self.motion(), plain)
        for wrong in ("x:1", f"{self.casting.pk}:9", f"{self.casting.pk}"):
            answer = self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=2&without={wrong}")
            self.assertEqual(answer.status_code, 422, wrong)

    def test_a_way_is_told_as_it_was_stored(self) -> None:
        self.moving()
        self.edit({"kind": "way", "way": "overshoot", "strength": 0.4, "gaps": [[1, 13]]})
        rows = self.clip()["curves"]["body/tz"]
        self.assertEqual(rows[0], [1, 0.0, 7, 0.4])
        self.assertEqual(len(rows[1]), 3)


class WatchedTest(SocketTest):
    def asked(self, *messages: dict[str, Any]) -> list[Any]:
        socket = self.socket("isla")

        async def talk() -> list[Any]:
            await socket.connect(5)
            found = [await self.answer(socket, {**m, "seq": n + 1}) for n, m in enumerate(messages)]
            await socket.disconnect()
            return found

        return list(async_to_sync(talk)())

    def traced(self, *messages: dict[str, Any]) -> tuple[bytes, dict[str, Any]]:
        """The pose that the last message is answered with, and what is told of paths after it."""
        socket = self.socket("isla")

        async def talk() -> tuple[bytes, dict[str, Any]]:
            await socket.connect(5)
            pose = b""
            for n, message in enumerate(messages):
                pose = await self.answer(socket, {**message, "seq": n + 1})
            while True:
                told = json.loads((await socket.receive_output(5))["text"])
                if told["type"] == "traced":
                    await socket.disconnect()
                    return pose, told

        return tuple(async_to_sync(talk)())  # type: ignore[return-value]

    def watch(self, **given: Any) -> dict[str, Any]:
        cast = self.casting.pk  # type: ignore[attr-defined]
        things = [{"casting": cast, "name": "head"}, {"casting": cast, "name": "arm.L.goal"}]
        return {"first": 1, "last": 24, "things": things, **given}

    def told(self, answer: bytes) -> Any:
        return json.loads(pull_of(answer)[2])["paths"]

    def data(self, told: dict[str, Any]) -> np.ndarray:
        return np.frombuffer(base64.b64decode(told["data"]), "<f4").reshape(2, told["frames"], 7)

    def keyed(self) -> None:
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        for frame, z in ((1, 0.0), (9, 0.2), (17, 0.0), (24, 0.1)):
            self.take.refresh_from_db()  # type: ignore[attr-defined]
            edit = {"kind": "pose", "frame": frame, "values": {"body/tz": z}}
            body = {"revision": self.take.revision, "casting": self.casting.pk, "edit": edit}  # type: ignore[attr-defined]
            path = f"/api/takes/{self.take.pk}/edits"  # type: ignore[attr-defined]
            self.assertEqual(client.post(path, json.dumps(body), content_type="application/json").status_code, 200)

    def test_paths_go_along_with_a_drag_as_it_will_be_keyed(self) -> None:
        self.keyed()
        cast = self.casting.pk  # type: ignore[attr-defined]
        move = {"do": "move", "controls": ["body"], "offset": [0.0, 0.0, 0.3]}
        pose, after = self.traced({"do": "begin", "casting": cast, "frame": 9, "watch": self.watch()}, move)
        # The hand waits for the pose alone; paths come behind it, for the same state of the drag.
        self.assertNotIn(b"paths", pull_of(pose)[2])
        self.assertEqual(after["seq"], 2)
        told = after["paths"]
        found = self.data(told)
        self.assertEqual((told["first"], told["frames"]), (1, 24))
        head = found[0, :, 2]
        self.assertAlmostEqual(float(head[8] - head[0]), 0.5, places=4)
        self.assertEqual(int(np.argmax(head)), 8)
        # What is keyed then is what was told.
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        self.take.refresh_from_db()  # type: ignore[attr-defined]
        edit = {"kind": "pose", "frame": 9, "values": {"body/tz": 0.5}}
        body = {"revision": self.take.revision, "casting": cast, "edit": edit}  # type: ignore[attr-defined]
        client.post(f"/api/takes/{self.take.pk}/edits", json.dumps(body), content_type="application/json")  # type: ignore[attr-defined]
        motion = client.get(f"/api/takes/{self.take.pk}/motion?casting={cast}&first=1&last=24").content  # type: ignore[attr-defined]
        number = [c.name for c in self.rig.controls].index("head")
        np.testing.assert_allclose(motion_of(motion)[2][cast].controls[:, number, :3], found[0, :, :3], atol=1e-5)

    def test_a_trial_tells_paths_too_and_an_unknown_part_none(self) -> None:
        self.keyed()
        cast = self.casting.pk  # type: ignore[attr-defined]
        way = {"kind": "way", "way": "slow start", "gaps": [[1, 9]]}
        trial = {"do": "try", "casting": cast, "frame": 9, "edit": way, "watch": self.watch()}
        lost = {**trial, "watch": self.watch(things=[{"casting": cast, "name": "tail"}])}
        told, nothing = (self.told(answer) for answer in self.asked(trial, lost))
        self.assertIsNone(nothing)
        head = self.data(told)[0, :, 2]
        self.assertAlmostEqual(float(head[4] - head[0]), 0.2 * 0.125, places=4)

    def test_where_a_cycle_shows_others_a_drag_begins_in_a_layer_only(self) -> None:
        self.keyed()
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        cast = self.casting.pk  # type: ignore[attr-defined]
        for edit in ({"kind": "cycle", "start": 1, "end": 9}, {"kind": "add layer", "name": "Nod"}):
            self.take.refresh_from_db()  # type: ignore[attr-defined]
            body = {"revision": self.take.revision, "casting": cast, "edit": edit}  # type: ignore[attr-defined]
            client.post(f"/api/takes/{self.take.pk}/edits", json.dumps(body), content_type="application/json")  # type: ignore[attr-defined]
        plain, layered = self.asked(
            {"do": "begin", "casting": cast, "frame": 9},
            {"do": "begin", "casting": cast, "frame": 9, "watch": self.watch(things=[], layer=1)},
        )
        self.assertIn("shows frame", str(plain))
        self.assertIsInstance(layered, bytes)
