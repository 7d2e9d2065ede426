"""From dropping a pair of 24-megapixel files to their first finding, in a running house of its own;
wall-clock seconds.

.venv/bin/python benchmarks/arrive.py [--megapixels 24] [--region 1.0]
"""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path

import cv2
import numpy as np

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO / "bin" / "support"), str(Path(__file__).parent)]
import requests  # noqa: E402
from services import House  # noqa: E402
from speed import pair  # noqa: E402


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megapixels", type=float, default=24)
    parser.add_argument("--region", type=float, default=1.0)
    given = parser.parse_args()
    first, second, mask = pair(given.megapixels, given.region, seam=True)
    ok, mask_png = cv2.imencode(".png", mask.astype(np.uint8) * 255)
    assert ok
    house = House(".run-loops")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.manage("reset_database")
        house.prepare_database()
        house.manage(
            "add_person", "vera", "--password", "a password of the arrivals", "--makes-jobs"
        )
        house.start_workers()
        house.start_web()
        base, session = f"http://127.0.0.1:{house.ports['web']}", requests.Session()

        def ask(method: str, path: str, **more):
            answer = session.request(
                method,
                base + path,
                headers={"X-CSRFToken": session.cookies.get("zweiblick_csrf", "")},
                timeout=120,
                **more,
            )
            answer.raise_for_status()
            return answer.json()

        ask("GET", "/api/session/")
        ask(
            "POST",
            "/api/session/",
            json={"username": "vera", "password": "a password of the arrivals"},
        )
        job = ask(
            "POST",
            "/api/jobs/",
            json={"name": "Large", "sizes": [{"name": "wall", "spec": "594x420mm@150dpi@700mm"}]},
        )["id"]
        start = time.monotonic()
        ids = {
            name: ask("POST", f"/api/jobs/{job}/arrivals/", files={"file": (name, data)})["id"]
            for name, data in (
                ("large.jpg", first),
                ("large-result.jpg", second),
                ("large-mask.png", mask_png.tobytes()),
            )
        }
        while any(
            one["state"] == "reading" for one in ask("GET", f"/api/jobs/{job}/intake/")["arrivals"]
        ):
            time.sleep(0.05)
        arrived = time.monotonic() - start
        asked = ask(
            "POST",
            f"/api/jobs/{job}/pictures/",
            json={
                "name": "Large",
                "original": ids["large.jpg"],
                "mask": ids["large-mask.png"],
                "results": [
                    {"arrival": ids["large-result.jpg"], "method": "hand", "kind": "by hand"}
                ],
            },
        )
        while asked["state"] == "working":
            time.sleep(0.05)
            asked = ask("GET", f"/api/incoming/{asked['id']}/")
        picture = asked["picture"]
        stored = time.monotonic() - start
        while True:
            bench = ask("GET", f"/api/pictures/{picture}/bench/")
            check = bench["attempts"][0]["check_of"]
            if check["state"] in ("done", "failed"):
                break
            time.sleep(0.1)
        found = time.monotonic() - start
        ready = bench["original"]["ready"] and bench["attempts"][0]["image"]["ready"]
        print(
            f"{given.megapixels:.0f} megapixels, {len(first) / 1e6:.1f} + {len(second) / 1e6:.1f} MB: all arrived and read {arrived:.1f} s, stored {stored:.1f} s, "
            f"first finding {found:.1f} s ({check['state']}: {[cell['worst_kind'] for cell in bench['cells']]}); tiles {'ready' if ready else 'still being made'}"
        )
    finally:
        house.end()


if __name__ == "__main__":
    main()
