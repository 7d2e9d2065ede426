"""What the broker holds. It may be down: then nothing is known of it."""

from __future__ import annotations

import logging
from typing import Any

from celery import current_app

log = logging.getLogger(__name__)


def waiting_in(queue: str) -> int | None:
    """Messages that wait in a queue; None if the broker does not say."""
    try:
        with current_app.connection_for_read() as connection:
            connection.ensure_connection(max_retries=1, timeout=2)
            channel: Any = connection.default_channel
            return int(channel.queue_declare(queue, passive=False).message_count)
    except Exception as error:  # the broker may be down in any of its own ways
        log.warning("the broker does not say what waits in %s: %s", queue, error)
        return None
