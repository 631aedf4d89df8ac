"""What pages and files the server hands out, and in which words it refuses."""

from __future__ import annotations

import json

import numpy as np
from django.conf import settings

from hame.formats.gltf_read import read_character
from server.api import api
from server.openapi import DOCUMENT
from server.shots.models import Shot
from tests.server.base import ServerTest


class PagesTest(ServerTest):
    def test_every_address_of_the_front_end_is_the_one_page(self) -> None:
        for address in ("/", "/productions/1", "/shots/5/takes/9", "/characters/2", "/nowhere"):
            answer = self.client.get(address)
            self.assertEqual(answer.status_code, 200)
            self.assertIn("<title>Hame</title>", answer.content.decode())
            self.assertEqual(answer["X-Frame-Options"], "DENY")
        self.assertEqual(self.client.get("/api/nowhere").status_code, 404)

    def test_the_page_loads_nothing_from_elsewhere(self) -> None:
        page = (settings.WEB_DIST / "index.html").read_text()
        self.assertNotIn("http://", page)
        self.assertNotIn("https://", page)
        self.assertTrue(list((settings.WEB_DIST / "assets").glob("*.woff2")), "fonts are shipped")

    def test_the_admin_is_for_staff(self) -> None:
        self.assertEqual(self.client.get("/admin/").status_code, 302)
        self.isla.is_staff = self.isla.is_superuser = True  # type: ignore[attr-defined]
        self.isla.save()  # type: ignore[attr-defined]
        self.as_user("isla")
        self.assertEqual(self.client.get("/admin/").status_code, 200)

    def test_the_published_interface_is_the_one_that_serves(self) -> None:
        served = json.loads(json.dumps(api.get_openapi_schema()))
        self.assertEqual(served, json.loads(DOCUMENT.read_text()))


class AnswersTest(ServerTest):
    def test_the_mesh_of_a_casting_is_the_character(self) -> None:
        answer = self.client.get(f"/api/castings/{self.casting.pk}/mesh.glb")
        self.assertEqual(answer["Content-Type"], "model/gltf-binary")
        found = read_character(b"".join(answer.streaming_content))  # type: ignore[arg-type]
        self.assertEqual(len(found.skeleton), 68)

    def test_the_rig_of_a_casting_stands_where_its_skeleton_stands(self) -> None:
        rig = self.get(f"/castings/{self.casting.pk}/rig").json()
        places = dict(zip(rig["joints"], rig["rest_places"], strict=True))
        controls = {c["name"]: c for c in rig["controls"]}
        np.testing.assert_allclose(controls["leg.L.goal"]["place"], places["foot_l"], atol=1e-6)
        np.testing.assert_allclose(controls["head"]["place"], places["head"], atol=1e-6)
        self.assertTrue(controls["leg.L.goal"]["can_move"] and controls["leg.L.goal"]["can_turn"])
        self.assertFalse(controls["head"]["can_move"])
        self.assertFalse(controls["leg.L.pole"]["can_turn"])
        limbs = {limb["name"]: limb for limb in rig["limbs"]}
        self.assertEqual(limbs["arm.R"]["fk"], ["arm.R.upper", "arm.R.lower", "arm.R.hand"])

    def test_a_character_is_told_with_its_height_and_who_may_change_it(self) -> None:
        detail = self.get(f"/characters/{self.character.pk}").json()
        self.assertTrue(1.7 < detail["height"] < 1.85)
        self.assertTrue(detail["can_change"])
        self.as_user("tam")
        self.assertFalse(self.get(f"/characters/{self.character.pk}").json()["can_change"])

    def test_shots_are_listed_with_what_a_card_shows(self) -> None:
        found = self.get(f"/productions/{self.production.pk}/shots").json()[0]
        self.assertEqual(
            (found["name"], found["cast"], found["takes"], found["thumbnail"]), ("Morning round", ["Brannoc"], 1, False)
        )

    def test_a_body_that_is_not_understood_is_refused_at_its_place(self) -> None:
        path = f"/shots/{self.shot.pk}"
        for body, words in (({"fps": "fast"}, "fps"), ({"name": ""}, "name"), ({"start": 1.5}, "start")):
            answer = self.post(path, body, "patch")
            self.assertEqual(answer.status_code, 422, body)
            self.assertIn(words, answer.json()["message"])
        broken = self.client.patch(f"/api{path}", "{not json", content_type="application/json")
        self.assertIn(broken.status_code, (400, 422))
        self.assertEqual(Shot.objects.get(pk=self.shot.pk).fps, 24)

    def test_a_take_tells_whether_there_is_something_to_undo(self) -> None:
        take = self.get(f"/takes/{self.take.pk}").json()
        self.assertEqual((take["can_undo"], take["can_redo"]), (False, False))
        self.pose(1, head__ry=0.2)
        self.assertTrue(self.get(f"/takes/{self.take.pk}").json()["can_undo"])
        answer = self.post(f"/takes/{self.take.pk}/undo", {"revision": 1}).json()
        self.assertEqual(
            (answer["can_undo"], answer["can_redo"], answer["label"]), (False, True, "Undone: Pose head at 1")
        )
