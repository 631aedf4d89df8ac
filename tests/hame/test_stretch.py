"""Squash and stretch: bones longer and shorter by hand or to reach, thinner by it, and handed off without shear."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.hand import SLIDERS, bends
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.evaluate.evaluate import channel_values, evaluate, joints, overlaid
from hame.formats.gltf_write import Handed, write_scene
from hame.solve.match import match
from tests.hame.examples import brannoc, brannoc_rig, random_pose
from tests.hame.handed import read_handed


class StretchTest(unittest.TestCase):
    rig: Rig

    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()

    def posed(self, **over: float) -> np.ndarray:
        """Joints (J, 8) at rest with some channels changed: ``arm_L__stretch``."""
        values = {name.replace("__", "/").replace("_", "."): value for name, value in over.items()}
        return np.asarray(joints(self.rig, evaluate(self.rig, overlaid(self.rig, self.rig.rest, values)[None]))[0])

    def joint(self, pose: np.ndarray, role: str) -> np.ndarray:
        return np.asarray(pose[self.rig.skeleton.index(self.rig.plan.roles[role])])

    def far(self, pose: np.ndarray, a: str, b: str) -> float:
        return float(np.linalg.norm(self.joint(pose, a)[:3] - self.joint(pose, b)[:3]))

    def test_limbs_grow_by_hand_in_fk_and_ik(self) -> None:
        rest = self.posed()
        for mode in (0.0, 1.0):
            long = self.posed(arm_L__ik=mode, arm_L__stretch=1.4)
            for a, b in (("arm.L.upper", "arm.L.lower"), ("arm.L.lower", "arm.L.hand"), ("arm.L.lower", "arm.L.twist")):
                self.assertAlmostEqual(self.far(long, a, b), 1.4 * self.far(rest, a, b), places=9)
            self.assertAlmostEqual(
                self.far(long, "arm.R.upper", "arm.R.hand"), self.far(rest, "arm.R.upper", "arm.R.hand")
            )
            # The hand keeps its size, and so do its fingers.
            self.assertAlmostEqual(self.joint(long, "arm.L.hand")[7], 1.0)
            self.assertAlmostEqual(
                self.far(long, "arm.L.index.1", "arm.L.index.3"), self.far(rest, "arm.L.index.1", "arm.L.index.3")
            )

    def test_the_volume_that_is_kept_makes_it_thinner(self) -> None:
        for volume, thick in ((1.0, 1.5**-0.5), (0.0, 1.0), (0.5, 1.5**-0.25)):
            long = self.posed(leg_R__stretch=1.5, leg_R__volume=volume)
            for role in ("leg.R.upper", "leg.R.lower"):
                self.assertAlmostEqual(self.joint(long, role)[7], thick)
            self.assertAlmostEqual(self.joint(long, "leg.R.foot")[7], 1.0)

    def test_torso_and_neck_grow_and_carry_what_is_on_them(self) -> None:
        rest = self.posed()
        long = self.posed(spine__stretch=1.5, neck__stretch=1.3)
        spine = [f"spine.{n}" for n in (1, 2, 3)]
        for a, b in zip(spine, spine[1:], strict=False):
            self.assertAlmostEqual(self.far(long, a, b), 1.5 * self.far(rest, a, b))
        self.assertAlmostEqual(self.far(long, "neck.1", "head"), 1.3 * self.far(rest, "neck.1", "head"))
        self.assertAlmostEqual(self.far(long, "spine.3", "arm.L.collar"), self.far(rest, "spine.3", "arm.L.collar"))
        self.assertAlmostEqual(self.joint(long, "arm.L.upper")[7], 1.0)
        self.assertLess(self.joint(long, "spine.2")[7], 0.9)

    def test_the_head_grows_with_all_that_is_on_it(self) -> None:
        rest, large = self.posed(), self.posed(head__s=1.4)
        self.assertAlmostEqual(self.far(large, "head", "eye.L"), 1.4 * self.far(rest, "head", "eye.L"))
        self.assertAlmostEqual(self.joint(large, "eye.L")[7], 1.4)

    def test_a_limb_stretches_to_reach_from_a_share_on_and_smoothly(self) -> None:
        limb = self.rig.limb("arm.L")

        def missing(way: float, **over: float) -> float:
            values = overlaid(self.rig, self.rig.rest, {
                "arm.L/ik": 1.0, "arm.L/soft": 0.0, "arm.L.goal/tx": way, "arm.L.goal/ty": 0.5 * way,
                **{f"arm.L/{k.removesuffix('_')}": v for k, v in over.items()},
            })  # fmt: skip
            nodes = evaluate(self.rig, values[None])[0]
            return float(np.linalg.norm(nodes[limb.end, :3] - nodes[limb.target, :3]))

        self.assertGreater(missing(0.6), 0.2)
        self.assertLess(missing(0.6, reach=1.0), 1e-9)
        self.assertLess(missing(0.6, reach=1.0, from_=0.8), 1e-9)
        half = missing(0.6, reach=0.5)
        self.assertTrue(0.0 < half < missing(0.6))
        # By the way: it goes over without a jump where it begins.
        ways = np.arange(0.0, 0.6, 0.002)
        ends = []
        for way in ways:
            values = overlaid(self.rig, self.rig.rest, {
                "arm.L/ik": 1.0, "arm.L/reach": 1.0, "arm.L/from": 0.9, "arm.L.goal/tx": float(way)
            })  # fmt: skip
            ends.append(joints(self.rig, evaluate(self.rig, values[None]))[0, :, :3])
        self.assertLess(np.linalg.norm(np.diff(ends, axis=0), axis=2).max(), 0.02)

    def test_changing_between_ik_and_fk_moves_nothing_where_a_limb_is_stretched(self) -> None:
        for seed in range(6):
            values = random_pose(self.rig, seed, stretched=True)
            for limb in self.rig.limbs:
                values[self.rig.number(f"{limb.name}/reach")] = 1.0
                values[self.rig.number(limb.switch)] = 1.0
            before = joints(self.rig, evaluate(self.rig, values[None]))[0]
            for limb in self.rig.limbs:
                if limb.kind == "arm":
                    after = joints(self.rig, evaluate(self.rig, match(self.rig, values, limb, "fk")[None]))[0]
                    np.testing.assert_allclose(after[:, :3], before[:, :3], atol=2e-3)

    def test_it_is_handed_off_without_shear_and_as_it_is_seen(self) -> None:
        clip = Clip().with_curves({
            "spine/stretch": from_keys({1: 1.0, 8: 1.5, 16: 0.7}), "arm.L/stretch": from_keys({1: 1.0, 10: 1.6}),
            "leg.R/stretch": from_keys({1: 1.2, 12: 0.8}), "head/s": from_keys({1: 1.0, 9: 1.3}),
            "chest/rz": from_keys({1: 0.0, 12: 0.6}), "arm.L.upper/rx": from_keys({1: 0.0, 9: 0.9}),
            "arm.L.lower/rx": from_keys({1: 0.0, 14: 1.2}), "neck/stretch": from_keys({1: 1.0, 7: 1.7}),
        })  # fmt: skip
        motion = joints(self.rig, evaluate(self.rig, channel_values(self.rig, clip, range(1, 17))))
        found = brannoc()
        handed = read_handed(write_scene([Handed("Brannoc", found.skeleton, found.skin, motion)]))
        [(who, numbers)] = handed.skins.items()
        for j, name in enumerate(self.rig.skeleton.names):
            matrices = handed.matrices[:, numbers[name], :3, :3]
            np.testing.assert_allclose(handed.places(who, name), motion[:, j, :3], atol=1e-4)
            # All three axes square to each other, and of one length: no shear, whatever lies above.
            gram = np.einsum("fki,fkj->fij", matrices, matrices)
            np.testing.assert_allclose(gram, motion[:, j, 7, None, None] ** 2 * np.eye(3), atol=1e-4)


class HandShapesTest(unittest.TestCase):
    def tips(self, **over: float) -> np.ndarray:
        rig = brannoc_rig()
        values = overlaid(rig, rig.rest, {f"arm.{s}.{k.replace('__', '/')}": v for k, v in over.items() for s in "LR"})
        pose = joints(rig, evaluate(rig, values[None]))[0]
        names = [f"arm.{s}.{f}.3" for s in "LR" for f in ("thumb", "index", "middle", "ring", "little")]
        hands = [pose[rig.skeleton.index(rig.plan.roles[f"arm.{s}.hand"]), :3] for s in "LR"]
        tips = np.array([pose[rig.skeleton.index(rig.plan.roles[n]), :3] for n in names]).reshape(2, 5, 3)
        return tips - np.array(hands)[:, None]

    def test_sliders_shape_both_hands_alike_and_no_two_fingers_alike(self) -> None:
        rest = self.tips()
        far = np.linalg.norm(rest, axis=2)
        for slider in ("fist", "grasp", "relaxed"):
            shaped = self.tips(**{f"fingers__{slider}": 1.0})
            np.testing.assert_allclose(shaped[0] * [-1, 1, 1], shaped[1], atol=1e-6)
            closed = far[0, 1:] - np.linalg.norm(shaped, axis=2)[0, 1:]
            self.assertTrue((closed > 0.0).all(), slider)
            # From the index to the little finger each closes a little more.
            at = SLIDERS.index(slider)
            whole = [sum(bends(f, n, 0.0)[at] for n in range(3)) for f in ("index", "middle", "ring", "little")]
            first = [bends(f, 0, 0.0)[at] for f in ("index", "middle", "ring", "little")]
            self.assertTrue((np.diff(first) > 0.0).all(), slider)
            self.assertGreater(whole[-1], whole[0])
        spread, together = (self.tips(fingers__spread=v) for v in (1.0, -0.5))

        def apart(tips: np.ndarray) -> float:
            return float(np.linalg.norm(tips[0, 1] - tips[0, 4]))

        self.assertGreater(apart(spread), apart(rest) + 0.02)
        self.assertLess(apart(together), apart(rest) - 0.005)
        across = self.tips(fingers__across=1.0)
        self.assertGreater(np.linalg.norm(across[0, 0] - rest[0, 0]), 0.02)
        np.testing.assert_allclose(across[0, 1:], rest[0, 1:], atol=1e-9)

    def test_they_mix_and_a_finger_takes_its_share(self) -> None:
        half = self.tips(fingers__fist=0.5, fingers__relaxed=0.5)
        self.assertGreater(np.linalg.norm(half - self.tips(fingers__fist=0.5)), 0.01)
        pointing = self.tips(fingers__fist=1.0, index__shape=0.0)
        np.testing.assert_allclose(pointing[:, 1], self.tips()[:, 1], atol=1e-9)
        np.testing.assert_allclose(pointing[:, 2:], self.tips(fingers__fist=1.0)[:, 2:], atol=1e-9)
