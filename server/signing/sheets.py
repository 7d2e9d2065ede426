"""Sheets for people: a page for each picture, before and after, and a contact sheet of all."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any
from xml.sax.saxutils import escape

import cv2
import numpy as np
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    Flowable,
    Image,
    PageBreak,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

_SIDE = 1400
_PLAIN = ParagraphStyle("plain", fontName="Helvetica", fontSize=9, leading=12)
_HEAD = ParagraphStyle("head", fontName="Helvetica-Bold", fontSize=13, leading=17)
_SMALL = ParagraphStyle("small", fontName="Helvetica", fontSize=7.5, leading=9.5)


@dataclass(frozen=True)
class Shown:
    """One picture for the sheets: its record, and small uint8 pictures of before and after; boxes
    [x, y, width, height] of its regions, in parts of the picture (0..1).
    """

    record: dict[str, Any]
    before: np.ndarray
    after: np.ndarray
    boxes: list[tuple[float, float, float, float]]


def small(pixels: np.ndarray) -> np.ndarray:
    """A picture small enough for a sheet, uint8."""
    scale = min(1.0, _SIDE / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def _picture(pixels: np.ndarray, width: float, height: float) -> Image:
    ok, data = cv2.imencode(
        ".jpg", np.ascontiguousarray(pixels[..., ::-1]), [cv2.IMWRITE_JPEG_QUALITY, 85]
    )
    assert ok
    scale = min(width / pixels.shape[1], height / pixels.shape[0])
    return Image(io.BytesIO(data.tobytes()), pixels.shape[1] * scale, pixels.shape[0] * scale)


def _outlined(shown: Shown) -> np.ndarray:
    """Before, with its regions framed and numbered."""
    pixels = shown.before.copy()
    height, width = pixels.shape[:2]
    for number, (x, y, w, h) in enumerate(shown.boxes, 1):
        corners = (
            (round(x * width), round(y * height)),
            (
                round((x + w) * width),
                round((y + h) * height),
            ),
        )
        cv2.rectangle(pixels, *corners, (0, 0, 0), 5)
        cv2.rectangle(pixels, *corners, (255, 255, 255), 2)
        at = (corners[0][0] + 6, corners[0][1] + 26)
        cv2.putText(pixels, str(number), at, cv2.FONT_HERSHEY_SIMPLEX, 0.8, (0, 0, 0), 5)
        cv2.putText(pixels, str(number), at, cv2.FONT_HERSHEY_SIMPLEX, 0.8, (255, 255, 255), 2)
    return pixels


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


def _text(words: object, style: ParagraphStyle = _PLAIN) -> Paragraph:
    return Paragraph(escape(str(words)), style)


def _page(shown: Shown) -> list[Flowable]:
    said = shown.record
    signed = said["signed"]
    sizes = ", ".join(size["name"] for size in signed["sizes"])
    rows: list[list[Any]] = [
        [_text(words, _SMALL) for words in ("", "region", "held by", "before", "after")]
    ]
    for region, (before, after) in zip(said["regions"], _crops(shown), strict=True):
        rulings = region["rulings"]
        last = rulings[-1] if rulings else None
        held = f"{last['ruling']}, {last['person']}, {last['at'][:10]}" if last else "nobody ruled"
        rows.append(
            [
                _text(region["number"], _SMALL),
                _text(region["name"], _SMALL),
                _text(held, _SMALL),
                _picture(before, 34 * mm, 16 * mm),
                _picture(after, 34 * mm, 16 * mm),
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
                _picture(_outlined(shown), 128 * mm, 84 * mm),
                _picture(shown.after, 128 * mm, 84 * mm),
            ],
            [
                _text("before", _SMALL),
                _text(f"after: attempt {said['attempt']}, {said['method']}", _SMALL),
            ],
        ],
        colWidths=[131 * mm, 131 * mm],
    )
    return [
        _text(f"{said['number']:02d} {said['name']}", _HEAD),
        _text(f"signed off by {signed['person']}, {signed['at'][:10]}, for {sizes}"),
        Spacer(1, 3 * mm),
        pictures,
        Spacer(1, 3 * mm),
        table,
    ]


def _contacts(shown: list[Shown], across: int = 4) -> list[Flowable]:
    cells = [
        [
            _picture(one.after, 58 * mm, 40 * mm),
            _text(f"{one.record['number']:02d} {one.record['name']}", _SMALL),
        ]
        for one in shown
    ]
    rows = [cells[at : at + across] for at in range(0, len(cells), across)]
    rows[-1] += [[] for _ in range(across - len(rows[-1]))]
    table = Table(rows, colWidths=[65 * mm] * across)
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "BOTTOM")]))
    return [table]


def _pdf(title: str, parts: list[Flowable]) -> bytes:
    made = io.BytesIO()
    # The same content gives the same bytes, whenever it is written.
    SimpleDocTemplate(
        made,
        pagesize=landscape(A4),
        leftMargin=15 * mm,
        rightMargin=15 * mm,
        topMargin=12 * mm,
        bottomMargin=12 * mm,
        title=title,
        invariant=1,
    ).build(parts)
    return made.getvalue()


def before_and_after(job: str, shown: list[Shown]) -> bytes:
    """A PDF with a page for each picture: before, after, its regions and who held them."""
    parts: list[Flowable] = []
    for one in shown:
        parts += [*_page(one), PageBreak()]
    return _pdf(f"{job}: before and after", parts[:-1])


def contact_sheet(job: str, shown: list[Shown]) -> bytes:
    """A PDF of all pictures as they leave."""
    return _pdf(f"{job}: contact sheet", [_text(job, _HEAD), Spacer(1, 4 * mm), *_contacts(shown)])
