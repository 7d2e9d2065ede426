"""The shapes of a job's people and terms in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from jobs.models import Membership
from zweiblick_core.rules.rights import USES

from .serializers import JobOf, Plain, Whole


class InvitationOf(Plain):
    id = s.IntegerField()
    name = s.CharField()
    role = s.ChoiceField(choices=Membership.Role.choices)
    made_by = s.CharField()
    expires_at = s.DateTimeField()


class PictureStands(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    state = s.CharField()
    regions = s.IntegerField()
    undecided = s.IntegerField()
    attempts = s.IntegerField()
    signed = s.BooleanField()


class PictureWithdrawn(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()


class JobSheet(Plain):
    job = JobOf()
    uses = s.ListField(child=s.CharField())
    bar = s.DictField(
        child=s.FloatField(), help_text="the client's bar: severity by kind from which it fails"
    )
    standing = s.DictField(child=s.IntegerField(), help_text="how many pictures stand where")
    signed = s.IntegerField(help_text="pictures that are signed off")
    pictures = PictureStands(many=True)
    withdrawn = PictureWithdrawn(many=True)
    invitations = InvitationOf(many=True, help_text="those that can still be used")
    link = s.CharField(
        allow_null=True, help_text="of the invitation just made: shown once, kept nowhere"
    )


class SizeEdited(Plain):
    id = Whole(allow_null=True, required=False, default=None, help_text="null: a new one")
    name = s.CharField(max_length=80)
    spec = s.CharField(max_length=80)


class JobEdited(Plain):
    name = s.CharField(max_length=160, required=False)
    client = s.CharField(max_length=160, allow_blank=True, required=False)
    use = s.ChoiceField(choices=USES, required=False)
    deadline = s.DateTimeField(allow_null=True, required=False)
    sizes = SizeEdited(many=True, required=False, help_text="all of them; the first is judged for")


class RoleAsked(Plain):
    role = s.ChoiceField(choices=Membership.Role.choices)


class InvitationAsked(Plain):
    role = s.ChoiceField(choices=Membership.Role.choices)
    name = s.CharField(max_length=120, allow_blank=True, required=False, default="")


class InvitedTo(Plain):
    job = s.CharField()
    role = s.ChoiceField(choices=Membership.Role.choices)
    name = s.CharField()
    by = s.CharField()
    expires_at = s.DateTimeField()


class Joining(Plain):
    username = s.CharField(max_length=150, allow_blank=True, required=False, default="")
    name = s.CharField(max_length=120, allow_blank=True, required=False, default="")
    password = s.CharField(
        max_length=200, trim_whitespace=False, allow_blank=True, required=False, default=""
    )
