"""A later demo reaches an installation that has an earlier one, and touches nothing that people made there."""

from __future__ import annotations

from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from PIL import Image

from hame.demo.poses import FACES, SHELF
from server.characters.models import Character
from server.demo import pieces as demo
from server.demo.management.commands import loaddemo
from server.productions.models import DemoPiece, Production
from server.shots.models import LibraryPose, Shot, Take
from server.shots.removal import delete_character, delete_production, delete_shots
from tests.server.base import lay_demo


class DemoPiecesTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        with mock.patch.object(demo, "PIECES", demo.FIRST):
            lay_demo()

    def state(self) -> dict[str, Any]:
        return {
            "shots": sorted(Shot.objects.values_list("name", flat=True)),
            "characters": sorted(Character.objects.values_list("name", flat=True)),
            "poses": LibraryPose.objects.count(),
            "productions": Production.objects.count(),
        }

    def test_demo_shots_have_no_faults_of_contact_but_those_that_are_known(self) -> None:
        """Asked as the page asks: with all who play, and the props to stand on."""
        lay_demo()
        client = Client()
        client.force_login(get_user_model().objects.get(username="isla"))
        found = {}
        for take in Take.objects.select_related("shot").order_by("shot__name", "pk"):
            shot = take.shot
            answer = client.get(f"/api/takes/{take.pk}/faults?group=contacts&first={shot.start}&last={shot.end}")
            self.assertEqual(answer.status_code, 200, shot.name)
            if told := answer.json():
                found[f"{shot.name}, {take.name}"] = {alert["kind"] for alert in told}
        known = {
            "Gull on the rail, Take 1": {"slip", "reach", "balance"},  # a start, posed by hand with nothing planted
            "Gull on the rail, Refined": {"slip", "balance", "snap"},
            "Gull on the rail, With faces": {"slip", "balance", "snap"},
            "The heavy can, Take 1": {"reach"},  # of 24 mm at most
            # Hands that hold on to what slips from them, and a fall onto what lies there.
            "The ladder gives way, Take 1": {"reach", "sink", "slip", "snap", "under"},
            "Sack on the quay, Take 1": {"reach"},  # by 4 mm, as they take hold of it
            "Round and over, Take 1": {"slip", "snap"},  # as the run becomes a jump
            "Something in the fog, Take 1": {"balance"},  # he sits on the coil, which no plant tells
        }
        self.maxDiff = None
        self.assertEqual(found, known)

    def test_thumbnails_have_the_size_in_which_they_are_shown(self) -> None:
        for plan in loaddemo.PLANS.values():
            picture = Image.open(loaddemo.DATA / f"{plan.name.lower().replace(' ', '-')}.png")
            self.assertEqual(picture.size, (8 * 2 * 240, 2 * 180), plan.name)  # eight, twice as fine as a card

    def test_new_pieces_come_and_what_people_changed_stays(self) -> None:
        Shot.objects.filter(name="Gull on the rail").update(name="Gulls, again")
        delete_shots(Shot.objects.filter(name="Keeping watch"))
        lay_demo()
        self.assertEqual(
            self.state(),
            {
                "shots": [
                    "Before dawn",
                    "Crab on the slip",
                    "Filling the lamp",
                    "Gulls, again",
                    "Late for the lamp",
                    "Morning round",
                    "Over the bollard",
                    "Passing it on",
                    "Reaching for the lamp",
                    "Round and over",
                    "Round the gallery",
                    "Sack on the quay",
                    "Something in the fog",
                    "The heavy can",
                    "The ladder gives way",
                    "Up to the gallery",
                    "Wick off balance",
                ],
                "characters": [
                    "Bollard",
                    "Bosun",
                    "Brannoc",
                    "Brittle star",
                    "Coil of rope",
                    "Crate",
                    "Gallery",
                    "Gangway",
                    "Ladder",
                    "Lamp post",
                    "Oil can",
                    "Rail",
                    "Sack",
                    "Shot camera",
                    "Signal lamp",
                    "Step",
                    "Tide crab",
                    "Wick",
                ],
                "poses": len(SHELF) + len(FACES),
                "productions": 1,
            },
        )
        before = self.state()
        lay_demo()
        self.assertEqual(self.state(), before, "laid once")

    def test_a_demo_from_before_pieces_were_counted_gets_the_new_ones_only(self) -> None:
        DemoPiece.objects.all().delete()
        delete_shots(Shot.objects.filter(name="Keeping watch"))
        lay_demo()
        self.assertNotIn("Keeping watch", self.state()["shots"])
        self.assertIn("Filling the lamp", self.state()["shots"])
        self.assertEqual(self.state()["productions"], 1)

    def test_a_demo_that_was_deleted_for_good_does_not_come_back(self) -> None:
        delete_production(Production.objects.get())
        lay_demo()
        self.assertEqual(self.state(), {"shots": [], "characters": [], "poses": 0, "productions": 0})

    def test_a_load_that_was_cut_off_leaves_nothing_half_and_is_made_again(self) -> None:
        before = self.state()
        cut = mock.patch.object(loaddemo, "_lay_poses", side_effect=KeyboardInterrupt)
        with cut, self.assertRaises(KeyboardInterrupt):
            lay_demo()
        self.assertEqual(self.state(), before)
        lay_demo()
        self.assertEqual(self.state()["poses"], len(SHELF) + len(FACES))

    def test_pieces_of_a_figure_that_is_gone_are_left_out(self) -> None:
        delete_shots(Shot.objects.all())
        delete_character(Character.objects.get(name="Wick"))
        lay_demo()
        there = ["Crab on the slip", "Reaching for the lamp", "The heavy can", "Up to the gallery"]
        self.assertEqual(self.state()["shots"], there)
        self.assertFalse(LibraryPose.objects.filter(character="Wick").exists())
        self.assertTrue(LibraryPose.objects.filter(character="Brannoc").exists())
