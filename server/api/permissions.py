"""Small policies, composed in the views. What somebody may *see* is decided by the querysets; these
decide what they may *do*.
"""

from __future__ import annotations

from typing import Any

from rest_framework.permissions import BasePermission
from rest_framework.request import Request
from rest_framework.views import APIView

from jobs.models import Job, Membership
from people.sessions import person_of


def job_behind(thing: object) -> Job | None:
    """The job that a picture, attempt, cell, finding or check belongs to."""
    for path in (
        ("job",),
        ("picture", "job"),
        ("attempt", "picture", "job"),
        ("region", "picture", "job"),
        ("checked", "check_run", "attempt", "picture", "job"),
    ):
        found: object | None = thing
        for step in path:
            found = getattr(found, step, None)
        if isinstance(found, Job):
            return found
    return None


class Rules(BasePermission):
    """Only a supervisor of the job rules."""

    message = "Only a supervisor of this job may do that."

    def has_object_permission(self, request: Request, view: APIView, obj: Any) -> bool:
        job = job_behind(obj)
        return job is not None and job.role_of(person_of(request)) == Membership.Role.SUPERVISOR


class Works(BasePermission):
    """A supervisor of the job, or the retoucher whose slip it is."""

    message = "Only whoever this slip went to, or a supervisor of the job, may do that."

    def has_object_permission(self, request: Request, view: APIView, obj: Any) -> bool:
        return obj.worker_id == person_of(request).pk or Rules().has_object_permission(
            request, view, obj
        )
