"""Ways through the browser that its tests share."""

from __future__ import annotations

import base64
import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from zweiblick_core.reading import read

STAGE = "[role=img][data-image]"
SETTLED = '[role=img][data-settled="true"]'


def open_picture(page, name):
    expect(page.get_by_role("heading", name="Desk")).to_be_visible(timeout=30_000)
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=300_000)
    page.get_by_role("link", name=re.compile(name)).click()
    expect(page.locator(SETTLED)).to_be_visible(timeout=20_000)


def current(page):
    return page.locator('table [aria-current="true"]')


def look_at_both_sides(page):
    page.keyboard.down("s")
    expect(page.locator('[data-side="A"]')).to_be_visible()
    expect(page.locator(SETTLED)).to_be_visible()
    page.wait_for_timeout(150)
    page.keyboard.up("s")
    expect(page.locator('[data-side="B"]')).to_be_visible()
    expect(page.locator(SETTLED)).to_be_visible()


def seen(page, which=STAGE):
    """The pixels on screen."""
    return np.asarray(Image.open(io.BytesIO(page.locator(which).last.screenshot())).convert("RGB")).astype(int)


def bench_of(page):
    """The Bench's data of the picture in the address."""
    return page.evaluate("async () => (await fetch('/api/pictures/' + location.pathname.split('/')[2] + '/bench/')).json()")


def patch_of(page, image, x, y, side, tile=512):
    """Pixels of one image as its tiles hold them."""
    corners = [(left, top) for top in range(y // tile * tile, y + side, tile) for left in range(x // tile * tile, x + side, tile)]
    out = np.zeros((side, side, 3), int)
    for left, top in corners:
        width, height = min(tile, image["width"] - left), min(tile, image["height"] - top)
        data = page.evaluate("""async ([url]) => { const blob = await (await fetch(url)).blob(); return await new Promise((done) => {
            const reader = new FileReader(); reader.onload = () => done(reader.result.split(',')[1]); reader.readAsDataURL(blob); }); }""",
                             [f"{image['tiles']}{left},{top},{width},{height}/{width},{height}/0/default.png"])
        pixels = read(base64.b64decode(data)).pixels.astype(int)
        x0, y0, x1, y1 = max(x, left), max(y, top), min(x + side, left + width), min(y + side, top + height)
        out[y0 - y:y1 - y, x0 - x:x1 - x] = pixels[y0 - top:y1 - top, x0 - left:x1 - left]
    return out


def placed(page, shown, bench, reach=70):
    """Where the stage's middle lies in the picture, found by the attempt's own pixels at 100 %: (x, y) of the shown patch's corner."""
    current = page.locator(STAGE).last.get_attribute("data-image")
    image = next(one for one in [bench["original"], *[a["image"] for a in bench["attempts"]]] if str(one["id"]) == current)
    x, y, w, h = bench["regions"][0]["bbox"]
    side = 240
    left, top = int(x + w / 2) - side // 2, int(y + h / 2) - side // 2
    whole = patch_of(page, image, left, top, side)
    height, width = shown.shape[:2]
    small = shown[height // 2 - 40:height // 2 + 40, width // 2 - 40:width // 2 + 40]
    best = min((np.abs(whole[dy:dy + 80, dx:dx + 80] - small).mean(), dx, dy) for dy in range(side // 2 - 44, side // 2 - 35) for dx in range(side // 2 - 44, side // 2 - 35))
    assert best[0] < 0.01, best
    return left + best[1], top + best[2], image


def middle(shown, half=40):
    height, width = shown.shape[:2]
    return shown[height // 2 - half:height // 2 + half, width // 2 - half:width // 2 + half]
