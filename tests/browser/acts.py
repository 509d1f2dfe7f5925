"""Acts as a person makes them: a click, a drop, a key, or a typed field with its Enter count as one each."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Locator, Page

__all__ = ["Acts"]


class Acts:
    """Does what it is told in a page, and counts."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.made: list[str] = []

    def __len__(self) -> int:
        return len(self.made)

    def drop(self, path: Path) -> None:
        """A file brought in by its input, as a drop would bring it."""
        self.made.append(f"drop {path.name}")
        self.page.get_by_label("Scan file").set_input_files(path)

    def click(self, what: Locator) -> None:
        what.click()
        self.made.append(f"click {what}")

    def click_at(self, x: float, y: float) -> None:
        self.page.mouse.click(x, y)
        self.made.append(f"click at {x:.0f}, {y:.0f}")

    def key(self, name: str) -> None:
        self.page.keyboard.press(name)
        self.made.append(f"key {name}")

    def type(self, field: Locator, text: str) -> None:
        field.fill(text)
        field.press("Enter")
        self.made.append(f"type {text}")
