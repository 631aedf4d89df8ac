"""Shapes of a character's skin over the API: how far they go, keyed, and handed off."""

from __future__ import annotations

from unittest import mock

import numpy as np

from hame.formats.gltf_read import read_character
from server.characters import store as characters
from server.shots.api_handoff import handed_off
from server.shots.models import Casting
from tests.hame.test_shapes import document, shaped_file
from tests.server.base import ServerTest, take_in_once


class ShapesTest(ServerTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        with mock.patch.object(characters, "take_in", take_in_once):
            cls.character = characters.bring_in(cls.production.pk, "Limpet", shaped_file(), cls.isla)  # type: ignore[attr-defined]
        cls.casting = Casting.objects.create(shot=cls.shot, version=cls.character.current, name="Limpet", place=1)

    @property
    def path(self) -> str:
        return f"/characters/{self.character.pk}/body"

    def shapes(self) -> dict[str, tuple[float, float]]:
        return {one["name"]: (one["low"], one["high"]) for one in self.get(self.path).json()["shapes"]}

    def test_the_person_lets_one_go_further_and_a_new_plan_keeps_that(self) -> None:
        self.assertEqual(self.shapes()["smile_L"], (0.0, 1.0))
        given = {"ranges": {}, "weights": {}, "shapes": {"smile_L": [-0.5, 2.0]}}
        self.assertEqual(self.post(self.path, given, "put").status_code, 200)
        self.assertEqual(self.shapes()["smile_L"], (-0.5, 2.0))
        self.post(self.path, {"ranges": {}, "weights": {}}, "put")
        self.assertEqual(self.shapes()["smile_L"], (-0.5, 2.0))
        self.character.refresh_from_db()
        roles = dict(characters.rig(self.character.current).plan.roles)
        self.assertEqual(self.post(f"/characters/{self.character.pk}/plan", {"roles": roles}, "put").status_code, 200)
        self.assertEqual(self.shapes()["smile_L"], (-0.5, 2.0))
        refused = self.post(self.path, {**given, "shapes": {"smile_L": [0.5, 1.0]}}, "put")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("from 0 to 1 at least", refused.json()["message"])

    def test_keyed_it_is_drawn_by_its_channel_and_handed_off(self) -> None:
        rig = self.get(f"/castings/{self.casting.pk}/rig").json()
        names = [rig["channels"][n]["address"] for n in rig["shapes"]]
        self.assertEqual(names, ["corner.L/smile_L", "corner.R/smile_R", "jaw/jaw open"])
        for frame, amount in ((1, 0.0), (5, 0.6)):
            answer = self.pose(frame, **{"corner.R__smile_R": amount})
            self.assertEqual(answer.status_code, 200, answer.content)
        data = handed_off(self.take.pk, [self.casting.pk], 1, 5, ".glb")
        again = read_character(data).skin
        self.assertEqual(again.shapes, ("smile_L", "smile_R", "jaw open"))
        np.testing.assert_allclose(again.amounts, (0.0, 0.0, 0.25), atol=1e-5)
        channel = next(c for c in document(data)["animations"][0]["channels"] if c["target"]["path"] == "weights")
        output = document(data)["animations"][0]["samplers"][channel["sampler"]]["output"]
        self.assertEqual(document(data)["accessors"][output]["count"], 5 * 3)
