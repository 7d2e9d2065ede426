"""A house for a benchmark: its services, and code that runs inside it."""

from __future__ import annotations

import contextlib
import json
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO / "bin" / "support")]
from services import House  # noqa: E402

PASSWORD = "a password of the benchmarks"
#: Somebody who supervises one job of one size; `job` and `vera` are there for what follows.
_BEGINNING = """
import django; django.setup()
import json, sys
sys.path[:0] = [{repo!r}, {repo!r} + "/tests"]
from people.models import Person
from jobs.models import Job, DeliverySize, Membership
vera, _ = Person.objects.get_or_create(username="vera", defaults={{"name": "Vera"}})
vera.set_password({password!r}); vera.save()
job, made = Job.objects.get_or_create(name="Pier Album")
if made:
    DeliverySize.objects.create(job=job, name="postcard", spec="148x105mm@300dpi@350mm")
    Membership.objects.create(job=job, person=vera, role="supervisor")
"""


@contextlib.contextmanager
def house_of(*servers: str) -> Iterator[House]:
    """A house of its own that begins empty; `servers` of "workers" and "web"."""
    house = House(".run-loops")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.manage("reset_database")
        house.prepare_database()
        if "workers" in servers:
            house.start_workers()
        if "web" in servers:
            house.start_web(ZWEIBLICK_SIGN_IN_RATE="1000/min")
        yield house
    finally:
        house.end()


def inside(house: House, code: str) -> Any:
    """Run code inside the house, in a process of its own; what its last line prints, from JSON."""
    begin = _BEGINNING.format(repo=str(REPO), password=PASSWORD)
    done = subprocess.run(
        [sys.executable, "-c", begin + code],
        env=house.environment(),
        cwd=REPO / "server",
        capture_output=True,
        text=True,
    )
    if done.returncode:
        raise SystemExit(done.stderr[-3000:])
    return json.loads(done.stdout.splitlines()[-1])


def base_of(house: House) -> str:
    return f"http://127.0.0.1:{house.ports['web']}"
