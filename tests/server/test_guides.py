"""Guides of a shot: whose they are, who sees them, and what is refused."""

from __future__ import annotations

from typing import Any
from unittest import mock

from server.shots.models import Guide
from tests.server.base import ServerTest

LINE = {"kind": "line", "points": [[0, 0, 0], [0, 1, 0]]}


class GuidesTest(ServerTest):
    def draw(self, **over: Any) -> Any:
        return self.post(f"/shots/{self.shot.pk}/guides", {**LINE, **over})

    def seen(self) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = self.get(f"/shots/{self.shot.pk}/guides").json()
        return found

    def sign_in(self, name: str) -> None:
        self.client.force_login(getattr(self, name))

    def test_ones_own_is_seen_by_nobody_else_until_it_is_shared(self) -> None:
        guide = self.draw(view="front").json()
        self.assertEqual((guide["mine"], guide["shared"], guide["view"]), (True, False, "front"))
        self.assertEqual([g["points"] for g in self.seen()], [LINE["points"]])
        self.sign_in("maud")
        self.assertEqual(self.seen(), [])
        self.assertEqual(self.post(f"/guides/{guide['id']}", {"shared": True}, "patch").status_code, 404)
        self.sign_in("isla")
        self.post(f"/guides/{guide['id']}", {"shared": True}, "patch")
        self.sign_in("maud")
        self.assertEqual([(g["id"], g["mine"]) for g in self.seen()], [(guide["id"], False)])

    def test_who_has_the_shot_open_is_told_of_what_is_shared_alone(self) -> None:
        with mock.patch("server.shots.api_guides.announce") as told:
            self.draw()
            told.assert_not_called()
            own = self.seen()[0]["id"]
            self.post(f"/guides/{own}", {"points": [[0, 0, 0], [1, 0, 0]]}, "patch")
            self.client.delete(f"/api/guides/{own}")
            told.assert_not_called()
            shared = self.draw(shared=True).json()["id"]
            told.assert_called_once_with(self.take.pk, {"type": "guides.changed"})
            for change in ({"points": LINE["points"]}, {"shared": False}, {"shared": True}):
                told.reset_mock()
                self.post(f"/guides/{shared}", change, "patch")
                told.assert_called_once()
            told.reset_mock()
            self.client.delete(f"/api/guides/{shared}")
            told.assert_called_once()

    def test_ones_own_is_laid_elsewhere_and_nobody_elses(self) -> None:
        guide = self.draw(view="camera", shared=True).json()["id"]
        there = [[0.5, 0.25, 0], [-0.5, 0.25, 0]]
        self.assertEqual(self.post(f"/guides/{guide}", {"points": there}, "patch").json()["points"], there)
        self.assertTrue(self.seen()[0]["shared"])
        self.assertEqual(self.post(f"/guides/{guide}", {"points": there[:1]}, "patch").status_code, 422)
        self.sign_in("maud")
        answer = self.post(f"/guides/{guide}", {"points": LINE["points"]}, "patch")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("draw your own", answer.json()["message"])
        self.assertEqual(self.seen()[0]["points"], there)

    def test_a_shared_one_goes_by_any_animator_and_by_no_guest(self) -> None:
        guide = self.draw(shared=True).json()["id"]
        self.sign_in("tam")
        self.assertEqual(self.client.delete(f"/api/guides/{guide}").status_code, 403)
        self.assertEqual(self.draw(shared=True).status_code, 403)
        self.assertEqual(self.draw().status_code, 200)  # a guest's own
        self.sign_in("maud")
        answer = self.post(f"/guides/{guide}", {"shared": False}, "patch")
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.client.delete(f"/api/guides/{guide}").status_code, 204)
        self.sign_in("stranger")
        self.assertEqual([self.draw().status_code, self.get(f"/shots/{self.shot.pk}/guides").status_code], [404, 404])

    def test_what_is_no_guide_is_refused(self) -> None:
        for over, status in (
            ({"points": [[0, 0, 0]]}, 422), ({"kind": "arc"}, 422), ({"kind": "star"}, 422), ({"view": "quarter"}, 422),
            ({"points": [[0, 0, 1e9], [0, 0, 0]]}, 422), ({"points": [[0, 0], [0, 0]]}, 422),
        ):  # fmt: skip
            self.assertEqual(self.draw(**over).status_code, status, over)
        self.assertEqual(Guide.objects.count(), 0)
        with mock.patch("server.shots.api_guides.MOST", 1):
            self.draw()
            answer = self.draw()
        self.assertEqual(answer.status_code, 422)
        self.assertIn("take some away first", answer.json()["message"])
