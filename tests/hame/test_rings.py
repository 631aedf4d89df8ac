"""Nobody carries whom they are carried by: whichever act would close the ring is refused, and the ring named."""

from __future__ import annotations

from unittest import TestCase

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.edits.belongings import Belong
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.edits.plants import Planting, PlantLimbs
from hame.edits.pose import SetPose
from hame.edits.retime import InsertFrames
from hame.errors import BadEdit
from hame.evaluate.players import Player
from hame.evaluate.ties.plan import rings
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

HAND, WICK, KEEPER = "arm.R.goal", 2, 1


def scene(keeper: Clip, other: Clip) -> Scene:
    rig = brannoc_rig()
    return Scene({KEEPER: Figure(rig, keeper, "Brannoc"), WICK: Figure(rig, other, "Wick")}, 1, 200)


def keyed() -> Clip:
    return Clip().with_curves({"body/tx": from_keys({1: 0.0, 10: 0.1, 60: 0.2, 120: 0.0})})


class RingTest(TestCase):
    def make(self, edit: Edit, of: int, keeper: Clip, other: Clip) -> tuple[Clip, Clip]:
        clips = made(edit, scene(keeper, other), of).clips
        return clips.get(KEEPER, keeper), clips.get(WICK, other)

    def test_a_hand_planted_on_whom_it_carries(self) -> None:
        """Wick's master is carried by the keeper's hand; that hand is then planted on Wick's chest."""
        keeper, other = keyed(), keyed()
        carried = Belong(controls=("master",), figure=KEEPER, to=HAND, start=10, end=60)
        keeper, other = self.make(carried, WICK, keeper, other)
        plant = PlantLimbs(plants=(Planting(HAND, 20, 40),), figure=WICK, thing="chest")
        with self.assertRaisesRegex(BadEdit, "carry each other round.*Brannoc"):
            self.make(plant, KEEPER, keeper, other)
        # The other way round as well, and apart in time neither.
        planted = self.make(plant, KEEPER, keyed(), keyed())
        with self.assertRaisesRegex(BadEdit, "carry each other round"):
            self.make(carried, WICK, *planted)
        later = PlantLimbs(plants=(Planting(HAND, 100, 110),), figure=WICK, thing="chest")
        self.make(later, KEEPER, keeper, other)

    def test_frames_inserted_that_bring_two_spans_over_one_another(self) -> None:
        keeper = keyed().with_tracks({f"plant/{HAND}": [Plant(70, 80, figure=WICK, thing="chest")]})
        other = keyed().with_tracks({"belonging/master": [Belonging(20, 60, figure=KEEPER, to=HAND)]})
        rig = brannoc_rig()
        self.assertEqual(rings({KEEPER: Player(rig, keeper), WICK: Player(rig, other)}), [])
        with self.assertRaisesRegex(BadEdit, "carry each other round"):
            self.make(InsertFrames(after=10, count=15), WICK, keeper, other)
        self.make(InsertFrames(after=10, count=5), WICK, keeper, other)

    def test_a_ring_from_before_keeps_nothing_else_from_being_done(self) -> None:
        keeper = keyed().with_tracks({f"plant/{HAND}": [Plant(30, 40, figure=WICK, thing="chest")]})
        other = keyed().with_tracks({"belonging/master": [Belonging(20, 60, figure=KEEPER, to=HAND)]})
        self.make(SetPose(frame=5, values={"head/ry": 0.1}), KEEPER, keeper, other)
        self.make(PlantLimbs(plants=(Planting("leg.L.goal", 5, 9),)), KEEPER, keeper, other)
