"""Single frames of footage at full size, without loss: what a proxy is too small for. A PNG says in a comment
which frame it is.
"""

from __future__ import annotations

import numpy as np
from django.db import transaction
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from images.derivation import folder_name, keep_ready, key_of, stands_whole
from images.models import Derived
from store.places import derived as derived_store
from work.leases import Lease, ask
from zweiblick_core.io import eight_bit

from .models import Footage
from .opening import opened

#: What is asked of the queue.
WORK = "single frame"
_VERSION = 1
#: It is looked at once or twice, on loopback or nearby: it has to be there soon rather than be small.
_COMPRESSION = 1


def single_of(footage: Footage, frame: int) -> Derived:
    """What a frame's picture is called; the row may not be stored yet. Writes nothing."""
    key = key_of(footage.blob_id, "single frame", {"frame": frame}, _VERSION)
    return Derived.objects.filter(pk=key).first() or Derived(
        key=key,
        source_id=footage.blob_id,
        recipe="single frame",
        parameters={"frame": frame},
        version=_VERSION,
    )


def name_of(single: Derived) -> str | None:
    """The picture's name in the store; None while it does not stand."""
    return f"{folder_name(single)}/frame.png" if stands_whole(single) else None


@transaction.atomic
def ask_single(footage: Footage, frame: int) -> None:
    """Have a frame drawn unless it stands. `frame`: counted from 0, below the footage's count."""
    if not stands_whole(single_of(footage, frame)):
        ask(WORK, f"{footage.pk} {frame}")


def run_single(lease: Lease) -> None:
    """Draw it; whole or not there. Safe to run twice."""
    pk, frame = map(int, lease.work.subject.split())
    footage = Footage.objects.filter(pk=pk).select_related("blob").first()
    if footage is None:
        with lease.writing():
            return
    single = single_of(footage, frame)
    if not stands_whole(single):
        pixels = np.round(eight_bit(opened(footage).at(frame))).astype(np.uint8)
        said = PngInfo()
        said.add_text("Comment", f"frame {frame}")
        with derived_store().making(folder_name(single)) as folder:
            Image.fromarray(np.ascontiguousarray(pixels)).save(
                folder / "frame.png", pnginfo=said, compress_level=_COMPRESSION
            )
    with lease.writing():
        keep_ready(single)
