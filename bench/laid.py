"""What is laid over by rule, and what is moved until it touches: ``.venv/bin/python -m bench.laid``.

Beside SciPy, which turns as many joints by the same turns, and beside Coal, which looks for what meets by halving.
"""

from __future__ import annotations

import time

import coal
import numpy as np
from scipy.spatial.transform import Rotation

from bench.costs import timed
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.living import Living
from hame.clip.shake import Shake
from hame.clip.spans import track_name
from hame.demo.shots import figure
from hame.edits.making import made
from hame.edits.touching import Touch
from hame.maths.rotations import Array
from hame.measure.touching import Surface, way_until
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene

FRAMES = np.arange(1, 241)


def rules() -> None:
    rig, skin = figure("brannoc")
    turns = [c.address for c in rig.channels if not c.locked and c.unit == "rad"]
    keyed = Clip().with_curves(
        {a: from_keys({f: 0.05 * np.sin(f / 7 + n) for f in range(1, 241, 4)}) for n, a in enumerate(turns)}
    )
    living = Living(1, 240, breath=0.014, trunk=0.01, head=0.014, arms=0.01, shift=0.004)
    shake = Shake(60, 100, aside=0.006, nod=0.02, twist=0.02, tilt=0.02)
    for what, tracks in (
        ("nothing laid over", {}),
        ("a living hold of all frames", {Living.kind: [living]}),
        ("a shake of 40 frames", {track_name(Shake.kind, "hips"): [shake]}),
        ("both", {Living.kind: [living], track_name(Shake.kind, "hips"): [shake]}),
    ):
        clip = keyed.with_tracks(tracks)  # type: ignore[arg-type]
        print(f"240 frames of one figure, {what}: {timed(lambda c=clip: played({1: Figure(rig, c)}, FRAMES))}")  # type: ignore[misc]
    angles = np.random.default_rng(1).normal(size=(240 * 9, 3))
    below = Rotation.from_rotvec(angles)
    print(f"SciPy, nine joints turned over 240 frames: {timed(lambda: below * Rotation.from_rotvec(0.01 * angles))}")


def sphere(around: int) -> Surface:
    """Of unit size, by rings of so many points."""
    turn, down = np.meshgrid(
        np.linspace(0, 2 * np.pi, around, endpoint=False), np.linspace(1e-3, np.pi - 1e-3, around // 2)
    )
    points = np.stack([np.cos(turn) * np.sin(down), np.cos(down), np.sin(turn) * np.sin(down)], -1).reshape(-1, 3)
    row, at = np.divmod(np.arange((around // 2 - 1) * around), around)
    a, b = row * around + at, row * around + (at + 1) % around
    return Surface(points, np.concatenate([np.stack([a, b, a + around], 1), np.stack([b, b + around, a + around], 1)]))


def model(surface: Surface) -> coal.BVHModelOBBRSS:
    found = coal.BVHModelOBBRSS()
    found.beginModel(len(surface.triangles), len(surface.points))
    triangles = coal.StdVec_Triangle()
    for corners in surface.triangles.tolist():
        triangles.append(coal.Triangle(*corners))
    points = coal.StdVec_Vec3s()
    for point in surface.points:
        points.append(point)
    found.addSubModel(points, triangles)
    found.endModel()
    return found


def by_halving(mover: coal.BVHModelOBBRSS, other: coal.BVHModelOBBRSS, way: Array) -> float:
    """How far one goes until it meets the other, within a tenth of a millimetre."""
    low, high = 0.0, 2.0
    while high - low > 1e-4:
        middle = (low + high) / 2
        result = coal.CollisionResult()
        coal.collide(
            mover, coal.Transform3s(np.eye(3), middle * way), other, coal.Transform3s(), coal.CollisionRequest(), result
        )
        low, high = (low, middle) if result.isCollision() else (middle, high)
    return high


def touching() -> None:
    down = np.array([0.0, -1.0, 0.0])
    for around in (44, 140, 300):
        mover = sphere(around)
        other = Surface(mover.points + [0.3, -3.0, 0.2], mover.triangles)
        ours = timed(lambda m=mover, o=other: way_until(m, o, down), 3)  # type: ignore[misc]
        begun = time.perf_counter()
        one, two = model(mover), model(other)
        built = time.perf_counter() - begun
        theirs = timed(lambda a=one, b=two: by_halving(a, b, down), 3)  # type: ignore[misc]
        print(
            f"two spheres of {len(mover.triangles):,} triangles: {ours} a look; Coal, to 0.1 mm: {theirs} after "
            f"{1000 * built:.0f} ms of building"
        )
    rig, skin = figure("brannoc")
    lifted = Clip().with_curves({"leg.L.goal/ty": from_keys({1: 0.2})})
    scene = Scene({1: Figure(rig, lifted)}, 1, 48, skins={1: skin})
    for what, edit in (
        ("a foot down to the ground", Touch(frame=1, control="leg.L.goal", met="ground")),
        ("a foot down to anything", Touch(frame=1, control="leg.L.goal")),
        ("all of him down to the ground", Touch(frame=1, control="master")),
    ):
        print(f"{what}: {timed(lambda e=edit: made(e, scene, 1), 3)}")  # type: ignore[misc]


if __name__ == "__main__":
    rules()
    touching()
