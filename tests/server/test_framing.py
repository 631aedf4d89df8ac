"""Whether one of the cast stays in the picture of the shot camera, and where that would have to stand."""

from __future__ import annotations

from typing import Any

from hame.demo import shelf
from server.characters import store as characters
from server.shots.models import Casting
from tests.server.base import ServerTest


class FramingTest(ServerTest):
    camera: Casting

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        made = shelf.thing("Shot camera").read_bytes()  # type: ignore[union-attr]
        thing = characters.bring_in(cls.production.pk, "Shot camera", made, cls.isla, True)  # type: ignore[attr-defined]
        cls.camera = Casting.objects.create(shot=cls.shot, version=thing.current, name="Shot camera")

    def key(self, casting: Casting, frame: int, **values: float) -> None:
        named = {name.replace("__", "/"): value for name, value in values.items()}
        edit = {"kind": "pose", "frame": frame, "values": named, "keying": "changed"}
        self.take.refresh_from_db()
        body = {"revision": self.take.revision, "casting": casting.pk, "edit": edit}
        answer = self.post(f"/takes/{self.take.pk}/edits", body)
        self.assertEqual(answer.status_code, 200, answer.json())

    def framing(self, **over: Any) -> Any:
        asked = {"camera": self.camera.pk, "casting": self.casting.pk, "first": 1, "last": 24, **over}
        return self.get(
            f"/takes/{self.take.pk}/framing?" + "&".join(f"{name}={value}" for name, value in asked.items())
        )

    def test_moved_to_where_it_is_told_to_stand_it_has_all_in_its_picture(self) -> None:
        self.key(self.camera, 1, camera__tz=-1.0)
        self.key(self.casting, 1, body__tx=0.0)
        self.key(self.casting, 24, body__tx=2.5)
        found = self.framing().json()
        self.assertFalse(found["inside"])
        edit = {"kind": "bring", "frame": 1, "places": {"camera": found["place"]}, "keying": "changed"}
        self.take.refresh_from_db()
        body = {"revision": self.take.revision, "casting": self.camera.pk, "edit": edit}
        answer = self.post(f"/takes/{self.take.pk}/edits", body)
        self.assertEqual(answer.status_code, 200, answer.json())
        self.assertEqual(self.framing().json(), {"inside": True, "place": None})

    def test_one_that_moves_is_told_no_place(self) -> None:
        self.key(self.camera, 1, camera__tz=-1.0)
        self.key(self.camera, 24, camera__tz=0.0)
        self.assertEqual(self.framing().json(), {"inside": False, "place": None})

    def test_what_is_no_camera_and_who_is_a_stranger_is_refused(self) -> None:
        answer = self.framing(camera=self.casting.pk)
        self.assertEqual((answer.status_code, answer.json()["message"]), (422, "there is no such camera in this shot"))
        self.assertEqual(self.framing(first=9, last=1).status_code, 422)
        self.assertEqual(self.framing(casting=10**6).status_code, 422)
        self.as_user("stranger")
        self.assertEqual(self.framing().status_code, 404)
