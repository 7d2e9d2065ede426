"""The record that goes along: every ruling, who, when, on what evidence. Its schema is
`zweiblick.record/1`, docs/record-1.schema.json.
"""

from __future__ import annotations

import csv
import io
from typing import Any

from attempts.models import Attempt
from checks.models import CheckedRegion
from jobs.models import Job
from looks.models import OwnFinding
from regions.models import RegionVersion
from verdicts.models import Verdict

from .models import SignOff

SCHEMA = "zweiblick.record/1"


def record_of(job: Job, signed: list[tuple[SignOff, dict[str, Any]]]) -> dict[str, Any]:
    """The record of some signed pictures.

    Args:
        signed: each sign-off with what was made of it: {folder, files, done}.
    """
    return {
        "schema": SCHEMA,
        "job": job.name,
        "client": job.client,
        "use": job.use,
        "sizes": [{"name": size.name, "spec": size.spec} for size in job.sizes.all()],
        "pictures": [{**_picture(row), **made} for row, made in signed],
    }


def _picture(row: SignOff) -> dict[str, Any]:
    picture, attempt = row.picture, row.attempt
    return {
        "number": picture.number,
        "name": picture.name,
        "attempt": attempt.number,
        "method": attempt.run.method.name,
        "maker": attempt.maker,
        "original": {"name": picture.original.name, "sha256": picture.original.blob_id},
        "result": {"name": attempt.image.name, "sha256": attempt.image.blob_id},
        "signed": {
            "person": row.person.called,
            "at": row.made_at.isoformat(),
            "sizes": row.sizes,
            "changes_outside_accepted": row.outside,
        },
        "attempts": [
            _attempt(one)
            for one in picture.attempts.filter(made_at__lte=row.made_at).select_related(
                "run__method"
            )
        ],
        "regions": [_region(row, attempt, version) for version in row.regions()],
    }


def _attempt(one: Attempt) -> dict[str, Any]:
    return {
        "number": one.number,
        "method": one.run.method.name,
        "kind": one.run.method.kind,
        "maker": one.maker,
        "settings": one.run.settings,
        "seconds": one.run.seconds,
        "cost": str(one.run.cost) if one.run.cost is not None else None,
        "made_from": [source.source.number for source in one.sources.select_related("source")],
        "at": one.made_at.isoformat(),
    }


def _region(row: SignOff, attempt: Attempt, version: RegionVersion) -> dict[str, Any]:
    region = version.region
    checked = (
        CheckedRegion.objects.filter(
            check_run__attempt=attempt, check_run__state="done", region_version__region=region
        )
        .select_related("check_run")
        .prefetch_related("findings__rulings__person")
        .order_by("-check_run_id")
        .first()
    )
    own = OwnFinding.objects.standing().filter(attempt=attempt, region_version__region=region)
    return {
        "number": region.number,
        "name": region.name,
        "outline": version.version,
        "core_version": checked.check_run.core_version if checked else None,
        "findings": [
            {
                "kind": finding.kind,
                "bbox": finding.bbox,
                "measure": finding.measure,
                "answers": [
                    {
                        "answer": answer.answer,
                        "words": answer.words,
                        "person": answer.person.called,
                        "at": answer.made_at.isoformat(),
                    }
                    for answer in finding.rulings.all()
                ],
            }
            for finding in (checked.findings.all() if checked else ())
        ],
        "seen_by_people": [
            {"kind": mark.kind, "words": mark.words, "person": mark.person.called}
            for mark in own.select_related("person")
        ],
        "rulings": [
            {
                "attempt": verdict.cell.attempt.number,
                "ruling": verdict.ruling,
                "size": verdict.size.name if verdict.size else None,
                "person": verdict.person.called,
                "words": verdict.words,
                "at": verdict.made_at.isoformat(),
                "carried": verdict.carried_from_id is not None,
                "check": verdict.examination_id,
            }
            for verdict in Verdict.objects.filter(
                # As it was signed: what was ruled later, after it was reopened, is not of it.
                cell__region=region,
                cell__attempt__picture=row.picture,
                made_at__lte=row.made_at,
            )
            .select_related("cell__attempt", "size", "person")
            .order_by("id")
        ],
    }


#: Columns of the tables, in their order.
RULINGS = ("picture", "region", "attempt", "ruling", "size", "person", "at", "carried", "words")
FILES = ("picture", "file", "sha256", "bytes")


def _safe(value: object) -> object:
    """No cell begins a formula, whatever somebody called a thing."""
    text = value if isinstance(value, str) else None
    return f"'{text}" if text and text[0] in "=+-@\t\r" else value


def table(columns: tuple[str, ...], rows: list[dict[str, Any]]) -> bytes:
    """A CSV with a heading; UTF-8 with its mark, so that spreadsheets read it right."""
    text = io.StringIO()
    made = csv.writer(text)
    made.writerow(columns)
    for row in rows:
        made.writerow([_safe(row.get(column)) for column in columns])
    return b"\xef\xbb\xbf" + text.getvalue().encode()


def rulings_of(record: dict[str, Any]) -> list[dict[str, Any]]:
    """A record's rulings, a row each."""
    return [
        {"picture": picture["name"], "region": region["name"], **ruling}
        for picture in record["pictures"]
        for region in picture["regions"]
        for ruling in region["rulings"]
    ]
