"""Speed and steadiness of pulls, beside Pinocchio and SciPy in the same run: ``.venv/bin/python -m bench.pull [many]``.

``many`` also makes 10,000 random pulls of the demo's four figures and says what was wrong with them.
"""

from __future__ import annotations

import sys
import time
from functools import partial

import numpy as np
import pinocchio as pin
from scipy.optimize import least_squares

from bench.core import median
from hame.maths.rotations import Array
from hame.solve.begun import Begun
from hame.solve.pull import pull
from hame.solve.pull_kernel import FREE, HINGE, Wish, solve, stand
from hame.solve.wishes import ROUNDS, USUAL, Grip, wished
from tests.hame.pulls import NAMES, begun, by, random_pulls, residuals

GRIPS = (
    Grip("leg.L.foot", "fast"), Grip("leg.R.foot", "fast"), Grip("arm.R.hand", "fast"), Grip("head", "firm"),
    Grip("chest", "loose"),
)  # fmt: skip
OFFSETS = ((0.1, 0.3, 0.2), (0.2, 0.1, 0.25), (-0.15, 0.2, 0.3), (0.0, -0.25, 0.3), (0.05, 0.45, 0.15))


def one_step() -> None:
    """A step of a drag with five grips: all of it, its solve, the solve of the tasks alone, and a damped least-squares
    loop on Pinocchio for these (five grips and the hand, each by place and turn; 20 steps, no ranges).
    """
    start = begun("brannoc")
    model = Tree(start)
    took: list[list[float]] = []
    off: list[tuple[float, float]] = []
    for offset in OFFSETS:
        target = by(start, "arm.L.hand", offset)
        wish = wished(start, [target], GRIPS, USUAL)
        alone = wish._replace(
            stiff=np.full(len(wish.stiff), 0.01), row_stiff=0.0 * wish.row_stiff, by_balance=0.0, by_ease=0.0,
            most=np.full(len(wish.most), np.inf),
        )  # fmt: skip
        took.append([
            median(partial(pull, start, [target], GRIPS), 60),
            median(partial(solve, start.tree, wish, start.angles, ROUNDS), 60),
            median(partial(solve, start.tree, alone, start.angles, ROUNDS), 60),
            median(partial(model.loop, alone, 20), 20),
        ])  # fmt: skip
        mine = solve(start.tree, alone, start.angles, ROUNDS)[0]
        off.append((tasks_off(start, alone, mine), model.loop(alone, 20)))
    whole, solved, tasks, his = 1e3 * np.median(np.array(took), axis=0)
    print(f"one step of a drag, {len(start.body.rig.skeleton)} joints, 5 grips: median of {len(OFFSETS)} pulls")
    print(f"  all of it, controls out      {whole:6.2f} ms")
    print(f"  the solve                    {solved:6.2f} ms")
    print(f"  the solve of the tasks alone {tasks:6.2f} ms, missed by {[float(f'{o[0]:.2g}') for o in off]}")
    print(f"  Pinocchio, 20 damped steps   {his:6.2f} ms, missed by {[float(f'{o[1]:.2g}') for o in off]}")
    print("  (missed: root of the sum of squares, metres and radians by their weights)")


def tasks_off(start: Begun, wish: Wish, x: Array) -> float:
    """How far the tasks are missed by: metres and radians, each by its weight."""
    links = len(start.tree.parent)
    at, way = np.empty((links, 3)), np.empty((links, 4))
    stand(start.tree, x, at, way, np.empty((len(x), 3)))
    total = 0.0
    for t, link in enumerate(wish.link):
        turn = 2 * np.arccos(min(abs(float(way[link] @ wish.turn[t])), 1.0))
        total += (wish.by_place[t] * np.linalg.norm(at[link] - wish.place[t])) ** 2 + (wish.by_turn[t] * turn) ** 2
    return float(np.sqrt(total))


class Tree:
    """The same body in Pinocchio."""

    def __init__(self, start: Begun) -> None:
        tree = start.tree
        self.model, self.ids, q = pin.Model(), {-1: 0}, []
        place, turn, axes = (
            np.empty((len(tree.parent), 3)),
            np.empty((len(tree.parent), 4)),
            np.empty((len(start.angles), 3)),
        )
        stand(tree, start.angles, place, turn, axes)
        for link, parent in enumerate(tree.parent):
            kind = tree.kind[link]
            at = pin.SE3(np.eye(3), tree.offset[link])
            if kind == FREE:
                joint, own = pin.JointModelFreeFlyer(), [*np.zeros(3), *turn[0]]
            elif kind == HINGE:
                at = pin.SE3(pin.Quaternion(tree.zero[link]).matrix(), tree.offset[link])
                joint, own = pin.JointModelRX(), [start.angles[tree.first[link]]]
            else:
                back = pin.Quaternion(turn[parent]).inverse()
                local = back * pin.Quaternion(turn[link])
                joint, own = pin.JointModelSpherical(), [local.x, local.y, local.z, local.w]
            self.ids[link] = self.model.addJoint(self.ids[int(parent)], joint, at, f"link {link}")
            q += list(own)
        self.q = np.array(q)
        self.data = self.model.createData()

    def loop(self, wish: Wish, steps: int) -> float:
        """How far the tasks are missed by after so many damped steps."""
        q, n = self.q.copy(), self.model.nv
        goals = [
            (self.ids[int(link)], pin.SE3(pin.Quaternion(wish.turn[t]).matrix(), wish.place[t]), w)
            for t, link in enumerate(wish.link)
            for w in [np.repeat([wish.by_place[t], wish.by_turn[t]], 3)]
        ]
        for _ in range(steps):
            pin.computeJointJacobians(self.model, self.data, q)
            rows, off = [], []
            for joint, goal, weight in goals:
                now = self.data.oMi[joint]
                jacobian = pin.getJointJacobian(self.model, self.data, joint, pin.LOCAL_WORLD_ALIGNED)
                error = np.concatenate([goal.translation - now.translation, pin.log3(goal.rotation @ now.rotation.T)])
                rows.append(weight[:, None] * jacobian)
                off.append(weight * error)
            j, e = np.concatenate(rows), np.concatenate(off)
            q = pin.integrate(self.model, q, np.linalg.solve(j.T @ j + 0.05 * np.eye(n), j.T @ e))
        pin.forwardKinematics(self.model, self.data, q)
        total = 0.0
        for joint, goal, weight in goals:
            now = self.data.oMi[joint]
            error = np.concatenate([goal.translation - now.translation, pin.log3(goal.rotation @ now.rotation.T)])
            total += float(((weight * error) ** 2).sum())
        return float(np.sqrt(total))


def beside_scipy() -> None:
    """The same wishes given to SciPy's bounded least squares: residual and time."""
    print("the same wishes by scipy.optimize.least_squares: our sum of squares as a share of its")
    for name in ("brannoc", "wick"):
        start = begun(name)
        for offset in (*OFFSETS[:3], (0.9, 0.5, 0.4)):
            wish = wished(start, [by(start, "arm.L.hand", offset)], GRIPS, USUAL)
            mine, _ = solve(start.tree, wish, start.angles, ROUNDS)
            begun_at = time.perf_counter()
            found = least_squares(
                partial(residuals, start, wish), start.angles,
                bounds=(start.low - 1e-9, start.high + 1e-9), xtol=1e-10, ftol=1e-10, gtol=1e-10, max_nfev=200,
            )  # fmt: skip
            took = time.perf_counter() - begun_at
            share = float((residuals(start, wish, mine) ** 2).sum()) / float((found.fun**2).sum())
            print(f"  {name:8} {offset!s:20} {share:8.5f}   (SciPy took {took:.1f} s)")


def many(count: int = 2500) -> None:
    """Random pulls of each of the four."""
    for name in NAMES:
        begun_at = time.perf_counter()
        wrong = random_pulls(name, count, seed=20)
        print(
            f"  {name}: {count} random pulls, twice each, {len(wrong)} wrong ({time.perf_counter() - begun_at:.0f} s)"
        )
        for line in wrong[:10]:
            print(f"    {line}")


if __name__ == "__main__":
    one_step()
    beside_scipy()
    if "many" in sys.argv:
        many()
