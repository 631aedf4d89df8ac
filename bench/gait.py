"""What going along a way costs, beside SciPy's own solver of such equations: ``.venv/bin/python -m bench.gait``."""

from __future__ import annotations

import numpy as np
from scipy.integrate import solve_bvp

from bench.costs import timed
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.going import plan_of
from hame.clip.way import ways_of
from hame.demo.shots import figure
from hame.edits.footfalls import SetFootfall
from hame.edits.making import made
from hame.edits.waykeys import WayKeys
from hame.edits.wayside import LayWay, WayPoint
from hame.evaluate.evaluate import channel_values
from hame.evaluate.going.creature import gone_on_legs
from hame.evaluate.going.made import gone
from hame.gait.bearings import Bounce, bearings_of
from hame.gait.footfalls import Pace, Times, footfalls
from hame.gait.line import Point, bent, line_of
from hame.gait.mass import Carried, mass_over
from hame.measure.dynamics import GRAVITY
from hame.scene.scene import Figure, Scene

FPS, SPEED = 24.0, 1.25


def main() -> None:
    rig = figure("brannoc")[0]
    for count in (10, 40, 400):
        measure(rig, count)
    for far in (20.0, 120.0):
        dragged(rig, far)
    for who, speed in (("bosun", 1.5), ("tide-crab", 0.4)):
        creature(who, speed)


def dragged(rig: Rig, far: float) -> None:
    """A way laid as the application does, a sole moved on it again and again, and all of it made into keys."""
    scene = Scene({1: Figure(rig)}, 1, 4000)
    moved = iter(range(1, 10_000))

    def lay() -> Clip:  # each time another one: what is planned is kept
        way = LayWay(start=1, points=(WayPoint(0.0, 0.0), WayPoint(0.0, far + 1e-6 * next(moved))), here=False)
        return made(way, scene, 1).clips[1]

    clip = lay()
    plan = plan_of(rig, clip, ways_of(clip)[0])
    one = plan.found[len(plan.found) // 2]
    asked = np.arange(one.first - 12.0, one.first + 13)

    def moved_on() -> Clip:
        x, z = 0.12 * np.sin(next(moved) / 6.0), 0.1 * np.sin(next(moved) / 9.0)  # as far as a hand drags it about
        edit = SetFootfall(at=1, number=one.number, side=one.side, x=one.place[0] + x, z=one.place[1] + z)
        return made(edit, Scene({1: Figure(rig, clip)}, 1, 4000), 1).clips[1]

    channel_values(rig, moved_on(), asked)
    many = iter([moved_on() for _ in range(61)])

    print(f"{len(plan.found)} footfalls over {plan.end} frames: laid {timed(lay)}")
    print(f"  a sole moved {timed(moved_on, 60)}, and the frames that change "
          f"{timed(lambda: channel_values(rig, next(many), asked), 60)}")  # fmt: skip
    if far < 50.0:
        keys = WayKeys(at=1)
        print(f"  into keys {timed(lambda: made(keys, Scene({1: Figure(rig, clip)}, 1, 4000), 1))}")


def creature(who: str, speed: float) -> None:
    rig = figure(who)[0]
    ahead = WayPoint(6.0, 0.0) if who == "tide-crab" else WayPoint(0.0, 6.0)
    lay = LayWay(start=1, points=(WayPoint(0.0, 0.0), ahead), speed=speed)
    clip = made(lay, Scene({1: Figure(rig)}, 1, 4000), 1).clips[1]
    plan = plan_of(rig, clip, ways_of(clip)[0])
    frames, traits = np.arange(1.0, plan.end + 1), plan.traits
    cost = timed(lambda: gone_on_legs(rig, plan.found, frames, FPS, GRAVITY, traits, plan.lies))
    print(f"{who}: {len(plan.found)} footfalls over {plan.end} frames made anew {cost}")


def measure(rig: Rig, count: int) -> None:
    pace = Pace.even(24, SPEED, Times.walking(15, 2), 0.14, 0.12)
    line = line_of(bent([Point((0.0, 0.0)), Point((0.0, count * SPEED * 13 / FPS))], 2.0))
    found = footfalls(line, pace, 12, FPS, lead=8)
    frames = np.arange(1.0, max(one.first for one in found) + 30)
    bearings = bearings_of(found, Bounce(fps=FPS, gravity=GRAVITY))
    heights = np.full(len(frames), 0.95)
    mass = mass_over(bearings, frames, heights, FPS, GRAVITY)
    feet = timed(lambda: footfalls(line, pace, 12, FPS, lead=8))
    over = timed(lambda: mass_over(bearings, frames, heights, FPS, GRAVITY))
    print(f"{len(found)} footfalls over {len(frames)} frames: found {feet}, their mass {over}")
    if count <= 40:
        print(f"  the whole figure, made anew {timed(lambda: gone(rig, found, frames, FPS, GRAVITY))}")
        print(f"  the level way alone by scipy.integrate.solve_bvp {timed(lambda: level(mass, frames))}")


def level(mass: Carried, frames: np.ndarray) -> None:
    """The level way of the mass as a boundary problem: sped up by where feet press, at rest at both ends."""
    times = frames / FPS
    pressed = np.nan_to_num(mass.pressed[:, 1])
    drawn = GRAVITY * mass.force / mass.places[:, 1]

    def sped(t: np.ndarray, y: np.ndarray) -> np.ndarray:
        return np.array([y[1], np.interp(t, times, drawn) * (y[0] - np.interp(t, times, pressed))])

    def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return np.array([a[0] - pressed[0], b[0] - pressed[-1]])

    solve_bvp(sped, ends, times, np.array([np.interp(times, times, pressed), np.zeros(len(times))]), max_nodes=20_000)


if __name__ == "__main__":
    main()
