"""What reading costs with few pictures and with many: queries and milliseconds of the Desk, a job's
page, the Bench, the Tally and the slips, at 5, 50 and 500 pictures of eight cells.

    .venv/bin/python benchmarks/reading.py [--pictures 5 50 500]

Starts a database of its own and asks the server's views in this process, so that no network counts.
"""

from __future__ import annotations

import argparse
import os
import statistics
import sys
import time
from pathlib import Path
from typing import Any

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO / "bin" / "support"), str(REPO / "server"), str(REPO / "core")]
from services import House  # noqa: E402

ROUNDS = 7
ATTEMPTS, REGIONS = 4, 2


def _model_picture() -> Any:
    """One real picture with checked attempts, of which all others are copies in rows."""
    sys.path.insert(0, str(REPO / "tests"))
    from builders import disc, filled, holding, png, textured, with_thing
    from house import do_all_work

    from attempts.intake import Facts, add_attempt, add_picture
    from jobs.models import DeliverySize, Job, Membership
    from people.models import Person

    vera = Person.objects.create_user("vera", password="a long password", name="Vera")
    job = Job.objects.create(name="Harbour Year", client="Town archive")
    DeliverySize.objects.create(job=job, name="wall", spec="594x420mm@150dpi@700mm")
    DeliverySize.objects.create(job=job, name="phone", spec="1080px@430dpi@350mm", position=1)
    Membership.objects.create(job=job, person=vera, role="supervisor")
    truth = textured(300, 400, seed=4)
    masks = [disc(truth.shape[:2], x, 150, 34) for x in (110, 290)]
    both = masks[0] | masks[1]
    named = list(zip(("buoy", "hose reel"), masks, strict=True))
    picture = add_picture(job, "Slipway", "slipway.png", png(with_thing(truth, both)), named, vera)
    for number in range(ATTEMPTS):
        pixels = filled(truth, both, truth.astype(float) + 26 - 8 * number)
        pixels = holding(truth, both) if number == ATTEMPTS - 1 else pixels
        facts = Facts(f"method {number}", "built in", "us", 2.0)
        add_attempt(picture, f"slipway-{number}.png", png(pixels), facts, vera)
    do_all_work()
    return picture


def _copies(picture: Any, count: int) -> None:
    """As many more pictures, in rows: their files are the first one's."""
    from attempts.models import Attempt
    from checks.models import Check, CheckedRegion, Finding
    from images.models import Image
    from jobs.models import Picture
    from ledger.standing import refresh
    from regions.models import Region
    from verdicts.models import Cell

    results = list(picture.attempts.select_related("image", "run"))
    regions = list(picture.regions.select_related("current"))
    checks = {check.attempt_id: check for check in Check.objects.filter(attempt__in=results)}
    numbers = Picture.every.filter(job=picture.job).count()
    for number in range(numbers + 1, numbers + count + 1):
        row = Picture.objects.create(job=picture.job, number=number, name=f"Picture {number}")
        mine = [
            Region.objects.create(
                picture=row, number=one.number, name=one.name, current=one.current
            )
            for one in regions
        ]
        _image(Image, row, picture.original)
        for result in results:
            attempt = Attempt.objects.create(
                picture=row,
                number=result.number,
                image=_image(Image, row, result.image),
                run=result.run,
                state="checked",
            )
            old = checks[result.pk]
            check = Check.objects.create(
                attempt=attempt,
                fingerprint=f"{number} {result.number}",
                core_version=old.core_version,
                state="done",
                overall=old.overall,
            )
            for part in old.regions.prefetch_related("findings"):
                made = CheckedRegion.objects.create(
                    check_run=check,
                    region_version=part.region_version,
                    overall=part.overall,
                    backdrop=part.backdrop,
                    groups=part.groups,
                )
                for finding in part.findings.all():
                    finding.pk, finding.checked = None, made
                Finding.objects.bulk_create(list(part.findings.all()))
            Cell.objects.bulk_create([Cell(attempt=attempt, region=one) for one in mine])
        refresh(row.pk)


def _image(model: Any, picture: Any, like: Any) -> Any:
    return model.objects.create(
        picture=picture,
        blob=like.blob,
        role=like.role,
        name=like.name,
        width=like.width,
        height=like.height,
        format=like.format,
        depth=like.depth,
        profile=like.profile,
    )


def _asked(client: Any, path: str) -> tuple[int, float, int]:
    """(queries, median milliseconds, bytes) of a path."""
    from django.db import connection

    client.get(path)
    asked: list[str] = []

    def noted(execute: Any, sql: str, *more: Any) -> Any:
        asked.append(sql)
        return execute(sql, *more)

    with connection.execute_wrapper(noted):
        answer = client.get(path)
    assert answer.status_code == 200, (path, answer.status_code)
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        client.get(path)
        times.append(1000 * (time.perf_counter() - start))
    return len(asked), statistics.median(times), len(answer.content)


def measure(pictures: list[int]) -> None:
    """Print a table: a line for each page and number of pictures."""
    from django.test import Client

    from people.models import Person

    picture = _model_picture()
    client = Client()
    client.force_login(
        Person.objects.get(username="vera"), "django.contrib.auth.backends.ModelBackend"
    )
    print(f"{'page':14} {'pictures':>8} {'queries':>8} {'ms':>8} {'kB':>8}", flush=True)
    have = 1
    for count in pictures:
        _copies(picture, count - have)
        have = count
        for name, path in (
            ("Desk", "/api/desk/"),
            ("Desk, since", ""),
            ("job", f"/api/jobs/{picture.job_id}/sheet/"),
            ("Bench", f"/api/pictures/{picture.pk}/bench/"),
            ("Tally", "/api/tally/"),
            ("slips", "/api/slips/"),
        ):
            if not path:
                path = f"/api/desk/?since={client.get('/api/desk/').json()['stamp']}"
            queries, took, size = _asked(client, path)
            print(
                f"{name:14} {count:8} {queries:8} {took:8.1f} {size / 1000:8.1f}",
                flush=True,
            )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pictures", type=int, nargs="+", default=[5, 50, 500])
    given = parser.parse_args()
    house = House(".run-reading")
    house.settle_earlier()
    house.choose_ports(("mariadb", "redis"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.manage("reset_database")
        house.prepare_database()
        os.environ.update(house.environment())
        import django

        django.setup()
        from django.conf import settings

        settings.ALLOWED_HOSTS = ["testserver"]
        measure(sorted(given.pictures))
    finally:
        house.end()


if __name__ == "__main__":
    main()
