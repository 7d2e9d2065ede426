"""What happens to attempts, for apps above to listen to."""

from __future__ import annotations

from django.dispatch import Signal

#: Sent with `attempt`, in the transaction that stores it.
attempt_added = Signal()
#: Sent with `attempt` before what is known of it is corrected; whoever forbids it raises Refused.
correcting = Signal()
#: Sent with `attempt` before it is withdrawn; whoever still needs it raises Refused.
withdrawing_attempt = Signal()
#: Sent with `picture` before another original takes its original's place; whoever forbids it raises
#: Refused.
renewing_original = Signal()
#: Sent with `picture`, `touched` (its regions that the new original touches) and `person`, in the
#: transaction that stores it.
original_renewed = Signal()
#: Sent with `picture` before it is withdrawn; whoever still needs it raises Refused.
withdrawing_picture = Signal()
