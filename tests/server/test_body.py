"""Joint ranges and weights of a character over the API: seen, set, kept, refused."""

from __future__ import annotations

from hame.solve.body import body_of
from server.characters import store as characters
from tests.server.base import ServerTest


class BodyTest(ServerTest):
    def body(self):  # type: ignore[no-untyped-def]
        return self.get(f"/characters/{self.character.pk}/body").json()

    def put(self, **given):  # type: ignore[no-untyped-def]
        return self.post(f"/characters/{self.character.pk}/body", {"ranges": {}, "weights": {}, **given}, "put")

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

    def test_a_joint_is_freed_and_shots_keep_the_version_that_they_play_with(self) -> None:
        free = {one["joint"]: one for one in self.body()["free"]}
        jaw = free["jaw"]
        self.assertIsNone(jaw["own"])
        self.assertEqual([round(v) for v in jaw["usual"]["rx"]], [-5, 40])
        given = {"jaw": {**jaw["usual"], "rx": [-5, 65], "ty": [-0.02, 0.0]}}
        refused = self.put(free={"jaw": {"rx": [5, 65]}})
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(self.put(free=given).status_code, 200)
        self.assertEqual({one["joint"]: one for one in self.body()["free"]}["jaw"]["own"], given["jaw"])
        self.character.refresh_from_db()
        self.assertNotEqual(self.character.current.pk, self.casting.version_id)
        self.casting.refresh_from_db()
        self.assertAlmostEqual(self.high(self.casting.version), 0.698132, 5)
        self.assertAlmostEqual(self.high(self.character.current), 1.134464, 5)
        # Other numbers leave it, and a new plan keeps it.
        version = self.character.current.pk
        self.assertEqual(self.put(ranges={"leg.L.lower": {"bend": [5, 100]}}).status_code, 200)
        self.assertEqual({one["joint"]: one for one in self.body()["free"]}["jaw"]["own"], given["jaw"])
        self.assertEqual(self.put(free=given).status_code, 200)
        self.character.refresh_from_db()
        self.assertEqual(self.character.current.pk, version)

    def high(self, version) -> float:  # type: ignore[no-untyped-def]
        rig = characters.rig(version)
        return rig.channels[rig.number("jaw/rx")].high

    def parts(self, answer: dict) -> dict[str, dict]:  # type: ignore[type-arg]
        return {part["joint"]: part for part in answer["parts"]}

    def test_weights_are_set_and_usual_again(self) -> None:
        before = self.body()
        self.assertAlmostEqual(sum(part["kilograms"] for part in before["parts"]), before["kilograms"], places=3)
        # The World Health Organization calls a body mass index of 18.5 to 24.9 normal.
        rig = characters.rig(self.character.current)
        self.assertTrue(18.5 < before["kilograms"] / (1.055 * rig.skeleton.height) ** 2 < 24.9)
        for part in before["parts"]:
            self.assertEqual({k: part[k] for k in ("kilograms", "at", "radii")}, part["usual"])
        answer = self.put(weights={"head": {"kilograms": 20.0, "at": [0.0, 1.7, 0.1], "radii": [0.1, 0.11, 0.12]}})
        now = self.parts(answer.json())
        self.assertEqual((now["head"]["kilograms"], now["head"]["at"]), (20.0, [0.0, 1.7, 0.1]))
        self.assertEqual(now["head"]["radii"], [0.1, 0.11, 0.12])
        old = self.parts(before)
        self.assertEqual(now["head"]["usual"], old["head"]["usual"])
        for joint, part in now.items():
            if joint != "head":
                self.assertEqual(part, old[joint])
        self.assertAlmostEqual(
            answer.json()["kilograms"], before["kilograms"] + 20.0 - old["head"]["kilograms"], places=3
        )  # fmt: skip
        # What weighs nothing is still there to be given something, and a new plan keeps what was set.
        none = self.parts(self.put(weights={"head": {"kilograms": 0.0}}).json())
        self.assertEqual((none["head"]["kilograms"], none["head"]["usual"]), (0.0, old["head"]["usual"]))
        self.put(weights={"head": {"kilograms": 9.0}})
        self.character.refresh_from_db()
        roles = {r: j for r, j in characters.rig(self.character.current).plan.roles.items() if r != "jaw"}
        self.assertEqual(self.post(f"/characters/{self.character.pk}/plan", {"roles": roles}, "put").status_code, 200)
        self.character.refresh_from_db()
        self.assertEqual(self.parts(self.body())["head"]["kilograms"], 9.0)
        self.assertEqual(self.put().json()["parts"], self.body()["parts"])
        self.assertEqual(self.parts(self.body())["head"]["kilograms"], old["head"]["kilograms"])

    def test_a_thing_of_the_shelf_weighs_what_such_things_do(self) -> None:
        made = self.post(f"/productions/{self.character.production_id}/shelf", {"name": "Crate"}).json()
        path = f"/characters/{made['id']}/body"
        body = self.get(path).json()
        self.assertEqual(body["joints"], [])
        self.assertAlmostEqual(body["kilograms"], 18.0, places=2)
        weights = {part["joint"]: {"kilograms": 15.0 * n} for n, part in enumerate(body["parts"])}
        answer = self.post(path, {"ranges": {}, "weights": weights}, "put")
        whole = 15.0 * sum(range(len(weights)))
        self.assertEqual((answer.status_code, answer.json()["kilograms"]), (200, whole))
        self.assertEqual(self.post(path, {"ranges": {"chest": {"bend": [0, 1]}}}, "put").status_code, 422)

    def test_refusals(self) -> None:
        for given, words in (
            ({"ranges": {"wing": {"bend": [0, 1]}}}, "no joint called wing"),
            ({"ranges": {"chest": {"roll": [0, 1]}}}, "no angle called roll"),
            ({"ranges": {"chest": {"bend": [30, -30]}}}, "no range"),
            ({"ranges": {"chest": {"bend": [0, 400]}}}, "no range"),
            ({"weights": {"head": {"kilograms": -1.0}}}, "cannot weigh"),
            ({"weights": {"nose": {"kilograms": 1.0}}}, "no joint called nose"),
            ({"weights": {"head": {"at": [0, 1e6, 0]}}}, "too far away"),
            ({"weights": {"head": {"radii": [0, -1, 0]}}}, "a length from nothing on"),
            ({"weights": {"head": {"radii": [0.1, 0.1, 0.3]}}}, "none is more than the other two together"),
            ({"weights": {part["joint"]: {"kilograms": 0.0} for part in self.body()["parts"]}}, "weighs something"),
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
        moving = rows[2]["moving"]
        self.assertAlmostEqual(moving["margin"], rows[2]["margin"], places=6)
        self.assertAlmostEqual(moving["force"], 1.0, places=6)
        self.assertEqual((moving["load"], round(moving["speed"], 6)), (0.0, 0.0))
        self.assertEqual(set(moving["bearing"]), {"leg.L.goal", "leg.R.goal"})
        self.pose(1, master__ty=0.6)
        self.assertIsNone(self.get(f"{path}&first=1&last=1").json()[0]["margin"])
        self.assertEqual(self.get(f"{path}&first=9&last=1").status_code, 422)
        self.as_user("stranger")
        self.assertEqual(self.get(f"{path}&first=1&last=1").status_code, 404)
