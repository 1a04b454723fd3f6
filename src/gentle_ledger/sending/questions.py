"""Which rows the carrier is asked about next, and from when on its "no record" is proof."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from gentle_ledger.sending.lines import Line
from gentle_ledger.store.clock import Clock


@dataclass(frozen=True, slots=True)
class Asking:
    """When a row whose text may have gone is asked about next; both in seconds of the clock that only runs forward.

    From `settled` on, "no record" is proof that the carrier did not take it.
    """

    settled: float
    due: float
    asked: int = 0

    def later(self, wait: float, now: float) -> "Asking":
        """Asked once more without proof: again after a longer wait, and at the latest when "no record" is proof."""
        due = now + wait
        return Asking(self.settled, min(due, self.settled) if now < self.settled else due, self.asked + 1)


class Questions:
    """The texts whose hand-over may have gone, by the number of their message.

    One that was handed over before this sender saw it settles from when it is first seen: when it went, nobody can say.
    """

    def __init__(self, line: Line, clock: Clock, draw: Callable[[], float]) -> None:
        self._line = line
        self._clock = clock
        self._draw = draw
        self._known: dict[int, Asking] = {}

    def __getitem__(self, message_id: int) -> Asking:
        if message_id not in self._known:
            now = self._clock.monotonic()
            self._known[message_id] = Asking(now + self._line.policy.settles_after, now)
        return self._known[message_id]

    def forget_all(self) -> None:
        """Forgets all of them: they settle anew."""
        self._known.clear()

    def forget(self, message_id: int) -> None:
        """What became of it is known."""
        self._known.pop(message_id, None)

    def handed_over(self, message_id: int) -> None:
        """A hand-over has just ended."""
        now = self._clock.monotonic()
        self._known[message_id] = Asking(
            now + self._line.policy.settles_after, now + self._line.policy.next_look(1, self._draw())
        )

    def asked(self, message_id: int) -> None:
        """It was asked about; if that told nothing, it is asked again after a longer wait."""
        if message_id in self._known:
            known = self._known[message_id]
            wait = self._line.policy.next_look(known.asked + 1, self._draw())
            self._known[message_id] = known.later(wait, self._clock.monotonic())

    def ask_now(self, message_id: int) -> None:
        """Somebody wants it to be asked about now."""
        self._known[message_id] = replace(self[message_id], due=self._clock.monotonic())

    def settled(self, message_id: int) -> bool:
        """True when "no record", asked for now, is proof."""
        return self._clock.monotonic() >= self[message_id].settled

    def next_of(self, message_ids: Iterable[int]) -> tuple[float, int] | None:
        """Which of them is asked about next, and when; none where the line's carrier cannot be asked."""
        if not self._line.policy.can_be_asked:
            return None
        return min(((self[message_id].due, message_id) for message_id in message_ids), default=None)
