"""The Block bench as a person uses it, for walk-throughs."""

from __future__ import annotations

from tests.browser.base import Desk


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
