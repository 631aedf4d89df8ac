"""Undo closes no ring either."""

from __future__ import annotations

from typing import Any

from server.shots.models import Casting
from tests.server.base import ServerTest

HAND = "arm.R.goal"


class UndoneRingTest(ServerTest):
    def test_undo_of_one_s_own_step_that_would_close_a_ring_is_refused(self) -> None:
        wick = Casting.objects.create(shot=self.shot, version=self.character.current, name="Wick")

        def step(casting: int, edit: dict[str, Any]) -> Any:
            revision = self.get(f"/takes/{self.take.pk}").json()["revision"]
            answer = self.post(f"/takes/{self.take.pk}/edits", {"revision": revision, "casting": casting, "edit": edit})
            self.assertEqual(answer.status_code, 200, answer.content)
            return answer.json()["revision"]

        carry = {"kind": "belong", "controls": ["master"], "figure": self.casting.pk, "to": HAND, "start": 5, "end": 30}
        step(wick.pk, carry)
        step(wick.pk, {"kind": "unbelong", "controls": ["master"]})  # Isla's last step of her own
        self.as_user("maud")
        plant = {"kind": "plant", "plants": [{"control": HAND, "start": 10, "end": 20}], "figure": wick.pk,
                 "thing": "chest"}  # fmt: skip
        now = step(self.casting.pk, plant)
        self.as_user("isla")
        undone = self.post(f"/takes/{self.take.pk}/undo", {"revision": now})
        self.assertEqual(undone.status_code, 422, undone.content)
        self.assertIn("carry each other round", undone.json()["message"])
        self.assertEqual(self.get(f"/takes/{self.take.pk}").json()["revision"], now)
