"""A page that was away comes to what is stored, whatever was done meanwhile, by whom, taken back or made anew."""

from __future__ import annotations

from typing import Any

import numpy as np

from server.shots import clips
from server.shots.models import Edit, Take
from tests.hame.examples import brannoc_rig
from tests.hame.test_histories import KINDS
from tests.server.base import ServerTest

AWAY = 9  # steps at most that the page missed
# Kinds that take seconds, or need others of the cast.
LEFT_OUT = {"go limp"}


class CatchingUpTest(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.shown: dict[int, dict[str, Any]] = {}  # by revision, the clip as it was then
        self.last = ""

    def revision(self) -> int:
        return int(Take.objects.get(pk=self.take.pk).revision)

    def step(self, rng: np.random.Generator, number: int) -> Any:
        """A random step of one of two people: an edit, one in the place of the last, or one taken back."""
        person = ("isla", "maud")[int(rng.integers(0, 2))]
        self.as_user(person)
        path, revision, what = f"/takes/{self.take.pk}", self.revision(), rng.random()
        if what < 0.12:
            return self.post(f"{path}/undo", {"revision": revision})
        if what < 0.2:
            return self.post(f"{path}/redo", {"revision": revision})
        if what < 0.23:
            steps = list(Edit.objects.filter(take=self.take).values_list("pk", flat=True))
            goal = int(rng.choice(steps)) if steps else None
            return self.post(f"{path}/goto", {"revision": revision, "step": goal})
        clip = clips.open_clip(Take.objects.get(pk=self.take.pk), self.casting.pk)
        kind = str(rng.choice([kind for kind in KINDS if kind not in LEFT_OUT]))
        edit = {"kind": kind, **KINDS[kind](clip, brannoc_rig(), rng)}
        body: dict[str, Any] = {
            "revision": revision,
            "casting": self.casting.pk,
            "edit": edit,
            "id": f"step-no-{number}",
        }
        if rng.random() < 0.25 and self.last:
            body["instead"] = self.last
        answer = self.post(f"{path}/edits", body)
        if answer.status_code == 200:
            self.last = f"step-no-{number}"
        return answer

    def caught_up(self, since: int) -> dict[str, Any]:
        """The clip of a page that showed it as it was at a revision, after it was told what it missed."""
        answer = self.get(f"/takes/{self.take.pk}/changes?since={since}")
        self.assertEqual(answer.status_code, 200, (since, answer.content[:300]))
        was = self.shown[since]
        told = answer.json()["clips"].get(str(self.casting.pk))
        if told is None:
            return was
        curves = {} if told["all"] else dict(was["curves"])
        for address, change in told["curves"].items():
            self.assertTrue(change["whole"])
            curves.pop(address, None)
            if change["rows"]:
                curves[address] = change["rows"]
        pending = {} if told["all"] else dict(was["pending"])
        for frame, values in told["pending"].items():
            pending.pop(frame, None)
            if values is not None:
                pending[frame] = values
        kept = {name: was[name] if told[name] is None else told[name] for name in ("labels", "tracks", "follows")}
        return {"curves": curves, "pending": pending, **kept, "poses": told["poses"]}

    def test_whatever_was_missed(self) -> None:
        rng = np.random.default_rng(11)
        self.shown[self.revision()] = self.clip()
        made = 0
        for number in range(60):
            answer = self.step(rng, number)
            self.assertIn(answer.status_code, (200, 409, 422), answer.content[:300])
            made += answer.status_code == 200
            now = self.revision()
            self.shown[now] = self.clip()
            for since in {int(rng.integers(max(now - AWAY, 0), now + 1)) for _ in range(2)} & self.shown.keys():
                self.assertEqual(self.caught_up(since), self.shown[now], (number, since, now))
        self.assertGreater(made, 12)
