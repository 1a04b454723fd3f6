"""Something that is done again and again beside all else."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager


@contextmanager
def repeating(name: str, do: Callable[[], None], every: float, first: float | None = None) -> Iterator[None]:
    """Does it on a thread of its own for as long as this lasts; what is under way in the end is waited for.

    Args:
        name: of the thread.
        do: what is done; it raises nothing.
        every: seconds between two times.
        first: seconds until the first time, where that is another.
    """
    over = threading.Event()

    def go_on() -> None:
        rest = every if first is None else first
        while not over.wait(rest):
            do()
            rest = every

    thread = threading.Thread(target=go_on, name=name, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
