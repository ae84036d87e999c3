"""Somebody at a keyboard."""

from playwright.sync_api import Locator, Page, expect


class Hands:
    """Ten fingers on a keyboard: nothing here touches a page but its keys."""

    def __init__(self, page: Page) -> None:
        self.keys = page.keyboard
        self.page = page

    def reach(self, wanted: Locator) -> None:
        """Press Tab until that has the focus, as somebody does who sees where it is."""
        expect(wanted).to_be_attached()
        for _ in range(90):
            if wanted.evaluate("one => one === document.activeElement"):
                return
            self.keys.press("Tab")
        raise AssertionError(f"{wanted} cannot be reached by Tab")

    def press(self, wanted: Locator) -> None:
        """Reach a button or a link and press Enter."""
        self.reach(wanted)
        expect(wanted).to_be_enabled()
        self.keys.press("Enter")

    def fill(self, wanted: Locator, text: str) -> None:
        self.reach(wanted)
        self.keys.press("Control+a")
        self.keys.type(text)

    def tick(self, wanted: Locator) -> None:
        """Tick a box, or take its tick away."""
        self.reach(wanted)
        self.keys.press("Space")

    def choose(self, wanted: Locator, option: str) -> None:
        """Open a list and go down it to an option."""
        self.reach(wanted)
        self.keys.press("ArrowDown")
        at = self.page.locator(".ant-select-dropdown:visible .ant-select-item-option-active")
        for _ in range(40):
            expect(at).to_have_count(1)
            if at.get_attribute("title") == option:
                self.keys.press("Enter")
                return
            self.keys.press("ArrowDown")
        raise AssertionError(f"no option “{option}”")
