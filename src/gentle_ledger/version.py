"""Which version of the program this is, and of which commit."""

import subprocess
from pathlib import Path

from gentle_ledger import __version__

_HERE = Path(__file__).parent
_WRITTEN_DOWN = _HERE / "commit.txt"
"""Written when a wheel is made, which has no history of its own."""


def version_said() -> str:
    """The version and the commit, ready to read."""
    found = commit()
    return f"gentle-ledger {__version__}{f', commit {found}' if found else ''}"


def commit() -> str:
    """The commit that this was made from; "" where that is not known."""
    try:
        return _WRITTEN_DOWN.read_text("ascii").strip()
    except OSError:
        return _of_checkout()


def _of_checkout() -> str:
    root = _HERE.parents[1]
    if not (root / ".git").exists():
        return ""
    asked = ["git", "-C", str(root), "describe", "--always", "--dirty", "--exclude", "*"]
    try:
        return subprocess.run(asked, capture_output=True, text=True, timeout=5, check=True).stdout.strip()
    except (OSError, subprocess.SubprocessError):
        return ""
