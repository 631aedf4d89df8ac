"""The Block bench as a person uses it, for walk-throughs."""

from __future__ import annotations

from hame.clip.cycles import cycles_of
from hame.clip.layers import layers_of
from server.shots import store
from server.shots.models import Edit
from tests.browser.base import Desk


def layers_and_cycles() -> tuple[int, int]:
    """How many of each the figure has that the step made last is about."""
    edit = Edit.objects.latest("id")
    clip = store.open_clip(edit.take, edit.differences.get().casting_id)
    return len(layers_of(clip)), len(cycles_of(clip))


class Blocking(Desk):
    """The Block bench as a person uses it."""

    def bench(self, name: str) -> None:
        self.page.get_by_role("button", name=name, exact=True).click()

    def tab(self, name: str) -> None:
        self.page.get_by_role("tab", name=name).click()

    def press(self, name: str) -> None:
        self.page.get_by_test_id("block").get_by_role("button", name=name, exact=True).click()

    def number(self, label: str, value: str, within: str = "block") -> None:
        panel = self.page.get_by_test_id(within)
        panel.locator(f"button[aria-label^='{label}: ']").click()
        box = panel.get_by_label(label, exact=True)
        box.fill(value)
        box.press("Enter")

    def name(self, text: str) -> None:
        box = self.page.get_by_label("Name of the pose")
        box.fill(text)
        box.press("Enter")

    def cards(self) -> list[str]:
        return [
            t.replace("\n", " ") for t in self.page.locator("[data-testid=strip] button:has(canvas)").all_inner_texts()
        ]

    def shown(self, control: str, label: str) -> float:
        self.bench("Pose")
        self.pick(control)
        value = self.value(label)
        self.bench("Block")
        return value

    def shown_height(self) -> float:
        """How high the body stands, without changing the selection."""
        return float(self.page.evaluate("() => window.hame.joints()[8 + 1]"))
