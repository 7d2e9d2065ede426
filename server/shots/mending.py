"""A slip that goes to what is built in: a worker mends the frames and stores a new attempt."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from django.db.models import Max

from images.blobs import put_stream
from work.leases import Lease
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import advance
from zweiblick_core.shots import Mending, mend
from zweiblick_core.shots.writing import write_shot

from .checking import ask_check
from .models import OUT, Footage, ShotAttempt, ShotSlip
from .opening import opened
from .outlining import drawn_in
from .proxies import ask_proxies
from .sending import answered, step
from .slips import held_slip

_CHUNK = 1 << 20
_MEDIA = "video/x-matroska"


def run_mending(lease: Lease) -> None:
    """Mend what a slip asks for, and store it with the slip's state under the lease's token.

    Raises:
        Refused: it cannot be done.
    """
    slip = ShotSlip.objects.select_related(
        "shot__original__blob", "shot__job", "attempt__footage__blob", "written_by"
    ).get(pk=lease.work.subject)
    if slip.state not in OUT or slip.method is None:
        with lease.writing():
            return
    step(slip, "taken up", None)
    shot = slip.shot
    base = opened(slip.attempt.footage if slip.attempt else shot.original)
    asked = Mending(
        {
            str(part["number"]): tuple((first, last) for first, last in part["ranges"])
            for part in slip.parts
        },
        _repaired(slip),
        int(slip.method["seed"]),
    )
    with tempfile.TemporaryDirectory(prefix="zweiblick-mended-") as folder:
        path = Path(folder) / "mended.mkv"
        frames = mend(
            opened(shot.original),
            base,
            drawn_in(shot),
            asked,
            lambda part, words: lease.progress(0.9 * part, words),
        )
        write_shot(path, frames, base.rate)
        lease.progress(0.92, "storing")
        sha256 = _hash(path)
        blob = put_stream(lambda: _chunks(path), sha256, path.stat().st_size, _MEDIA)
    with lease.writing():
        row = held_slip(slip)
        if row.state not in OUT:
            return  # withdrawn meanwhile
        if Footage.objects.filter(job=shot.job, blob=blob).exists():
            raise Refused("this is what an attempt shows already")
        footage = Footage.objects.create(
            job=shot.job,
            blob=blob,
            name=f"{shot.name[:140]}, slip {row.round}.mkv",
            state="ready",
            holds="frames",
            form="ffv1",
            frames=base.count,
            first=0,
            width=base.width,
            height=base.height,
            depth=16 if base.depth > 8 else 8,
            rate=str(base.rate),
            facts=["matrix: R'G'B'", "range: full"],
            person=slip.written_by,
        )
        ask_proxies(footage)
        attempt = ShotAttempt.objects.create(
            shot=shot,
            number=(shot.attempts.aggregate(most=Max("number"))["most"] or 0) + 1,
            footage=footage,
            method=str(slip.method["name"]),
            maker="built in",
        )
        answered(row, attempt, advance("slip", row.state, "returned"), None)
        ask_check(attempt)


def _repaired(slip: ShotSlip) -> dict[int, np.ndarray]:
    """The frames that people repaired, by number."""
    assert slip.method is not None
    given = slip.method["repaired"]
    if given is None:
        return {}
    attempt = ShotAttempt.objects.select_related("footage__blob").get(pk=given["attempt"])
    wanted = set(given["frames"])
    return {
        number: pixels for number, pixels in enumerate(opened(attempt.footage)) if number in wanted
    }


def _chunks(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            yield chunk


def _hash(path: Path) -> str:
    digest = hashlib.sha256()
    for chunk in _chunks(path):
        digest.update(chunk)
    return digest.hexdigest()


def mending_failed(work: Work) -> None:
    """It could not be done: people see why, and can send it again or withdraw it."""
    slip = ShotSlip.objects.filter(pk=work.subject, state__in=("sent", "working")).first()
    if slip is not None:
        ShotSlip.objects.filter(pk=slip.pk).update(
            state=advance("slip", slip.state, "failed"), reason=work.error
        )
