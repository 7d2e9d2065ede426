"""Ways through the browser that its tests share."""

from __future__ import annotations

import base64
import io
import re
import time

import cv2
import numpy as np
from PIL import Image
from playwright.sync_api import expect

from zweiblick_core.io import read

STAGE = "[role=img][data-image]"
SETTLED = '[role=img][data-settled="true"]'


def drawn(page):
    """After two frames of the browser what the last change led to is on screen, and remembered."""
    page.evaluate(
        "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"
    )


def settled(page, timeout=30_000):
    """The picture is drawn as it is looked at, and the page knows it."""
    expect(page.locator(SETTLED)).to_be_visible(timeout=timeout)
    drawn(page)


def open_picture(page, name):
    page.get_by_role("link", name="Desk", exact=True).click()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible(timeout=30_000)
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=600_000)
    page.get_by_role("link", name=re.compile(name)).click()
    settled(page, 20_000)


def choose_released(page, name):
    """As a guest: one of the pictures that were released."""
    which = page.get_by_label("which picture")
    expect(which).to_be_visible(timeout=30_000)
    value = which.locator("option").filter(has_text=name).first.get_attribute("value")
    which.select_option(value)
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def soon(page, claim, within=30):
    """Try a claim about what is on screen anew until it holds, as a loaded machine draws late.
    After so many seconds its own AssertionError is raised.
    """
    end = time.monotonic() + within
    while True:
        try:
            return claim()
        except AssertionError:
            if time.monotonic() > end:
                raise
        page.wait_for_timeout(100)


def shows(page, wanted, most=0.01, where=(slice(None), slice(None))):
    """The stage's middle shows these pixels, soon: mean difference below `most`, in a part of the
    square if one is named.
    """

    def claim():
        off = np.abs(middle(seen(page), len(wanted) // 2) - wanted)[where].mean()
        assert off < most, off

    soon(page, claim)


def at_full_size(page):
    """Look at 100 %, as "never seen at 100 %" counts it."""
    page.keyboard.press("1")

    def stands():
        stage = page.locator(SETTLED).last
        assert stage.count() == 1 and float(stage.get_attribute("data-zoom")) >= 0.999

    soon(page, stands)
    drawn(page)


def waylay(page, pattern, handler):
    """Have a handler answer requests of an open picture. Chromium tells a page that stands already
    only later, and its first request may slip by: it is loaded anew.
    """
    page.route(pattern, handler)
    page.reload()
    settled(page, 20_000)


def current(page):
    return page.locator('table [aria-current="true"]')


def look_at_both_sides(page):
    page.keyboard.down("s")
    expect(page.locator('[data-side="A"]')).to_be_visible()
    settled(page)
    drawn(page)
    page.keyboard.up("s")
    expect(page.locator('[data-side="B"]')).to_be_visible()
    settled(page)


def seen(page, which=STAGE):
    """The pixels on screen."""
    return np.asarray(
        Image.open(io.BytesIO(page.locator(which).last.screenshot())).convert("RGB")
    ).astype(int)


def bench_of(page):
    """The Bench's data of the picture in the address."""
    return page.evaluate(
        "async () => (await fetch('/api/pictures/' + location.pathname.split('/')[2] + '/bench/')).json()"
    )


def patch_of(page, image, x, y, side, tile=512):
    """Pixels of one image as its tiles hold them."""
    corners = [
        (left, top)
        for top in range(y // tile * tile, y + side, tile)
        for left in range(x // tile * tile, x + side, tile)
    ]
    out = np.zeros((side, side, 3), int)
    for left, top in corners:
        width, height = min(tile, image["width"] - left), min(tile, image["height"] - top)
        data = page.evaluate(
            """async ([url]) => { const blob = await (await fetch(url)).blob(); return await new Promise((done) => {
            const reader = new FileReader(); reader.onload = () => done(reader.result.split(',')[1]); reader.readAsDataURL(blob); }); }""",
            [f"{image['tiles']}{left},{top},{width},{height}/{width},{height}/0/default.png"],
        )
        pixels = read(base64.b64decode(data)).pixels.astype(int)
        x0, y0, x1, y1 = (
            max(x, left),
            max(y, top),
            min(x + side, left + width),
            min(y + side, top + height),
        )
        out[y0 - y : y1 - y, x0 - x : x1 - x] = pixels[y0 - top : y1 - top, x0 - left : x1 - left]
    return out


def placed(page, bench):
    """Where the stage's middle lies in the picture, found by the attempt's own pixels at 100 %: (x,
    y) of the shown patch's corner, and the image shown.
    """
    current = page.locator(STAGE).last.get_attribute("data-image")
    image = next(
        one
        for one in [bench["original"], *[a["image"] for a in bench["attempts"]]]
        if str(one["id"]) == current
    )
    x, y, w, h = bench["regions"][0]["bbox"]
    side = 240
    left, top = int(x + w / 2) - side // 2, int(y + h / 2) - side // 2
    whole = patch_of(page, image, left, top, side)

    def found():
        small = middle(seen(page))
        best = min(
            (np.abs(whole[dy : dy + 80, dx : dx + 80] - small).mean(), dx, dy)
            for dy in range(side // 2 - 44, side // 2 - 35)
            for dx in range(side // 2 - 44, side // 2 - 35)
        )
        assert best[0] < 0.01, best
        return left + best[1], top + best[2], image

    return soon(page, found)


def middle(shown, half=40):
    height, width = shown.shape[:2]
    return shown[height // 2 - half : height // 2 + half, width // 2 - half : width // 2 + half]


def whole_of(page, image, tile=512):
    """An image's pixels as its full-size tiles hold them."""
    out = np.zeros((image["height"], image["width"], 3), np.uint8)
    for top in range(0, image["height"], tile):
        for left in range(0, image["width"], tile):
            width, height = min(tile, image["width"] - left), min(tile, image["height"] - top)
            data = page.request.get(
                f"{image['tiles']}{left},{top},{width},{height}/{width},{height}/0/default.png"
            ).body()
            out[top : top + height, left : left + width] = read(data).pixels
    return out.astype(np.float32)


def view_of(page, which=STAGE):
    """(x, y, picture pixels for a screen pixel) of a stage's middle."""
    return tuple(float(one) for one in page.locator(which).last.get_attribute("data-view").split())


def on_screen(whole, view, shape):
    """What a stage of a shape (height, width) must show of an image, whatever the zoom: float32
    (height, width, 3).
    """
    x, y, scale = view
    height, width = shape[:2]
    columns, rows = np.meshgrid(
        np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2
    )
    # Smaller sizes halve; the next larger one is drawn.
    halved = 1 << max(0, int(np.floor(np.log2(scale) + 1e-6)))
    source = (
        cv2.resize(
            whole,
            (whole.shape[1] // halved, whole.shape[0] // halved),
            interpolation=cv2.INTER_AREA,
        )
        if halved > 1
        else whole
    )
    return cv2.remap(
        source,
        ((x + columns * scale) / halved - 0.5).astype(np.float32),
        ((y + rows * scale) / halved - 0.5).astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )


def off_by(shown, wanted, at, half):
    """(mean difference where it should be, the least where it should not: two to four screen pixels
    aside) of a square about a screen position.
    """
    column, row = int(at[0]), int(at[1])
    soft = lambda pixels: cv2.GaussianBlur(pixels.astype(np.float32), (0, 0), 0.8)
    shown, wanted = soft(shown), soft(wanted)
    square = wanted[row - half : row + half, column - half : column + half]
    apart = {
        (dx, dy): float(
            np.abs(
                shown[row + dy - half : row + dy + half, column + dx - half : column + dx + half]
                - square
            ).mean()
        )
        for dx in (-4, -2, 0, 2, 4)
        for dy in (-4, -2, 0, 2, 4)
    }
    return apart.pop((0, 0)), min(apart.values())
