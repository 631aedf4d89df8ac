"""What files and names bring: names that are keys, characters without a rig, files that are built to harm."""

from __future__ import annotations

from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile

from hame.character import skeleton as skeletons
from hame.formats.gltf_write import write_character
from server.characters import store as characters
from server.characters.models import Character, CharacterVersion
from server.shots import clips, store
from server.shots.models import Casting, Curve, SelectionSet
from tests.hame.broken_files import changed
from tests.hame.foreign import foreign_character
from tests.server.base import ServerTest


class ExactNamesTest(ServerTest):
    """Names that differ by case, accents or pictographs only are different names."""

    NAMES = ("Tail", "tail", "TAIL", "e", "\u00e9", "e\u0301", "\U0001f980", "\U0001f99e", "tail ")

    def test_keys_of_joints_that_are_called_alike_outlast_a_snapshot(self) -> None:
        skeleton, skin = foreign_character()
        names = [self.NAMES[n] if n < len(self.NAMES) else name for n, name in enumerate(skeleton.names)]
        named = skeletons.build(names, skeleton.parents, skeleton.rest)
        upload = {"file": SimpleUploadedFile("x.glb", write_character("x", named, skin)), "name": "Lobster"}
        made = self.client.post(f"/api/productions/{self.production.pk}/characters", upload).json()
        roles = {"hips": names[0]}
        self.assertEqual(self.post(f"/characters/{made['id']}/plan", {"roles": roles}, "put").status_code, 200)
        shot = self.post(
            f"/productions/{self.production.pk}/shots", {"name": "x", "character_ids": [made["id"]]}
        ).json()
        take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
        rig = characters.rig(Casting.objects.get(pk=cast).version)
        alike = [f"{name}/rx" for name in self.NAMES if rig.has_channel(f"{name}/rx")]
        self.assertGreaterEqual(len(alike), 8)
        with mock.patch.object(clips, "MOST_STEPS", 2):
            for revision in range(4):
                values = {address: 0.01 * n + 0.1 * revision for n, address in enumerate(alike)}
                edit = {"kind": "pose", "frame": revision + 1, "values": values}
                answer = self.post(f"/takes/{take}/edits", {"revision": revision, "casting": cast, "edit": edit})
                self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(Curve.objects.filter(take_id=take).count(), len(alike))
        store.forget()  # as after a restart
        kept = self.get(f"/takes/{take}").json()["clips"][str(cast)]["curves"]
        self.assertEqual({a: len(rows) for a, rows in kept.items()}, dict.fromkeys(alike, 4))
        self.assertEqual(kept["tail/rx"][3][1], 0.01 * alike.index("tail/rx") + 0.1 * 3)

    def test_selection_sets_called_alike_are_kept_apart(self) -> None:
        for name, control in (("Face", "head"), ("face", "jaw"), ("Fac\u00e9", "neck")):
            self.post(f"/castings/{self.casting.pk}/sets", {"name": name, "controls": [control]})
        self.assertEqual({s.name: s.controls for s in SelectionSet.objects.all()},
                         {"Face": ["head"], "face": ["jaw"], "Fac\u00e9": ["neck"]})  # fmt: skip

    def test_the_longest_name_of_a_joint_fits_its_column(self) -> None:
        long = changed(lambda d: d["nodes"][-2].update(name="L" * 400))
        character = characters.bring_in(self.production.pk, "Long", long, self.isla)  # type: ignore[attr-defined]
        longest = max(len(a) for a in characters.rig(character.current).addresses)
        self.assertLessEqual(longest, Curve._meta.get_field("channel").max_length or 0)


class WithoutRigTest(ServerTest):
    """A character whose joints nobody can tell yet is stored, listed and mapped by hand."""

    def bring(self) -> dict[str, Any]:
        skeleton, skin = foreign_character()
        rows = [f"link {n}" for n in range(len(skeleton))]
        rest = skeleton.rest.copy()
        rest[:, :3] = [0, 0.1, 0]  # a chain in a line: no hips to be seen
        chain = skeletons.build(rows, skeleton.parents, rest)
        upload = {"file": SimpleUploadedFile("x.glb", write_character("x", chain, skin)), "name": "Chain"}
        answer = self.client.post(f"/api/productions/{self.production.pk}/characters", upload)
        self.assertEqual(answer.status_code, 200, answer.content)
        found: dict[str, Any] = answer.json()
        return found

    def test_it_is_listed_beside_the_others_and_can_be_mapped(self) -> None:
        made = self.bring()
        self.assertIn("hips", made["problem"])
        self.assertEqual(made["controls"], 0)
        listed = {c["name"]: c for c in self.get(f"/productions/{self.production.pk}/characters").json()}
        self.assertEqual((listed["Chain"]["controls"], listed["Brannoc"]["problem"]), (0, ""))
        detail = self.get(f"/characters/{made['id']}").json()
        self.assertEqual(detail["roles"], {})
        refused = self.post(f"/productions/{self.production.pk}/shots", {"name": "x", "character_ids": [made["id"]]})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Chain has no rig yet", refused.json()["message"])
        mapped = self.post(f"/characters/{made['id']}/plan", {"roles": {"hips": "link 0"}}, "put").json()
        self.assertEqual(mapped["problem"], "")
        self.assertGreater(mapped["controls"], 5)
        begun = self.post(f"/productions/{self.production.pk}/shots", {"name": "x", "character_ids": [made["id"]]})
        self.assertEqual(begun.status_code, 200)

    def test_a_version_whose_file_is_gone_does_not_take_the_list_along(self) -> None:
        version = self.character.current
        CharacterVersion.objects.filter(pk=version.pk).update(card=None, mesh="characters/mesh/nowhere.glb")
        characters._read.cache_clear()
        found = self.get(f"/productions/{self.production.pk}/characters").json()
        self.assertIn("cannot be read", found[0]["problem"])

    def test_listing_opens_no_file(self) -> None:
        self.get(f"/productions/{self.production.pk}/characters")
        with mock.patch.object(characters, "read", side_effect=AssertionError):
            self.assertEqual(self.get(f"/productions/{self.production.pk}/characters").status_code, 200)

    def test_turning_a_figure_by_hand_begins_a_version_and_keeps_the_roles(self) -> None:
        detail = self.get(f"/characters/{self.character.pk}").json()
        body = {"roles": detail["roles"], "turn": 90}
        self.assertEqual(self.post(f"/characters/{self.character.pk}/plan", body, "put").json()["version"], 2)
        turned = self.get(f"/characters/{self.character.pk}").json()
        self.assertEqual((turned["facing"], turned["roles"]), (-90, detail["roles"]))
        where = dict(zip(turned["skeleton"]["names"], turned["skeleton"]["places"], strict=True))
        self.assertGreater(where["toe_l"][0] - where["foot_l"][0], 0.1)

    def test_files_are_kept_by_the_page_only_under_their_stamp(self) -> None:
        cast = self.get(f"/shots/{self.shot.pk}").json()["cast"][0]
        kept = self.client.get(f"/api/castings/{cast['id']}/mesh.glb?v={cast['mesh']}")
        self.assertIn("immutable", kept["Cache-Control"])
        for other in ("", "?v=1-old"):
            self.assertEqual(
                self.client.get(f"/api/castings/{cast['id']}/mesh.glb{other}")["Cache-Control"], "no-cache"
            )


class HostileFilesTest(ServerTest):
    def test_reading_is_ended_when_it_takes_too_long_or_too_much(self) -> None:
        for script, words in (
            ("import time; time.sleep(60)", "longer than 1 seconds"),
            ("import os; os.kill(os.getpid(), 9)", "too much memory"),
        ):
            with (
                mock.patch("server.characters.reading.SECONDS", 1), mock.patch("server.characters.reading._BEGIN", 0),
                mock.patch("server.characters.reading.subprocess.run", wraps=_instead(script)),
            ):  # fmt: skip
                upload = {"file": SimpleUploadedFile("x.glb", b"glTF"), "name": ""}
                answer = self.client.post(f"/api/productions/{self.production.pk}/characters", upload)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(Character.objects.count(), 1)


def _instead(script: str) -> Any:
    """Runs another script in place of the reader, as long and as limited as the reader would be."""
    import subprocess
    import sys

    real = subprocess.run

    def run(command: list[str], **more: Any) -> Any:
        return real([sys.executable, "-c", script], **more)

    return run
