"""The frames a second of a shot: a step of each of its takes, which are taken back and brought again together."""

from __future__ import annotations

from typing import Any

from server.shots.models import Casting, Edit, Shot, Take
from tests.server.base import ServerTest


class RateTest(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.other = Take.objects.create(shot=self.shot, name="Take 2")
        self.pose(1, **{"head__ry": 0.1})
        self.pose(13, **{"head__ry": 0.4})
        self.pose(25, **{"head__ry": 0.2})

    def rate(self, fps: float, keep: str, take: Take | None = None, **told: Any) -> Any:
        take = take or self.take
        body = {"revision": Take.objects.get(pk=take.pk).revision, "fps": fps, "keep": keep, **told}
        return self.post(f"/takes/{take.pk}/rate", body)

    def back(self, way: str = "undo", take: Take | None = None) -> Any:
        take = take or self.take
        return self.post(f"/takes/{take.pk}/{way}", {"revision": Take.objects.get(pk=take.pk).revision})

    def keys(self, take: Take | None = None) -> list[int]:
        rows = self.get(f"/takes/{(take or self.take).pk}").json()["clips"][str(self.casting.pk)]["curves"]
        return [int(row[0]) for row in rows["head/ry"]]

    def shown(self) -> tuple[float, int, int, int, int]:
        now = Shot.objects.get(pk=self.shot.pk)
        return now.fps, now.start, now.end, now.play_start, now.play_end

    def test_frames_kept_it_is_a_step_of_all_takes_and_undone_with_all(self) -> None:
        self.assertEqual(self.rate(30, "frames").status_code, 200)
        self.assertEqual((self.shown()[0], self.keys()), (30, [1, 13, 25]))
        for take in (self.take, self.other):
            self.assertEqual(Edit.objects.filter(take=take).last().label, "24 to 30 frames a second, frames kept")  # type: ignore[union-attr]
        self.assertEqual(self.back(take=self.other).status_code, 200)
        self.assertEqual(self.shown()[0], 24)
        self.assertFalse(self.get(f"/takes/{self.other.pk}").json()["can_undo"])
        self.assertEqual(self.back("redo").status_code, 200)
        self.assertEqual(self.shown()[0], 30)
        self.assertTrue(self.get(f"/takes/{self.other.pk}").json()["can_undo"])

    def test_seconds_kept_keys_and_range_go_along_and_come_back(self) -> None:
        before = self.shown()
        self.assertEqual(self.rate(48, "seconds").status_code, 200)
        self.assertEqual(self.keys(), [1, 25, 49])
        self.assertEqual(self.shown(), (48, 1, 97, 1, 47))
        self.back()
        self.assertEqual((self.keys(), self.shown()), ([1, 13, 25], before))
        self.back("redo")
        self.assertEqual(self.keys(), [1, 25, 49])
        first = Edit.objects.filter(take=self.take).first()
        way = {"revision": Take.objects.get(pk=self.take.pk).revision, "step": first.pk}  # type: ignore[union-attr]
        self.assertEqual(self.post(f"/takes/{self.take.pk}/goto", way).status_code, 200)
        self.assertEqual((self.keys(), self.shown()), ([1], before))

    def test_keys_that_fall_together_are_told_and_undo_brings_them_back(self) -> None:
        self.pose(14, **{"head__ry": 0.5})
        told = self.rate(6, "seconds").json()
        self.assertIn("fell on frame", " ".join(told["notes"]))
        self.back()
        self.assertEqual(self.keys(), [1, 13, 14, 25])

    def test_where_another_take_has_gone_on_it_is_not_undone(self) -> None:
        self.rate(30, "seconds")
        self.post(f"/takes/{self.other.pk}/edits", {
            "revision": 1, "casting": self.casting.pk, "edit": {"kind": "pose", "frame": 3, "values": {"head/ry": 0.2}},
        })  # fmt: skip
        keys = self.keys()
        refused = self.back()
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Take 2 has gone on since", refused.json()["message"])
        self.assertEqual((self.keys(), self.shown()[0]), (keys, 30))
        self.back(take=self.other)
        self.assertEqual(self.back().status_code, 200)
        self.assertEqual(self.shown()[0], 24)

    def test_where_a_take_was_begun_since_it_is_not_undone(self) -> None:
        self.rate(30, "seconds")
        self.post(f"/shots/{self.shot.pk}/takes", {"name": "Take 3", "source": self.take.pk})
        self.assertIn("Take 3", self.back().json()["message"])
        self.assertEqual(self.shown()[0], 30)

    def test_a_range_set_by_hand_since_stays(self) -> None:
        self.rate(48, "seconds")
        self.post(f"/shots/{self.shot.pk}", {"end": 120}, "patch")
        self.back()
        self.assertEqual(self.shown(), (24, 1, 120, 1, 24))

    def test_set_among_other_settings_it_is_a_step_too(self) -> None:
        self.post(f"/shots/{self.shot.pk}", {"fps": 25, "name": "Evening round"}, "patch")
        self.back()
        now = Shot.objects.get(pk=self.shot.pk)
        self.assertEqual((now.fps, now.name), (24, "Evening round"))

    def test_sent_twice_under_one_name_it_is_made_once(self) -> None:
        for _ in range(2):
            self.assertEqual(self.rate(30, "seconds", id="0123456789abcdef").status_code, 200)
        self.assertEqual(Edit.objects.filter(take=self.take, rate__isnull=False).count(), 1)

    def test_a_step_made_before_it_is_asked_about(self) -> None:
        """It would lie on a frame that is another time now."""
        revision = Take.objects.get(pk=self.take.pk).revision
        self.as_user("maud")
        self.rate(30, "seconds")
        self.as_user("isla")
        pose = {"kind": "pose", "frame": 20, "values": {"spine/rx": 0.1}}
        self.assertEqual(self.edit(pose, revision).status_code, 409)
        # Also of somebody of whom nothing is keyed yet; with the frames kept it means the same.
        other = Casting.objects.create(shot=self.shot, version=self.casting.version, name="Twin")
        for keep, answer in (("seconds", 409), ("frames", 200)):
            revision = Take.objects.get(pk=self.take.pk).revision
            self.as_user("maud")
            self.rate(24 if keep == "seconds" else 25, keep)
            self.as_user("isla")
            body = {"revision": revision, "casting": other.pk, "edit": pose}
            self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, answer, keep)

    def test_what_would_come_to_lie_too_far_out_is_refused_for_all_takes(self) -> None:
        self.pose(200_000, **{"head__ry": 0.2})
        refused = self.rate(48, "seconds", take=self.other)
        self.assertEqual(refused.status_code, 422)
        self.assertEqual((self.shown()[0], self.keys()), (24, [1, 13, 25, 200_000]))
        self.assertEqual(Edit.objects.filter(take=self.other).count(), 0)

    def test_nonsense_and_guests_are_refused(self) -> None:
        for fps in (0, 1000, "fast"):
            self.assertEqual(self.rate(fps, "frames").status_code, 422)  # type: ignore[arg-type]
        self.assertEqual(self.rate(30, "time").status_code, 422)
        self.as_user("tam")
        self.assertEqual(self.rate(30, "frames").status_code, 403)
        self.assertEqual(self.shown()[0], 24)
