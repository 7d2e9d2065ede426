"""What is recorded, for apps above to listen to."""

from __future__ import annotations

from django.dispatch import Signal

#: Sent with `entry`, in the transaction that stores it.
recorded = Signal()
