"""The keeper on watch: a boat-hook in both hands, keyed as one set with it, and held alive over a hundred frames."""

from __future__ import annotations

import numpy as np

from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.evaluate.posed import posed
from hame.maths import transforms
from server.characters import store as characters
from server.shots import store
from server.shots.models import Edit, Shot, Take
from tests.browser.base import BrowserTest
from tests.browser.blocking import Blocking


class WatchTest(BrowserTest):
    def test_a_keeper_stands_on_watch_with_a_boat_hook(self) -> None:
        page = self.page()
        page.get_by_role("button", name="New shot…").click()
        page.get_by_label("Name").fill("On watch")
        page.get_by_role("button", name="Begin").click()
        desk = Blocking(page)
        desk.wait_ready()
        page.get_by_role("button", name="Cast", exact=True).click()
        desk.choose("Who comes to play", "Boat-hook (prop")
        page.get_by_role("button", name="Add to the cast").click()
        page.get_by_role("textbox", name="Name of Boat-hook").wait_for()
        page.get_by_role("button", name="Close").click()
        for label, value in (("Range to", "100"), ("Play to", "100")):
            page.locator(f"button[aria-label^='{label}: ']").click()
            page.get_by_label(label, exact=True).fill(value)
            page.get_by_label(label, exact=True).press("Enter")
        page.locator("button[aria-label='Range to: 100']").wait_for()
        page.locator("button[aria-label='Play to: 100']").wait_for()

        # He and the pole are one set: keyed on one frame in one step.
        desk.act_on("Brannoc")
        desk.join("Boat-hook")
        desk.key("Shift+k")
        step = desk.stored(1)
        desk.bench("Props")
        page.get_by_test_id("props-bench").get_by_role("button", name="right hand", exact=True).click()
        page.get_by_role("button", name="Brannoc holds it").click()
        step = desk.stored(step + 1)
        desk.told("Boat-hook")
        for frame, bend in ((40, "8"), (70, "-6"), (100, "0")):
            desk.go(frame)
            desk.bench("Pose")
            desk.pick("chest")
            desk.type("bend", bend)
            step = desk.stored(step + 1)
            desk.key("Shift+k")
            step = desk.stored(step + 1)
        self.assertEqual(desk.columns(), [1, 40, 70, 100])

        # Held alive over all of it.
        desk.bench("Block")
        desk.tab("Life")
        desk.press("Keep alive from 1 to 100")
        step = desk.stored(step + 1)
        desk.told("It never moves by more than")
        slider = page.get_by_label("Trunk of the living hold")
        slider.focus()
        page.keyboard.press("ArrowRight")
        step = desk.stored(step + 1)
        page.keyboard.press("Escape")
        self.held()
        # Undo takes back the whole of a set.
        for _ in range(2):
            desk.key("Control+z")
            step = desk.stored(step + 1)
        page.get_by_role("button", name="Keep alive from 1 to 100").wait_for()
        self.assertEqual(self.complaints, [])

    def held(self) -> None:
        """The resting hand stays on the pole, and feet where they are, in what is stored."""
        take = Take.objects.get(shot=Shot.objects.get(name="On watch"))
        castings = {casting.name: casting for casting in take.shot.cast.all()}
        clips = store.open_clips(take, [casting.pk for casting in castings.values()])
        rigs = {casting.pk: characters.rig(casting.version) for casting in castings.values()}
        players = {number: Player(rigs[number], clip) for number, clip in clips.items()}
        values = played_values(players, np.arange(1.0, 101.0, 0.5))
        figures = dict(zip(players, posed([rigs[n] for n in players], [values[n] for n in players]), strict=True))
        keeper, pole = figures[castings["Brannoc"].pk], figures[castings["Boat-hook"].pk]
        rig = keeper.rig
        goal = keeper.nodes[:, rig.control("arm.L.goal").node]
        on_it = transforms.compose(transforms.inverse(pole.nodes[:, pole.rig.controls[0].node]), goal)
        self.assertLess(np.abs(on_it - on_it[0]).max(), 1e-6)
        self.assertGreater(np.ptp(pole.nodes[:, pole.rig.controls[0].node, 0:3], axis=0).max(), 0.01)
        for side in "LR":
            foot = keeper.nodes[:, rig.limb(f"leg.{side}").end, :3]
            self.assertLess(np.ptp(foot, axis=0).max(), 1e-5)
        self.assertTrue(Edit.objects.filter(take=take, label__contains="Brannoc and Boat-hook").exists())
