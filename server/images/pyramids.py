"""Tile pyramids as work."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .models import Image
from .storage import build_pyramid, folder_of, pyramid_of

if TYPE_CHECKING:
    from work.leases import Lease


def ask_pyramid(image: Image) -> bool:
    """Whether the tiles stand; if not, they are asked for."""
    from work.leases import ask

    derived = pyramid_of(image)
    if derived.ready and folder_of(derived).is_dir():
        return True
    ask("pyramid", str(image.pk), image.picture)
    return False


def run_pyramid(lease: Lease) -> None:
    image = Image.objects.select_related("blob", "picture").get(pk=lease.work.subject)
    lease.progress(0.1, "tiles")
    build_pyramid(image)
    with lease.writing():
        pass
