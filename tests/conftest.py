"""What all tests share."""

import os
import secrets
import sqlite3
import tempfile
from contextlib import closing

import pytest
from hypothesis import settings

from gentle_ledger.store.database import Database

# What the program keeps in a user's state folder is never that of whoever runs the tests.
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="gentle-ledger-state-")

# Speed is measured in the benchmark; on a busy machine a time limit here would fail for no reason of ours.
settings.register_profile("patient", deadline=None)
settings.load_profile("patient")


@pytest.fixture(scope="session", autouse=True)
def migrated_once(tmp_path_factory):
    """A new ledger is a copy of one that was migrated from nothing, which takes longer than most tests."""
    migrate = Database.migrate
    made = Database(tmp_path_factory.mktemp("made") / "ledger.sqlite3")
    migrate(made)
    made.leave_tidy()
    template = made.path.read_bytes()

    def quickly(self, to="head"):
        if to == "head" and self.path.stat().st_size == 0:
            self.path.write_bytes(template)
            with closing(sqlite3.connect(self.path)) as ledger:
                ours = (secrets.token_hex(16), secrets.token_hex(32))
                ledger.execute("UPDATE this_ledger SET identity = ?, secret = ?", ours)
                ledger.commit()
            return
        migrate(self, to)

    Database.migrate = quickly
    yield
    Database.migrate = migrate
