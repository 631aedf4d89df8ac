"""Soles against the skin itself, deformed as glTF 2.0 (section 3.7.3) says."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.spatial import ConvexHull

from hame.character.bodyplan import from_json
from hame.character.build import build_rig
from hame.character.masses import centre_of_mass
from hame.character.rig import Limb, Rig
from hame.character.skin import Skin, deform
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo import shots
from hame.evaluate.evaluate import evaluate, joints, overlaid
from hame.evaluate.posed import Posed
from hame.maths import transforms
from hame.measure.balance import balances
from hame.measure.soles import level_of, sole_outline
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.faulty import alerts
from tests.hame.test_ties import planted

GOAL = "leg.L.goal"


def below(rig: Rig, skin: Skin, nodes: np.ndarray, limb: Limb) -> np.ndarray:
    """The points (P, 3) of the boot in one pose: all that foot and toes carry more than anything else does."""
    skeleton, roles = rig.skeleton, rig.plan.roles
    foot = skeleton.index(roles[f"{limb.name}.foot"])
    mine = [j for j in range(len(skeleton)) if j == foot or skeleton.is_above(foot, j)]
    matrices = transforms.to_matrix(joints(rig, nodes[None])[0])
    found = []
    for piece in skin.pieces:
        share = np.where(np.isin(piece.joints, mine), piece.weights, 0.0).sum(axis=1)
        found.append(deform(piece, matrices, skin.inverse_bind)[share > 0.5])
    return np.concatenate(found)


def posed(rig: Rig, **values: float) -> np.ndarray:
    """The nodes (N, 8) of a pose, by ``control__channel`` of the left foot."""
    wished = {f"leg.L.{name.replace('__', '/')}": value for name, value in values.items()}
    return evaluate(rig, overlaid(rig, rig.rest, wished)[None])[0]


class OutlineTest(unittest.TestCase):
    def test_the_lowest_of_a_sole_is_the_lowest_of_its_skin(self) -> None:
        for name in ("brannoc", "wick"):
            rig, skin = shots.figure(name)
            limb = rig.limb("leg.L")
            for roll in range(-40, 81, 5):
                for bank in (-25.0, 0.0, 20.0):
                    nodes = posed(rig, goal__roll=np.radians(roll), goal__bank=np.radians(bank), goal__ty=0.02)
                    mine = float(sole_outline(rig, limb, nodes[None])[0, :, 1].min())
                    theirs = float(below(rig, skin, nodes, limb)[:, 1].min())
                    self.assertAlmostEqual(mine, theirs, delta=0.0015, msg=f"{name} {roll} {bank}")

    def test_a_foot_that_rolls_stays_on_the_ground(self) -> None:
        """Over a round heel and a round toe: nowhere under the ground, and nowhere so high that it is seen."""
        for name in ("brannoc", "wick"):
            rig, skin = shots.figure(name)
            limb = rig.limb("leg.L")
            level = level_of(rig, limb)
            for roll in range(-30, 66, 5):
                nodes = posed(rig, goal__roll=np.radians(roll), goal__break=np.radians(64))
                height = float(below(rig, skin, nodes, limb)[:, 1].min()) - level
                self.assertTrue(-0.0015 < height < 0.0055, f"{name} {roll}: {1000 * height:.1f} mm")

    def test_a_planted_boot_that_stands_off_the_ground_is_told(self) -> None:
        rig = shots.figure("brannoc")[0]
        clip = planted(Clip().with_curves({f"{GOAL}/ty": from_keys({1: 0.0095, 9: 0.0095})}), Plant(1, 9))
        told = [
            a for a in alerts(clip, played({1: Figure(rig, clip)}, np.arange(1, 10))[1], 1, 24) if a.kind == "float"
        ]
        self.assertEqual([(a.first, a.last) for a in told], [(1, 9)])

    def test_what_bears_is_what_of_the_skin_is_down(self) -> None:
        for name in ("brannoc", "wick"):
            rig, skin = shots.figure(name)
            for roll in (0.0, 25.0, -20.0):
                nodes = posed(rig, goal__roll=np.radians(roll))
                points = np.concatenate([below(rig, skin, nodes, limb) for limb in rig.limbs if limb.kind == "leg"])
                floor = min(level_of(rig, limb) for limb in rig.limbs if limb.kind == "leg")
                down = points[points[:, 1] < floor + 0.004][:, [0, 2]]
                [stands] = balances(Clip(), Posed(rig, rig.rest[None], nodes[None]), 1)
                ours, theirs = ConvexHull(stands.area).volume, ConvexHull(down).volume
                self.assertAlmostEqual(ours / theirs, 1.0, delta=0.1, msg=f"{name} {roll}")

    def test_feet_alike_have_outlines_alike(self) -> None:
        outlines = shots.figure("brannoc")[0].plan.outlines
        left, right = np.array(outlines["leg.L"]), np.array(outlines["leg.R"])
        np.testing.assert_allclose(left * [-1, 1, 1, 1], right, atol=1e-9)

    def test_a_plan_of_before_has_heel_ball_and_tip(self) -> None:
        rig = shots.figure("brannoc")[0]
        before = rig.plan.to_json()
        del before["outlines"]
        old = build_rig(rig.skeleton, from_json(before))
        self.assertEqual(sole_outline(old, old.limb("leg.L"), evaluate(old, old.rest[None])).shape, (1, 3, 3))


class CentreTest(unittest.TestCase):
    def test_a_creature_s_mass_lies_where_its_hulls_do(self) -> None:
        """Within a few millimetres of the sum over the hulls, counted here by random points inside them."""
        for name in ("tide-crab", "bosun"):
            rig, skin = shots.figure(name)
            points = np.concatenate([piece.points for piece in skin.pieces])
            owner = np.concatenate([
                piece.joints[np.arange(len(piece.points)), piece.weights.argmax(axis=1)] for piece in skin.pieces
            ])  # fmt: skip
            rng, whole, total = np.random.default_rng(4), np.zeros(3), 0.0
            for joint in np.unique(owner):
                mine = points[owner == joint]
                try:
                    hull = ConvexHull(mine)
                except Exception:  # flat
                    continue
                tries = rng.uniform(mine.min(axis=0), mine.max(axis=0), (4000, 3))
                within = (tries @ hull.equations[:, :3].T + hull.equations[:, 3] <= 0).all(axis=1)
                whole, total = whole + hull.volume * tries[within].mean(axis=0), total + hull.volume
            found = centre_of_mass(rig, evaluate(rig, rig.rest[None]))[0]
            self.assertLess(np.linalg.norm(found - whole / total), 0.004, name)
