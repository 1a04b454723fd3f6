"""What all tests share."""

import os
import tempfile

from hypothesis import settings

# What the program keeps in a user's state folder is never that of whoever runs the tests.
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="gentle-ledger-state-")

# Speed is measured in the benchmark; on a busy machine a time limit here would fail for no reason of ours.
settings.register_profile("patient", deadline=None)
settings.load_profile("patient")
