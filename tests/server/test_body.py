"""Joint ranges and weights of a character over the API: seen, set, kept, refused."""

from __future__ import annotations

from hame.solve.body import body_of
from server.characters import store as characters
from tests.server.base import ServerTest


class BodyTest(ServerTest):
    def body(self):  # type: ignore[no-untyped-def]
        return self.get(f"/characters/{self.character.pk}/body").json()

    def put(self, **given):  # type: ignore[no-untyped-def]
        return self.post(f"/characters/{self.character.pk}/body", {"ranges": {}, "masses": {}, **given}, "put")

    def test_usual_ranges_are_told_and_own_ones_kept(self) -> None:
        joints = {joint["name"]: joint for joint in self.body()["joints"]}
        # American Academy of Orthopaedic Surgeons, 1965: knee 0 to 135, elbow 0 to 150 degrees.
        self.assertEqual([round(v) for v in joints["leg.L.lower"]["usual"]["bend"]], [0, 135])
        self.assertEqual([round(v) for v in joints["arm.R.lower"]["usual"]["bend"]], [0, 150])
        self.assertEqual(list(joints["leg.L.lower"]["usual"]), ["bend"])
        answer = self.put(ranges={"leg.L.lower": {"bend": [5, 100]}})
        self.assertEqual(answer.status_code, 200, answer.content)
        again = {joint["name"]: joint for joint in self.body()["joints"]}
        self.assertEqual(again["leg.L.lower"]["own"], {"bend": [5, 100]})
        self.assertEqual([round(v) for v in again["leg.L.lower"]["usual"]["bend"]], [0, 135])
        self.character.refresh_from_db()
        rig = characters.rig(self.character.current)
        link = body_of(rig).links[body_of(rig).number("leg.L.lower")]
        self.assertAlmostEqual(link.range.bend[1], 1.745329, places=5)
        # A new plan keeps them.
        roles = {r: j for r, j in rig.plan.roles.items() if r != "jaw"}
        self.assertEqual(self.post(f"/characters/{self.character.pk}/plan", {"roles": roles}, "put").status_code, 200)
        self.assertEqual(self.body()["joints"][1]["name"], "spine")
        self.assertEqual({j["name"]: j["own"] for j in self.body()["joints"]}["leg.L.lower"], {"bend": [5, 100]})

    def test_masses_are_set_and_usual_again(self) -> None:
        before = self.body()
        self.assertFalse(before["weighed"])
        self.assertAlmostEqual(sum(m["kilograms"] for m in before["masses"]), 70.0, places=6)
        heavy = {m["joint"]: m["kilograms"] for m in before["masses"]} | {"head": 20.0}
        now = self.put(masses=heavy).json()
        self.assertTrue(now["weighed"])
        self.assertAlmostEqual({m["joint"]: m["kilograms"] for m in now["masses"]}["head"], 20.0)
        self.assertFalse(self.put().json()["weighed"])

    def test_refusals(self) -> None:
        for given, words in (
            ({"ranges": {"wing": {"bend": [0, 1]}}}, "no joint called wing"),
            ({"ranges": {"chest": {"roll": [0, 1]}}}, "no angle called roll"),
            ({"ranges": {"chest": {"bend": [30, -30]}}}, "no range"),
            ({"ranges": {"chest": {"bend": [0, 400]}}}, "no range"),
            ({"masses": {"head": -1.0}}, "cannot weigh"),
            ({"masses": {"nose": 1.0}}, "no joint called nose"),
            ({"masses": {"head": 0.0}}, "weighs something"),
        ):
            answer = self.put(**given)
            self.assertEqual(answer.status_code, 422, given)
            self.assertIn(words, answer.json()["detail"] if "detail" in answer.json() else str(answer.json()))
        self.assertEqual([j["own"] for j in self.body()["joints"] if j["own"]], [])

    def test_a_guest_looks_and_a_stranger_sees_nothing(self) -> None:
        self.as_user("tam")
        self.assertEqual(self.get(f"/characters/{self.character.pk}/body").status_code, 200)
        self.assertEqual(self.put().status_code, 403)
        self.as_user("stranger")
        self.assertEqual(self.get(f"/characters/{self.character.pk}/body").status_code, 404)


class BalanceTest(ServerTest):
    def test_the_balance_of_a_take_frame_by_frame(self) -> None:
        self.pose(1, body__ty=-0.1)
        path = f"/takes/{self.take.pk}/balance?casting={self.casting.pk}"
        rows = self.get(f"{path}&first=1&last=6").json()
        self.assertEqual(len(rows), 6)
        self.assertGreater(rows[0]["margin"], 0.02)
        self.assertEqual(set(rows[0]["bearing"]), {"leg.L.goal", "leg.R.goal"})
        self.assertAlmostEqual(sum(rows[0]["bearing"].values()), 1.0, places=6)
        self.pose(1, master__ty=0.6)
        self.assertIsNone(self.get(f"{path}&first=1&last=1").json()[0]["margin"])
        self.assertEqual(self.get(f"{path}&first=9&last=1").status_code, 422)
        self.as_user("stranger")
        self.assertEqual(self.get(f"{path}&first=1&last=1").status_code, 404)
