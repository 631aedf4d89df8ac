"""Planting, belonging and what refuses them: the edits."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip, difference, from_json, patch_from_json
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.plants import Plant
from hame.edits.belongings import Belong, ChangeBelonging, EndBelonging
from hame.edits.columns import duplicate_columns, move_columns
from hame.edits.edit import Edit
from hame.edits.making import Made, made
from hame.edits.mirror import mirror_range
from hame.edits.plants import ChangePlant, LiftPlants, PlacePlant, Planting, PlantLimbs, SplitPlant
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, prop_rig, with_cycle
from tests.hame.test_ties import EXACT, FOOT, HAND, apart, solved

RIGHT = "leg.R.goal"


class EditTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig, cls.can = brannoc_rig(), prop_rig("oil_can")

    def setUp(self) -> None:
        curves = {f"{FOOT}/tz": from_keys({1: 0.2, 25: -0.2}), "body/ty": from_keys({1: -0.1}),
                  "master/tz": from_keys({1: 0.0, 25: 0.4})}  # fmt: skip
        self.keeper = Figure(self.rig, Clip().with_curves(curves), "Brannoc")
        self.things = Figure(self.can, Clip(), "Oil can")

    def make(self, edit: Edit, of: int = 1) -> Made:
        """Makes an edit, and takes over what it did."""
        done = made(edit, Scene({1: self.keeper, 2: self.things}, 1, 48), of)
        for number, clip in done.clips.items():
            if number == 1:
                self.keeper = self.keeper.with_clip(clip)
            else:
                self.things = self.things.with_clip(clip)
        return done

    def plants(self, control: str = FOOT) -> list[tuple[int, int]]:
        return [(s.start, s.end) for s in self.keeper.clip.tracks.get(f"plant/{control}", ())]

    def plant(self, start: int, end: int, control: str = FOOT, about: str = "") -> Made:
        return self.make(PlantLimbs(plants=(Planting(control, start, end, about),)))


class PlantEditTest(EditTest):
    def test_it_is_keyed_where_it_comes_to_and_moves_nothing_there(self) -> None:
        before = solved(self.rig, self.keeper.clip, [9.0])
        self.plant(9, 17)
        self.assertEqual(self.plants(), [(9, 17)])
        self.assertIn(9, self.keeper.clip.curves[f"{FOOT}/tx"].frames)
        self.assertLess(apart(solved(self.rig, self.keeper.clip, [9.0]), before)[0], EXACT)
        # What brings the foot there may change before; the plant stays where its key is.
        read = from_json(self.keeper.clip.to_json())
        self.assertEqual(read.tracks[f"plant/{FOOT}"], (Plant(9, 17),))

    def test_one_that_lies_in_the_way_gives_way_and_it_is_said(self) -> None:
        self.plant(1, 20)
        said = self.plant(8, 12, about="ball").notes
        self.assertEqual(self.plants(), [(1, 7), (8, 12), (13, 20)])
        self.assertIn("the plant 1 to 20 gave way: 1 to 7 and 13 to 20 is left of it", said)
        said = self.plant(7, 30).notes
        self.assertEqual(self.plants(), [(1, 6), (7, 30)])
        self.assertIn("the plant 8 to 12 gave way", said)

    def test_a_hand_that_is_posed_by_fk_is_matched_to_ik_and_stays(self) -> None:
        limb = self.rig.limb("arm.L")
        self.keeper = self.keeper.with_clip(self.keeper.clip.with_curves({"arm.L.upper/rx": from_keys({1: 0.4})}))
        before = evaluate(self.rig, channel_values(self.rig, self.keeper.clip, [10]))[0, limb.end]
        said = self.plant(10, 20, HAND, "palm").notes
        self.assertIn("the left arm is posed by IK from 10 on", said)
        after = evaluate(self.rig, channel_values(self.rig, self.keeper.clip, [10, 20]))[:, limb.end]
        self.assertLess(float(np.abs(after[0, :3] - before[:3]).max()), 1e-4)
        self.plant(25, 30, "arm.L.hand")  # by its FK control as well: it is the same limb
        self.assertEqual(self.plants(HAND), [(10, 20), (25, 30)])

    def test_it_is_changed_split_placed_and_lifted(self) -> None:
        self.plant(5, 15)
        self.make(ChangePlant(control=FOOT, at=5, start=4, end=18, about="heel", release=3, land=2))
        self.assertEqual(self.keeper.clip.tracks[f"plant/{FOOT}"], (Plant(4, 18, "heel", 3, 2),))
        before = solved(self.rig, self.keeper.clip, np.linspace(4, 18, 60))
        self.make(SplitPlant(control=FOOT, at=4, frame=10))
        self.assertEqual(self.plants(), [(4, 9), (10, 18)])
        self.assertLess(apart(solved(self.rig, self.keeper.clip, np.linspace(4, 18, 60)), before)[0], EXACT)
        self.make(PlacePlant(control=FOOT, at=4, x=0.2, z=0.2, heading=0.25))
        at = evaluate(self.rig, channel_values(self.rig, self.keeper.clip, [4, 8]))[:, self.rig.control(FOOT).node]
        np.testing.assert_allclose(at[0, [0, 2]], [0.2, 0.2], atol=EXACT)
        self.make(LiftPlants(controls=(FOOT,), starts=(10,)))
        self.assertEqual(self.plants(), [(4, 9)])
        self.make(LiftPlants(controls=(FOOT,)))
        self.assertEqual(self.plants(), [])

    def test_it_is_mirrored_copied_and_moved_with_its_keys(self) -> None:
        self.plant(1, 9)
        mirrored = mirror_range(self.keeper.clip, self.rig, 1, 12, 13).clip
        self.assertEqual([(s.start, s.end) for s in mirrored.tracks[f"plant/{RIGHT}"]], [(13, 21)])
        keyed = self.keeper.clip.with_curves({"head/rx": from_keys({1: 0, 9: 0.1})})
        copied = duplicate_columns(keyed, self.rig, [1, 9], 30).clip
        self.assertEqual([(s.start, s.end) for s in copied.tracks[f"plant/{FOOT}"]], [(1, 9), (31, 39)])
        moved = move_columns(keyed, self.rig, [1, 9], 2).clip
        self.assertEqual([(s.start, s.end) for s in moved.tracks[f"plant/{FOOT}"]], [(3, 11)])

    def test_a_change_tells_all_frames_that_move_with_it(self) -> None:
        self.plant(5, 15)
        before = self.keeper.clip
        self.make(PlacePlant(control=FOOT, at=5, x=0.2, z=0.3))
        patch = difference(before, self.keeper.clip)
        self.assertTrue(patch_from_json(patch.to_json()).says_the_same(patch))

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        cycle = with_cycle(
            self.keeper.clip.with_curves({"head/rx": from_keys({1: 0.0, 9: 0.2})}), Cycle(1, 25, True, 49)
        )
        self.plant(5, 15)
        for edit, words in (
            (
                PlantLimbs(plants=(Planting("head", 1, 5),)),
                "head cannot be planted: only feet, hands and tips of chains can",
            ),
            (PlantLimbs(plants=(Planting(FOOT, 9, 5),)), "would end at 5, before it begins"),
            (
                PlantLimbs(plants=(Planting(FOOT, 1, 5, "palm"),)),
                "has no palm to turn about; it has the ball, the heel",
            ),
            (PlantLimbs(plants=()), "nothing is chosen to plant"),
            (PlantLimbs(plants=(Planting(FOOT, 1, 5),), figure=9, thing="master"), "does not play"),
            (PlantLimbs(plants=(Planting(FOOT, 1, 5),), figure=2, thing="nose"), "no control called nose"),
            (PlantLimbs(plants=(Planting(FOOT, 1, 5),), thing="chest"), "on the ground or on another one"),
            (PlantLimbs(plants=(Planting(FOOT, 1, 5),), release=5000), "0 to 1000 frames"),
            (PlantLimbs(plants=(Planting(FOOT, 60, 65),)), "outside of the shot, which goes from 1 to 48"),
            (ChangePlant(control=FOOT, at=6, start=6, end=9), "no plant of the left leg begins at 6"),
            (SplitPlant(control=FOOT, at=5, frame=5), "5 does not lie inside the plant 5 to 15"),
            (LiftPlants(controls=(RIGHT,)), "there is no plant to lift"),
            (PlacePlant(control=FOOT, at=5, x=5000.0, z=0.0), "-1000 to 1000 m"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                self.make(edit)
        self.keeper = self.keeper.with_clip(cycle)
        with self.assertRaisesRegex(BadEdit, "frame 20 shows frame 8 mirrored"):
            self.plant(20, 22)

    def test_protected_limbs_are_not_planted(self) -> None:
        self.keeper = Figure(self.rig, self.keeper.clip, "Brannoc", (FOOT,))
        with self.assertRaisesRegex(BadEdit, "protected: left foot"):
            self.plant(1, 5)


class BelongingEditTest(EditTest):
    def test_a_new_owner_takes_over_from_the_one_before(self) -> None:
        self.make(Belong(controls=("master",), figure=1, to="arm.R.hand", start=10, end=40), 2)
        said = self.make(Belong(controls=("master",), figure=1, to="arm.L.hand", start=25, end=40), 2).notes
        spans = self.things.clip.tracks["belonging/master"]
        self.assertEqual([(s.start, s.end, s.to) for s in spans if isinstance(s, Belonging)],
                         [(10, 24, "arm.R.hand"), (25, 40, "arm.L.hand")])  # fmt: skip
        self.assertIn("what it belonged to from 10 to 40 gave way: 10 to 24 is left of it", said)
        self.make(ChangeBelonging(control="master", at=25, start=22, end=44, weight=0.5, ease_in=3), 2)
        spans = self.things.clip.tracks["belonging/master"]
        self.assertEqual([(s.start, s.end) for s in spans], [(10, 21), (22, 44)])
        self.make(EndBelonging(controls=("master",), starts=(22,)), 2)
        self.assertEqual(len(self.things.clip.tracks["belonging/master"]), 1)

    def test_a_ring_is_refused_and_named(self) -> None:
        self.make(Belong(controls=(HAND,), figure=2, to="master", start=5, end=30))
        with self.assertRaisesRegex(BadEdit, "from 20 on .*carried by"):
            self.make(Belong(controls=("master",), figure=1, to="arm.L.hand", start=20, end=40), 2)
        self.make(Belong(controls=("master",), figure=1, to="arm.L.hand", start=30, end=40), 2)  # one after the other
        with self.assertRaisesRegex(BadEdit, "body carries chest"):
            self.make(Belong(controls=("body",), to="chest", start=1, end=9))

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        for edit, words in (
            (Belong(controls=(), start=1, end=5), "nothing is selected"),
            (Belong(controls=(HAND,), start=9, end=5), "before it begins"),
            (Belong(controls=("arm.L",), start=1, end=5), "has no place"),
            (Belong(controls=(HAND,), figure=7, to="master", start=1, end=5), "does not play"),
            (Belong(controls=(HAND,), to="tail", start=1, end=5), "no control called tail"),
            (Belong(controls=(HAND,), start=1, end=5, weight=1.5), "0 to 1 share"),
            (ChangeBelonging(control=HAND, at=3, start=3, end=5), "begins at 3"),
            (EndBelonging(controls=(HAND,)), "nothing of what is chosen belongs"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                self.make(edit)
        self.things = Figure(self.can, Clip(), "Oil can", plays=False)
        with self.assertRaisesRegex(BadEdit, "Oil can was taken out of this shot"):
            self.make(Belong(controls=(HAND,), figure=2, to="master", start=1, end=5))


if __name__ == "__main__":
    unittest.main()
