"""A clerk with a keyboard alone: keys are pressed and counted, all but those that write into a box."""

from playwright.sync_api import Page


class Hands:
    """Presses keys and counts them; what is typed into a box does not count."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.pressed: list[str] = []

    def press(self, *keys: str) -> None:
        for key in keys:
            self.pressed.append(key)
            self.page.keyboard.press(key)

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)

    def field(self, name: str) -> None:
        """Writes the beginning of a column's name and takes it from the list, with one key."""
        self.type("{" + name[:4])
        self.page.locator(".cm-tooltip-autocomplete li[aria-selected]", has_text=name).first.wait_for()
        self.press("Enter")

    def count(self) -> int:
        """How many keys were pressed since this was asked last."""
        n = len(self.pressed)
        self.pressed.clear()
        return n


def focused(page: Page) -> str:
    """What has the focus: its part of the page and its name; "nothing" when the page itself has it."""
    return page.evaluate("""() => {
        const it = document.activeElement;
        if (!it || it === document.body) return 'nothing';
        const part = it.closest('[data-region]')?.dataset.region ?? (it.closest('[role=dialog]') ? 'dialog' : '');
        const name = it.getAttribute('aria-label') || it.labels?.[0]?.textContent || it.textContent || it.tagName;
        return `${part}: ${name.trim().slice(0, 60)}`;
    }""")
