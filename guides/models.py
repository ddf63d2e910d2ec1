"""Drafts of a release's guide, and the checks they propose."""

from datetime import timedelta

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils import timezone

from library.models import Checkpoint, Release
from pairs.models import Organisation, Photo

STALLED = timedelta(minutes=3)


class GuideDraft(models.Model):
    """One run over a release's retail photographs."""

    release = models.ForeignKey(Release, on_delete=models.CASCADE, related_name="drafts")
    organisation = models.ForeignKey(Organisation, on_delete=models.CASCADE, related_name="+")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    to_do = models.PositiveIntegerField(default=0, help_text="Photographs")
    done = models.PositiveIntegerField(default=0)
    touched_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self):
        return f"draft of {self.release}, {self.done} of {self.to_do}"

    @property
    def runs(self) -> bool:
        return self.done < self.to_do

    @property
    def stalled(self) -> bool:
        """No photograph was done for so long that it may be gone on with."""
        return self.runs and self.touched_at < timezone.now() - STALLED


class ProposedCheck(models.Model):
    """Something that a measure reads alike on verified pairs. Rejected ones stay, so that no draft proposes them
    again."""

    class State(models.TextChoices):
        OPEN = "open"
        ACCEPTED = "accepted"
        REJECTED = "rejected"

    release = models.ForeignKey(Release, on_delete=models.CASCADE, related_name="proposals")
    organisation = models.ForeignKey(Organisation, on_delete=models.CASCADE, related_name="+")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="proposals")
    measure = models.CharField(max_length=40)
    quantity = models.CharField(max_length=40, blank=True)
    points = models.JSONField(help_text="x, y in the photograph's pixels")
    noun = models.CharField(max_length=20, help_text="What it is: row, holes, mark, panel, shape, lit")
    place = models.CharField(max_length=20, blank=True, help_text="Where on the shoe: toe, side, heel, sole")
    likeness = models.JSONField(default=list, help_text="Size or tone that the same thing has on another photograph")
    numbers = models.JSONField(help_text="By pair's label: value and standard uncertainty")
    prior = models.JSONField(default=dict, help_text="What is believed of such a check")
    state = models.CharField(max_length=8, choices=State, default=State.OPEN)
    check_made = models.ForeignKey(Checkpoint, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    decided_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["release", "state"])]
        constraints = [
            models.CheckConstraint(
                condition=Q(state="open") | Q(decided_by__isnull=False), name="somebody_decided_a_proposal"
            )
        ]

    def __str__(self):
        return f"{self.noun} {self.place} {self.measure} {self.quantity}"
