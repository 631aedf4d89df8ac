from __future__ import annotations

from server.shots.models import Shot, Take
from tests.pictures import png
from tests.server.base import ServerTest, lay_demo

PNG = png(64, 48)


class ShotsTest(ServerTest):
    def test_a_new_shot_has_a_cast_a_take_and_24_frames_a_second(self) -> None:
        answer = self.post(
            f"/productions/{self.production.pk}/shots",
            {"name": "Oil cans", "character_ids": [self.character.pk, self.character.pk]},
        ).json()
        self.assertEqual([c["name"] for c in answer["cast"]], ["Brannoc", "Brannoc 2"])
        self.assertEqual((answer["fps"], len(answer["takes"])), (24, 1))

    def test_rate_and_ranges_can_be_set_and_nonsense_is_refused(self) -> None:
        path = f"/shots/{self.shot.pk}"
        self.assertEqual(self.post(path, {"fps": 30, "play_start": 5, "play_end": 20}, "patch").json()["fps"], 30)
        for change, words in (
            ({"end": -3}, "before"), ({"play_end": 2}, "play range ends"), ({"fps": 0}, "fps"), ({"end": 90_000},
                "at most"),
        ):  # fmt: skip
            answer = self.post(path, change, "patch")
            self.assertEqual(answer.status_code, 422, change)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(Shot.objects.get(pk=self.shot.pk).play_end, 20)

    def test_a_shorter_range_takes_the_play_range_with_it(self) -> None:
        answer = self.post(f"/shots/{self.shot.pk}", {"end": 12}, "patch").json()
        self.assertEqual((answer["play_start"], answer["play_end"]), (1, 12))

    def test_a_thumbnail_is_a_small_png_and_nothing_else(self) -> None:
        path = f"/api/shots/{self.shot.pk}/thumbnail"
        self.assertEqual(self.client.get(path + ".png").status_code, 404)
        for body in (b"<svg/>", PNG + b"\0" * 1_500_000):
            self.assertEqual(self.client.put(path, body, content_type="image/png").status_code, 422)
        self.assertEqual(self.client.put(path, PNG, content_type="image/png").status_code, 204)
        self.assertEqual(self.client.get(path + ".png").status_code, 200)

    def test_the_rig_tells_what_channels_are_for_and_why_they_are_locked(self) -> None:
        rig = self.get(f"/castings/{self.casting.pk}/rig").json()
        channels = {c["address"]: c for c in rig["channels"]}
        self.assertIn("hinge", channels["arm.L.lower/rz"]["locked"])
        self.assertIn("heel", channels["leg.L.goal/roll"]["purpose"])
        self.assertIsNone(channels["head/ry"]["low"])
        self.assertEqual(len(rig["picks"]), len(rig["joints"]))

    def test_the_page_and_the_demo(self) -> None:

        from server.productions.models import Production

        Production.objects.update(name="Another light")
        lay_demo()
        lay_demo()  # a second time changes nothing
        self.assertEqual(Shot.objects.filter(name="Keeping watch").count(), 1)
        self.assertEqual(Take.objects.get(shot__name="Keeping watch").edits.count(), 1)
        self.assertTrue(Shot.objects.get(name="Keeping watch").thumbnail)
        self.assertEqual(self.client.get("/").status_code, 200)
