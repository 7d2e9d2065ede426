"""Slip packages: built by a worker once a slip is on its way, kept while it is worked."""

from __future__ import annotations

from django.db import transaction

from images.crops import NotYet
from store.places import deliveries
from store.strays import remove_strays
from work.leases import Later, Lease, ask

from .models import Slip
from .packing import package_of

_FOLDER = "slips/"


def stored_name(slip: Slip) -> str:
    """Where a slip's package lies. Handed over or sent anew, a slip has another."""
    return f"{_FOLDER}{slip.key[:2]}/{slip.key}.zip"


def is_kept(slip: Slip) -> bool:
    """Whether its package is there: it may be gone though nobody removed it, as after a restore."""
    return slip.packed == slip.key and deliveries().is_file(stored_name(slip))


@transaction.atomic
def ask_package(slip: Slip) -> None:
    """Have a slip's package built as it stands."""
    Slip.objects.filter(pk=slip.pk).update(packed="")
    ask("package", str(slip.pk), slip.picture)


def run_package(lease: Lease) -> None:
    """Build it.

    Raises:
        Later: the attempt's tiles, which the evidence is cut from, are being made.
    """
    slip = Slip.objects.select_related(
        "picture__job", "attempt__image__blob", "attempt__image__picture"
    ).get(pk=lease.work.subject)
    lease.progress(0.1, "packing")
    try:
        data = package_of(slip)
    except NotYet as error:
        raise Later("the picture's tiles are being made") from error
    deliveries().write(stored_name(slip), [data])
    with lease.writing():
        Slip.objects.filter(pk=slip.pk, key=slip.key).update(packed=slip.key)


def forget_packages() -> None:
    """Packages of slips that are not worked any more are kept no longer, nor what a former key
    left.
    """
    rows = Slip.objects.exclude(packed="").exclude(
        state__in=("written", "sent", "working", "question", "failed")
    )
    for row in rows[:200]:
        deliveries().remove(stored_name(row))
        Slip.objects.filter(pk=row.pk).update(packed="")
    kept = {stored_name(row) for row in Slip.objects.exclude(packed="").only("key")}
    remove_strays(deliveries(), _FOLDER, kept)
