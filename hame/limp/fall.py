"""A fall worked out frame by frame, with the muscle that is left."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import ceil

import mujoco
import numpy as np

from hame.character.masses import masses_of
from hame.character.skin import Skin
from hame.errors import BadEdit
from hame.limp.build import Thing, model_xml
from hame.limp.limits import set_stops
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.begun import Begun, links_at
from hame.solve.body import Link, swing_and_twist
from hame.solve.pull_kernel import BALL, FREE, HINGE

BEYOND = np.radians(1.9)  # that a joint is shown beyond its range at most, where a blow takes it there for a frame
STEPS = 1000.0  # a second, at least
_HOLDS = 0.25  # radians that a joint with all its muscle gives under what it bears
_LOOSE = 0.01  # seconds: what a joint bears times this is what rubs in it, by radian a second
_SLACK, _ENDS = 0.15, 1.0
"""Of the muscle: as it rubs with so much left, it does with less, elsewhere and in a hand or a foot; nobody's joints
are oiled, and hands would be slung about by arms."""
_PRESSED = 0.06  # seconds in which that comes
_LIES_IN = 0.001  # metres
_ARM = {"arm": 0.3, "leg": 0.35, "": 0.2}  # metres: how far off what a joint bears lies, about


@dataclass(frozen=True)
class Muscle:
    """How much of it is left in a part, from nothing to all: by that it holds the pose in which it fell."""

    trunk: float = 0.0
    head: float = 0.0
    arms: float = 0.0
    legs: float = 0.0


@dataclass(frozen=True, eq=False)
class Fallen:
    """One frame of a fall.

    Attributes
    ----------
    place, turn : (L, 3), (L, 4) of the links
    angles : (n,) how the joints stand, as in a pull
    things : by number, the transform (8,) of the root of what fell as well
    energy : joules of motion and of height together
    """

    place: Array
    turn: Array
    angles: Array
    things: Mapping[int, Array]
    energy: float


def fall(
    begun: Begun, was: Begun, skin: Skin | None, things: Mapping[int, Thing], frames: int, fps: float, gravity: float,
    muscle: Muscle,
) -> Iterator[Fallen]:  # fmt: skip
    """The frames of a fall one by one, of which the first is how the body stands as it begins.

    It has the speed that led it there from ``was``, a frame before. The same call gives the same fall.

    Raises
    ------
    BadEdit
        If the engine cannot work it out.
    """
    sub = ceil(STEPS / fps)
    step = 1.0 / (fps * sub)
    model = mujoco.MjModel.from_xml_string(model_xml(begun, skin, things, gravity, step))
    data = mujoco.MjData(model)
    _stand(model, data, begun, was, things, fps)
    mujoco.mj_forward(model, data)
    through = _meeting(model, data)
    if through:
        model = mujoco.MjModel.from_xml_string(model_xml(begun, skin, things, gravity, step, through))
        data = mujoco.MjData(model)
        _stand(model, data, begun, was, things, fps)
        mujoco.mj_forward(model, data)
    rubs = _hold(model, data, begun, muscle)
    stops = _Stops(model, data, begun)
    moving = {n: model.body(f"thing {n}").mocapid[0] for n in things}
    for frame in range(frames + 1):
        if frame:
            for k in range(sub):
                for number, mocap in moving.items():
                    if mocap >= 0:
                        data.mocap_pos[mocap], data.mocap_quat[mocap] = _between(
                            things[number], frame - 1 + (k + 1) / sub
                        )
                stops.set(model, data)
                rubs.set(model, data)
                mujoco.mj_step(model, data)
                stops.look(data)
            mujoco.mj_kinematics(model, data)
            if not np.isfinite(data.qpos).all():
                raise BadEdit("the fall cannot be worked out from here; begin it a frame earlier or later")
        angles = _angles(begun, data, stops)
        place, turn = links_at(begun.tree, angles)
        place, turn = _placed(begun, data, place, turn)
        fallen = {
            n: np.concatenate([data.body(f"thing {n}").xpos, _own(data.body(f"thing {n}").xquat), [1.0]])
            for n, thing in things.items()
            if thing.falls
        }
        mujoco.mj_energyPos(model, data)
        mujoco.mj_energyVel(model, data)
        yield Fallen(place, turn, angles, fallen, float(data.energy.sum()))


def _meeting(model: mujoco.MjModel, data: mujoco.MjData) -> set[tuple[str, str]]:
    """Pairs of bodies that lie in one another: links, and what a hand holds or a foot stands on."""
    found = set()
    for contact in data.contact:
        names = sorted(model.body(model.geom_bodyid[geom]).name for geom in contact.geom)
        links = any(name.startswith("link") for name in names)
        if links and contact.dist < -_LIES_IN and "world" not in names:
            found.add((names[0], names[1]))
    return found


def _own(turn: Array) -> Array:
    return np.array([turn[1], turn[2], turn[3], turn[0]])


def _engine(turn: Array) -> Array:
    return np.array([turn[3], turn[0], turn[1], turn[2]])


def _stand(
    model: mujoco.MjModel, data: mujoco.MjData, begun: Begun, was: Begun, things: Mapping[int, Thing], fps: float
) -> None:  # fmt: skip
    for n, link in enumerate(begun.body.links):
        joint = model.joint(f"joint {n}")
        at, dof = joint.qposadr[0], joint.dofadr[0]
        if link.kind == FREE:
            place, turn = begun.tree.offset[n], begun.tree.zero[n]
            data.qpos[at : at + 7] = [*place, *_engine(turn)]
            data.qvel[dof : dof + 3] = (place - was.tree.offset[n]) * fps
            data.qvel[dof + 3 : dof + 6] = _speed(was.tree.zero[n], turn, fps)
        elif link.kind == BALL:
            now, before = (_ball(pose, link.first) for pose in (begun, was))
            data.qpos[at : at + 4] = _engine(now)
            data.qvel[dof : dof + 3] = _speed(before, now, fps)
        else:
            now_angle = begun.angles[link.first]
            data.qpos[at] = now_angle
            data.qvel[dof] = (now_angle - was.angles[link.first]) * fps
    for number, thing in things.items():
        if thing.falls:
            joint = model.joint(f"thing {number}")
            at, dof = joint.qposadr[0], joint.dofadr[0]
            node = thing.rig.controls[0].node
            now_root, before_root = thing.posed.nodes[0, node], thing.before.nodes[0, node]
            data.qpos[at : at + 7] = [*now_root[:3], *_engine(now_root[3:7])]
            data.qvel[dof : dof + 3] = (now_root[:3] - before_root[:3]) * fps
            data.qvel[dof + 3 : dof + 6] = _speed(before_root[3:7], now_root[3:7], fps)


def _speed(before: Array, now: Array, fps: float) -> Array:
    """Radians a second (3,) in its own axes that a turn goes from one frame to the next."""
    return rotations.to_vector(rotations.multiply(rotations.inverse(before), now)) * fps


def _ball(pose: Begun, first: int) -> Array:
    bend, twist, side = pose.angles[first : first + 3]
    swing = rotations.from_vector(np.array([bend, 0.0, side]))
    return rotations.multiply(swing, rotations.from_vector(np.array([0.0, twist, 0.0])))


def _between(thing: Thing, at: float) -> tuple[Array, Array]:
    """Where a thing that goes as it plays is between two frames."""
    nodes = thing.posed.nodes[:, thing.rig.controls[0].node]
    a = min(int(at), len(nodes) - 1)
    b = min(a + 1, len(nodes) - 1)
    share = at - a
    place = (1.0 - share) * nodes[a, :3] + share * nodes[b, :3]
    return place, _engine(rotations.slerp(nodes[a, 3:7], nodes[b, 3:7], share))


def _angles(begun: Begun, data: mujoco.MjData, stops: _Stops) -> Array:
    """The angles (n,) of a pull at which the joints stand; those of the free link are left at nothing."""
    angles = np.zeros_like(begun.angles)
    for n, link in enumerate(begun.body.links):
        if link.kind == HINGE:
            angles[link.first] = data.joint(f"joint {n}").qpos[0]
    stops.angles(begun, angles)
    return np.clip(angles, begun.low - BEYOND, begun.high + BEYOND)


def _placed(begun: Begun, data: mujoco.MjData, place: Array, turn: Array) -> tuple[Array, Array]:
    """Links that stand about the first as it stood as the fall began, taken to where that is now."""
    own = data.body("link 0")
    now = _own(own.xquat)
    by = rotations.multiply(now, rotations.inverse(turn[0]))
    return own.xpos + rotations.rotate(by, place - place[0]), rotations.multiply(by, turn)


class _Stops:
    """The ball joints of a model, with their ranges."""

    def __init__(self, model: mujoco.MjModel, data: mujoco.MjData, begun: Begun) -> None:
        self._balls = [n for n, link in enumerate(begun.body.links) if link.kind == BALL]
        joints = [model.joint(f"joint {n}") for n in self._balls]
        bodies = [model.body(f"link {n}").id for n in self._balls]
        count = len(joints)
        self._at = np.array([joint.qposadr[0] for joint in joints])[:, None] + np.array([1, 2, 3, 0])
        self._joints, self._bodies = np.array([joint.id for joint in joints]), np.array(bodies)
        first = np.array([begun.body.links[n].first for n in self._balls])[:, None] + np.arange(3)
        self._low, self._high = begun.low[first], begun.high[first]
        self._dof = np.array([joint.dofadr[0] for joint in joints])[:, None] + np.arange(3)
        self._zero = model.body_quat[self._bodies][:, [1, 2, 3, 0]].copy()
        self.now = data.qpos[self._at].copy()
        self._springs = self.now.copy()
        self._stance, self._qpos, self._sprung = (np.zeros((count, 4)) for _ in range(3))
        self._back_to_zero = np.tile(rotations.IDENTITY, (count, 1))
        self._stops, self._stopped = np.zeros(count), np.zeros(count, np.bool_)

    def look(self, data: mujoco.MjData) -> None:
        """Finds how the joints are turned, from all angles at zero, after a step."""
        self.now = rotations.multiply(self._back_to_zero, data.qpos[self._at])

    def set(self, model: mujoco.MjModel, data: mujoco.MjData) -> None:
        """Sets the stops for the next step."""
        speed = np.linalg.norm(data.qvel[self._dof], axis=1)
        set_stops(
            self.now, speed, model.opt.timestep, self._zero, self._springs, self._low, self._high, self._stance,
            self._qpos, self._sprung, self._stops, self._stopped,
        )  # fmt: skip
        self._back_to_zero = rotations.multiply(rotations.inverse(self._zero), self._stance)
        model.body_quat[self._bodies] = self._stance[:, [3, 0, 1, 2]]
        data.qpos[self._at] = self._qpos
        model.qpos_spring[self._at] = self._sprung
        model.jnt_limited[self._joints] = self._stopped
        model.jnt_range[self._joints, 1] = np.where(self._stopped, self._stops, np.pi)

    def angles(self, begun: Begun, found: Array) -> None:
        """Writes bend, twist and side of the joints among the angles of a pull (n,)."""
        for row, n in enumerate(self._balls):
            first = begun.body.links[n].first
            found[first : first + 3] = swing_and_twist(self.now[row])


class _Rubs:
    """What rubs in the joints: little in the air, so that what swings goes on to; more where it has met something, as
    flesh does that is pressed."""

    def __init__(self, count: int) -> None:
        self.free, self.met, self._share = np.zeros(count), np.zeros(count), 0.0

    def set(self, model: mujoco.MjModel, data: mujoco.MjData) -> None:
        """Sets what rubs in the next step."""
        if data.ncon and self._share < 0.999:
            self._share += (1.0 - self._share) * model.opt.timestep / _PRESSED
            model.dof_damping[:] = self.free + self._share * (self.met - self.free)


def _hold(model: mujoco.MjModel, data: mujoco.MjData, begun: Begun, muscle: Muscle) -> _Rubs:
    """Gives joints the muscle that is left in them, by which they hold how they stand, and tells what rubs in them."""
    rubs = _Rubs(model.nv)
    full = np.zeros((model.nv, model.nv))
    mujoco.mj_fullM(model, data, full)
    whole = masses_of(begun.body.rig).kilograms
    gravity = max(float(np.linalg.norm(model.opt.gravity)), 1.0)
    for n, link in enumerate(begun.body.links):
        if link.kind == FREE:
            continue
        joint = model.joint(f"joint {n}")
        dof = slice(joint.dofadr[0], joint.dofadr[0] + (1 if link.kind == HINGE else 3))
        turns = slice(joint.qposadr[0], joint.qposadr[0] + (1 if link.kind == HINGE else 4))
        kind = link.limb.kind if link.limb is not None else ""
        hangs = float(model.body_subtreemass[model.body(f"link {n}").id])
        bears = (whole if kind == "leg" else hangs) * gravity * _ARM[kind]
        hold = bears * _share(muscle, link) / _HOLDS
        model.jnt_stiffness[joint.id] = hold
        heavy = float(np.diag(full)[dof].mean())
        rubs.free[dof] = _LOOSE * hangs * gravity * _ARM[kind] + np.sqrt(hold * heavy)
        rubs.met[dof] = _LOOSE * bears + np.sqrt(max(hold, _slack(link) * bears / _HOLDS) * heavy)
        model.qpos_spring[turns] = data.qpos[turns]
    model.dof_damping[:] = rubs.free
    return rubs


def _slack(link: Link) -> float:
    return _ENDS if link.role in ("hand", "foot") else _SLACK


def _share(muscle: Muscle, link: Link) -> float:
    if link.limb is not None:
        return muscle.arms if link.limb.kind == "arm" else muscle.legs
    return muscle.head if link.row == "neck" else muscle.trunk
