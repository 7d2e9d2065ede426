"""Signing off and delivering as the API says them."""

from __future__ import annotations

from typing import Any

from attempts.models import Attempt
from jobs.models import Job, Membership, Picture, Release
from ledger.book import Ledger, ledger
from signing.keeping import is_kept
from signing.models import Delivery, SignOff
from signing.signing import accepted_in, leaving, standing_of
from work.models import Work
from zweiblick_core.rules.signing import refuse_signing
from zweiblick_core.visibility import parse_size

from .remark_shapes import remarks_of
from .shapes import image_of

#: So many deliveries of a job are listed.
_LISTED = 50


def signing_of(picture: Picture) -> dict[str, Any]:
    """What leaves, what stands in the way, who signed."""
    rows = list(
        picture.sign_offs.select_related("attempt__run__method", "person", "reopened_by").order_by(
            "-id"
        )
    )
    standing = next((row for row in rows if row.reopened_at is None), None)
    book = ledger(picture)
    attempt = standing.attempt if standing else leaving(picture)
    if attempt is not None:
        attempt.image.picture = picture
    facts = standing_of(picture, attempt) if attempt else None
    reasons = ["No attempt holds in every region yet."]
    if facts is not None:
        reasons = [] if standing else refuse_signing(facts)
    return {
        "picture": picture.pk,
        "number": picture.number,
        "name": picture.name,
        "job": picture.job.name,
        "job_id": picture.job_id,
        "attempt": attempt.pk if attempt else None,
        "attempt_number": attempt.number if attempt else None,
        "method": attempt.run.method.name if attempt else "",
        "original": image_of(picture.original),
        "image": image_of(attempt.image) if attempt else None,
        "reasons": reasons,
        "use": picture.job.use,
        "sizes": [_size(picture, size.name, size.spec) for size in picture.job.sizes.all()],
        "regions": _held(book, attempt),
        "accepted": accepted_in(attempt) if attempt else [],
        "signed": _signed(standing) if standing else None,
        "past": [_signed(row) for row in rows if row.reopened_at is not None],
        "guests": _guests(picture, attempt),
        "remarks": remarks_of(picture),
        "places": [
            {
                "id": region.pk,
                "number": region.number,
                "name": region.name,
                "bbox": list(region.drawn.bbox),
            }
            for region in book.regions
        ],
    }


def _size(picture: Picture, name: str, spec: str) -> dict[str, Any]:
    original = picture.original
    scale = min(1.0, parse_size(spec).scale(original.width, original.height))
    return {
        "name": name,
        "spec": spec,
        "width": round(original.width * scale),
        "height": round(original.height * scale),
    }


def _held(book: Ledger, attempt: Attempt | None) -> list[dict[str, Any]]:
    by_region = {
        cell.region_id: cell for cell in book.cells if attempt and cell.attempt_id == attempt.pk
    }
    rows = []
    for region in book.regions:
        cell = by_region.get(region.pk)
        verdict = cell.current if cell else None
        rows.append(
            {
                "number": region.number,
                "name": region.name,
                "ruling": verdict.ruling if verdict else None,
                "person": verdict.person.called if verdict else None,
                "size": verdict.size.name if verdict and verdict.size else None,
            }
        )
    return rows


def _signed(row: SignOff) -> dict[str, Any]:
    return {
        "attempt": row.attempt.number,
        "person": row.person.called,
        "at": row.made_at,
        "outside": row.outside,
        "reopened_by": row.reopened_by.called if row.reopened_by else None,
        "reopened_at": row.reopened_at,
        "reason": row.reason,
    }


def _guests(picture: Picture, attempt: Attempt | None) -> list[dict[str, Any]]:
    released = set(
        Release.objects.filter(picture=picture, attempt=attempt).values_list("person_id", flat=True)
    )
    members = Membership.objects.filter(job=picture.job, role=Membership.Role.GUEST)
    return [
        {"id": row.person_id, "name": row.person.called, "released": row.person_id in released}
        for row in members.select_related("person").order_by("person__name", "id")
    ]


def deliveries_of(job: Job) -> dict[str, Any]:
    """A job's signed pictures and what was built of them; the number of queries stays the same."""
    signed = (
        SignOff.objects.filter(standing__job=job)
        .select_related("picture", "attempt", "person")
        .order_by("picture__number")
    )
    rows = list(
        job.deliveries.select_related("person").prefetch_related("signed__picture")[:_LISTED]
    )
    work = {
        row.subject: row
        for row in Work.objects.filter(kind="delivery", subject__in=[str(one.pk) for one in rows])
    }
    shown = [
        {
            "picture": row.picture_id,
            "number": row.picture.number,
            "name": row.picture.name,
            "attempt": row.attempt.number,
            "person": row.person.called,
            "at": row.made_at,
        }
        for row in signed
    ]
    return {
        "job": job.name,
        "sizes": [size.name for size in job.sizes.all()],
        "waiting": job.pictures.count() - len(shown),
        "signed": shown,
        "deliveries": [_delivery(row, work.get(str(row.pk))) for row in rows],
    }


def _delivery(row: Delivery, work: Work | None) -> dict[str, Any]:
    out = row.state in ("waiting", "building")
    kept = is_kept(row)
    return {
        "id": row.pk,
        "state": "forgotten" if row.state == "ready" and not kept else row.state,
        "progress": (work.progress if work else 0.0) if out else 1.0,
        "words": work.words if work and out else "",
        "reason": row.reason,
        "pictures": [
            f"{one.picture.number:02d} {one.picture.name}"
            for one in sorted(row.signed.all(), key=lambda one: one.picture.number)
        ],
        "holds": _holds(row.options),
        "bytes": row.size,
        "sha256": row.sha256,
        "file": f"/api/deliveries/{row.pk}/file/" if kept else None,
        "person": row.person.called,
        "at": row.made_at,
    }


def _holds(options: dict[str, Any]) -> list[str]:
    finals = [one.upper() for one in options["finals"]]
    words = {"layered": "layers", "masks": "masks", "sheets": "sheets"}
    return [*finals, *options["sizes"], *(said for name, said in words.items() if options[name])]
