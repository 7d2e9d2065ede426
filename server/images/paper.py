"""What PDFs for people share: words, pictures on paper, a document."""

from __future__ import annotations

import io
from xml.sax.saxutils import escape

import cv2
import numpy as np
from reportlab.lib.pagesizes import A4, landscape, portrait
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Image, Paragraph, SimpleDocTemplate

#: The longest side of a picture on paper, pixels.
_SIDE = 1400
PLAIN = ParagraphStyle("plain", fontName="Helvetica", fontSize=9, leading=12)
HEAD = ParagraphStyle("head", fontName="Helvetica-Bold", fontSize=13, leading=17)
SMALL = ParagraphStyle("small", fontName="Helvetica", fontSize=7.5, leading=9.5)


def small(pixels: np.ndarray) -> np.ndarray:
    """A picture small enough for a sheet, uint8."""
    scale = min(1.0, _SIDE / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def on_paper(pixels: np.ndarray, width: float, height: float) -> Image:
    """uint8 pixels, as large as fits into so many points."""
    ok, data = cv2.imencode(
        ".jpg", np.ascontiguousarray(pixels[..., ::-1]), [cv2.IMWRITE_JPEG_QUALITY, 85]
    )
    assert ok
    scale = min(width / pixels.shape[1], height / pixels.shape[0])
    return Image(io.BytesIO(data.tobytes()), pixels.shape[1] * scale, pixels.shape[0] * scale)


def framed(
    pixels: np.ndarray, boxes: list[tuple[float, float, float, float]], names: list[str]
) -> np.ndarray:
    """A picture with boxes [x, y, width, height], in parts of it (0..1), framed and named."""
    pixels = pixels.copy()
    height, width = pixels.shape[:2]
    for name, (x, y, w, h) in zip(names, boxes, strict=True):
        start = (round(x * width), round(y * height))
        end = (round((x + w) * width), round((y + h) * height))
        at = (start[0] + 6, start[1] + 26)
        for colour, thick in (((0, 0, 0), 5), ((255, 255, 255), 2)):
            cv2.rectangle(pixels, start, end, colour, thick)
            cv2.putText(pixels, name, at, cv2.FONT_HERSHEY_SIMPLEX, 0.8, colour, thick)
    return pixels


def text(words: object, style: ParagraphStyle = PLAIN) -> Paragraph:
    """Words as they are, nothing in them read as markup."""
    return Paragraph(escape(str(words)), style)


def pdf(title: str, parts: list[Flowable], upright: bool = False) -> bytes:
    """An A4 document. The same content gives the same bytes, whenever it is written."""
    made = io.BytesIO()
    SimpleDocTemplate(
        made,
        pagesize=(portrait if upright else landscape)(A4),
        leftMargin=15 * mm,
        rightMargin=15 * mm,
        topMargin=12 * mm,
        bottomMargin=12 * mm,
        title=title,
        invariant=1,
    ).build(parts)
    return made.getvalue()
