"""What going along a way costs, beside SciPy's own solver of such equations: ``.venv/bin/python -m bench.gait``."""

from __future__ import annotations

import numpy as np
from scipy.integrate import solve_bvp

from bench.costs import timed
from hame.character.rig import Rig
from hame.demo.shots import figure
from hame.evaluate.going.made import gone
from hame.gait.footfalls import Pace, Times, footfalls
from hame.gait.line import Point, bent, line_of
from hame.gait.mass import Bounce, Carried, bearings_of, mass_over
from hame.measure.dynamics import GRAVITY

FPS, SPEED = 24.0, 1.25


def main() -> None:
    rig = figure("brannoc")[0]
    for count in (10, 40, 400):
        measure(rig, count)


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
