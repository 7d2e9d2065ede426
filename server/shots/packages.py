"""Packages of shots' slips: built by a worker once a slip goes to a person, kept while it is worked."""

from __future__ import annotations

import tempfile

from django.db import transaction

from store.places import deliveries
from store.strays import remove_strays
from work.leases import Lease, ask

from .models import OUT, ShotSlip
from .packing import pack

#: What is asked of the queue.
WORK = "shot package"
_FOLDER = "shot-slips/"
_CHUNK = 1 << 20


def stored_name(slip: ShotSlip) -> str:
    """Where a slip's package lies. Handed over, a slip has another."""
    return f"{_FOLDER}{slip.key[:2]}/{slip.pk}-{slip.key}.zip"


def is_kept(slip: ShotSlip) -> bool:
    """Whether its package is there: it may be gone though nobody removed it, as after a restore."""
    return slip.packed == slip.key and deliveries().is_file(stored_name(slip))


@transaction.atomic
def ask_package(slip: ShotSlip) -> None:
    """Have a slip's package built as it stands."""
    ShotSlip.objects.filter(pk=slip.pk).update(packed="")
    ask(WORK, str(slip.pk))


def run_package(lease: Lease) -> None:
    """Build it."""
    rows = ShotSlip.objects.select_related(
        "shot__job", "shot__original__blob", "attempt__footage__blob", "written_by"
    )
    slip = rows.get(pk=lease.work.subject)
    with tempfile.TemporaryFile() as file:
        pack(slip, file, lambda part: lease.progress(0.9 * part, "drawing the masks"))
        file.seek(0)
        deliveries().write(stored_name(slip), iter(lambda: file.read(_CHUNK), b""))
    with lease.writing():
        ShotSlip.objects.filter(pk=slip.pk, key=slip.key).update(packed=slip.key)


def forget_packages() -> None:
    """Packages of slips that are not worked any more are kept no longer, nor what a former key left."""
    for row in ShotSlip.objects.exclude(packed="").exclude(state__in=OUT)[:200]:
        deliveries().remove(stored_name(row))
        ShotSlip.objects.filter(pk=row.pk).update(packed="")
    kept = {stored_name(row) for row in ShotSlip.objects.exclude(packed="").only("key")}
    remove_strays(deliveries(), _FOLDER, kept)
