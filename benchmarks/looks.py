"""How quick the Bench is against a running server: key press to picture, tiles and API answers under eight clients.

    ZWEIBLICK_BASE=… ZWEIBLICK_DEMO_PASSWORD=… python benchmarks/looks.py [--picture NAME]
"""

from __future__ import annotations

import argparse
import os
import re
import statistics
import threading
import time

import requests
from playwright.sync_api import sync_playwright

BASE, PASSWORD = os.environ.get("ZWEIBLICK_BASE", ""), os.environ.get("ZWEIBLICK_DEMO_PASSWORD", "")
SETTLED = "document.querySelector('[role=img][data-image]')?.dataset.settled === 'true'"


def signed_in() -> requests.Session:
    session = requests.Session()
    token = session.get(f"{BASE}/api/session/").json()["csrf"]
    answer = session.post(f"{BASE}/api/session/", json={"username": "vera", "password": PASSWORD}, headers={"X-CSRFToken": token, "Referer": BASE})
    answer.raise_for_status()
    return session


def parallel(addresses: list[str], clients: int = 8, each: int = 60) -> list[float]:
    """Seconds of every answer, `clients` asking at once."""
    session = signed_in()
    times: list[float] = []

    def ask(first: int) -> None:
        own = requests.Session()
        own.cookies.update(session.cookies)
        for i in range(each):
            began = time.perf_counter()
            own.get(addresses[(first + i * 7) % len(addresses)]).raise_for_status()
            times.append(time.perf_counter() - began)

    threads = [threading.Thread(target=ask, args=(n,)) for n in range(clients)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return times


def told(name: str, times: list[float]) -> None:
    ordered = sorted(times)
    print(f"{name:34s} p50 {1000 * statistics.median(ordered):7.1f} ms   p95 {1000 * ordered[int(0.95 * (len(ordered) - 1))]:7.1f} ms   n {len(ordered)}")


def tiles_of(session: requests.Session, image: dict) -> list[str]:
    step, found = 512, []
    for y in range(0, image["height"], step):
        for x in range(0, image["width"], step):
            size = f"{min(step, image['width'] - x)},{min(step, image['height'] - y)}"
            found.append(f"{BASE}{image['tiles']}{x},{y},{size}/{size}/0/default.png")
    return found


ALL_SETTLED = """() => { const all = [...document.querySelectorAll('figure [role=img][data-image]')];
    return all.length > 2 && all.every((one) => one.dataset.settled === 'true'); }"""
PRESSED = """([key, up]) => new Promise((done) => {
    const stage = () => document.querySelector('[role=img][data-image]'), before = stage().dataset.image, began = performance.now();
    const stands = () => stage().dataset.image !== before && stage().dataset.settled === 'true';
    const look = () => (stands() ? requestAnimationFrame(() => done(performance.now() - began)) : setTimeout(look, 1));
    window.dispatchEvent(new KeyboardEvent(up ? 'keyup' : 'keydown', { key, bubbles: true })); look(); })"""
FRAMES = """() => new Promise((done) => { const times = []; let last = performance.now(); let turn = 0;
    const step = (now) => { times.push(now - last); last = now; turn += 1;
      window.dispatchEvent(new KeyboardEvent('keydown', { key: turn % 20 < 10 ? '.' : ',', bubbles: true }));
      if (turn < 60) requestAnimationFrame(step); else done(times.slice(1)); };
    requestAnimationFrame(step); })"""


def in_browser(name: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(BASE)
        page.get_by_label("name").fill("vera")
        page.get_by_label("password").fill(PASSWORD)
        page.get_by_role("button", name="sign in").click()
        page.get_by_role("link", name=re.compile(name)).click()
        page.wait_for_function(SETTLED, timeout=60_000)
        page.wait_for_timeout(3000)
        page.keyboard.press("1")
        page.wait_for_timeout(3000)
        swaps, walks = [], []
        for i in range(20):
            swaps.append(page.evaluate(PRESSED, ["s", False]))
            page.evaluate(PRESSED, ["s", True])
            page.wait_for_timeout(120)
            walks.append(page.evaluate(PRESSED, ["ArrowLeft" if i % 2 else "ArrowRight" if i else "ArrowLeft", False]))
            page.wait_for_timeout(250)
        told("swap, key press to picture", [one / 1000 for one in swaps])
        told("next attempt, key press to picture", [one / 1000 for one in walks])
        page.keyboard.press("w")
        page.wait_for_timeout(500)
        told("a frame while the wipe moves", [one / 1000 for one in page.evaluate(FRAMES)])
        page.keyboard.press("w")
        spreads = []
        for _ in range(5):
            began = time.perf_counter()
            page.keyboard.press("g")
            page.wait_for_function(ALL_SETTLED, timeout=60_000)
            spreads.append(time.perf_counter() - began)
            page.keyboard.press("g")
            page.wait_for_function(SETTLED, timeout=60_000)
            page.wait_for_timeout(800)
        told("Spread opened", spreads)
        browser.close()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--picture", default="Boat shed")
    name = parser.parse_args().picture
    session = signed_in()
    picture = next(one for one in session.get(f"{BASE}/api/desk/").json()["pictures"] if name in one["name"])
    bench = session.get(f"{BASE}/api/pictures/{picture['id']}/bench/").json()
    print(f"{name}: {bench['original']['width']} x {bench['original']['height']}, {len(bench['attempts'])} attempts")
    addresses = [address for image in (bench["original"], *[one["image"] for one in bench["attempts"]]) for address in tiles_of(session, image)]
    parallel(addresses, each=10)
    told("tiles, 8 clients", parallel(addresses))
    told("the Bench's data, 8 clients", parallel([f"{BASE}/api/pictures/{picture['id']}/bench/"], each=10))
    told("a cell's findings, 8 clients", parallel([f"{BASE}/api/cells/{cell['id']}/" for cell in bench["cells"]], each=20))
    in_browser(name)


if __name__ == "__main__":
    main()
