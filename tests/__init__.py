"""The tests of Rezept. Speed is measured by `make bench`: no property may fail because the machine is busy."""

from hypothesis import settings

settings.register_profile("rezept", deadline=None)
settings.load_profile("rezept")
