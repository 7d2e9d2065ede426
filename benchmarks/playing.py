"""Playback of a shot of 1920 x 1080 in a real browser: frames that could not be shown in time, alone and as original
against attempt, and how long the proxies take to draw against decoding.

.venv/bin/python benchmarks/playing.py [--frames 96] [--seconds 8]
"""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent / "client")]
from houses import PASSWORD, base_of, house_of, inside  # noqa: E402

#: A pan over one of the demo's pictures, twice: the original, and an attempt that differs a little.
_MADE = """
import sys, time, cv2, numpy as np
from pathlib import Path
from django.conf import settings
sys.path[:0] = [str(settings.REPO)]
from demo.quay_shot import video
from shots.making import Brought, make_shot
from shots.opening import opened
from shots.receiving import keep
wide = cv2.cvtColor(cv2.imread(str(settings.REPO / "demo/pictures/quay-truth.jpg")), cv2.COLOR_BGR2RGB)
wide = cv2.resize(wide, (2700, 1800), interpolation=cv2.INTER_CUBIC)
frames = [np.ascontiguousarray(wide[300:1380, at * 4 : at * 4 + 1920]) for at in range({frames})]
files = [video(frames), video([np.clip(one.astype(int) + 3, 0, 255).astype(np.uint8) for one in frames])]
rows = [keep(job, f"shot-{{n}}.mp4", lambda: iter([data]), len(data), vera) for n, data in enumerate(files)]
while any(row.state == "reading" for row in rows):
    time.sleep(0.5)
    for row in rows:
        row.refresh_from_db()
start = time.monotonic()
for _ in opened(rows[0]):
    pass
decoding = time.monotonic() - start
shot = make_shot(job, "Quay", rows[0].pk, [Brought(rows[1].pk, "by hand")], None, vera)
print(json.dumps([shot.pk, decoding]))
"""
_DRAWN = """
from work.models import Work
found = Work.objects.filter(kind="proxies")
busy = Work.objects.filter(state__in=("waiting", "running")).count()
took = [(one.finished_at - one.dispatched_at).total_seconds() for one in found if one.finished_at]
print(json.dumps([busy, took]))
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--frames", type=int, default=96)
    parser.add_argument("--seconds", type=float, default=8.0)
    given = parser.parse_args()
    with house_of("workers", "web") as house:
        shot, decoding = inside(house, _MADE.format(frames=given.frames))
        while (found := inside(house, _DRAWN))[0]:
            time.sleep(3)
        print(
            f"proxies of {given.frames} frames: {max(found[1]):.1f} s from asking, decoding alone {decoding:.1f} s"
        )
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
            )
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(base_of(house))
            page.get_by_label("name", exact=True).fill("vera")
            page.get_by_label("password").fill(PASSWORD)
            page.keyboard.press("Enter")
            expect(page.get_by_role("navigation").first).to_be_visible()
            page.goto(f"{base_of(house)}/shots/{shot}")
            expect(page.get_by_role("slider", name="frame")).to_be_visible()
            for words, keys in (
                ("whole, the first time", ""),
                ("whole", ""),
                ("wipe", "w"),
                ("difference", "i"),
                ("100 %", "i1"),
            ):
                for key in keys:
                    page.keyboard.press(key)
                print(f"{words}: {played(page, given.seconds)}")
            browser.close()


def played(page: Page, seconds: float) -> str:
    """Plays for so long; how many frames were shown, and how many could not be."""
    shown = page.get_by_role("main", name="The shot")
    page.evaluate(
        """() => {
          const main = document.querySelector("main[data-frame]");
          window.shownFrames = 0;
          window.shownBy?.disconnect();
          window.shownBy = new MutationObserver(() => (window.shownFrames += 1));
          window.shownBy.observe(main, { attributes: true, attributeFilter: ["data-frame"] });
        }"""
    )
    start = time.monotonic()
    page.keyboard.press("p")
    page.wait_for_timeout(seconds * 1000)
    page.keyboard.press("p")
    took = time.monotonic() - start
    expect(page.get_by_role("button", name="play")).to_be_visible()
    count = page.evaluate("() => window.shownFrames")
    left = page.get_by_text("could not be shown in time")
    words = left.inner_text() if left.count() else "none left out"
    assert shown.count() == 1
    return f"{count} frames shown in {took:.1f} s ({count / took:.1f} a second of 24), {words}"


if __name__ == "__main__":
    main()
