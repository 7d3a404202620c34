"""What is remembered of how the installation was kept."""

from __future__ import annotations

from django.db import models


class BackupMade(models.Model):
    """A backup that was written: where to, how large, and of how many hand-ins."""

    made_at = models.DateTimeField(auto_now_add=True)
    machine = models.CharField(max_length=60)
    path = models.CharField(max_length=300)
    size = models.PositiveBigIntegerField()
    hand_ins = models.PositiveIntegerField()

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"{self.path} of {self.made_at:%d %B %Y}"
