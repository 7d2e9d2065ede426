"""Sheets for people: a page for each picture, before and after, and a contact sheet of all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak, Spacer, Table, TableStyle

from images.paper import HEAD, SMALL, framed, on_paper, pdf, text


@dataclass(frozen=True)
class Shown:
    """One picture for the sheets: its record, and small uint8 pictures of before and after; boxes
    [x, y, width, height] of its regions, in parts of the picture (0..1).
    """

    record: dict[str, Any]
    before: np.ndarray
    after: np.ndarray
    boxes: list[tuple[float, float, float, float]]


def _crops(shown: Shown) -> list[tuple[np.ndarray, np.ndarray]]:
    """Each region before and after, with a little around it."""
    height, width = shown.before.shape[:2]
    found = []
    for x, y, w, h in shown.boxes:
        margin = 0.15 * max(w * width, h * height)
        left, top = max(0, round(x * width - margin)), max(0, round(y * height - margin))
        right = min(width, max(left + 1, round((x + w) * width + margin)))
        bottom = min(height, max(top + 1, round((y + h) * height + margin)))
        part = np.s_[top:bottom, left:right]
        found.append((shown.before[part], shown.after[part]))
    return found


def _page(shown: Shown) -> list[Flowable]:
    said = shown.record
    signed = said["signed"]
    sizes = ", ".join(size["name"] for size in signed["sizes"])
    rows: list[list[Any]] = [
        [text(words, SMALL) for words in ("", "region", "held by", "before", "after")]
    ]
    for region, (before, after) in zip(said["regions"], _crops(shown), strict=True):
        rulings = region["rulings"]
        last = rulings[-1] if rulings else None
        held = f"{last['ruling']}, {last['person']}, {last['at'][:10]}" if last else "nobody ruled"
        rows.append(
            [
                text(region["number"], SMALL),
                text(region["name"], SMALL),
                text(held, SMALL),
                on_paper(before, 34 * mm, 16 * mm),
                on_paper(after, 34 * mm, 16 * mm),
            ]
        )
    table = Table(rows, colWidths=[8 * mm, 42 * mm, 62 * mm, 38 * mm, 38 * mm], repeatRows=1)
    table.setStyle(
        TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, -1), 0.3, colors.grey),
                ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ]
        )
    )
    pictures = Table(
        [
            [
                on_paper(
                    framed(
                        shown.before, shown.boxes, [str(one + 1) for one in range(len(shown.boxes))]
                    ),
                    128 * mm,
                    84 * mm,
                ),
                on_paper(shown.after, 128 * mm, 84 * mm),
            ],
            [
                text("before", SMALL),
                text(f"after: attempt {said['attempt']}, {said['method']}", SMALL),
            ],
        ],
        colWidths=[131 * mm, 131 * mm],
    )
    return [
        text(f"{said['number']:02d} {said['name']}", HEAD),
        text(f"signed off by {signed['person']}, {signed['at'][:10]}, for {sizes}"),
        Spacer(1, 3 * mm),
        pictures,
        Spacer(1, 3 * mm),
        table,
    ]


def _contacts(shown: list[Shown], across: int = 4) -> list[Flowable]:
    cells = [
        [
            on_paper(one.after, 58 * mm, 40 * mm),
            text(f"{one.record['number']:02d} {one.record['name']}", SMALL),
        ]
        for one in shown
    ]
    rows = [cells[at : at + across] for at in range(0, len(cells), across)]
    rows[-1] += [[] for _ in range(across - len(rows[-1]))]
    table = Table(rows, colWidths=[65 * mm] * across)
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "BOTTOM")]))
    return [table]


def before_and_after(job: str, shown: list[Shown]) -> bytes:
    """A PDF with a page for each picture: before, after, its regions and who held them."""
    parts: list[Flowable] = []
    for one in shown:
        parts += [*_page(one), PageBreak()]
    return pdf(f"{job}: before and after", parts[:-1])


def contact_sheet(job: str, shown: list[Shown]) -> bytes:
    """A PDF of all pictures as they leave."""
    return pdf(f"{job}: contact sheet", [text(job, HEAD), Spacer(1, 4 * mm), *_contacts(shown)])
