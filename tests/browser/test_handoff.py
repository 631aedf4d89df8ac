"""The handed-off file against others: Khronos' validator, and three's loader and mixer in Chromium."""

from __future__ import annotations

import base64
import json
import subprocess
import unittest
from pathlib import Path

import numpy as np
from playwright.sync_api import sync_playwright

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.formats.gltf_write import Handed, write_scene
from tests.browser.base import FLAGS
from tests.hame.examples import brannoc, brannoc_rig, prop, random_pose

ROOT = Path(__file__).parents[2]
WEB = ROOT / "web"

VALIDATE = """
import fs from 'node:fs';
import { validateBytes } from 'gltf-validator';
const report = await validateBytes(new Uint8Array(fs.readFileSync(process.argv[2])), { maxIssues: 50 });
console.log(JSON.stringify(report.issues));
"""


def moving_file() -> tuple[bytes, np.ndarray]:
    """Three far apart poses of the keeper over 25 frames, travelling and growing, and the core's joints (F, J, 8)."""
    rig = brannoc_rig()
    poses = {1: random_pose(rig, 1), 13: random_pose(rig, 2), 25: random_pose(rig, 3)}
    curves = {
        channel.address: from_keys({f: float(pose[n]) for f, pose in poses.items()})
        for n, channel in enumerate(rig.channels)
        if not channel.locked
    }
    curves["master/s"] = from_keys({1: 1.0, 25: 1.3})
    curves["master/tz"] = from_keys({1: 0.0, 25: 1.5})
    clip = Clip().with_curves(curves)
    motion = joints(rig, evaluate(rig, channel_values(rig, clip, range(1, 26))))
    character = brannoc()
    can = prop("oil_can")
    held = np.tile(can.skeleton.world, (25, 1, 1))
    held[:, :, 0] += np.linspace(0.5, 1.0, 25)[:, None]
    handed = [
        Handed("Brannoc", character.skeleton, character.skin, motion),
        Handed("Can", can.skeleton, can.skin, held),
    ]
    return write_scene(handed, 24.0, "Morning round"), motion


class HandOffTest(unittest.TestCase):
    def test_khronos_validator_finds_neither_errors_nor_warnings(self) -> None:
        """Source: Khronos gltf-validator (npm)."""
        data, _ = moving_file()
        folder = WEB / "node_modules" / ".cache"
        folder.mkdir(exist_ok=True)
        script, model = folder / "validate.mjs", folder / "handoff.glb"
        script.write_text(VALIDATE)
        model.write_bytes(data)
        done = subprocess.run(["node", str(script), str(model)], capture_output=True, text=True, check=True, cwd=WEB)
        issues = json.loads(done.stdout)
        self.assertEqual((issues["numErrors"], issues["numWarnings"]), (0, 0), issues["messages"][:5])

    def test_three_plays_the_core_s_joint_places(self) -> None:
        """Source: three's GLTFLoader and AnimationMixer; every joint on every frame within 0.1 mm."""
        data, motion = moving_file()
        folder = WEB / "node_modules" / ".cache"
        folder.mkdir(exist_ok=True)
        entry, out = folder / "play.js", folder / "play.bundle.js"
        entry.write_text(PLAY)
        subprocess.run(
            ["npx", "vite", "build", "--config", str(_bundle_config(folder)), "--logLevel", "error"],
            cwd=WEB, check=True, capture_output=True,
        )  # fmt: skip
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page()
            page.add_script_tag(content=out.read_text())
            page.evaluate("data => window.load(data)", base64.b64encode(data).decode())
            places = np.array(page.evaluate("([n, fps]) => window.play(n, fps)", [len(motion), 24]))
            browser.close()
        np.testing.assert_allclose(places, motion[:, :, :3], atol=1e-4)


PLAY = """
import { AnimationMixer, Vector3 } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
let gltf;
window.load = async (text) => {
  const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  gltf = await new GLTFLoader().parseAsync(bytes.buffer, '');
};
window.play = (frames, fps) => {
  const mixer = new AnimationMixer(gltf.scene);
  const action = mixer.clipAction(gltf.animations[0]);
  action.clampWhenFinished = true;
  action.setLoop(2200, 1);
  action.play();
  let skinned;
  gltf.scene.traverse((n) => { if (n.isSkinnedMesh && !skinned) skinned = n; });
  const out = [];
  for (let f = 0; f < frames; f++) {
    mixer.setTime(Math.min(f / fps, gltf.animations[0].duration));
    gltf.scene.updateMatrixWorld(true);
    out.push(skinned.skeleton.bones.map((b) => b.getWorldPosition(new Vector3()).toArray()));
  }
  return out;
};
"""


def _bundle_config(folder: Path) -> Path:
    config = folder / "vite.play.config.mjs"
    where, entry = json.dumps(str(folder)), json.dumps(str(folder / "play.js"))
    library = f"{{ entry: {entry}, formats: ['iife'], name: 'play', fileName: () => 'play.bundle.js' }}"
    config.write_text(
        f"export default {{ root: {where}, build: {{ outDir: {where}, emptyOutDir: false, lib: {library} }} }};"
    )
    return config
