"""What happens to attempts, for apps above to listen to."""

from __future__ import annotations

from django.dispatch import Signal

#: Sent with `attempt`, in the transaction that stores it.
attempt_added = Signal()
