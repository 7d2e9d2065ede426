"""Asking the service from time to time what it offers."""

from __future__ import annotations

from celery import shared_task

from .account import refresh_account


@shared_task(name="outside.tasks.refresh", ignore_result=True)
def refresh() -> None:
    """Ask, if it was not asked lately."""
    refresh_account()
