"""Doing some pieces of work at once, before anything else goes on."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context


def do_ahead(works: Sequence[int]) -> None:
    """Do pieces of work, by their numbers, in two processes of their own; wait for them."""
    # New processes: connections to the database cannot be shared.
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        list(pool.map(_do, works))


def _do(pk: int) -> None:
    import django

    django.setup()
    from work.tasks import do_work

    do_work(pk)
