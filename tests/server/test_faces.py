"""Faces over the interface: what moves their zones, and expressions as the page is told of them."""

from __future__ import annotations

from typing import Any

from hame.demo.poses import FACES
from hame.edits.library import size_of
from server.characters import store as characters
from server.shots.models import Casting, LibraryPose, Shot
from tests.server.base import ServerTest


class ZonesTest(ServerTest):
    def zones(self) -> dict[str, dict[str, list[str]]]:
        found: dict[str, dict[str, list[str]]] = self.get(f"/characters/{self.character.pk}").json()["face"]
        return found

    def put(self, face: dict[str, Any] | None, **more: Any) -> Any:
        roles = dict(characters.rig(self.character.current).plan.roles)
        body = {"roles": roles, **more} | ({} if face is None else {"face": face})
        return self.post(f"/characters/{self.character.pk}/plan", body, "put")

    def test_they_are_proposed_and_a_person_says_otherwise(self) -> None:
        face = self.zones()
        self.assertEqual(face["jaw"], {"joints": [], "shapes": ["mouth_open"]})
        face["cheek.L"] = {"joints": ["beard"], "shapes": ["cheek_up_l"]}
        answer = self.put(face)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["version"], 2)  # a shot plays the first one
        self.character.refresh_from_db()
        rig = characters.rig(self.character.current)
        self.assertTrue(rig.control("cheek.L").posed)
        self.assertIn("cheek.L/cheek_up_l", rig.addresses)
        self.assertFalse(characters.rig(self.casting.version).control("cheek.L").posed)  # as it was, in the shot
        self.assertEqual(self.put(None).json()["controls"], answer.json()["controls"])  # what is not told stays
        self.assertEqual(self.zones()["cheek.L"]["joints"], ["beard"])

    def test_what_cannot_be_is_told_and_changes_nothing(self) -> None:
        before = self.zones()
        face = {**before, "nose": {"joints": ["jaw"], "shapes": []}}
        told = self.post(f"/characters/{self.character.pk}/plan/check",
                         {"roles": dict(characters.rig(self.character.current).plan.roles), "face": face})  # fmt: skip
        self.assertIn("jaw already", told.json()["problems"]["nose"])
        self.assertEqual(self.put(face).status_code, 422)
        self.assertEqual(self.zones(), before)
        self.as_user("tam")
        self.assertEqual(self.put(before).status_code, 403)

    def test_the_page_is_told_the_outline_of_a_face(self) -> None:
        rig = self.get(f"/castings/{self.casting.pk}/rig").json()
        self.assertGreater(len(rig["face"]), 20)
        lids = next(c for c in rig["controls"] if c["name"] == "lid.L.upper")
        xs = [x for x, _ in rig["face"]]
        self.assertTrue(min(xs) < lids["place"][0] < max(xs))


class ExpressionsTest(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.rig = characters.rig(self.casting.version)
        self.ids = {pose.name: self.keep(pose.name, pose.make(self.rig)) for pose in FACES if pose.figure == "Brannoc"}

    def keep(self, name: str, values: dict[str, float], character: str = "Brannoc") -> int:
        return LibraryPose.objects.create(production=self.production, name=name, character=character, values=values,
                                          size=size_of(self.rig)).pk  # fmt: skip

    def shares(self, frame: int, query: str = "") -> dict[str, float]:
        answer = self.get(f"/takes/{self.take.pk}/expressions?casting={self.casting.pk}&frame={frame}{query}")
        self.assertEqual(answer.status_code, 200, answer.content)
        return {one["name"]: one["share"] for one in answer.json()}

    def test_how_much_a_face_shows_of_each(self) -> None:
        mixed = [{"pose": self.ids["Smiling"], "share": 0.5}, {"pose": self.ids["Worried"], "share": 0.3}]
        answer = self.edit({"kind": "express", "frame": 9, "mixed": mixed})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["label"], "Face at 9: Smiling 50%, Worried 30%")
        shares = self.shares(9)
        self.assertAlmostEqual(shares.pop("Smiling"), 0.5, 6)
        self.assertAlmostEqual(shares.pop("Worried"), 0.3, 6)
        self.assertLess(max(shares.values()), 1e-6)

    def test_poses_of_more_than_a_face_are_none_and_those_of_others_are_asked_for(self) -> None:
        self.keep("Fist", {"arm.L.index/curl": 1.0})
        self.keep("Leering", {**FACES[0].make(self.rig), "head/rx": 0.2})
        self.keep("Wick's grin", FACES[0].make(self.rig), "Wick")
        self.assertEqual(set(self.shares(1)), set(self.ids))
        self.assertEqual(set(self.shares(1, "&others=true")), {*self.ids, "Wick's grin"})

    def test_they_are_told_to_nobody_else(self) -> None:
        path = f"/takes/{self.take.pk}/expressions?casting={self.casting.pk}&frame=1"
        self.as_user("stranger")
        self.assertEqual(self.get(path).status_code, 404)
        self.as_user("isla")
        other = Casting.objects.create(shot=Shot.objects.create(production=self.production, name="Other"),
                                       version=self.casting.version, name="Brannoc")  # fmt: skip
        self.assertIn(self.get(f"/takes/{self.take.pk}/expressions?casting={other.pk}&frame=1").status_code, (404, 422))


class SquashTest(ServerTest):
    def test_eyes_get_shapes_in_a_version_of_its_own(self) -> None:
        path = f"/characters/{self.character.pk}"
        before = self.get(path).json()
        self.assertTrue(before["squashable"])
        answer = self.post(f"{path}/squash", {})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["version"], 2)
        now = self.get(path).json()
        self.assertFalse(now["squashable"])
        self.assertEqual(set(now["shapes"]) - set(before["shapes"]), {"eye_flat_l", "eye_flat_r"})
        self.assertEqual(now["face"]["eye.R"]["shapes"], ["eye_squash_r", "eye_flat_r"])
        self.character.refresh_from_db()
        self.assertIn("eye.L/eye_flat_l", characters.rig(self.character.current).addresses)
        self.assertNotIn("eye.L/eye_flat_l", characters.rig(self.casting.version).addresses)  # as it was, in the shot
        again = self.post(f"{path}/squash", {})
        self.assertEqual((again.status_code, "already" in again.content.decode()), (422, True), again.content)
        self.as_user("stranger")
        self.assertEqual(self.post(f"{path}/squash", {}).status_code, 404)


class TakenTest(ServerTest):
    """Springs that were taken as keys, and what pages are told of them."""

    def springs(self) -> list[dict[str, Any]]:
        answer = self.get(f"/takes/{self.take.pk}/springs?casting={self.casting.pk}")
        self.assertEqual(answer.status_code, 200, answer.content)
        found: list[dict[str, Any]] = answer.json()
        return found

    def test_keys_are_older_once_the_motion_is_changed(self) -> None:
        self.pose(1, **{"head/rx": 0.0})
        self.pose(12, **{"head/rx": 0.6})
        self.edit({"kind": "spring", "controls": ["beard"], "start": 1, "end": 24})
        self.assertEqual(self.springs(), [])
        self.assertEqual(self.edit({"kind": "spring keys", "control": "beard", "at": 1}).status_code, 200)
        (span,) = self.clip()["tracks"]["spring/beard"]
        self.assertEqual(span["layer"], 1)
        self.assertNotIn("taken", span)
        (told,) = self.springs()
        self.assertEqual((told["control"], told["start"], told["older"]), ("beard", 1, False))
        self.pose(8, **{"head/rx": -0.4})
        (told,) = self.springs()
        self.assertTrue(told["older"])
        self.assertGreater(told["radians"], 0.2)
        self.assertEqual(self.edit({"kind": "delete layer", "number": 1}).status_code, 200)
        self.assertEqual(self.springs(), [])

    def test_they_are_told_to_nobody_else(self) -> None:
        self.as_user("stranger")
        self.assertEqual(self.get(f"/takes/{self.take.pk}/springs?casting={self.casting.pk}").status_code, 404)
