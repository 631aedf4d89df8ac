"""Plants and belonging over the interface: what is stored, told and looked at, and drags that others follow."""

from __future__ import annotations

from typing import Any

import numpy as np
from asgiref.sync import async_to_sync

from hame.edits.making import made
from hame.edits.reading import edit_from_json
from hame.measure.dynamics import GRAVITY
from hame.scene.joined import moves
from server.shots import store
from server.shots.models import Casting, Take
from server.shots.scenes import cast_of
from tests.server.base import ServerTest
from tests.server.binary import drag_of, motion_of
from tests.server.test_live import SocketTest
from tests.server.test_scene import TwoTest

FOOT = "leg.L.goal"


class PlantTest(ServerTest):
    def plant(self, start: int, end: int, **more: Any) -> Any:
        return self.edit({"kind": "plant", "plants": [{"control": FOOT, "start": start, "end": end}], **more})

    def frames(self) -> np.ndarray:
        answer = self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=49")
        return motion_of(answer.content)[2][self.casting.pk].joints

    def setUp(self) -> None:
        super().setUp()
        self.pose(1, body__ty=-0.12, master__tz=0.0)
        self.pose(25, body__ty=-0.12, master__tz=0.5)

    def test_it_is_one_step_of_the_history_told_with_all_frames_that_move(self) -> None:
        before = self.frames()
        done = self.plant(5, 15).json()
        self.assertEqual(done["label"], "Plant left foot 5 to 15")
        told = done["clips"][str(self.casting.pk)]["tracks"][f"plant/{FOOT}"]
        self.assertEqual([(s["start"], s["end"], s["about"]) for s in told], [(5, 15, "")])
        after = self.frames()
        differ = np.flatnonzero(np.abs(after - before).max(axis=(1, 2)) > 1e-6) + 1
        spans = [(a or -9999, b or 9999) for a, b in done["moves"][str(self.casting.pk)]]
        self.assertGreater(len(differ), 8)
        self.assertTrue(all(any(a <= f <= b for a, b in spans) for f in differ), "all that moved is told")
        # A key that carries the body elsewhere before the plant moves what follows from it, and that is told too.
        done = self.edit({"kind": "pose", "frame": 5, "values": {f"{FOOT}/tx": 0.1}, "keying": "changed"}).json()
        moved = np.flatnonzero(np.abs(self.frames() - after).max(axis=(1, 2)) > 1e-6) + 1
        spans = [(a or -9999, b or 9999) for a, b in done["moves"][str(self.casting.pk)]]
        self.assertTrue(all(any(a <= f <= b for a, b in spans) for f in moved))
        revision = Take.objects.get(pk=self.take.pk).revision
        self.post(f"/takes/{self.take.pk}/undo", {"revision": revision})
        self.post(f"/takes/{self.take.pk}/undo", {"revision": revision + 1})
        np.testing.assert_allclose(self.frames(), before, atol=1e-6)
        store.forget()
        self.assertEqual(dict(store.open_clip(Take.objects.get(pk=self.take.pk), self.casting.pk).tracks), {})

    def test_plants_are_found_and_faults_told_with_what_mends_them(self) -> None:
        found = self.get(f"/takes/{self.take.pk}/plants?casting={self.casting.pk}&first=26&last=40").json()
        self.assertEqual({(f["control"], f["start"], f["end"]) for f in found},
                         {(FOOT, 26, 40), ("leg.R.goal", 26, 40)})  # fmt: skip
        none = self.get(f"/takes/{self.take.pk}/plants?casting={self.casting.pk}&first=26&last=40&height=0").json()
        self.assertNotIn(("", ""), [(f["control"], f["about"]) for f in none])
        self.edit({"kind": "pose", "frame": 30, "values": {f"{FOOT}/ty": -0.05}, "keying": "changed"})
        told = [
            a
            for a in self.get(f"/takes/{self.take.pk}/faults?group=contacts&first=1&last=49").json()
            if a["kind"] == "sink"
        ]
        self.assertEqual([(a["casting"], a["control"]) for a in told], [(self.casting.pk, FOOT)])
        self.assertIn("sinks 50 mm into the ground", told[0]["says"])
        self.assertEqual(self.edit(told[0]["mend"]).status_code, 200)
        after = self.get(
            f"/takes/{self.take.pk}/faults?group=contacts&first={told[0]['worst']}&last={told[0]['worst']}"
        ).json()
        self.assertEqual([a for a in after if a["kind"] == "sink"], [])

    def test_faults_of_weight_are_told_beyond_ones_own_limits(self) -> None:
        for frame, height in ((41, 0.0), (43, -0.3), (44, -0.3)):
            self.pose(frame, body__ty=height)
        path = f"/takes/{self.take.pk}/faults?group=weight&first=30&last=49"
        told = {alert["kind"]: alert for alert in self.get(path).json()}
        self.assertIn("would have to pull it down", told["pulled"]["says"])
        self.assertIsNone(told["pulled"]["mend"])
        self.assertNotIn("pulled", {alert["kind"] for alert in self.get(f"{path}&pull=9000").json()})
        self.assertEqual(self.get(f"{path}&pull=-1").status_code, 422)
        self.assertEqual(self.get(f"{path}&friction=nan").status_code, 422)
        contacts = self.get(path.replace("weight", "contacts")).json()
        self.assertNotIn("pulled", {alert["kind"] for alert in contacts})

    def test_flights_are_told_and_fitted_in_one_step(self) -> None:
        for frame, height in ((30, 0.0), (35, 0.3), (40, 0.0)):
            self.pose(frame, master__ty=height)
        path = f"/takes/{self.take.pk}/flights?casting={self.casting.pk}"
        [flight] = self.get(f"{path}&first=26&last=49").json()
        self.assertEqual((flight["release"], flight["landing"]), (30, 40))
        self.assertGreater(abs(flight["gravity"] - 1.0), 0.1)
        steps = Take.objects.get(pk=self.take.pk).revision
        self.assertEqual(self.edit({"kind": "fly", "at": 35}).status_code, 200)
        self.assertEqual(Take.objects.get(pk=self.take.pk).revision, steps + 1)
        [fitted] = self.get(f"{path}&first=26&last=49").json()
        self.assertAlmostEqual(fitted["gravity"], 1.0, delta=0.01)
        # How fast it goes beside the flight, and whether that is as fast as it flies.
        self.assertEqual(fitted["meets"], [False, False])
        self.assertLess(fitted["beside"][0], 0.1)
        self.assertAlmostEqual(fitted["beside"][1], 0.5 * GRAVITY * 10 / 24, delta=0.01)
        self.assertLess(fitted["far"], 0.01)
        self.assertEqual(self.edit({"kind": "meet flight", "at": 35, "side": "before"}).status_code, 200)
        [met] = self.get(f"{path}&first=26&last=49").json()
        self.assertEqual(met["meets"], [True, False])
        # In the air at the end of what is looked at it is not whole.
        self.assertEqual(self.get(f"{path}&first=26&last=36").json(), [])
        refused = self.edit({"kind": "fly", "at": 27})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("something bears it at 27", refused.json()["message"])
        self.as_user("stranger")
        self.assertEqual(self.get(f"{path}&first=26&last=49").status_code, 404)

    def test_what_happens_is_told_and_answered(self) -> None:
        for frame, height in ((30, 0.0), (35, 0.3), (40, 0.0)):
            self.pose(frame, master__ty=height)
        path = f"/takes/{self.take.pk}/happenings?casting={self.casting.pk}&first=26&last=49"
        found = self.get(path).json()
        self.assertEqual([(one["what"], one["frame"]) for one in found], [("take-off", 30), ("landing", 40)])
        self.assertGreater(found[1]["speed"], 0.5)
        gives = [next(edit for edit in one["answers"] if edit["kind"] == "give") for one in found]
        self.assertEqual([(give["before"], give["of"]) for give in gives], [(True, "take-off"), (False, "landing")])
        give = {"kind": "give", "event": 40, "drop": 0.1, "there": 2, "back": 6}
        self.assertEqual(self.edit(give).status_code, 200)
        [span] = self.clip()["tracks"]["give"]
        self.assertEqual((span["start"], span["end"], span["drop"]), (40, 48, 0.1))
        refused = self.edit({**give, "event": 44})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("lies from 40 to 48 already", refused.json()["message"])
        self.assertEqual(self.edit({"kind": "drop answer", "of": "give", "at": 40}).status_code, 200)
        self.assertNotIn("give", self.clip()["tracks"])
        self.as_user("stranger")
        self.assertEqual(self.get(path).status_code, 404)

    def test_things_fall_as_they_do_in_the_world_of_the_shot(self) -> None:
        for frame, height in ((30, 0.0), (35, 0.3), (40, 0.0)):
            self.pose(frame, master__ty=height)
        path = f"/takes/{self.take.pk}/flights?casting={self.casting.pk}&first=26&last=49"
        here = self.get(path).json()[0]["gravity"]
        shot = f"/shots/{self.take.shot_id}"
        self.assertEqual(self.post(shot, {"gravity": GRAVITY / 6}, "patch").status_code, 200)
        self.assertAlmostEqual(self.get(shot).json()["gravity"], GRAVITY / 6)
        # What was told before is not told again, and what is fitted falls so.
        self.assertAlmostEqual(self.get(path).json()[0]["gravity"], 6 * here, delta=1e-6)
        self.edit({"kind": "fly", "at": 35})
        [fitted] = self.get(path).json()
        self.assertAlmostEqual(fitted["gravity"], 1.0, delta=0.01)
        self.assertAlmostEqual(fitted["rise"], GRAVITY / 6 * (10 / 24) ** 2 / 8, delta=0.01)
        for wrong in (0.0, -9.8, 1e9):
            self.assertEqual(self.post(shot, {"gravity": wrong}, "patch").status_code, 422)
        self.as_user("tam")
        self.assertEqual(self.post(shot, {"gravity": 9.8}, "patch").status_code, 403)

    def test_who_bears_the_weight(self) -> None:
        self.assertEqual(self.get(f"/takes/{self.take.pk}/bearing?casting={self.casting.pk}&frame=9").json(), [])
        self.plant(5, 15)
        [alone] = self.get(f"/takes/{self.take.pk}/bearing?casting={self.casting.pk}&frame=9").json()
        self.assertEqual(alone, {"control": FOOT, "share": 1.0})

    def test_what_cannot_be_is_refused_in_words_and_guests_only_look(self) -> None:
        for path, words in (
            (f"/takes/{self.take.pk}/faults?group=contacts&first=9&last=2", "the first before the last"),
            (f"/takes/{self.take.pk}/faults?group=contacts&first=1&last=99999", "between 1 and 5000 frames"),
            (f"/takes/{self.take.pk}/plants?casting=99999&first=1&last=9", "does not play"),
            (f"/takes/{self.take.pk}/plants?casting={self.casting.pk}&first=1&last=9&height=-1", "0 to 10 m"),
            (f"/takes/{self.take.pk}/plants?casting={self.casting.pk}&first=1&last=9&speed=nan", "0 to 10 m"),
        ):
            answer = self.get(path)
            self.assertEqual(answer.status_code, 422, path)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.plant(9, 5).status_code, 422)
        self.assertEqual(self.plant(5, 9, figure=1_000_000, thing="master").status_code, 422)
        self.as_user("tam")
        self.assertEqual(self.get(f"/takes/{self.take.pk}/faults?group=contacts&first=1&last=9").status_code, 200)
        self.assertEqual(self.plant(5, 9).status_code, 403)
        self.as_user("stranger")
        self.assertEqual(self.get(f"/takes/{self.take.pk}/faults?group=contacts&first=1&last=9").status_code, 404)


class CarriedTest(TwoTest):
    """The second of the cast is carried by a hand of the first, as a thing would be."""

    def edit_of(self, casting: int, edit: dict[str, Any]) -> Any:
        revision = Take.objects.get(pk=self.take.pk).revision
        return self.post(f"/takes/{self.take.pk}/edits", {"revision": revision, "casting": casting, "edit": edit})

    def carry(self, start: int = 10, end: int = 30) -> Any:
        return self.edit_of(self.b, {"kind": "belong", "controls": ["master"], "figure": self.a, "to": "arm.R.goal",
                                     "start": start, "end": end})  # fmt: skip

    def master(self, first: int = 1, last: int = 49) -> np.ndarray:
        got = self.get(f"/takes/{self.take.pk}/motion?casting={self.b}&first={first}&last={last}")
        return motion_of(got.content)[2][self.b].controls[:, 0]

    def raise_arm(self, frame: int, value: float) -> Any:
        return self.edit_of(self.a, {"kind": "pose", "frame": frame, "values": {"arm.R.upper/rz": value}})

    def test_it_follows_and_the_step_tells_that_it_moves(self) -> None:
        self.raise_arm(1, 0.0)
        self.assertEqual(self.carry().json()["label"], f"master to {'Brannoc'}'s right hand from 10")
        still = self.master()
        done = self.raise_arm(20, 0.8).json()
        moved = self.master()
        self.assertGreater(float(np.abs(moved[19] - still[19]).max()), 0.1)
        np.testing.assert_allclose(moved[:9], still[:9], atol=1e-6)
        np.testing.assert_allclose(moved[30:], np.broadcast_to(moved[29], moved[30:].shape), atol=1e-6)
        self.assertIn(str(self.b), done["moves"])
        self.assertEqual(set(done["clips"]), {str(self.a)}, "only the keys of the first have changed")
        differ = np.flatnonzero(np.abs(moved - still).max(axis=1) > 1e-6) + 1
        spans = [(a or -9999, b or 9999) for a, b in done["moves"][str(self.b)]]
        self.assertTrue(all(any(a <= f <= b for a, b in spans) for f in differ))

    def test_an_owner_that_is_taken_out_leaves_it_where_it_was_and_comes_back(self) -> None:
        self.raise_arm(1, 0.0)
        self.raise_arm(20, 0.8)
        self.carry()
        held = self.master()
        self.assertGreater(float(np.abs(held[19] - held[0]).max()), 0.1)
        Casting.objects.filter(pk=self.a).update(taken_out_at="2026-01-01T00:00:00Z")
        alone = self.master()
        np.testing.assert_allclose(alone, np.broadcast_to(alone[0], alone.shape), atol=1e-6)
        Casting.objects.filter(pk=self.a).update(taken_out_at=None)
        np.testing.assert_allclose(self.master(), held, atol=1e-6)

    def test_a_ring_is_refused_and_nothing_is_stored(self) -> None:
        self.carry()
        before = Take.objects.get(pk=self.take.pk).revision
        answer = self.edit_of(self.a, {"kind": "belong", "controls": ["master"], "figure": self.b, "to": "master",
                                       "start": 20, "end": 40})  # fmt: skip
        self.assertEqual(answer.status_code, 422)
        self.assertIn("carried by", answer.json()["message"])
        self.assertEqual(Take.objects.get(pk=self.take.pk).revision, before)

    def test_who_hangs_on_whom_is_known_of_the_scene(self) -> None:
        self.raise_arm(1, 0.0)
        self.carry()
        take = Take.objects.get(pk=self.take.pk)
        scene = cast_of(take.shot).scene(lambda c: store.open_clip(take, c))
        figures = {c: scene.figure(c) for c in (self.a, self.b)}
        self.assertEqual(moves(figures, {}), {})


class FollowingTest(SocketTest):
    def test_what_is_tied_follows_a_drag_and_a_planted_foot_stays(self) -> None:
        first = self.casting.pk  # type: ignore[attr-defined]
        other = Casting.objects.create(shot=self.shot, version=self.casting.version, name="Can", place=1)  # type: ignore[attr-defined]
        take = Take.objects.get()
        for casting, edit in (
            (first, {"kind": "pose", "frame": 1, "values": {"body/ty": -0.1}}),
            (first, {"kind": "plant", "plants": [{"control": FOOT, "start": 1, "end": 20}]}),
            (other.pk, {"kind": "belong", "controls": ["master"], "figure": first, "to": "arm.L.goal", "start": 1,
                        "end": 20}),
        ):  # fmt: skip
            asked, of, revision = edit_from_json(edit), casting, Take.objects.get().revision
            store.commit(
                take.pk,
                cast_of(take.shot),
                store.Basis(revision),
                self.isla,
                "x",
                lambda s, a=asked, o=of: made(a, s, o),
            )  # type: ignore[attr-defined, misc]
        socket = self.socket("isla")

        async def drag() -> list[bytes]:
            await socket.connect(5)
            begun = await self.answer(socket, {"do": "begin", "seq": 1, "casting": first, "frame": 9})
            went = await self.answer(socket, {"do": "move", "seq": 2, "controls": ["master"], "offset": [0, 0, 0.2]})
            foot = await self.answer(socket, {"do": "move", "seq": 3, "controls": [FOOT], "offset": [0.1, 0, 0]})
            await socket.disconnect()
            return [begun, went, foot]

        begun, went, foot = (drag_of(data)[1] for data in async_to_sync(drag)())
        ankle = self.rig.skeleton.index(self.rig.plan.roles["leg.L.foot"])
        head = self.rig.skeleton.index(self.rig.plan.roles["head"])
        np.testing.assert_allclose(went[first].joints[ankle, :3], begun[first].joints[ankle, :3], atol=1e-5)
        self.assertAlmostEqual(went[first].joints[head, 2] - begun[first].joints[head, 2], 0.2, places=4)
        self.assertEqual({self.rig.addresses[c] for c in went[first].changed}, {"master/tz"})
        way = went[other.pk].joints[head, :3] - begun[other.pk].joints[head, :3]
        np.testing.assert_allclose(way, [0.0, 0.0, 0.2], atol=1e-4)
        np.testing.assert_allclose(foot[first].joints[ankle, 0] - begun[first].joints[ankle, 0], 0.1, atol=1e-4)
