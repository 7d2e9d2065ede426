"""Somebody who uses nothing but the keyboard."""

from __future__ import annotations

#: Of everybody in a house that began empty.
PASSWORD = "ropes-and-tiles-4"


class Hands:
    """Somebody at a page, with a keyboard and nothing else."""

    def __init__(self, page):
        self.page, self.keys = page, 0

    def key(self, *names):
        for name in names:
            self.page.keyboard.press(name)
            self.keys += 1

    def press(self, control):
        """Go to a control and press it."""
        control.focus()
        self.key("Enter")

    def tick(self, box):
        box.focus()
        self.key("Space")

    def write(self, field, words):
        field.focus()
        self.key("Control+a")
        self.page.keyboard.type(words)

    def choose(self, select, words):
        """Choose what begins with these words."""
        select.focus()
        self.page.keyboard.type(words)
