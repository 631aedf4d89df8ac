"""A step whose amount is changed afterwards: made anew in its own place."""

from __future__ import annotations

from typing import Any

from asgiref.sync import async_to_sync

from server.shots import clips, store
from server.shots.models import Edit, Take
from tests.server.base import ServerTest
from tests.server.test_live import SocketTest, unpack

FIRST, SECOND, THIRD = "step-one-1", "step-two-2", "step-three-3"


class RemadeTest(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.pose(1, head__ry=0.0)
        self.pose(21, head__ry=0.8)

    def share(self, share: float, key: str, instead: str | None = None, **more: Any) -> Any:
        edit = {"kind": "breakdown", "frame": 11, "share": share}
        body = {"revision": self.revision(), "casting": self.casting.pk, "edit": edit, "id": key, "instead": instead}
        return self.post(f"/takes/{self.take.pk}/edits", {**body, **more})

    def revision(self) -> int:
        return Take.objects.get(pk=self.take.pk).revision

    def half(self) -> float:
        rows = {row[0]: row[1] for row in self.clip()["curves"]["head/ry"]}
        return float(rows[11])

    def test_another_amount_takes_the_place_of_the_step_and_is_undone_as_one(self) -> None:
        before = self.clip()
        self.assertEqual(self.share(0.5, FIRST).status_code, 200)
        self.assertAlmostEqual(self.half(), 0.4, 12)
        answer = self.share(0.25, SECOND, FIRST)
        self.assertEqual(answer.status_code, 200)
        self.assertAlmostEqual(self.half(), 0.2, 12)  # of what was before, not of the first amount
        told = {row[0]: row[1] for row in answer.json()["clips"][str(self.casting.pk)]["curves"]["head/ry"]["rows"]}
        self.assertAlmostEqual(told[11], 0.2, 12)
        self.assertEqual(self.share(0.75, THIRD, SECOND).status_code, 200)
        steps = self.get(f"/takes/{self.take.pk}/history").json()
        self.assertEqual([step["state"] for step in steps], ["done"] * 3)
        clips.forget()
        self.assertAlmostEqual(self.half(), 0.6, 12)
        self.post(f"/takes/{self.take.pk}/undo", {"revision": self.revision()})
        self.assertEqual(self.clip()["curves"], before["curves"])
        self.post(f"/takes/{self.take.pk}/redo", {"revision": self.revision()})
        self.assertAlmostEqual(self.half(), 0.6, 12)
        self.assertEqual(Edit.objects.filter(remade=True).count(), 2)  # kept, though nobody is told of them

    def test_the_same_asked_twice_is_made_once(self) -> None:
        self.share(0.5, FIRST)
        body = {"revision": self.revision()}
        first, again = self.share(0.25, SECOND, FIRST, **body), self.share(0.25, SECOND, FIRST, **body)
        self.assertEqual([first.status_code, again.status_code], [200, 200])
        self.assertEqual(first.json()["revision"], again.json()["revision"])
        self.assertAlmostEqual(self.half(), 0.2, 12)

    def test_an_amount_is_settled_once_more_has_been_done(self) -> None:
        self.share(0.5, FIRST)
        self.pose(5, head__ry=0.1)
        before = self.clip()
        refused = self.share(0.25, SECOND, FIRST)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("settled", refused.json()["message"])
        self.assertEqual(self.clip(), before)

    def test_nobody_remakes_the_step_of_another(self) -> None:
        self.share(0.5, FIRST)
        self.client.force_login(self.maud)
        self.assertEqual(self.share(0.25, SECOND, FIRST).status_code, 422)
        self.assertAlmostEqual(self.half(), 0.4, 12)

    def test_an_edit_that_cannot_be_made_leaves_the_step_as_it_is(self) -> None:
        self.share(0.5, FIRST)
        self.assertEqual(self.share(9e9, SECOND, FIRST).status_code, 422)
        self.assertAlmostEqual(self.half(), 0.4, 12)
        self.assertEqual(self.share(0.25, SECOND, FIRST).status_code, 200)

    def test_who_looked_meanwhile_is_told_of_what_it_became(self) -> None:
        self.share(0.5, FIRST)
        since = self.revision()
        self.share(0.25, SECOND, FIRST)
        told = self.get(f"/takes/{self.take.pk}/changes?since={since}").json()
        rows = told["clips"][str(self.casting.pk)]["curves"]["head/ry"]["rows"]
        self.assertAlmostEqual({row[0]: row[1] for row in rows}[11], 0.2, 12)

    def test_ones_own_next_step_does_not_clash_with_it(self) -> None:
        self.share(0.5, FIRST)
        revision = self.revision()
        self.share(0.25, SECOND, FIRST)
        edit = {"kind": "pose", "frame": 11, "values": {"head/ry": 0.3}, "keying": "changed"}
        body = {"revision": revision, "casting": self.casting.pk, "edit": edit, "after": [SECOND]}
        self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 200)

    def test_ones_own_next_step_reads_what_the_remade_one_left(self) -> None:
        weight = {"kind": "exaggerate", "frame": 21, "against": "rest"}
        revision = 0
        for degree, key, instead in ((0.5, FIRST, None), (0.0, SECOND, FIRST)):
            revision = self.revision()
            body = {"revision": revision, "casting": self.casting.pk, "id": key, "instead": instead}
            answer = self.post(f"/takes/{self.take.pk}/edits", {**body, "edit": {**weight, "degree": degree}})
            self.assertEqual(answer.status_code, 200)
        # Sent before the page knew the answer to the second: made on both of the person's own.
        self.assertEqual(self.share(0.5, THIRD, None, revision=revision, after=[SECOND]).status_code, 200)
        self.assertAlmostEqual(self.half(), 0.4, 12)

    def test_what_takes_long_is_not_made_again_in_its_place(self) -> None:
        self.share(0.5, FIRST)
        before = self.clip()
        edit = {"kind": "limbs", "limbs": ["arm.L"], "to": "ik", "first": 1, "last": 21}
        together = {"kind": "together", "parts": [{"casting": self.casting.pk, "edit": edit}]}
        for dear in (edit, together):
            body = {
                "revision": self.revision(),
                "casting": self.casting.pk,
                "edit": dear,
                "id": SECOND,
                "instead": FIRST,
            }
            answer = self.post(f"/takes/{self.take.pk}/edits", body)
            self.assertEqual(answer.status_code, 422)
            self.assertIn("take it back first", answer.json()["message"])
        self.assertEqual(self.clip(), before)
        part = {"casting": self.casting.pk, "edit": {"kind": "breakdown", "frame": 11, "share": 0.25}}
        body = {"revision": self.revision(), "casting": self.casting.pk, "id": SECOND, "instead": FIRST}
        answer = self.post(f"/takes/{self.take.pk}/edits", {**body, "edit": {"kind": "together", "parts": [part]}})
        self.assertEqual(answer.status_code, 200)

    def test_an_amount_of_nothing_can_be_raised_again(self) -> None:
        before = self.clip()
        weight = {"kind": "exaggerate", "frame": 21, "against": "rest"}
        for n, (degree, value) in enumerate([(0.5, 1.2), (0.0, 0.8), (1.0, 1.6)]):
            body = {
                "revision": self.revision(), "casting": self.casting.pk, "edit": {**weight, "degree": degree},
                "id": f"amount-{n}", "instead": f"amount-{n - 1}" if n else None,
            }  # fmt: skip
            self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 200)
            self.assertAlmostEqual({row[0]: row[1] for row in self.clip()["curves"]["head/ry"]}[21], value, 12)
        self.post(f"/takes/{self.take.pk}/undo", {"revision": self.revision()})
        self.assertEqual(self.clip()["curves"], before["curves"])


class TriedInsteadTest(SocketTest):
    def test_another_amount_is_tried_on_what_was_before_and_the_step_left_out_is_shown(self) -> None:
        cast = self.casting.pk  # type: ignore[attr-defined]
        take = self.take  # type: ignore[attr-defined]
        self.client.force_login(self.isla)  # type: ignore[attr-defined]

        def put(edit: dict[str, Any], key: str, revision: int) -> None:
            body = {"revision": revision, "casting": cast, "edit": edit, "id": key}
            answer = self.client.post(f"/api/takes/{take.pk}/edits", body, content_type="application/json")
            self.assertEqual(answer.status_code, 200, answer.content)

        for n, (frame, value) in enumerate([(1, 0.0), (21, 0.8)]):
            values = {"head/ry": value}
            put({"kind": "pose", "frame": frame, "values": values, "keying": "changed"}, f"set-{n}-set", n)
        put({"kind": "breakdown", "frame": 11, "share": 0.75}, FIRST, 2)
        number = self.rig.addresses.index("head/ry")

        socket = self.socket("isla")

        async def tries() -> list[Any]:
            await socket.connect()
            ask = {"do": "try", "casting": cast, "frame": 11}
            tried = [
                await self.answer(socket, {**ask, "seq": 1, "edit": None, "instead": FIRST}),
                await self.answer(
                    socket,
                    {**ask, "seq": 2, "edit": {"kind": "breakdown", "frame": 11, "share": 0.25}, "instead": FIRST},
                ),
                await self.answer(socket, {**ask, "seq": 3, "edit": None, "instead": SECOND}),
            ]
            await socket.disconnect()
            return tried

        before, quarter, refused = async_to_sync(tries)()
        self.assertAlmostEqual(unpack(before)[1][number], 0.4, 9)
        self.assertAlmostEqual(unpack(quarter)[1][number], 0.2, 9)
        self.assertIn("settled", refused["message"])


class AnswersRemadeTest(ServerTest):
    def made(self, edit: dict[str, Any], key: str, instead: str | None = None) -> Any:
        revision = Take.objects.get(pk=self.take.pk).revision
        body = {"revision": revision, "casting": self.casting.pk, "edit": edit, "id": key, "instead": instead}
        return self.post(f"/takes/{self.take.pk}/edits", body)

    def test_how_deep_a_give_goes_is_judged_again_and_again(self) -> None:
        give = {"kind": "give", "event": 20, "there": 4, "back": 12}
        self.assertEqual(self.made({**give, "drop": 0.05}, FIRST).status_code, 200)
        for drop, key, before in ((0.08, SECOND, FIRST), (0.03, THIRD, SECOND)):
            answer = self.made({**give, "drop": drop}, key, before)
            self.assertEqual(answer.status_code, 200, answer.content)
            [span] = store.open_clip(Take.objects.get(pk=self.take.pk), self.casting.pk).tracks["give"]
            self.assertAlmostEqual(span.drop, drop, 12)  # type: ignore[attr-defined]

    def test_a_page_that_missed_several_steps_on_one_track_catches_up(self) -> None:
        give = {"kind": "give", "event": 20, "there": 4, "back": 12}
        since = Take.objects.get(pk=self.take.pk).revision
        self.made({**give, "drop": 0.05}, FIRST)
        self.made({**give, "drop": 0.08}, SECOND, FIRST)
        self.made({"kind": "drop answer", "of": "give", "at": 20}, THIRD)
        self.made({**give, "event": 24, "drop": 0.03}, "step-four-4")
        last = Take.objects.get(pk=self.take.pk).revision
        self.assertEqual(last - since, 4)
        for behind in range(since, last):
            answer = self.get(f"/takes/{self.take.pk}/changes?since={behind}")
            self.assertEqual(answer.status_code, 200, (behind, answer.content))
            told = answer.json()["clips"][str(self.casting.pk)]["tracks"]["give"]
            self.assertEqual([(span["start"], span["drop"]) for span in told], [(24, 0.03)])
