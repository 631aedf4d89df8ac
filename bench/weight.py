"""Dynamics of a motion, beside Pinocchio on the same parts: ``.venv/bin/python -m bench.weight``."""

from __future__ import annotations

import numpy as np
import pinocchio as pin

from bench.costs import timed
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.demo.shots import figure
from hame.measure.balance import balances, margins_of
from hame.measure.dynamics import dynamics
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.free_tree import Swing, model_of

FRAMES = np.arange(1, 241)


def main() -> None:
    for name in ("brannoc", "tide-crab"):
        rig = figure(name)[0]
        turns = [c.address for c in rig.channels if not c.locked and c.unit == "rad"]
        curves = {a: from_keys({f: 0.05 * np.sin(f / 7 + n) for f in range(1, 241, 10)}) for n, a in enumerate(turns)}
        clip = Clip().with_curves(curves)
        posed = played({1: Figure(rig, clip)}, FRAMES)[1]
        ours = timed(lambda rig=rig, posed=posed: dynamics(rig, posed.nodes, 24.0))  # type: ignore[misc]
        model, ids = model_of(rig)
        data, swing = model.createData(), Swing(len(ids), 1)
        states = [swing.at(frame / 24.0) for frame in FRAMES]

        def theirs(model: pin.Model = model, data: pin.Data = data, states: list = states) -> None:  # type: ignore[type-arg]
            for q, v, a in states:
                pin.computeCentroidalMomentumTimeVariation(model, data, q, v, a)
                pin.rnea(model, data, q, v, a)

        print(f"{name}, {len(ids)} joints, 240 frames: {ours}; Pinocchio, momenta and forces: {timed(theirs)}")
        found = dynamics(rig, posed.nodes, 24.0)
        stands = balances(clip, posed, 1)
        print(f"{name}: margins in motion of 240 frames {timed(lambda s=stands, p=found.pressure: margins_of(s, p))}")  # type: ignore[misc]


if __name__ == "__main__":
    main()
