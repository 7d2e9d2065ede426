"""The steps of a walk as one sheet, to be looked at."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

COLUMNS, STEP, GAP, WORDS = 3, (800, 500), 16, 30
GROUND, INK = (38, 38, 40), (214, 214, 216)


class Album:
    """Screens in the order they were met, each with a few words."""

    def __init__(self):
        self.steps = []

    def keep(self, page, words):
        self.steps.append((words, page.screenshot()))

    def write(self, place: Path):
        rows = -(-len(self.steps) // COLUMNS)
        wide, high = STEP[0] + GAP, STEP[1] + WORDS + GAP
        sheet = Image.new("RGB", (COLUMNS * wide + GAP, rows * high + GAP), GROUND)
        draw, font = ImageDraw.Draw(sheet), ImageFont.load_default(size=20)
        for number, (words, data) in enumerate(self.steps):
            x, y = GAP + number % COLUMNS * wide, GAP + number // COLUMNS * high
            draw.text((x, y), f"{number + 1}  {words}", INK, font)
            with Image.open(io.BytesIO(data)) as screen:
                sheet.paste(
                    screen.convert("RGB").resize(STEP, Image.Resampling.LANCZOS), (x, y + WORDS)
                )
        sheet.quantize(256, dither=Image.Dither.NONE).save(place, optimize=True)
