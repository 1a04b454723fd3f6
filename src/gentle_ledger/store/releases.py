"""Releases as rows keep them."""

import json

from gentle_ledger.core.checks.release import ANYTHING, Release

_BEFORE_REASONS = ("repeat", "said sent", "gone before")
"""The checks that a row was released from, all at once, before a release said from what and why."""


def release_to_json(release: Release | None) -> str:
    """A release as text; "" for none."""
    return "" if release is None else json.dumps([release.reason, *map(list, release.held)], ensure_ascii=False)


def release_from_json(kept: str) -> Release:
    """What a released row was let go from, and why."""
    if not kept:
        return Release([(check, ANYTHING) for check in _BEFORE_REASONS])
    reason, *held = json.loads(kept)
    return Release([(check, said) for check, said in held], reason)
