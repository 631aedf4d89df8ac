"""Opens a database of an earlier version as the present one finds it, and says what is in it. Run by a test.

``python -m tests.server.earlier`` with HAME_DB_NAME naming a database that was migrated.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import django


def main() -> None:
    django.setup()
    from django.conf import settings
    from django.contrib.auth import get_user_model
    from django.test import Client

    from hame.demo.shots import DATA
    from hame.intake.intake import take_in
    from server.characters.models import CharacterVersion
    from server.shots.models import Take

    settings.ALLOWED_HOSTS = ["testserver"]
    settings.SESSION_ENGINE = "django.contrib.sessions.backends.signed_cookies"  # sessions were left out of the dump
    for version in CharacterVersion.objects.select_related("character"):
        name = version.character.name
        path = Path(version.mesh.path)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(take_in(name, (DATA / f"{name.lower()}.glb").read_bytes()).mesh)
    client = Client()
    client.force_login(get_user_model().objects.get(username="isla"))

    def get(path: str) -> Any:
        answer = client.get(f"/api{path}")
        assert answer.status_code == 200, (path, answer.content[:300])
        return answer

    def post(path: str, body: dict[str, Any]) -> Any:
        answer = client.post(f"/api{path}", json.dumps(body), content_type="application/json")
        assert answer.status_code == 200, (path, answer.content[:300])
        return answer.json()

    from tests.server.binary import motion_of

    found = {}
    for take in Take.objects.select_related("shot").order_by("id"):
        at, shot = f"/takes/{take.pk}", take.shot
        told = get(at).json()
        castings = "&".join(f"casting={c.pk}" for c in shot.cast.all())
        body = get(f"{at}/motion?{castings}&first={shot.start}&last={shot.end}").content
        motion = {
            str(casting): [
                [round(float(v), 5) for v in frame[[0, len(frame) // 3, len(frame) // 2, -1], :3].reshape(-1)]
                for frame in frames.joints[::7]
            ]
            for casting, frames in motion_of(body)[2].items()
        }
        history = get(f"{at}/history").json()
        # All the way back and forth again: every step of it is read, both ways.
        head = next((step["id"] for step in history if step["head"]), None)
        gone = post(f"{at}/goto", {"revision": told["revision"], "step": None})
        empty = all(not clip["curves"] for clip in get(at).json()["clips"].values())
        post(f"{at}/goto", {"revision": gone["revision"], "step": head})
        found[str(take.pk)] = {
            "shot": shot.name,
            "take": told,
            "motion": motion,
            "history": [[step["label"], step["state"], step["head"]] for step in history],
            "began_empty": empty,
            "again": get(at).json()["clips"],
        }
    json.dump(found, sys.stdout)


if __name__ == "__main__":
    main()
