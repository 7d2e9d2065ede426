"""Slips sent and returned while worker, desk, outside service and server are killed at random, and
the outside service makes mistakes: is anything lost, doubled or charged twice?

    .venv/bin/python benchmarks/loops.py [--loops 20] [--seed 1]

Starts a house of its own, sends the newest attempt of one picture back again and again, to the desk
and to the outside service in turn, and counts attempts, charges and history before and after.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import random
import signal
import sys
import threading
import time
from collections import Counter
from pathlib import Path

import requests

REPO = Path(__file__).parent.parent
sys.path.insert(0, str(REPO / "bin" / "support"))
from services import House  # noqa: E402

PASSWORD = "a password of the loops"
VICTIMS = {
    "desk": ("worker-soon", "worker-batch", "desk", "web"),
    "outside": ("worker-soon", "worker-batch", "removal", "web"),
}
#: What may go wrong at the outside service, of which each loop gets up to three.
FAULTS = (
    {"on": "order", "fault": "500"},
    {"on": "order", "fault": "500 after"},
    {"on": "order", "fault": "slow", "seconds": 2.0},
    {"on": "state", "fault": "malformed"},
    {"on": "state", "fault": "500"},
    {"on": "take", "fault": "half"},
    {"on": "take", "fault": "500"},
    {"on": "take", "fault": "malformed"},
)
#: Takes of an order, and credits of one under the terms that are used.
TAKES, CREDITS, TIER = 3, 3, "studio"


class Keeper:
    """Kills at random and starts again what died, as the demo's supervisor does."""

    def __init__(self, house: House, rng: random.Random) -> None:
        self.house, self.rng, self.kills, self.running = house, rng, Counter(), True
        self._lock = threading.Lock()
        threading.Thread(target=self._watch, daemon=True).start()

    def _watch(self) -> None:
        while self.running:
            time.sleep(0.3)
            with self._lock:
                for number, (name, process, begin) in enumerate(self.house.processes):
                    if process.poll() is not None and begin is not None and self.running:
                        self.house.processes[number] = (name, begin(), begin)

    def kill(self, name: str) -> None:
        with self._lock:
            process = next(process for one, process, _ in self.house.processes if one == name)
            with contextlib.suppress(OSError):
                os.killpg(process.pid, signal.SIGKILL)
            process.wait(timeout=10)
        self.kills[name] += 1


class Client:
    """Vera at the API; what did not come through is looked up and, only if it was not stored, said
    again.
    """

    def __init__(self, base: str) -> None:
        self.base, self.session = base, requests.Session()

    def sign_in(self) -> None:
        token = self.ask("GET", "/api/session/")["csrf"]
        self.session.post(
            self.base + "/api/session/",
            json={"username": "vera", "password": PASSWORD},
            headers={"X-CSRFToken": token},
            timeout=20,
        ).raise_for_status()

    def ask(self, method: str, path: str, body: dict | None = None) -> dict | list:
        for _ in range(4):
            answer = self.session.request(
                method,
                self.base + path,
                json=body,
                timeout=30,
                headers={"X-CSRFToken": self.session.cookies.get("zweiblick_csrf", "")},
            )
            if answer.status_code != 503 or "Retry-After" not in answer.headers:
                break
            # It was just storing something else and stored nothing of this; the web waits too.
            time.sleep(float(answer.headers["Retry-After"]))
        answer.raise_for_status()
        return answer.json()

    def patiently(self, path: str) -> dict | list:
        for _ in range(200):
            try:
                return self.ask("GET", path)
            except requests.RequestException:
                time.sleep(0.3)
        raise SystemExit(f"{path} never answered")


def counts(house: House) -> Counter:
    """Rows by kind, straight from the database."""
    code = """
import django; django.setup()
from collections import Counter
from attempts.models import Attempt, AttemptSource
from checks.models import Check, Finding
from history.models import Entry
from outside.models import Order, Take
from slips.models import Slip
from work.models import Work
found = Counter({f"history: {what}": n for what, n in Counter(Entry.objects.values_list("what", flat=True)).items()})
found.update({"attempts": Attempt.objects.count(), "sources": AttemptSource.objects.count(), "checks done": Check.objects.filter(state="done").count(),
              "checks": Check.objects.count(),
              "findings": Finding.objects.count(), "findings reported": sum(len(region["findings"])
                                   for check in Check.objects.filter(state="done") for region in check.report["regions"]),
              "slips rechecked": Slip.objects.filter(state="rechecked").count(), "work unfinished": Work.objects.exclude(state="done").count(),
              "orders done": Order.objects.filter(state="done").count(), "orders": Order.objects.count(), "takes": Take.objects.count(),
              "credits held": sum(Order.objects.values_list("credits", flat=True))})
import json; print(json.dumps(found))
"""
    import json
    import subprocess

    done = subprocess.run(
        [sys.executable, "-c", code],
        env=house.environment(),
        cwd=REPO / "server",
        capture_output=True,
        text=True,
        check=True,
    )
    return Counter(json.loads(done.stdout.splitlines()[-1]))


class Service:
    """The outside service, asked past the house."""

    def __init__(self, house: House) -> None:
        self.base = f"http://127.0.0.1:{house.ports['removal']}/v1"
        self.headers = {"X-Api-Key": house.secrets["removal"]}

    def credits(self) -> int:
        answer = requests.get(f"{self.base}/account", headers=self.headers, timeout=10)
        return int(answer.json()["credits"])

    def schedule(self, faults: list[dict]) -> None:
        requests.put(
            f"{self.base}/faults", json=faults, headers=self.headers, timeout=10
        ).raise_for_status()


def addressed(client: Client, slip: int, to: str) -> dict:
    """Say whom a slip goes to; what must go along when it is sent."""
    if to == "desk":
        return {}
    client.ask("PATCH", f"/api/slips/{slip}/", {"tier": TIER})
    regions = client.ask("GET", f"/api/slips/{slip}/outside/")["regions"]
    return {"leaves": [{"region": one["region"], "box": one["leaves"]["box"]} for one in regions]}


def loop(client: Client, keeper: Keeper, rng: random.Random, to: str) -> float:
    """One round: rule, write, send; kills in between; wait until it is rechecked. Returns seconds."""
    start = time.monotonic()
    picture = client.patiently("/api/desk/")["pictures"][0]["id"]
    bench = client.patiently(f"/api/pictures/{picture}/bench/")
    newest = next(
        one["id"]
        for one in reversed(bench["attempts"])
        if one["check_of"] and one["image"]["ready"]
    )
    region = rng.choice(bench["regions"])["id"]
    cell = next(
        one for one in bench["cells"] if one["attempt"] == newest and one["region"] == region
    )
    client.ask("POST", f"/api/cells/{cell['id']}/verdict/", {"ruling": "rework"})
    slip = client.ask("POST", f"/api/attempts/{newest}/slips/")["id"]
    body = addressed(client, slip, to)
    killers = [
        threading.Timer(rng.uniform(0, 7), keeper.kill, (victim,))
        for victim in rng.sample(VICTIMS[to], rng.choice((1, 1, 2, 3)))
    ]
    for killer in killers:
        killer.start()
    for _ in range(100):
        try:
            client.ask("POST", f"/api/slips/{slip}/send/", body)
        except requests.RequestException:
            time.sleep(0.3)
        if client.patiently(f"/api/slips/{slip}/")["state"] != "written":
            break
    deadline = time.monotonic() + 300
    while client.patiently(f"/api/slips/{slip}/")["state"] != "rechecked":
        if time.monotonic() > deadline:
            raise SystemExit(
                f"slip {slip} is {client.patiently(f'/api/slips/{slip}/')['state']} after 300 s"
            )
        time.sleep(0.5)
    for killer in killers:
        killer.join()
    return time.monotonic() - start


def wait_for_tiers(client: Client) -> None:
    """A worker asks the service what it offers now and then."""
    picture = client.patiently("/api/desk/")["pictures"][0]["id"]
    for _ in range(120):
        if client.patiently(f"/api/pictures/{picture}/outside/")["tiers"]:
            return
        time.sleep(1)
    raise SystemExit("the outside service never said what it offers")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--loops", type=int, default=20)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--picture", default="market")
    given = parser.parse_args()
    rng = random.Random(given.seed)
    keeper = None
    house = House(".run-loops")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis", "desk", "removal"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.manage("reset_database")
        house.prepare_database()
        house.manage("load_demo", "--password", PASSWORD, "--picture", given.picture, quiet=False)
        house.start_desk(pace=1.0)
        house.start_removal(pace=0.3)
        house.start_workers(
            ZWEIBLICK_WORK_LEASE="8", ZWEIBLICK_WORK_SWEEP="2", ZWEIBLICK_REMOVAL_CREDITS="1000"
        )
        house.start_web(ZWEIBLICK_SIGN_IN_RATE="1000/min", ZWEIBLICK_REMOVAL_CREDITS="1000")
        keeper = Keeper(house, rng)
        client = Client(f"http://127.0.0.1:{house.ports['web']}")
        client.sign_in()
        while counts(house)["work unfinished"]:
            time.sleep(1)
        service = Service(house)
        wait_for_tiers(client)
        before, credits = counts(house), service.credits()
        times = []
        for number in range(given.loops):
            to = ("desk", "outside")[number % 2]
            service.schedule(rng.sample(FAULTS, rng.choice((0, 1, 2, 3))))
            times.append(loop(client, keeper, rng, to))
            print(
                f"  loop {number + 1}, {to}: {times[-1]:.0f} s, kills so far {dict(keeper.kills)}",
                flush=True,
            )
        while counts(house)["work unfinished"]:
            time.sleep(1)
        after = counts(house)
        keeper.running = False
        print(
            f"{given.loops} loops, kills {dict(keeper.kills)}, {sum(times) / len(times):.0f} s each"
        )
        for name in sorted(after):
            print(
                f"  {name:28} {before[name]:5} -> {after[name]:5}  (+{after[name] - before[name]})"
            )
        outside = given.loops // 2
        spent = credits - service.credits()
        print(f"  charged by the service: {spent} credits for {outside} orders")
        assert spent == CREDITS * outside, f"{spent} credits for {outside} orders"
        for name, each in (
            ("orders", 1),
            ("orders done", 1),
            ("takes", TAKES),
            ("credits held", CREDITS),
        ):
            grown = after[name] - before[name]
            assert grown == each * outside, f"{name}: {grown} for {outside} orders"
        # A slip to the service comes back as several takes.
        for name in ("attempts", "sources", "checks", "checks done"):
            grown = after[name] - before[name]
            most = given.loops + (TAKES - 1) * outside
            assert given.loops <= grown <= most, f"{name}: {grown} for {given.loops} loops"
        for name, count in (
            ("history: left the house", outside),
            ("history: ordered outside", outside),
        ):
            assert after[name] - before[name] == count, f"{name}: {after[name] - before[name]}"
        for name in (
            "slips rechecked",
            "history: slip written",
            "history: slip sent",
            "history: slip taken up",
            "history: slip returned",
            "history: slip rechecked",
            "history: verdict",
        ):
            grown = after[name] - before[name]
            assert grown == given.loops, f"{name}: {grown} for {given.loops} loops"
        assert after["findings"] == after["findings reported"], (
            "findings stored and reported differ"
        )
        print("nothing lost, nothing doubled")
    finally:
        # What ends now is not to be started again.
        if keeper is not None:
            keeper.running = False
        house.end()


if __name__ == "__main__":
    main()
