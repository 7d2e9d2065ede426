"""What happens to verdicts, for apps above to listen to."""

from __future__ import annotations

from django.dispatch import Signal

#: Sent with `cell` before a verdict on it is given or taken back; whoever forbids it raises Refused.
ruling = Signal()

#: Sent with `picture` before a change outside is ruled on; whoever forbids it raises Refused.
ruling_outside = Signal()
