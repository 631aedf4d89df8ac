"""What weight costs, beside Pinocchio and MuJoCo on the same parts: ``.venv/bin/python -m bench.weight``."""

from __future__ import annotations

import mujoco
import numpy as np
import pinocchio as pin

from bench.costs import timed
from hame.clip.answers import Give, Knock
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo.shots import figure
from hame.edits.airturn import TurnInFlight
from hame.edits.flights import Fly
from hame.edits.limp import GoLimp, fallen
from hame.edits.making import made
from hame.edits.meeting import MeetFlight
from hame.edits.underway import BorneInMotion
from hame.faults.kinds import faults_in
from hame.faults.look import Look
from hame.limp.build import model_xml
from hame.measure.dynamics import GRAVITY, dynamics
from hame.measure.happenings import Happening, happenings
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from hame.solve.begun import begin
from tests.hame.free_tree import Swing, model_of

FRAMES = np.arange(1, 241)


def measure(name: str) -> None:
    rig = figure(name)[0]
    turns = [c.address for c in rig.channels if not c.locked and c.unit == "rad"]
    curves = {a: from_keys({f: 0.05 * np.sin(f / 7 + n) for f in range(1, 241, 10)}) for n, a in enumerate(turns)}
    curves["master/ty"] = from_keys({1: 0.0, 100: 0.0, 108: 0.4, 116: 0.0})
    clip = Clip().with_curves(curves)
    posed = played({1: Figure(rig, clip)}, FRAMES)[1]
    scene = Scene({1: Figure(rig, clip)}, 1, 240, of=1)
    model, ids = model_of(rig)
    data, swing = model.createData(), Swing(len(ids), 1)
    states = [swing.at(frame / 24.0) for frame in FRAMES]

    def theirs() -> None:
        for q, v, a in states:
            pin.computeCentroidalMomentumTimeVariation(model, data, q, v, a)
            pin.rnea(model, data, q, v, a)

    def look() -> Look:
        return Look(clip, posed, 1, 24.0)

    ours = timed(lambda: dynamics(rig, posed.nodes, 24.0))
    print(f"{name}, {len(ids)} joints, 240 frames")
    print(f"  momenta and forces {ours}; Pinocchio {timed(theirs)}")
    print(f"  how it stands {timed(lambda: look().stands)}")
    print(f"  how it stands and moves {timed(lambda: look().moving_margins)}")
    print(f"  all faults of weight {timed(lambda: faults_in('weight', look()))}")
    print(f"  what happens, with how it stands {timed(lambda: happens(look()))}")
    print(f"  a flight of 18 frames fitted {timed(lambda: made(Fly(at=108, frames=18), scene, 1))}")
    print(f"  its turn fitted {timed(lambda: made(TurnInFlight(at=108), scene, 1))}")
    print(f"  its take-off fitted {timed(lambda: made(MeetFlight(at=108, side='before'), scene, 1))}")
    answered = clip.with_tracks({
        "give": (Give(116, 128, there=3, back=9, drop=0.2),),
        "knock/hips": tuple(Knock(n, n + 10, forth=-0.02, nod=0.1) for n in range(1, 230, 12)),
    })  # fmt: skip
    plain = timed(lambda: played({1: Figure(rig, clip)}, FRAMES))
    with_answers = timed(lambda: played({1: Figure(rig, answered)}, FRAMES))
    print(f"  240 frames played {plain}, with a give and {len(answered.tracks['knock/hips'])} blows {with_answers}")


def measure_borne() -> None:
    """A body that goes aside and back ever so often over planted feet, borne in motion; and what is in the air left."""
    rig = figure("brannoc")[0]
    aside = {f: 0.08 * (-1.0) ** n for n, f in enumerate(range(1, 241, 12))}
    clip = Clip().with_curves({"body/tx": from_keys(aside), "body/ty": from_keys({1: -0.08})})
    clip = clip.with_tracks({f"plant/{limb.ik}": (Plant(1, 240),) for limb in rig.limbs if limb.kind == "leg"})
    for last in (24, 120, 240):
        scene = Scene({1: Figure(rig, clip)}, 1, last, of=1)
        edit = BorneInMotion(first=1, last=last)
        print(f"brannoc: {last} frames borne in motion {timed(lambda e=edit, s=scene: made(e, s, 1), 3)}")  # type: ignore[misc]


def measure_fall(name: str) -> None:
    """A fall of 120 frames, as it is worked out and taken; and as many steps of the engine alone."""
    rig, skin = figure(name)
    clip = Clip().with_curves({"master/tz": from_keys({1: 0.0, 11: 0.4, 21: 0.8})})
    scene = Scene({1: Figure(rig, clip)}, 1, 240, of=1, skins={1: skin})
    edit = GoLimp(at=10, frames=120)
    posed = played(scene.figures, np.array([10.0]))[1]
    begun = begin(rig, posed.values[0], posed.nodes[0])
    model = mujoco.MjModel.from_xml_string(model_xml(begun, skin, {}, GRAVITY, 1.0 / 1008.0))

    def alone() -> None:
        data = mujoco.MjData(model)
        for _ in range(42 * 120):
            mujoco.mj_step(model, data)

    print(f"{name}: a fall of 120 frames, {model.nv} freedoms")
    print(f"  worked out {timed(lambda: list(fallen(edit, scene, 1)), 3)}; as many steps of MuJoCo {timed(alone, 3)}")
    print(f"  worked out and taken as keys {timed(lambda: made(edit, scene, 1), 3)}")


def happens(look: Look) -> list[Happening]:
    return happenings(look.rig, look.posed.nodes, look.stands, look.flights, look.loads, look.first, look.fps)


def main() -> None:
    for name in ("brannoc", "tide-crab"):
        measure(name)
    measure_borne()
    for name in ("brannoc", "tide-crab"):
        measure_fall(name)


if __name__ == "__main__":
    main()
