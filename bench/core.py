"""Speed of the core, beside Pinocchio and SciPy in the same run: ``.venv/bin/python -m bench.core``."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Mapping

import numpy as np
import pinocchio as pin
from scipy.interpolate import PchipInterpolator
from scipy.spatial.transform import Rotation

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip, difference
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo.keeper import skeleton
from hame.demo.shots import DATA, figure
from hame.edits.blend import lay_breakdown
from hame.edits.columns import move_columns
from hame.edits.cycles import free_cycle, make_cycle
from hame.edits.holds import hold_pose
from hame.edits.keys import move_keys
from hame.edits.mirror import mirror_range
from hame.edits.outcome import Outcome
from hame.edits.overlap import Trail, delay_parts
from hame.edits.retime import insert_frames, scale_time, slow_by_phase
from hame.edits.shapes import set_shape
from hame.evaluate.evaluate import channel_values, evaluate, joints, pose_of
from hame.formats.gltf_read import read_character
from hame.intake.intake import prop_plan
from hame.scene.joined import played, seen
from hame.scene.scene import Figure


def median(work: Callable[[], object], rounds: int = 15) -> float:
    """Median seconds of a call, after one call to warm up."""
    work()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return statistics.median(times)


def kinematics(frames: int = 1000) -> None:
    """Forward kinematics of one tree: our program for it as the application runs it, and Pinocchio.

    The same work: every joint a plain control that turns, no limbs. Called from Python once a frame each; and ours
    as the application calls it for playback, once for all frames. Pinocchio is given quaternions, ours has angles.
    The keeper's whole rig, with IK legs and rolling feet, is told beside it.
    """
    s = skeleton()
    plain, whole = build_rig(s, BodyPlan({"hips": "pelvis"})), build_rig(s, propose(s))
    rng = np.random.default_rng(1)
    values = np.tile(plain.rest, (frames, 1))
    jointed = [c for c in plain.controls if c.kind == "extra"]
    turns = np.tile(np.array([0.0, 0.0, 0.0, 1.0]), (frames, len(s), 1))
    for control in jointed:
        angles = rng.normal(0, 0.3, (frames, 3))
        values[:, control.first + 3 : control.first + 6] = angles
        x, y, z = angles.T
        own = Rotation.from_euler("YXZ", np.stack([y, x, z], axis=1))
        j = s.index(control.label)
        axes = Rotation.from_quat(control.pre) * Rotation.from_quat(
            evaluate(plain, plain.rest[None])[0, control.frame, 3:7]
        )
        world = Rotation.from_quat(s.world[j, 3:7])
        turns[:, j] = (world.inv() * axes * own * axes.inv() * world).as_quat()
    model = pin.Model()
    ids = {-1: 0}
    for j, parent in enumerate(s.parents):
        at = pin.SE3(pin.Quaternion(s.rest[j, 3:7]).matrix(), s.rest[j, :3])
        ids[j] = model.addJoint(ids[parent], pin.JointModelSpherical(), at, s.names[j])
    data = model.createData()
    q = [np.ascontiguousarray(turns[f].reshape(-1)) for f in range(frames)]
    rows = [np.ascontiguousarray(values[f]) for f in range(frames)]

    def theirs() -> None:
        for vector in q:
            pin.forwardKinematics(model, data, vector)

    def ours() -> None:
        for row in rows:
            pose_of(plain, row)

    # The same tree with angles as Pinocchio takes them (about z, y, x): the work of going from angles to turns is in
    # it.
    angled = pin.Model()
    ids_angled = {-1: 0}
    for j, parent in enumerate(s.parents):
        at = pin.SE3(pin.Quaternion(s.rest[j, 3:7]).matrix(), s.rest[j, :3])
        ids_angled[j] = angled.addJoint(ids_angled[parent], pin.JointModelSphericalZYX(), at, s.names[j])
    angled_data, angles_of = angled.createData(), [rng.normal(0, 0.3, angled.nq) for _ in range(frames)]

    def theirs_angled() -> None:
        for vector in angles_of:
            pin.forwardKinematics(angled, angled_data, vector)

    single, together, other = median(ours), median(lambda: evaluate(plain, values)), median(theirs)
    theirs()
    places = np.array([data.oMi[ids[j]].translation for j in range(len(s))])
    differ = float(np.abs(places - pose_of(plain, rows[-1])[0][plain.joint_nodes, :3]).max())
    rest = np.tile(whole.rest, (frames, 1))
    print(f"kinematics of {len(s)} joints, {frames} frames, microseconds a frame: all in one call "
          f"{together / frames * 1e6:.1f}, one call a frame {single / frames * 1e6:.1f}, Pinocchio one call a frame "
          f"{other / frames * 1e6:.1f} given quaternions and {median(theirs_angled) / frames * 1e6:.1f} given angles; "
          f"results differ by {differ:.1e} m; the keeper's whole rig in one call "
          f"{median(lambda: evaluate(whole, rest)) / frames * 1e6:.1f}")  # fmt: skip


def keyed_clip(rig: Rig, frames: int, every: int, curves: int = 10_000) -> Clip:
    """A clip with keys on all free channels, at most so many curves."""
    rng = np.random.default_rng(2)
    free = [c for c in rig.channels if not c.locked and c.kind != "scale"][:curves]
    made = {}
    for channel in free:
        keys = {f: float(np.clip(channel.rest + rng.normal(0, 0.1), channel.low, channel.high))
                for f in range(1, frames + 1, every)}  # fmt: skip
        made[channel.address] = from_keys(keys)
    return Clip().with_curves(made)


def whole_take(frames: int = 240) -> None:
    s = skeleton()
    rig = build_rig(s, propose(s))
    clip = keyed_clip(rig, frames, 8)
    span = np.arange(1, frames + 1)
    both = median(lambda: joints(rig, evaluate(rig, channel_values(rig, clip, span))))
    values = channel_values(rig, clip, span)
    sampling = median(lambda: channel_values(rig, clip, span))
    one = median(lambda: evaluate(rig, values[:1]), 200)
    print(f"whole take, {len(s)} joints, {frames} frames, {len(clip.curves)} curves, {clip.key_count():,} keys: "
          f"{both * 1e3:.2f} ms (of which curves {sampling * 1e3:.2f} ms); "
          f"one frame {one * 1e6:.0f} microseconds")  # fmt: skip


def blocking(frames: int = 128) -> None:
    """Edits of everything on 10,000 keys, beside SciPy building the same number of monotone cubics."""
    s = skeleton()
    rig = build_rig(s, propose(s))
    clip = keyed_clip(rig, frames, 2)
    columns = clip.key_frames()
    keyed = dict.fromkeys(clip.curves, columns)
    echo = make_cycle(clip, rig, 1, frames + 1, True).clip
    hands = tuple(control.name for control in rig.controls)

    def theirs() -> None:
        for curve in clip.curves.values():
            PchipInterpolator(curve.table[:, 0], curve.table[:, 1])

    print(f"edits of {clip.key_count():,} keys on {len(clip.curves)} curves, with the difference that is stored "
          f"(SciPy builds as many PCHIP curves in {median(theirs) * 1e3:.1f} ms):")  # fmt: skip
    edits: tuple[tuple[str, Callable[[], Outcome]], ...] = (
        ("move a column", lambda: move_columns(clip, rig, [columns[25]], 1)),
        ("move all keys", lambda: move_keys(clip, rig, keyed, 1)),
        ("insert two frames", lambda: insert_frames(clip, rig, 10, 2)),
        ("halve a gap", lambda: scale_time(clip, rig, columns[:20], 1, 0.5, along=True)),
        ("a frame more a phase", lambda: slow_by_phase(clip, rig, 1)),
        ("hold a pose", lambda: hold_pose(clip, rig, columns[25], 4)),
        ("stepped", lambda: set_shape(clip, rig, "stepped")),
        ("mirror half of it", lambda: mirror_range(clip, rig, 1, 60, 65)),
        ("delay every part", lambda: delay_parts(clip, rig, [Trail(hands, 2)])),
        ("breakdown", lambda: lay_breakdown(clip, rig, 50, 0.5, "changed")),
        ("echo", lambda: make_cycle(clip, rig, 1, frames + 1, True)),
        ("free an echo", lambda: free_cycle(echo, rig)),
    )  # fmt: skip
    for name, edit in edits:
        before = echo if name == "free an echo" else clip
        print(f"  {name}: {median(lambda: difference(before, edit().clip)) * 1e3:.1f} ms")  # noqa: B023


def ties(frames: int = 240) -> None:
    """A take of several who carry and stand on each other, and the drag of a body over planted feet."""
    figures = acted_scene(frames)
    span = np.arange(1, frames + 1)
    plants = sum(isinstance(span, Plant) for f in figures.values() for _, span in f.clip.spans())
    carried = sum(isinstance(span, Belonging) for f in figures.values() for _, span in f.clip.spans())

    def anew() -> dict[int, Figure]:
        """The same scene of new clips, of which nothing is known yet."""
        return {number: one.with_clip(one.clip.with_curves({})) for number, one in figures.items()}

    def without(kind: str, of: Mapping[int, Figure]) -> dict[int, Figure]:
        found = {}
        for number, one in of.items():
            gone = [track for track in one.clip.tracks if kind in track]
            found[number] = one.with_clip(one.clip.with_tracks(dict.fromkeys(gone, ())))
        return found

    first, again = median(lambda: played(anew(), span)), median(lambda: played(figures, span))
    free = median(lambda: played(without("", figures), span))
    over = {1: {"body/ty": -0.2, "body/tx": 0.05}}
    drag = median(lambda: seen(figures, 63, over), 60)
    feet = without("belonging", {1: figures[1]})
    alone = median(lambda: seen(feet, 63, over), 60)
    print(f"ties: {len(figures)} of the cast, {frames} frames, {plants} plants, {carried} changes of owner: "
          f"{first * 1e3:.1f} ms, asked again {again * 1e3:.1f} ms; without ties {free * 1e3:.1f} ms")  # fmt: skip
    print(f"a frame while a body is dragged: all of them {drag * 1e3:.2f} ms, one figure with both feet planted "
          f"{alone * 1e3:.2f} ms")  # fmt: skip


def acted_scene(frames: int) -> dict[int, Figure]:
    """Two figures and four props, twelve plants and six changes of owner, on keys at every eighth frame."""
    figures: dict[int, Figure] = {}
    for number, name in ((1, "brannoc"), (2, "wick")):
        rig, _ = figure(name)
        clip = keyed_clip(rig, frames, 8)
        still = {f"{limb.name}/ik": from_keys({1: 1.0}) for limb in rig.limbs}
        clip = clip.with_curves(still)
        for n, limb in enumerate(limb for limb in rig.limbs if limb.kind == "leg"):
            plants = [Plant(20 + 70 * k + 30 * n, 50 + 70 * k + 30 * n, ("", "ball", "heel")[k]) for k in range(3)]
            clip = clip.with_tracks({f"plant/{limb.ik}": plants})
        figures[number] = Figure(rig, clip, name)
    for number, file in enumerate(("oil-can", "signal-lamp", "crate", "step"), 3):
        found = read_character((DATA / f"{file}.glb").read_bytes())
        rig = build_rig(found.skeleton, prop_plan(found.skeleton, found.skin))
        figures[number] = Figure(rig, keyed_clip(rig, frames, 16), file)
    carried: dict[int, list[Belonging]] = {
        3: [Belonging(10, 99, 1, "arm.R.goal"), Belonging(100, 200, 2, "arm.L.goal")],
        5: [Belonging(30, 120, 1, "arm.L.goal"), Belonging(121, 160, 3, "master")],
    }
    for number, spans in carried.items():
        figures[number] = figures[number].with_clip(figures[number].clip.with_tracks({"belonging/master": spans}))
    hands = {
        "belonging/arm.R.goal": [Belonging(60, 140, 4, "crank")],
        "belonging/head": [Belonging(20, 90, ties="turn")],
    }
    figures[2] = figures[2].with_clip(figures[2].clip.with_tracks(hands))
    return figures


if __name__ == "__main__":
    kinematics()
    whole_take()
    ties()
    blocking()
