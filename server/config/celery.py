"""The queue. MariaDB is the truth about work; the broker only carries the ids."""

import os

from celery import Celery

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
app = Celery("zweiblick")
app.config_from_object("django.conf:settings", namespace="CELERY")
app.autodiscover_tasks()
