"""What a person keeps of the desk: found again by that person alone, replaced, let go, and within bounds."""

from __future__ import annotations

from server.keeping import api
from server.keeping.models import Kept
from tests.server.base import ServerTest


class KeepingTest(ServerTest):
    def keep(self, name: str, value: object, **more: object) -> int:
        return int(self.post(f"/kept/{name}", {"value": value, **more}, "put").status_code)

    def test_it_is_found_again_by_shot_and_by_person(self) -> None:
        self.assertEqual(self.keep("keys", {"set": "left"}), 204)
        self.assertEqual(self.keep("groups", ["hair"], shot=self.shot.pk), 204)
        self.assertEqual(self.get("/kept").json(), {"keys": {"set": "left"}})
        self.assertEqual(self.get(f"/kept?shot={self.shot.pk}").json(), {"groups": ["hair"]})
        self.assertEqual(self.keep("keys", {"set": "both"}), 204)
        self.assertEqual(self.get("/kept").json(), {"keys": {"set": "both"}})
        self.as_user("tam")
        self.assertEqual(self.get("/kept").json(), {})
        self.assertEqual(self.keep("keys", 1), 204)
        self.as_user("isla")
        self.assertEqual(self.get("/kept").json(), {"keys": {"set": "both"}})
        self.assertEqual(self.keep("keys", None), 204)
        self.assertEqual(self.get("/kept").json(), {})

    def test_what_is_too_much_or_has_no_name_is_refused_and_the_old_one_stays(self) -> None:
        self.keep("keys", 1)
        self.assertEqual(self.keep("keys", "x" * api.LARGEST), 422)
        self.assertEqual(self.get("/kept").json(), {"keys": 1})
        for name in ("K", "a" * 41, "a.b"):
            self.assertIn(self.keep(name, 1), (404, 422))
        self.assertEqual(self.keep("keys", 1, shot=-1), 422)
        Kept.objects.bulk_create(
            Kept(user=Kept.objects.get().user, shot=n, name="groups", value=n) for n in range(1, api.MOST)
        )
        self.assertEqual(self.keep("more", 1), 422)
        self.assertEqual(self.keep("keys", 2), 204)

    def test_nobody_without_a_name_keeps_anything(self) -> None:
        self.client.logout()
        self.assertEqual(self.get("/kept").status_code, 401)
        self.assertEqual(self.keep("keys", 1), 401)
