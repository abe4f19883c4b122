"""Signing in: Django's own way, with the crew fetched in the same query as the person."""

from __future__ import annotations

from django.contrib.auth.backends import ModelBackend

from apps.crews.models import Person


class CrewBackend(ModelBackend):
    """Names and passwords; every request asks for the person's crew."""

    def get_user(self, user_id: int) -> Person:
        person = Person.objects.select_related("crew").filter(pk=user_id).first()
        return person if person and self.user_can_authenticate(person) else None
