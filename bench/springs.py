"""What springs, chains, gazes and faces cost, beside SciPy's own solver: ``.venv/bin/python -m bench.springs``."""

from __future__ import annotations

from functools import partial

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import minimize

from bench.costs import timed
from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.character.skeleton import build
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.gaze import Gaze
from hame.clip.spring import Spring
from hame.demo import brittle_star
from hame.demo.shots import figure, walk_across
from hame.evaluate.evaluate import evaluate
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths import transforms
from hame.solve.begun import begin, where
from hame.solve.pull import pull
from hame.solve.wishes import Grip, Target

LAST = 240


def tails(count: int, joints: int) -> Rig:
    """Hips with so many tails round them, each of so many joints."""
    names, parents, rest = ["hips"], [-1], [transforms.transform(np.array([0.0, 2.0, 0.0]))]
    for tail in range(count):
        way = np.array([np.sin(tail), -1.0, np.cos(tail)]) / np.sqrt(2.0)
        for n in range(joints):
            parents.append(len(names) - 1 if n else 0)
            names.append(f"tail{chr(97 + tail)}_{n + 1}")
            rest.append(transforms.transform(0.1 * way))
    return build_rig(build(names, parents, np.array(rest)), BodyPlan({"hips": "hips"}))


def springs() -> None:
    frames = np.arange(1.0, LAST + 1)
    for count in (1, 10, 40):
        rig = tails(count, 6)
        names = [control.name for control in rig.controls if control.kind == "chain"]
        keys = {f: float(np.sin(f / 9.0)) for f in range(1, LAST, 12)}
        clip = Clip().with_curves({"body/tx": from_keys(keys)})
        clip = clip.with_tracks({f"spring/{name}": [Spring(1, LAST, weight=0.3)] for name in names})

        print(f"{count} chains of 6 joints over {LAST} frames: {timed(partial(fresh, rig, clip, frames))}")
        again = clip.with_labels({})
        played_values({0: Player(rig, again)}, frames)
        print(f"  frame {LAST} alone after that: {timed(partial(one_frame, rig, again, frames[-1:]))}")

    def speed(t: float, y: np.ndarray) -> list[float]:
        return [y[1], -0.2 * (y[0] - np.sin(t / 9.0)) - 0.4 * y[1]]

    one = timed(lambda: solve_ivp(speed, (1.0, LAST), [0.0, 0.0], t_eval=frames, rtol=1e-6))
    print(f"one number on one spring over as many frames by SciPy's solve_ivp: {one}; ten chains have 180")


def fresh(rig: Rig, clip: Clip, frames: np.ndarray) -> None:
    """The same of a clip of which nothing is known yet."""
    one_frame(rig, clip.with_labels({}), frames)


def one_frame(rig: Rig, clip: Clip, frames: np.ndarray) -> None:
    played_values({0: Player(rig, clip)}, frames)


def chains() -> None:
    skeleton = brittle_star.skeleton()
    rig = build_rig(skeleton, propose(skeleton))
    values = rig.rest.copy()
    arms = [control.name for control in rig.controls if control.kind == "chain"]
    for arm in arms:
        values[rig.number(f"{arm}/ik")] = 1.0
    values[rig.number("body/tx")], values[rig.number(f"{arms[0]}.tip/ty")] = 0.015, 0.12
    print(f"five arms of nine joints that reach: {timed(lambda: evaluate(rig, values[None]))}")
    values[rig.number(f"{arms[0]}.tip/tx")] = 0.5
    print(f"  one of them pulled out of reach: {timed(lambda: evaluate(rig, values[None]))}")
    lengths, goal = np.full(9, 0.05), np.array([0.25, 0.1])

    def off(angles: np.ndarray) -> float:
        turned = np.cumsum(angles)
        end = np.array([(lengths * np.cos(turned)).sum(), (lengths * np.sin(turned)).sum()])
        return float(((end - goal) ** 2).sum())

    found = timed(lambda: minimize(off, np.full(9, 0.1), tol=1e-10))
    print(f"one such arm in a plane by SciPy's minimize: {found}")
    for word, ik in (("bent joint by joint", 0.0), ("that reach", 1.0)):
        held = rig.rest.copy()
        for arm in arms:
            held[rig.number(f"{arm}/ik")] = ik
        start = begin(rig, held, chains=True)
        tips = [chain.ik for chain in rig.chains]
        grips = [Grip(tip, "fast", turn=False) for tip in tips[1:]]
        for way in ((0.05, 0.12, 0.02), (0.1, 0.48, 0.1)):
            target = Target(tips[0], where(start, tips[0])[0] + np.array(way))
            took = timed(partial(pull, start, [target], grips))
            far = float(np.linalg.norm(np.array(way)))
            print(f"  a pull of one tip by {100 * far:.0f} cm, four held, of arms {word}: {took}")


def gazes() -> None:
    rig = figure("brannoc")[0]
    frames = np.arange(1.0, 73.0)
    plain = walk_across(rig)
    looks = plain.with_tracks({**plain.tracks, "gaze": [Gaze(1, 72, x=2.0, y=1.4, z=2.0)]})
    for name, clip in (("a walk of 72 frames", plain), ("  with a gaze over it", looks)):
        print(f"{name}: {timed(partial(fresh, rig, clip, frames))}")


if __name__ == "__main__":
    springs()
    chains()
    gazes()
