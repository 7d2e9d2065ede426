"""The demo's shot: filmed, brought in as anybody's would be, examined by the workers later."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

from shots.making import Brought, make_shot
from shots.models import Footage, Shot
from shots.receiving import WORK, keep

from demo import quay_shot
from jobs.models import Job
from people.models import Person
from work.models import Work

from .ahead import do_ahead


def load_shot(job: Job, person: Person, say: Callable[[str], None]) -> None:
    """Bring the shot in if it is not there. One that was broken off goes on."""
    if Shot.objects.filter(job=job, name=quay_shot.NAME).exists():
        return
    say(f"  {quay_shot.NAME}")
    with ProcessPoolExecutor(2) as pool:
        original = pool.submit(quay_shot.original_file)
        masks = pool.submit(quay_shot.masks_file)
        results = list(pool.map(quay_shot.attempt_file, range(len(quay_shot.ATTEMPTS))))
        files = [
            (quay_shot.ORIGINAL, original.result()),
            (quay_shot.MASKS, masks.result()),
            *zip((one.file for one in quay_shot.ATTEMPTS), results, strict=True),
        ]
    rows = [_kept(job, name, data, person) for name, data in files]
    works = Work.objects.filter(kind=WORK, subject__in=[str(row.pk) for row in rows])
    do_ahead([work.pk for work in works if work.state != "done"])
    first, outlines, *others = rows
    make_shot(
        job,
        quay_shot.NAME,
        first.pk,
        [
            Brought(row.pk, one.method, one.maker)
            for row, one in zip(others, quay_shot.ATTEMPTS, strict=True)
        ],
        outlines.pk,
        person,
    )


def _kept(job: Job, name: str, data: bytes, person: Person) -> Footage:
    sha256 = hashlib.sha256(data).hexdigest()
    known = Footage.objects.filter(job=job, blob=sha256).first()
    return known or keep(job, name, lambda: iter([data]), len(data), person)
