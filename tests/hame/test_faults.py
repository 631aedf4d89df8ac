"""Kinds of fault: each a class that is found by its group, whatever kinds there are."""

from __future__ import annotations

from collections.abc import Iterator
from unittest import TestCase

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.evaluate.posed import Posed
from hame.faults.fault import FAULTS, Alert, Fault
from hame.faults.kinds import GROUPS, faults_in
from hame.faults.look import Look
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig


class FaultTest(TestCase):
    def look(self, clip: Clip) -> Look:
        posed: Posed = played({1: Figure(brannoc_rig(), clip)}, np.arange(1, 25))[1]
        return Look(clip, posed, 1, 24.0)

    def test_a_new_kind_is_one_class(self) -> None:
        """A head that looks farther aside than a neck lets it; what mends it turns it back."""

        class Aside(Fault):
            kind = "test aside"
            group = "contacts"

            def found(self, look: Look) -> Iterator[Alert]:
                turn = np.abs(look.posed.values[:, look.rig.number("head/ry")])
                worst = int(np.argmax(turn))
                if turn[worst] > 1.4:
                    frame = look.first + worst
                    back = SetPose(frame=frame, values={"head/ry": 1.2})
                    said = Alert(self.kind, "head", frame, frame, frame, float(turn[worst]), "looks too far aside")
                    yield said.mended(back, "turn it back")

        self.addCleanup(FAULTS.pop, Aside.kind)
        clip = Clip().with_curves({"head/ry": from_keys({1: 0.0, 12: 1.6, 24: 0.0})})
        told = [alert for alert in faults_in("contacts", self.look(clip)) if alert.kind == Aside.kind]
        self.assertEqual([(alert.worst, alert.mending) for alert in told], [(12, "turn it back")])
        self.assertNotIn(Aside.kind, {alert.kind for alert in faults_in("paths", self.look(clip))})
        assert told[0].mend is not None
        scene = Scene({1: Figure(brannoc_rig(), clip)}, 1, 24)
        mended = made(told[0].mend, scene, 1).clips[1]
        self.assertNotIn(Aside.kind, {alert.kind for alert in faults_in("contacts", self.look(mended))})

    def test_all_that_there_are_say_what_they_are_and_are_told_in_the_order_of_time(self) -> None:
        self.assertEqual({fault.group for fault in FAULTS.values()}, set(GROUPS))
        for fault in FAULTS.values():
            self.assertTrue(fault.__doc__, fault)
        sunk = from_keys({1: 0.0, 6: -0.1, 12: 0.0, 18: -0.1, 24: 0.0})
        clip = Clip().with_curves({"leg.L.goal/ty": sunk, "leg.R.goal/ty": sunk})
        told = faults_in("contacts", self.look(clip))
        self.assertGreater(len(told), 3)
        self.assertEqual([alert.first for alert in told], sorted(alert.first for alert in told))
