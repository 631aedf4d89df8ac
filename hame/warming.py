"""Compiling all kernels ahead, so that nobody waits for one at the first drag or edit."""

from __future__ import annotations

import subprocess
import sys

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip, difference, patch_from_json
from hame.clip.curve import from_json, split_at, stacked, unstacked, with_keys
from hame.clip.gaze import Gaze
from hame.clip.key import BEZIER
from hame.clip.plants import Plant
from hame.clip.sampling import sample, sample_curve, tabulate
from hame.clip.shake import Shake
from hame.clip.spans import OWN, track_name
from hame.clip.spring import Spring
from hame.demo.keeper import skeleton
from hame.edits.belongings import belong
from hame.edits.cycles import make_cycle
from hame.edits.layers import new_layer
from hame.edits.making import made
from hame.edits.plants import plant_limb
from hame.edits.pose import SetPose, key_pose, set_pose
from hame.evaluate.evaluate import channel_values, evaluate, pose_of
from hame.evaluate.going.body import turn_control
from hame.evaluate.going.parts import carry_body
from hame.evaluate.springs.rows import can_swing
from hame.limp.limits import set_stops
from hame.maths import rotations
from hame.maths.thinning import thinned
from hame.measure.balance import hull, inside
from hame.measure.ground import REACH
from hame.measure.ground_kernel import raise_to
from hame.scene.joined import seen
from hame.scene.scene import Figure, Scene
from hame.scene.seen import pose_values
from hame.solve import drag
from hame.solve.begun import begin, where
from hame.solve.few import estimate
from hame.solve.match import match
from hame.solve.pull import pull
from hame.solve.wishes import Grip, Target


def warm() -> None:
    """Calls every compiled function with the kinds of array that the application calls it with.

    What has to be compiled is kept on disk, next to the code. On a fresh
    machine two processes share the work, since each kernel is compiled on one core.
    """
    other = subprocess.Popen([sys.executable, "-c", "from hame import warming; warming.curves()"])
    _poses()
    other.wait()
    _together()


def curves() -> None:
    """The half that has to do with keys."""
    curve = from_json([[1, 0.0, BEZIER, 0, 0, 3, 0.1], [5, 0.2, BEZIER], [12, 0.0, BEZIER]])
    before = Clip().with_curves({"body/ty": curve})
    after = before.with_curves({"body/ty": with_keys(curve, {9: 0.3}), "body/tx": curve})
    patch_from_json(difference(before, after).to_json()).apply(before)
    sample_curve(curve, np.array([1.0, 4.0]))
    sample(tabulate(after.curves, ("body/ty", "none/tx"), np.zeros(2)), np.array([1.0, 4.0]))
    unstacked(stacked(after.curves))
    split_at(curve.table, 3)
    split_at(from_json([[1, 0.0, 3, 0.5], [9, 1.0, BEZIER]]).table, 5)
    thinned(np.sin(np.arange(40.0))[None], np.array([0.1]))
    rotations.to_euler(rotations.IDENTITY, "YXZ")
    rotations.to_euler_near(rotations.IDENTITY, "YXZ", np.zeros(3))
    rotations.slerp(rotations.IDENTITY, rotations.IDENTITY, 0.5)
    rotations.from_matrix(np.eye(3))
    rotations.rotate(rotations.multiply(rotations.IDENTITY[None], rotations.from_vector(np.eye(3))), np.eye(3))
    inside(hull(np.eye(3)[:, :2]), np.zeros(2))


def _rig() -> Rig:
    keeper = skeleton()
    return build_rig(keeper, BodyPlan(propose(keeper).roles))


def _poses() -> None:
    """The half that has to do with poses."""
    rig = _rig()
    evaluate(rig, np.tile(rig.rest, (2, 1)))
    pose_of(rig, rig.rest)
    pose_of(rig, rig.rest.copy())
    _drags(rig, rig.rest.copy())


def _together() -> None:
    """Both at work, as an edit and a drag use them; what the halves have left out is compiled here."""
    rig = _rig()
    clip = key_pose(Clip(), rig, 1).clip
    clip = set_pose(clip, rig, 9, {"body/ty": -0.1, "arm.L.upper/rx": 0.3}, "changed").clip
    clip = make_cycle(clip, rig, 1, 25, True).clip
    _drags(rig, channel_values(rig, clip, range(1, 26))[3])
    _ties(rig, clip)
    _falls()
    _ways(rig)
    _ground()


def _ties(rig: Rig, clip: Clip) -> None:
    """Plants and belonging: made, keyed upon and seen."""
    limb = rig.limbs[0]
    for about in ("", *list(limb.points)[:1]):
        clip = plant_limb(clip, rig, limb, Plant(2, 8, about, 2, 2))[0]
    clip = belong(clip, "head", Belonging(3, 9, OWN, "hips", "both", 1.0, 1, 1))[0]
    clip = key_pose(clip, rig, 5).clip
    scene = Scene({OWN: Figure(rig, new_layer(clip, "")[0])}, 1, 25)
    for layer in (1, 0):
        posed = made(SetPose(frame=5, values={"head/ry": 0.1}, layer=layer), scene, OWN).clips[OWN]
        scene = Scene({OWN: Figure(rig, posed)}, 1, 25)
    seen(scene.figures, 6, {OWN: {"head/ty": 0.01}})
    pose_values(rig, clip, 4, scene)
    shaken = clip.with_tracks({track_name(Shake.kind, "hips"): (Shake(2, 8, up=0.01, nod=0.1),)})
    seen({OWN: Figure(rig, shaken)}, 5)
    hung = next((c.name for c in rig.controls if can_swing(rig, c.name)), None)
    if hung is not None:
        swings = clip.with_tracks({track_name(Spring.kind, hung): (Spring(1, 9),), Gaze.kind: (Gaze(2, 8, z=2.0),)})
        seen({OWN: Figure(rig, swings)}, 5)


def _falls() -> None:
    """The stops of a limp body's joints, which are set a thousand times a second."""
    some, one = np.tile(rotations.IDENTITY, (2, 1)), np.zeros(2)
    low, high = np.full((2, 3), -0.1), np.full((2, 3), 0.1)
    stance, qpos, sprung = some.copy(), some.copy(), some.copy()
    set_stops(
        some, one, 0.001, some, some, low, high, stance, qpos, sprung, one, np.zeros(2, np.bool_)
    )  # fmt: skip


def _ways(rig: Rig) -> None:
    """Somebody who goes over footfalls."""
    carry_body(rig, rig.rest[None].copy(), np.zeros((1, 3)), np.zeros(1))
    turn_control(rig, rig.rest[None].copy(), rig.control("head"), np.array([rotations.IDENTITY]))


def _ground() -> None:
    """What lies under points."""
    triangles, boxes = np.zeros((4, 3, 3)), np.zeros((1, 2, 3))
    lies = np.array([[0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 1.0]])
    raise_to(np.zeros((1, 1, 3)), lies, triangles, boxes, REACH, np.zeros((1, 1)), np.zeros((1, 1, 3)))


def _drags(rig: Rig, values: np.ndarray) -> None:
    begun = begin(rig, values)
    foot, hand = (where(begun, part)[0] for part in ("leg.L.foot", "arm.L.hand"))
    pull(begun, [Target("arm.L.hand", hand + 0.1)], [Grip("leg.L.foot", "fast"), Grip("head", "firm", place=False)])
    estimate(begun, [Target("leg.L.foot", foot)])
    drag.move(rig, values, ["body", "leg.L.goal"], np.array([0.01, 0.0, 0.0]), "own")
    turned = drag.turn(rig, values, ["head"], np.array([0.0, 1.0, 0.0]), 0.1, "view")
    drag.turn(rig, turned, ["head"], np.array([0.0, 1.0, 0.0]), 0.1, "world", pivot=np.zeros(3))
    for to in ("ik", "fk"):
        match(rig, values, rig.limbs[0], to)  # type: ignore[arg-type]
