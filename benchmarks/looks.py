"""How quick looking is against a running server: key press to picture, a frame of the wipe, the
Spread; tiles and answers under eight clients.

    ZWEIBLICK_BASE=… ZWEIBLICK_DEMO_PASSWORD=… python benchmarks/looks.py [--picture NAME | --large
    60]

`--large` first brings in a picture of so many megapixels with three regions and six attempts of our
own making, unless it is there.
"""

from __future__ import annotations

import argparse
import http.client
import os
import re
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from urllib.parse import urlsplit

import cv2
import numpy as np
import requests
from playwright.sync_api import Page, Playwright, sync_playwright

sys.path.insert(0, str(Path(__file__).parent))

BASE, PASSWORD = os.environ.get("ZWEIBLICK_BASE", ""), os.environ.get("ZWEIBLICK_DEMO_PASSWORD", "")
SETTLED = "document.querySelector('[role=img][data-image]')?.dataset.settled === 'true'"


def signed_in() -> requests.Session:
    session = requests.Session()
    token = session.get(f"{BASE}/api/session/").json()["csrf"]
    answer = session.post(
        f"{BASE}/api/session/",
        json={"username": "vera", "password": PASSWORD},
        headers={"X-CSRFToken": token, "Referer": BASE},
    )
    answer.raise_for_status()
    return session


def fills(
    original: np.ndarray, truth: np.ndarray, mask: np.ndarray
) -> list[tuple[str, np.ndarray]]:
    """Six ways to fill a mask, uint8 (height, width, 3): the truth, and five that fail in one way
    each.
    """
    out = []
    for name in ("hand", "bright", "blurred", "copied", "smoothed", "greenish"):
        filled = truth.copy()
        if name == "bright":
            filled[mask] = np.clip(truth[mask].astype(int) + 22, 0, 255)
        elif name == "blurred":
            filled[mask] = cv2.GaussianBlur(truth, (0, 0), 4)[mask]
        elif name == "copied":
            filled[mask] = np.roll(truth, 900, axis=1)[mask]
        elif name == "smoothed":
            filled[mask] = cv2.bilateralFilter(truth, 5, 18, 5)[mask]
        elif name == "greenish":
            filled[mask] = np.clip(truth[mask].astype(int) + np.array([0, 9, -6]), 0, 255)
        result = original.copy()
        result[mask] = filled[mask]
        out.append((name, result))
    return out


def bring_in(session: requests.Session, megapixels: float, name: str) -> None:
    """A picture with three regions and six attempts, made from our own, in a job of its own."""
    from speed import enlarged, with_thing

    def ask(method: str, path: str, **more) -> dict:
        answer = session.request(
            method,
            BASE + path,
            headers={"X-CSRFToken": session.cookies.get("zweiblick_csrf", ""), "Referer": BASE},
            timeout=300,
            **more,
        )
        answer.raise_for_status()
        return answer.json()

    truth, mask = enlarged(megapixels, 1.0, ((0, 0), (1, 1), (-1, -1)))
    encode = lambda pixels: cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])[
        1
    ].tobytes()
    original = cv2.imdecode(
        np.frombuffer(encode(with_thing(truth, mask, np.random.default_rng(1))), np.uint8),
        cv2.IMREAD_COLOR,
    )[..., ::-1]
    job = ask(
        "POST",
        "/api/jobs/",
        json={
            "name": name,
            "sizes": [
                {"name": "wall", "spec": "1189x841mm@150dpi@1500mm"},
                {"name": "screen", "spec": "1920x1080px"},
            ],
        },
    )["id"]
    put = lambda file, data: ask(
        "POST", f"/api/jobs/{job}/arrivals/", files={"file": (file, data)}
    )["id"]
    ids = [
        put("large.jpg", encode(original)),
        put("large-mask.png", cv2.imencode(".png", mask.astype(np.uint8) * 255)[1].tobytes()),
    ]
    results = [
        {
            "arrival": put(f"large-{kind}.jpg", encode(pixels)),
            "method": kind,
            "kind": "by hand" if kind == "hand" else "outside service",
        }
        for kind, pixels in fills(original, truth, mask)
    ]
    ask(
        "POST",
        f"/api/jobs/{job}/pictures/",
        json={"name": name, "original": ids[0], "mask": ids[1], "results": results},
    )


def stands(session: requests.Session, picture: int) -> None:
    """Wait until all of a picture is checked and its tiles stand."""
    began = time.monotonic()
    while True:
        bench = session.get(
            f"{BASE}/api/pictures/{picture}/bench/", headers={"Connection": "close"}
        ).json()
        states = [
            one["check_of"]["state"] if one["check_of"] else "none" for one in bench["attempts"]
        ]
        if (
            all(state in ("done", "failed") for state in states)
            and bench["original"]["ready"]
            and all(one["image"]["ready"] for one in bench["attempts"])
        ):
            break
        time.sleep(2)
    print(
        f"{len(states)} checks {sorted(set(states))} and tiles of {1 + len(states)} images stand after {time.monotonic() - began:.0f} s",
        flush=True,
    )


def parallel(addresses: list[str], clients: int = 8, each: int = 60) -> list[float]:
    """Seconds of every answer, `clients` asking at once over connections that stay open."""
    cookies = "; ".join(f"{name}={value}" for name, value in signed_in().cookies.items())
    host = urlsplit(BASE).netloc
    times: list[float] = []

    def ask(first: int) -> None:
        connection = http.client.HTTPConnection(host, timeout=60)
        for i in range(each):
            began = time.perf_counter()
            connection.request(
                "GET", addresses[(first * 13 + i * 7) % len(addresses)], headers={"Cookie": cookies}
            )
            answer = connection.getresponse()
            answer.read()
            if answer.status != 200:
                raise RuntimeError(
                    f"{answer.status} for {addresses[(first * 13 + i * 7) % len(addresses)]}"
                )
            times.append(time.perf_counter() - began)

    threads = [threading.Thread(target=ask, args=(n,)) for n in range(clients)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    if len(times) != clients * each:
        raise SystemExit("some answers failed")
    return times


def told(name: str, times: list[float]) -> None:
    ordered = sorted(times)
    print(
        f"{name:44s} p50 {1000 * statistics.median(ordered):7.1f} ms   p95 {1000 * ordered[int(0.95 * (len(ordered) - 1))]:7.1f} ms   n {len(ordered)}",
        flush=True,
    )


def tiles_of(image: dict, most: int = 400) -> list[str]:
    step, found = 512, []
    for y in range(0, image["height"], step):
        for x in range(0, image["width"], step):
            size = f"{min(step, image['width'] - x)},{min(step, image['height'] - y)}"
            found.append(f"{image['tiles']}{x},{y},{size}/{size}/0/default.png")
    return found[:most]


ALL_SETTLED = """() => { const all = [...document.querySelectorAll('figure [role=img][data-image]')];
    return all.length > 2 && all.every((one) => one.dataset.settled === 'true'); }"""
# From the key going down to the frame in which another image, or another place, stands at full
# sharpness.
PRESSED = """([key, up]) => new Promise((done) => {
    const stage = () => document.querySelector('[role=img][data-image]'), place = () => stage().dataset.image + ' ' + stage().dataset.view;
    const before = place(), began = performance.now();
    const stands = () => place() !== before && stage().dataset.settled === 'true';
    const look = () => (stands() ? requestAnimationFrame(() => done(performance.now() - began)) : setTimeout(look, 1));
    window.dispatchEvent(new KeyboardEvent(up ? 'keyup' : 'keydown', { key, bubbles: true })); look(); })"""
FRAMES = """() => new Promise((done) => { const times = []; let last = performance.now(); let turn = 0;
    const step = (now) => { times.push(now - last); last = now; turn += 1;
      window.dispatchEvent(new KeyboardEvent('keydown', { key: turn % 20 < 10 ? '.' : ',', bubbles: true }));
      if (turn < 60) requestAnimationFrame(step); else done(times.slice(1)); };
    requestAnimationFrame(step); })"""


def opened(page: Page, name: str) -> None:
    page.get_by_role("link", name=re.compile(name)).first.click()
    page.wait_for_function(SETTLED, timeout=60_000)


def pressed(page: Page, key: str, up: bool = False) -> float:
    return page.evaluate(PRESSED, [key, up]) / 1000


def _page(playwright: Playwright) -> Page:
    """Vera, signed in, at the smallest screen."""
    browser = playwright.chromium.launch(
        executable_path="/usr/bin/chromium",
        args=["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"],
    )
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(BASE)
    page.get_by_label("name").fill("vera")
    page.get_by_label("password").fill(PASSWORD)
    page.get_by_role("button", name="sign in").click()
    page.get_by_role("heading", name="Desk").wait_for()
    return page


def in_browser(name: str, turns: int = 20) -> None:
    with sync_playwright() as playwright:
        page = _page(playwright)
        opened(page, name)
        for zoom, words in (("3", "region fitted"), ("1", "100 %")):
            page.keyboard.press(zoom)
            page.wait_for_timeout(3000)
            swaps, attempts, regions = [], [], []
            for i in range(turns):
                swaps.append(pressed(page, "s"))
                pressed(page, "s", True)
                page.wait_for_timeout(100)
                attempts.append(pressed(page, "ArrowRight" if i % 4 < 2 else "ArrowLeft"))
                page.wait_for_timeout(
                    700
                )  # what a look takes at least; the neighbours come meanwhile
            for i in range(turns):
                regions.append(pressed(page, "ArrowDown" if i % 2 == 0 else "ArrowUp"))
                page.wait_for_timeout(700)
            told(f"swap, {words}", swaps)
            told(f"next attempt, {words}", attempts)
            told(f"next region, {words}", regions)
        page.keyboard.press("w")
        page.wait_for_timeout(500)
        told("a frame while the wipe moves", [one / 1000 for one in page.evaluate(FRAMES)])
        page.keyboard.press("w")
        spreads = []
        for _ in range(turns):
            began = time.perf_counter()
            page.keyboard.press("g")
            page.wait_for_function(ALL_SETTLED, timeout=60_000)
            spreads.append(time.perf_counter() - began)
            page.keyboard.press("g")
            page.wait_for_function(SETTLED, timeout=60_000)
            page.wait_for_timeout(500)
        told("Spread opened", spreads)
        # Nothing kept and nothing prefetched: each time a page without a cache, the key as soon as
        # the first picture stands.
        cold: dict[str, list[float]] = {"ArrowLeft": [], "ArrowDown": [], "s": []}
        page.context.new_cdp_session(page).send("Network.setCacheDisabled", {"cacheDisabled": True})
        where = page.url.split("?")[0]
        for _ in range(turns):
            for key, times in cold.items():
                page.goto(f"{where}?region=1&attempt=3&zoom=actual")
                page.wait_for_function(SETTLED, timeout=60_000)
                times.append(pressed(page, key))
        for key, words in (
            ("s", "swap"),
            ("ArrowLeft", "next attempt"),
            ("ArrowDown", "next region"),
        ):
            told(f"{words}, 100 %, at once after opening", cold[key])


# An aid was never seen before: whole frames that are still being drawn are given up, tiles and
# their rows deleted.
FORGET = """
import shutil, sys, time, django
django.setup()
from images.models import Derived
from images.derivation import folder_of
from work.models import Work
for line in sys.stdin:
    Work.objects.filter(kind="aid").delete()
    time.sleep(1.5)  # who draws notices it at its next tile
    for row in Derived.objects.filter(recipe="aid"):
        shutil.rmtree(folder_of(row), ignore_errors=True)
        row.delete()
    print("gone", flush=True)
"""
AID_SEEN = """([name, sides]) => new Promise((done) => {
    const stages = () => [...document.querySelectorAll('[role=img][data-image]')].slice(0, sides);
    const before = stages().map((one) => one.dataset.image), began = performance.now();
    const stands = () => stages().length === sides && stages().every((one, i) => one.dataset.image !== before[i] && one.dataset.settled === 'true');
    const look = () => (stands() ? requestAnimationFrame(() => done(performance.now() - began)) : setTimeout(look, 2));
    const choice = document.querySelector('select[aria-label="aid"]');
    Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(choice, name);
    choice.dispatchEvent(new Event('change', { bubbles: true })); look(); })"""


def _house() -> tuple[Path, dict[str, str]]:
    """The root of it all, and the environment of the server that runs there."""
    root = Path(__file__).parent.parent
    sys.path.insert(0, str(root / "bin" / "support"))
    from services import House

    house = House(".run")
    house.ports = house._json("ports.json")
    return root, house.environment()


def aids_first_seen(picture: int, turns: int) -> None:
    """From the choice of an aid that nobody has looked at before to every tile of it, on one side
    and on both, in a browser that keeps nothing.
    """
    root, environment = _house()
    forgetting = subprocess.Popen(
        [sys.executable, "-c", FORGET],
        env=environment,
        cwd=root / "server",
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert forgetting.stdin and forgetting.stdout
    aids = signed_in().get(f"{BASE}/api/aids/").json()
    with sync_playwright() as playwright:
        page = _page(playwright)
        page.context.new_cdp_session(page).send("Network.setCacheDisabled", {"cacheDisabled": True})
        for words, zoom, beside in (("region fitted", "3", False), ("100 %, beside", "1", True)):
            all_times = []
            for aid in aids:
                times = []
                for turn in range(turns):
                    page.goto(f"{BASE}/pictures/{picture}?region=1&attempt={1 + turn % 3}")
                    page.wait_for_function(SETTLED, timeout=60_000)
                    page.keyboard.press(zoom)
                    if beside:
                        page.keyboard.press("v")
                    page.wait_for_timeout(1500)
                    forgetting.stdin.write("\n")
                    forgetting.stdin.flush()
                    forgetting.stdout.readline()
                    times.append(page.evaluate(AID_SEEN, [aid["name"], 2 if beside else 1]) / 1000)
                told(f"{aid['words']}, {words}", times)
                all_times += times
            told(f"any aid, {words}", all_times)
    forgetting.stdin.close()
    forgetting.wait()


MEMORY = """
import shutil, sys, time, django
django.setup()
from images.models import Image
from images.derivation import folder_of
from images.pyramids import build_pyramid, pyramid_of
# Not getrusage: what it tells outlives the exec, and is the parent's.
peak = lambda: next(int(line.split()[1]) for line in open("/proc/self/status") if line.startswith("VmHWM"))
image = Image.objects.select_related("blob", "picture").get(pk=int(sys.argv[1]))
before = peak()
row = pyramid_of(image); row.ready = False; row.save()
shutil.rmtree(folder_of(row))
began = time.monotonic()
build_pyramid(image)
print(f"{before / 1e6:.2f} GB before, {peak() / 1e6:.2f} GB at most, {time.monotonic() - began:.1f} s")
"""


def pyramid_memory(images: list[tuple[str, int]]) -> None:
    """The memory of a process that makes an image's tiles anew."""
    root, environment = _house()
    for words, pk in images:
        done = subprocess.run(
            [sys.executable, "-c", MEMORY, str(pk)],
            env=environment,
            cwd=root / "server",
            capture_output=True,
            text=True,
        )
        print(
            f"tiles of the {words}, in a process of its own: {done.stdout.strip() or done.stderr[-400:]}"
        )


def main() -> None:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--picture", default="Boat shed")
    parser.add_argument(
        "--large", type=float, help="megapixels of a picture that is brought in for this"
    )
    parser.add_argument(
        "--part",
        choices=("server", "browser", "aids", "memory"),
        action="append",
        help="only these parts",
    )
    given = parser.parse_args()
    name = f"Large hall {given.large:.0f}" if given.large else given.picture
    parts = given.part or ["server", "browser", "aids", *(["memory"] if given.large else [])]
    session = signed_in()
    find: Callable[[], dict | None] = lambda: next(
        (one for one in session.get(f"{BASE}/api/desk/").json()["pictures"] if name in one["name"]),
        None,
    )
    if given.large and find() is None:
        bring_in(session, given.large, name)
    picture = find()
    if picture is None:
        raise SystemExit(f"There is no picture {name}.")
    stands(session, picture["id"])
    bench = session.get(f"{BASE}/api/pictures/{picture['id']}/bench/").json()
    print(
        f"{name}: {bench['original']['width']} x {bench['original']['height']}, {len(bench['attempts'])} attempts"
    )
    if "server" in parts:
        addresses = [
            address
            for image in (bench["original"], *[one["image"] for one in bench["attempts"]])
            for address in tiles_of(image)
        ]
        parallel(addresses, each=10)
        told("tiles, 8 clients", parallel(addresses, each=200))
        told(
            "the Bench's data, 8 clients",
            parallel([f"/api/pictures/{picture['id']}/bench/"], each=20),
        )
        told(
            "a cell's findings, 8 clients",
            parallel([f"/api/cells/{cell['id']}/" for cell in bench["cells"]], each=40),
        )
        told(
            "the Bench's data, one client",
            parallel([f"/api/pictures/{picture['id']}/bench/"], clients=1, each=40),
        )
    if "browser" in parts:
        in_browser(name)
    if "aids" in parts:
        aids_first_seen(picture["id"], 1 if given.large else 5)
    if "memory" in parts:
        pyramid_memory(
            [
                ("original", bench["original"]["id"]),
                ("first attempt", bench["attempts"][0]["image"]["id"]),
            ]
        )


if __name__ == "__main__":
    main()
