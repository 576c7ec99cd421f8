"""What rows of several rooms have in common; no tables of its own."""

from django.db import models


class Versioned(models.Model):
    """A row that people edit: a save must name the version it was made from (see people/screens.save_versioned)."""

    version = models.PositiveIntegerField(default=1, editable=False)

    class Meta:
        abstract = True
