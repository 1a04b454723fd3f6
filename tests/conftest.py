"""What all tests share."""

from hypothesis import settings

# Speed is measured in the benchmark; on a busy machine a time limit here would fail for no reason of ours.
settings.register_profile("patient", deadline=None)
settings.load_profile("patient")
