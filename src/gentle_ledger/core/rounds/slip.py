"""The slip: one row's text as it will arrive, torn where its parts end."""

from dataclasses import dataclass

from gentle_ledger.core.checks.phrases import character_name
from gentle_ledger.core.sms.alphabet import first_beyond
from gentle_ledger.core.sms.parts import Measure, measure, plain_parts, tear
from gentle_ledger.core.wording.bound import Run
from gentle_ledger.core.wording.composer import Composer


@dataclass(frozen=True, slots=True)
class Beyond:
    """The first special character of a text: what it is, and where it came from.

    `position` counts characters from 1; `column` is None when it stands in the wording; `plain_parts` is how many parts
    the text would take without such characters.
    """

    character: str
    name: str
    position: int
    column: str | None
    plain_parts: int


@dataclass(frozen=True, slots=True)
class Slip:
    """One row's text: its runs part by part, its size, and what made it large. `whole` is False when it has gaps."""

    parts: tuple[tuple[Run, ...], ...]
    size: Measure
    beyond: Beyond | None
    whole: bool
    number: str
    number_problem: str


def slip_of(composer: Composer, row: int) -> Slip:
    """The slip of a row (counted from 0), also for a row that cannot be sent: its gaps show where it lacks a value."""
    runs = composer.runs(row)
    text = "".join(run.text for run in runs)
    size = measure(text)
    at = first_beyond(text)
    beyond = None
    if at is not None:
        beyond = Beyond(text[at], character_name(text[at]), at + 1, composer.column_at(row, at), plain_parts(text))
    number = composer.number(row)
    wording = composer.wording_of(row)
    whole = wording is not None and not wording.problems and not any(run.gap for run in runs)
    torn = runs_by_part(runs, tear(text))
    return Slip(torn, size, beyond, whole, number.e164, number.problem.sentence if number.problem else "")


def runs_by_part(runs: list[Run], parts: list[str]) -> tuple[tuple[Run, ...], ...]:
    """Cuts runs where the parts end, so that each part can be drawn on its own."""
    found: list[tuple[Run, ...]] = []
    waiting = [run for run in runs if run.text]
    for part in parts:
        room = len(part)
        here: list[Run] = []
        while room and waiting:
            run = waiting.pop(0)
            here.append(Run(run.text[:room], run.column, run.gap))
            if len(run.text) > room:
                waiting.insert(0, Run(run.text[room:], run.column, run.gap))
            room -= min(room, len(run.text))
        found.append(tuple(here))
    return tuple(found)
