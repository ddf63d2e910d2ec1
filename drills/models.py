"""What people answered in drills: each one's own."""

from django.conf import settings
from django.db import models

from pairs.models import Organisation


class Answer(models.Model):
    """One card guessed: what was said before anything was shown, and what was so. Never changed."""

    organisation = models.ForeignKey(Organisation, db_column="house_id", on_delete=models.PROTECT, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="drill_answers")
    card = models.CharField(max_length=60, help_text="Key of the card: see drills.cards")
    kind = models.CharField(max_length=12)
    level = models.PositiveSmallIntegerField(default=1)
    said = models.FloatField(help_text="Probability that the signal is there, as said")
    so = models.BooleanField(help_text="Whether it was there")
    seconds = models.FloatField(default=0.0)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["person", "kind", "-id"])]

    def __str__(self):
        return f"{self.person}: {self.card}"


class Memory(models.Model):
    """When a card comes back for somebody, by what they remembered of it."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    card = models.CharField(max_length=60)
    state = models.JSONField(help_text="Of the scheduler")
    due = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "card"], name="one_memory_a_card")]

    def __str__(self):
        return f"{self.person}: {self.card} on {self.due:%F}"


class Shared(models.Model):
    """Somebody lets their shop see how they do."""

    person = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="drills_shared")

    def __str__(self):
        return str(self.person)
