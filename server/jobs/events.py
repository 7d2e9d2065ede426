"""What happens to jobs, for apps above to listen to."""

from __future__ import annotations

from django.dispatch import Signal

#: Sent with `job` and `person` before somebody leaves a job or changes their role in it; whoever
#: still needs them there raises Refused.
leaving = Signal()
#: Sent with `job` in the transaction in which the size that it is judged for becomes another.
judged_for_changed = Signal()
