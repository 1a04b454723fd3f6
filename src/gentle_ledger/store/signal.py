"""Tells whoever listens that something changed; what changed is read from the store."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from gentle_ledger.store.errors import NO_TROUBLE


class ChangeSignal:
    """Listeners are called on the thread that tells and must return at once.

    `trouble` is what keeps something in this process from writing, as a sentence: just that cannot be read in the
    store. "" when nothing does. `copy_trouble` is the same of the copies that are kept by themselves, and `no_sender`
    of the senders that this process starts. `closed` says that nobody is told anything any more: who listens is to end.
    """

    def __init__(self) -> None:
        self.trouble = ""
        self.copy_trouble = ""
        self.no_sender = NO_TROUBLE
        self.closed = False
        self._listeners: set[Callable[[], None]] = set()
        self._guard = threading.Lock()

    @contextmanager
    def listening(self, listener: Callable[[], None]) -> Iterator[None]:
        """Has the listener called at each change, for as long as the context lasts."""
        with self._guard:
            self._listeners.add(listener)
        try:
            yield
        finally:
            with self._guard:
                self._listeners.discard(listener)

    def close(self) -> None:
        """Says that nothing more will be told."""
        self.closed = True
        self.tell()

    def tell(self) -> None:
        """Says that something changed."""
        with self._guard:
            listeners = list(self._listeners)
        for listener in listeners:
            listener()
