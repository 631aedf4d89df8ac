"""The demo shots' motions, made with the same edits that people use."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cache
from math import radians
from pathlib import Path

from hame.blocking.poses import STEP, rough_pose
from hame.character.build import build_rig
from hame.character.bulks import with_bulks
from hame.character.face import proposed
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.character.shapes import shapes_of
from hame.character.skin import Skin
from hame.character.soles import with_soles
from hame.character.volumes import with_masses
from hame.clip.clip import Clip
from hame.clip.curve import from_keys, from_table
from hame.clip.key import FRAME, LINEAR, SHAPE
from hame.demo import gaits
from hame.edits.blend import exaggerate
from hame.edits.columns import paste_column
from hame.edits.cycles import make_cycle, repeat_cycle
from hame.edits.holds import hold_pose
from hame.edits.labels import label_pose, lay_template, whole_pose
from hame.edits.library import size_of
from hame.edits.making import made
from hame.edits.overlap import Trail, delay_parts
from hame.edits.plants import Planting, PlantLimbs
from hame.edits.pose import key_pose, set_pose
from hame.edits.retime import scale_time
from hame.edits.shapes import set_shape
from hame.evaluate.evaluate import channel_values
from hame.formats.gltf_read import read_character
from hame.scene.scene import Figure, Scene

DATA = Path(__file__).parent / "data"

Pose = dict[str, float]


def _degrees(**angles: float) -> Pose:
    return {name.replace("__", "/").replace("_", "."): radians(value) for name, value in angles.items()}


def _both(address: str, value: float) -> Pose:
    """The same number on both sides: what a mirror shows, for turned controls."""
    return {address.replace("#", side): value for side in "LR"}


def standing() -> Pose:
    """At ease: weight on the left foot, arms hanging, hands half closed."""
    pose: Pose = {
        "body/ty": -0.018, "body/tx": 0.028, "body/tz": 0.004,
        "leg.L.goal/tx": 0.02, "leg.R.goal/tx": -0.045, "leg.R.goal/tz": 0.05,
        "leg.L.goal/ry": radians(8), "leg.R.goal/ry": radians(-22),
        **_degrees(hips__rz=-3.5, spine__rz=2.5, chest__rz=2.5, chest__rx=2, neck__rx=4, head__rz=-2, head__rx=-2),
    }  # fmt: skip
    for finger, curl in (("index", 18), ("middle", 24), ("ring", 28), ("little", 30), ("thumb", 10)):
        pose |= _both(f"arm.#.{finger}/curl", radians(curl))
    pose |= _both("arm.#.upper/rz", radians(-34)) | _both("arm.#.upper/rx", radians(4))
    pose |= _both("arm.#.lower/rx", radians(16)) | _both("arm.#.collar/rz", radians(-4))
    return pose


def keeping_watch(rig: Rig) -> Clip:
    """An idle of 32 frames: breath in to the middle, the eyes leading the head over the water, and back.

    Frame 33 is frame 1 again and is not played.
    """
    clip = set_pose(key_pose(Clip(), rig, 1).clip, rig, 1, standing(), "whole").clip
    first = {a: float(v) for a, v in zip(rig.addresses, channel_values(rig, clip, [1])[0], strict=True)}
    clip = paste_column(clip, rig, 33, first).clip
    breath = {
        "body/ty": -0.011, "chest/rx": radians(-1.5), "spine.2/rx": radians(-1.0), "neck/rx": radians(5),
        "arm.L.collar/rz": radians(-1), "arm.R.collar/rz": radians(-1), "arm.L.upper/rz": radians(-32),
        "arm.R.upper/rz": radians(-32),
    }  # fmt: skip
    clip = set_pose(clip, rig, 17, breath, "changed").clip
    for frame, eyes, head in ((7, 24, 0), (13, 12, 22), (21, -6, 24), (27, -8, 6)):
        look = {f"eye.{s}/ry": radians(eyes) for s in "LR"}
        clip = set_pose(
            clip, rig, frame, {**look, "head/ry": radians(head * 0.7), "neck/ry": radians(head * 0.4)}, "changed"
        ).clip
    return clip


def _placed(rig: Rig, x: float, z: float, heading: float) -> Clip:
    """A clip with the master put somewhere, turned by so many degrees."""
    values = {"master/tx": x, "master/tz": z, "master/ry": radians(heading)}
    return Clip().with_curves({address: from_keys({1: value}) for address, value in values.items()})


def watching_wick(rig: Rig) -> Clip:
    """The keeper at ease beside the lamp, his head going from the apprentice to the light and back."""
    clip = set_pose(_placed(rig, -0.75, -0.1, 35.0), rig, 1, standing(), "changed").clip
    for frame, turn in ((1, 14), (15, 22), (27, 4), (49, 14)):
        clip = set_pose(clip, rig, frame, {"head/ry": radians(turn), "neck/ry": radians(0.4 * turn)}, "changed").clip
    return clip


def at_the_lamp(rig: Rig) -> Clip:
    """The apprentice leans in to the lamp and stands up again."""
    clip = _at(_placed(rig, 0.85, 0.1, -50.0), rig, 1, standing())
    lean = {
        "body/rx": radians(9),
        "spine/rx": radians(9),
        "chest/rx": radians(8),
        "neck/rx": radians(-8),
        "body/tz": 0.02,
    }
    rest = dict.fromkeys(lean, 0.0)
    for frame, pose in ((1, rest), (17, lean), (31, lean), (49, rest)):
        clip = _at(clip, rig, frame, pose)
    return clip


def standing_can(rig: Rig) -> Clip:
    """The oil can on the ground before the lamp, its lid open for a while."""
    clip = _placed(rig, 0.3, 0.5, -120.0)
    for frame, lid in ((1, 0.0), (13, 0.0), (19, -70.0), (37, -70.0), (43, 0.0)):
        clip = set_pose(clip, rig, frame, {"lid/rx": radians(lid)}, "changed").clip
    return clip


def turning_lamp(rig: Rig) -> Clip:
    """The lamp's crank goes round, its head turns with it, and the lid swings up."""
    clip = _placed(rig, 0.0, 0.35, 0.0)
    for frame, crank, head, lid in ((1, 0, 0, 0), (9, 0, 0, 0), (33, 360, 25, -75), (49, 360, 25, -75)):
        values = {"crank/rx": radians(crank), "head/ry": radians(head), "lid/rx": radians(lid)}
        clip = set_pose(clip, rig, frame, values, "changed").clip
    return clip


def _at(clip: Clip, rig: Rig, frame: int, values: Mapping[str, float]) -> Clip:
    """Keys some channels; those that the rig lacks are passed over."""
    return set_pose(clip, rig, frame, {a: v for a, v in values.items() if rig.has_channel(a)}, "changed").clip


def _straight(clip: Clip, address: str, gaps: Iterable[tuple[int, int]]) -> Clip:
    """Lets a planted foot go back evenly under the body."""
    table = clip.curves[address].table.copy()
    for a, b in gaps:
        table[(table[:, FRAME] >= a) & (table[:, FRAME] < b), SHAPE] = LINEAR
    return clip.with_curves({address: from_table(table)})


_FINGERS = ("thumb", "index", "middle", "ring", "little")


def _drag(clip: Clip, rig: Rig, hand: int = 2) -> Clip:
    """Forearm, hand and fingers later than the upper arm, each with a little less."""
    chain = [
        Trail(("arm.L.lower", "arm.R.lower"), 1),
        Trail(("arm.L.hand", "arm.R.hand"), hand, 0.9),
        Trail(tuple(f"arm.{s}.{f}" for s in "LR" for f in _FINGERS), hand + 1, 0.8),
    ]
    return delay_parts(clip, rig, chain).clip


def walk(rig: Rig) -> Clip:
    """A plain walk on the spot, 24 frames: contact 1, down 4, passing 7, up 10, the other step an echo.

    The left leg bears from 1 to 15: it lands on the heel, nearly straight, is flat at 3, gives at the knee, and leaves
    over ball and toe with the thigh behind. The right one leaves at 3 and swings through.
    """
    clip = lay_template(Clip(), rig, "walk", 1, 12, 25, True).clip
    clip = make_cycle(set_shape(clip, rig, "smooth").clip, rig, 1, 25, True).clip
    size = size_of(rig)
    step = STEP["walk"] * size
    each = step / 12
    lead = 0.482 * step  # the foot lands less far ahead of the body than it leaves behind
    for side in "LR":
        clip = _at(clip, rig, 1, {f"leg.{side}/soft": 0.002})
        for frame in (1, 4, 7, 10):
            clip = _at(clip, rig, frame, {f"leg.{side}.goal/break": radians(64)})
    # On the ground: heel, flat, heel off.
    for frame, roll in ((1, -20.0), (3, 0.0), (4, 0.0), (7, 0.0), (10, 7.5)):
        clip = gaits.stand(clip, rig, frame, "L", lead - (frame - 1) * each, roll)
    # Over the bearing foot, no farther than it must; as high as its knee lets it.
    for frame, aside in ((1, 0.0), (4, 0.009), (7, 0.013), (10, 0.009)):
        clip = _at(clip, rig, frame, {"body/tx": aside * size / 0.8584})
    for frame, knee in ((1, 4.0), (3, 12.0), (4, 23.0), (7, 12.0), (10, 4.0)):
        clip = gaits.bear(clip, rig, frame, "L", knee)
    clip = gaits.stand(clip, rig, 1, "R", lead - 12 * each, 18.5)
    clip = gaits.stand(clip, rig, 2, "R", lead - 13 * each, 35.0)
    clip = gaits.stand(clip, rig, 3, "R", lead - 14 * each, 58.0)
    clip = _at(clip, rig, 3, {"leg.R.goal/ty": 0.004 * size})  # it is all but off the ground
    # Through the air: the knee bends most early, the toes clear the ground by little, the shank reaches out.
    clip = gaits.swing(clip, rig, 4, "R", -3.0, 47.0, 0.0, -4.0, 61.0)
    clip = gaits.swing(clip, rig, 5, "R", 6.0, 58.0, 0.0, -8.0, 60.0)
    clip = gaits.swing(clip, rig, 7, "R", 23.0, 60.0, 0.011, -10.0)
    clip = gaits.swing(clip, rig, 10, "R", 27.0, 28.0, 0.0, 0.0, -4.0)
    clip = gaits.swing(clip, rig, 12, "R", 23.5, 7.0, 0.0, 0.0, -19.0)
    clip = _straight(clip, "leg.L.goal/tz", [(1, 13)])
    clip = _straight(clip, "leg.R.goal/tz", [(1, 3)])
    # Wrists bend back and forth against the swing; arms lag.
    wrists = {1: -8.0, 4: -12.0, 7: 2.0, 10: 10.0}
    for frame, turn in wrists.items():
        clip = _at(clip, rig, frame, {"arm.L.hand/rx": radians(turn), "arm.R.hand/rx": radians(-turn)})
    return _drag(clip, rig)


def walk_across(rig: Rig) -> Clip:
    """The same walk travelling, three times, its feet planted as they land."""
    stride = 2.0 * STEP["walk"] * size_of(rig)
    clip = repeat_cycle(walk(rig), rig, 73, stride).clip
    return _planted(rig, clip, 73, Planting("leg.L.goal", 1, 15), Planting("leg.R.goal", 1, 3))


def _planted(rig: Rig, clip: Clip, last: int, *plants: Planting) -> Clip:
    """The clip with feet planted, each let go over two frames."""
    return made(PlantLimbs(plants=plants, release=2), Scene({1: Figure(rig, clip)}, 1, last), 1).clips[1]


def walk_there(rig: Rig) -> Clip:
    """The same walk on the spot, three times."""
    return repeat_cycle(walk(rig), rig, 73, 0.0).clip


RUN_A_FRAME = 0.17  # how far the run goes in a frame, as a share of the legs' length


def run(rig: Rig) -> Clip:
    """A run of 16 frames: extreme 1, passing 5, opposite 9; lowest at 3, off the ground from 6 to 9.

    The left leg bears from 1 to 6: it lands under a bent knee, gives, and pushes off nearly straight, the thigh far
    behind. The right one folds up behind and swings through.
    """
    clip = lay_template(Clip(), rig, "run", 1, 8, 17, True).clip
    clip = make_cycle(set_shape(clip, rig, "smooth").clip, rig, 1, 17, True).clip
    for frame, name in ((3, "Down"), (7, "Push")):
        clip = set_pose(clip, rig, frame, whole_pose(rig, clip, frame, rough_pose(rig, "run", name)[0]), "whole").clip
        clip = label_pose(clip, frame, name, "breakdown").clip
    size = size_of(rig)
    each, lead = RUN_A_FRAME * size, 0.25 * size
    for side in "LR":
        for frame in (1, 3, 5, 7):
            clip = _at(clip, rig, frame, {f"leg.{side}.goal/break": radians(66), f"leg.{side}/soft": 0.004})
    # On the ground: nearly flat, heel off early, over the ball and away.
    for frame, roll in ((1, -7.0), (2, 0.0), (3, 2.0), (5, 26.0), (6, 62.0)):
        clip = gaits.stand(clip, rig, frame, "L", lead - (frame - 1) * each, roll)
    for frame, knee in ((1, 20.0), (3, 40.0), (5, 29.0), (6, 18.0)):
        clip = gaits.bear(clip, rig, frame, "L", knee)
    # In the air: up and over, as far as two frames of flight allow.
    left = float(channel_values(rig, clip, [6])[0, rig.number("body/ty")])
    for frame, rise in ((7, 0.020), (8, 0.017)):
        clip = _at(clip, rig, frame, {"body/ty": left + rise * size})
    for frame, thigh, knee, pitch in ((7, -20.0, 33.0, 66.0), (8, -17.0, 50.0, 70.0)):
        clip = gaits.swing(clip, rig, frame, "L", thigh, knee, 0.0, 0.0, pitch)
    for frame, thigh, knee, pitch in (
        (1, -11.0, 70.0, 84.0), (3, 9.0, 98.0, 88.0), (5, 29.0, 94.0, 62.0),
        (7, 42.0, 54.0, 14.0), (8, 36.0, 29.0, -4.0),
    ):  # fmt: skip
        clip = gaits.swing(clip, rig, frame, "R", thigh, knee, 0.0, 0.0, pitch)
    clip = _straight(clip, "leg.L.goal/tz", [(1, 6)])
    # The scarf flies behind, and whips as he comes down.
    if rig.has_control("scarf_1"):
        for n in range(1, 6):
            rise = 52.0 if n == 1 else 6.0
            for frame, more in ((1, 6.0), (3, 10.0), (5, -2.0), (7, -9.0)):
                clip = _at(clip, rig, frame, {
                    f"scarf_{n}/rx": radians(rise + more * (1 + 0.25 * n)), f"scarf_{n}/rz": radians(4.0 * (-1) ** n),
                })  # fmt: skip
        clip = delay_parts(clip, rig, [Trail((f"scarf_{n}",), n - 1) for n in range(2, 6)]).clip
    return _drag(clip, rig, hand=1)


def run_across(rig: Rig) -> Clip:
    """The same run travelling, four times, its feet planted as they land."""
    clip = repeat_cycle(run(rig), rig, 65, 16 * RUN_A_FRAME * size_of(rig)).clip
    return _planted(rig, clip, 65, Planting("leg.L.goal", 1, 6))


def run_there(rig: Rig) -> Clip:
    """The same run on the spot, four times."""
    return repeat_cycle(run(rig), rig, 65, 0.0).clip


def take(rig: Rig) -> Clip:
    """A surprise: he sees the gull, ducks, springs up, holds, and settles slowly.

    Blocked ten frames apart, then the attack is halved, the recovery made longer and the accent exaggerated.
    """
    clip = lay_template(Clip(), rig, "startle", 9, 10, 60, True).clip
    clip = set_shape(clip, rig, "smooth").clip
    # At rest before it, and the gull seen out of the corner of the eye.
    first = {a: float(v) for a, v in zip(rig.addresses, channel_values(rig, clip, [9])[0], strict=True)}
    clip = paste_column(clip, rig, 1, {a: v for a, v in first.items() if a != "master/s"}).clip
    clip = label_pose(clip, 1, "Rest", "key").clip
    clip = label_pose(clip, 9, "Sees it", "breakdown").clip
    look = {f"eye.{s}/ry": radians(-28) for s in "LR"}
    clip = _at(clip, rig, 6, {**look, "head/ry": 0.0, "neck/ry": 0.0})
    clip = _at(clip, rig, 9, {**look, "head/ry": radians(-22), "neck/ry": radians(-12), "chest/ry": radians(-5)})
    for frame in (29, 39):
        clip = _at(clip, rig, frame, {"head/ry": radians(-18), "neck/ry": radians(-10), "chest/ry": radians(-8)})
        clip = _at(clip, rig, frame, {f"eye.{s}/ry": radians(-12) for s in "LR"})
    clip = exaggerate(clip, rig, 29, 0.15, "changed", ["body", "spine", "spine.2", "chest"]).clip
    clip = scale_time(clip, rig, [19, 29], 19, 0.5, along=True).clip  # up in five frames
    clip = scale_time(clip, rig, [24, 34], 24, 1.8, along=True).clip  # down again in eighteen
    clip = hold_pose(clip, rig, 24, 6, 0.08).clip
    clip = hold_pose(clip, rig, 48, 10, 0.0).clip
    return delay_parts(clip, rig, [
        Trail(("head", "neck"), -1), Trail(("arm.L.lower", "arm.R.lower"), 1), Trail(("arm.L.hand", "arm.R.hand"), 2),
        Trail(tuple(f"arm.{s}.{f}" for s in "LR" for f in _FINGERS), 3),
    ], first=9).clip  # fmt: skip


def second_take(rig: Rig) -> Clip:
    """Wick beside him notices later, and is less startled."""
    clip = lay_template(Clip(), rig, "startle", 15, 10, 60, True).clip
    clip = set_shape(clip, rig, "smooth").clip
    for frame in (25, 35):
        clip = exaggerate(clip, rig, frame, -0.45, "changed", None, "rest").clip
    clip = _at(clip, rig, 35, {"head/ry": radians(30), "neck/ry": radians(14)})
    clip = _at(clip, rig, 45, {"head/ry": radians(26), "neck/ry": radians(14)})
    clip = scale_time(clip, rig, [25, 35], 25, 0.6, along=True).clip
    for frame in clip.key_frames():
        clip = _at(clip, rig, frame, {"master/tx": -1.2, "master/tz": -0.1, "master/ry": radians(14)})
    return clip


@dataclass(frozen=True)
class Motion:
    """A demo motion with the figure that plays it, and frames to judge it by."""

    name: str
    rig: Rig
    skin: Skin
    clip: Clip
    frames: list[int]


# Under weight an ankle bends up farther than the 20 degrees that are measured without (from memory of practice).
_ANKLES = {f"leg.{side}.foot": {"bend": (-40.0, 50.0)} for side in "LR"}
RANGES = {"brannoc": _ANKLES, "wick": _ANKLES}


@cache
def figure(name: str) -> tuple[Rig, Skin]:
    """A shipped demo character, read and rigged as an upload would be."""
    found = read_character((DATA / f"{name}.glb").read_bytes())
    plan = propose(found.skeleton)
    plan = with_soles(plan, found.skeleton, found.skin)
    plan = with_masses(replace(plan, ranges=RANGES.get(name, {})), found.skeleton, found.skin)
    plan = proposed(replace(plan, shapes=shapes_of(found.skin)), found.skeleton, found.skin)
    plan = with_bulks(plan, found.skeleton, found.skin)
    return build_rig(found.skeleton, plan), found.skin


def demo_motions() -> list[Motion]:
    """The finished motions of the demo."""
    keeper, apprentice = figure("brannoc"), figure("wick")
    return [
        Motion("Morning round", *keeper, walk(keeper[0]), list(range(1, 25, 2))),
        Motion("Late for the lamp", *apprentice, run(apprentice[0]), list(range(1, 17))),
        Motion("Gull on the rail", *keeper, take(keeper[0]), [1, 9, 12, 15, 19, 21, 24, 30, 36, 42, 48, 58]),
    ]
