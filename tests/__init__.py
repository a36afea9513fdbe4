"""The tests mirror calmtin/; browser/ drives the real interface."""

from hypothesis import settings

# A slow or busy machine is no failure; and every run tries the same cases.
settings.register_profile("calm", deadline=None, derandomize=True, max_examples=60)
settings.load_profile("calm")
