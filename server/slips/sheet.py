"""A slip on paper: what is wrong with each region, and what to do differently."""

from __future__ import annotations

import numpy as np
from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, Spacer, Table, TableStyle

from images.paper import HEAD, SMALL, framed, on_paper, pdf, small, text
from zweiblick_core.rules.advice import CHANGES

from .models import Slip, SlipRegion

_WIDTH = 180 * mm


def slip_sheet(
    slip: Slip,
    sent: list[SlipRegion],
    attempt: np.ndarray,
    places: dict[int, tuple[float, float, float, float]],
    crops: dict[int, list[np.ndarray]],
) -> bytes:
    """A PDF.

    Args:
        attempt: what is worked on, uint8 (height, width, 3).
        places: by region, [x, y, width, height] of it there, in parts of the picture (0..1);
            regions that it does not show are missing.
        crops: by region, the place of each of its flaws, uint8.
    """
    numbers = {part.region_id: str(part.region.number) for part in sent}
    shown = framed(small(attempt), list(places.values()), [numbers[region] for region in places])
    due = f", due {slip.due.isoformat()}" if slip.due else ""
    picture = slip.picture
    parts: list[Flowable] = [
        text(f"Slip {slip.round}: {picture.number:02d} {picture.name}", HEAD),
        text(f"{picture.job.name}; attempt {slip.attempt.number}, to {slip.recipient}{due}"),
        *([text(slip.note)] if slip.note else []),
        Spacer(1, 3 * mm),
        on_paper(shown, _WIDTH, 110 * mm),
        Spacer(1, 3 * mm),
    ]
    for part in sent:
        parts += _region(part, crops.get(part.region_id, []))
    return pdf(f"Slip {slip.round}, {picture.name}", parts, upright=True)


def _region(part: SlipRegion, crops: list[np.ndarray]) -> list[Flowable]:
    head = f"{part.region.number} {part.region.name}: {part.verdict.ruling}"
    rows = [
        [
            on_paper(crop, 60 * mm, 32 * mm),
            [text(f"{flaw['kind']}, {flaw.get('word') or ''}"), text(_said(flaw), SMALL)],
        ]
        for flaw, crop in zip(part.flaws, crops, strict=True)
    ]
    found: list[Flowable] = [text(head, HEAD)]
    if rows:
        table = Table(rows, colWidths=[64 * mm, _WIDTH - 64 * mm])
        table.setStyle(
            TableStyle(
                [
                    ("LINEBELOW", (0, 0), (-1, -1), 0.3, colors.grey),
                    ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ]
            )
        )
        found.append(table)
    found += [text(_asked(change)) for change in part.changes]
    if part.note:
        found.append(text(part.note))
    return [KeepTogether(found), Spacer(1, 4 * mm)]


def _said(flaw: dict[str, object]) -> str:
    said = f" “{flaw['words']}”" if flaw.get("words") else ""
    return f"{flaw.get('group_words') or ''}{said}"


def _asked(change: dict[str, object]) -> str:
    """A change in words, with the numbers it was given."""
    values = change.get("values")
    given = (
        ", ".join(f"{name} {value}" for name, value in values.items() if not _drawn(value))
        if isinstance(values, dict)
        else ""
    )
    words = CHANGES.get(str(change["what"]), str(change["what"]))
    why = f" ({change['why']})" if change.get("why") else ""
    return f"- {words}{': ' + given if given else ''}{why}"


def _drawn(value: object) -> bool:
    """What is drawn on the picture is no number to read."""
    return isinstance(value, (list, dict))
