"""Ways over the interface: told as they are gone, tried before they are laid, and how somebody goes, read and kept."""

from __future__ import annotations

from typing import Any

from hame.clip.way import ways_of
from server.productions.models import Production
from server.shots import store
from server.shots.models import Edit, Manner, Take
from tests.server.base import ServerTest

WAY = {
    "kind": "lay way", "start": 3, "points": [{"x": 0.0, "z": 0.0}, {"x": 0.0, "z": 3.0}, {"x": 1.0, "z": 5.0}],
    "here": True,
}  # fmt: skip


class WaysTest(ServerTest):
    def told(self, frame: int = 20) -> dict[str, Any]:
        answer = self.get(f"/takes/{self.take.pk}/ways?casting={self.casting.pk}&frame={frame}")
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict(answer.json())

    def test_a_way_is_told_as_it_is_gone(self) -> None:
        self.assertEqual(self.told()["ways"], [])
        answer = self.edit(WAY)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["label"], "Way from 3")
        (way,) = self.told()["ways"]
        self.assertEqual((way["start"], way["here"], way["ends"]), (3, True, True))
        self.assertEqual(len(way["points"]), 3)
        self.assertEqual(len(way["speed"]), way["end"] - way["start"] + 1)
        landed = [one for one in way["footfalls"] if one["number"] > 0]
        self.assertEqual([one["leg"] for one in landed[:4]], ["R", "L", "R", "L"])
        self.assertTrue(all(one["short"] == 0.0 and not one["set_by_hand"] for one in landed))
        one = landed[2]
        set_ = {"kind": "set footfall", "at": 3, "number": one["number"], "side": one["leg"], "x": 2.0}
        self.assertEqual(self.edit(set_).status_code, 200)
        moved = next(o for o in self.told()["ways"][0]["footfalls"] if o["number"] == one["number"])
        self.assertEqual(moved["set_by_hand"], ["place"])
        self.assertGreater(moved["short"], 0.5)
        self.assertLess(abs(moved["nearest"][0]), 2.0)

    def test_what_is_tried_is_told_and_not_stored(self) -> None:
        steps = Edit.objects.count()
        body = {"casting": self.casting.pk, "frame": 10, "edit": WAY}
        answer = self.post(f"/takes/{self.take.pk}/ways/tried", body)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(len(answer.json()["ways"]), 1)
        self.assertEqual((Edit.objects.count(), self.told()["ways"]), (steps, []))
        bad = {**body, "edit": {**WAY, "points": []}}
        answer = self.post(f"/takes/{self.take.pk}/ways/tried", bad)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("two points", answer.json()["message"])

    def test_a_key_under_a_way_is_refused_with_where_it_comes_from(self) -> None:
        self.edit(WAY)
        answer = self.pose(30, head__ry=0.3)
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(answer.json()["shows"], {"source": 3, "begins": 3, "by": "way"})
        self.assertIn("in a layer", answer.json()["message"])

    def test_it_is_undone_and_done_again(self) -> None:
        before = self.clip()
        self.edit(WAY)
        after = self.clip()
        self.assertEqual([span["kind"] for span in after["tracks"]["way"]], ["way"])
        self.assertEqual(self.post(f"/takes/{self.take.pk}/undo", {"revision": 1}).status_code, 200)
        self.assertEqual(self.clip(), before)
        self.assertEqual(self.post(f"/takes/{self.take.pk}/redo", {"revision": 2}).status_code, 200)
        self.assertEqual(self.clip(), after)
        store.forget()
        self.assertEqual(len(ways_of(store.open_clip(Take.objects.get(pk=self.take.pk), self.casting.pk))), 1)

    def test_how_somebody_goes_is_read_kept_and_laid(self) -> None:
        self.edit(WAY)
        self.edit({"kind": "key quantity", "name": "swing", "frame": 3, "value": 0.5})
        end = self.told()["ways"][0]["end"]
        answer = self.get(f"/takes/{self.take.pk}/manner?casting={self.casting.pk}&first=3&last={end}")
        self.assertEqual(answer.status_code, 200, answer.content)
        read = answer.json()
        self.assertAlmostEqual(read["traits"]["swing"], 0.5, delta=0.05)
        kept = self.post(f"/productions/{self.production.pk}/manners", {"name": "Brannoc", "traits": read["traits"]})
        self.assertEqual(kept.status_code, 200, kept.content)
        self.assertEqual([one["name"] for one in self.get(f"/productions/{self.production.pk}/manners").json()],
                         ["Brannoc"])  # fmt: skip
        laid = self.edit({"kind": "way manner", "at": 3, "manner": kept.json()["traits"]})
        self.assertEqual(laid.status_code, 200, laid.content)
        self.assertEqual(self.post(f"/manners/{kept.json()['id']}", {}, "delete").status_code, 204)
        self.assertEqual(self.get(f"/productions/{self.production.pk}/manners").json(), [])
        self.assertEqual(Manner.objects.count(), 1)  # put away, not gone

    def test_nobody_sees_or_keeps_what_is_not_theirs(self) -> None:
        self.edit(WAY)
        manners = f"/productions/{self.production.pk}/manners"
        mine = self.post(manners, {"name": "Brannoc", "traits": {"swing": 0.4}}).json()
        ways = f"/takes/{self.take.pk}/ways?casting={self.casting.pk}&frame=1"
        self.as_user("tam")
        self.assertEqual(self.get(ways).status_code, 200)
        self.assertEqual(self.post(manners, {"name": "x", "traits": {}}).status_code, 403)
        self.assertEqual(self.post(f"/manners/{mine['id']}", {}, "delete").status_code, 403)
        self.assertEqual(self.edit({**WAY, "start": 40}).status_code, 403)
        self.as_user("stranger")
        for path in (ways, manners, f"/takes/{self.take.pk}/manner?casting={self.casting.pk}&first=1&last=40"):
            self.assertEqual(self.get(path).status_code, 404, path)
        self.assertEqual(self.post(f"/manners/{mine['id']}", {}, "delete").status_code, 404)

    def test_odd_manners_are_refused(self) -> None:
        path = f"/productions/{self.production.pk}/manners"
        for body in ({"name": "  ", "traits": {}}, {"name": "x", "traits": {"hat": 1.0}},
                     {"name": "x", "traits": {"swing": 99.0}}):  # fmt: skip
            self.assertEqual(self.post(path, body).status_code, 422, body)
        self.assertEqual(
            self.get(f"/takes/{self.take.pk}/manner?casting={self.casting.pk}&first=1&last=40").status_code, 422
        )  # fmt: skip  nobody goes there
        self.assertEqual(Production.objects.count(), 1)
        self.assertEqual(Manner.objects.count(), 0)
