"""Groups of controls that a character suggests."""

from __future__ import annotations

from typing import Any

from tests.server.base import ServerTest


class GroupsTest(ServerTest):
    def groups(self, **changed: Any) -> Any:
        path = f"/characters/{self.casting.version.character_id}/groups"
        return self.post(path, changed, "put") if changed else self.get(path)

    def played(self) -> dict[str, list[str]]:
        rig = self.get(f"/castings/{self.casting.pk}/rig").json()
        return {group["name"]: group["controls"] for group in rig["groups"]}

    def test_what_hangs_on_the_body_is_grouped_by_its_names_at_first(self) -> None:
        found = self.groups().json()
        names = {group["name"]: group["controls"] for group in found["groups"]}
        self.assertFalse(found["own"])
        self.assertEqual(names["Coat"], ["coat_front_l", "coat_back_l", "coat_front_r", "coat_back_r"])
        self.assertEqual([names["Cap"], names["Beard"]], [["cap"], ["beard"]])
        self.assertEqual(self.played(), names)

    def test_own_groups_go_to_whoever_poses_it_and_the_usual_ones_come_back(self) -> None:
        answer = self.groups(groups=[{"name": " Face ", "controls": ["jaw", "eye.L", "jaw"]}])
        self.assertEqual(answer.status_code, 200)
        self.assertTrue(answer.json()["own"])
        self.assertEqual(self.played(), {"Face": ["jaw", "eye.L"]})
        self.assertEqual(self.groups(groups=None).json()["own"], False)
        self.assertIn("Coat", self.played())

    def test_what_cannot_be_kept_is_said_and_changes_nothing(self) -> None:
        self.groups(groups=[{"name": "Face", "controls": ["jaw"]}])
        for groups, words in (
            ([{"name": "Face", "controls": ["tail"]}], "no control called tail"),
            ([{"name": "  ", "controls": ["jaw"]}], "has a name"),
            ([{"name": "A", "controls": []}, {"name": "A ", "controls": []}], "two groups"),
            ([{"name": str(n), "controls": []} for n in range(101)], "100 groups"),
        ):
            answer = self.groups(groups=groups)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.played(), {"Face": ["jaw"]})

    def test_guests_look_and_strangers_do_not(self) -> None:
        self.client.force_login(self.tam)  # type: ignore[attr-defined]
        self.assertEqual(self.groups().status_code, 200)
        self.assertEqual(self.groups(groups=None).status_code, 403)
        self.client.force_login(self.stranger)  # type: ignore[attr-defined]
        self.assertEqual([self.groups().status_code, self.groups(groups=None).status_code], [404, 404])
