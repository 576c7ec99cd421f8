"""Speed is measured in benchmarks/, so no property fails for having been slow."""

from hypothesis import settings

settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")
