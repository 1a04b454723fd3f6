"""Rehearsals as the browser shows them."""

from dataclasses import asdict

from gentle_ledger.core.pace.decide import ANY_ROW, LineState, Now
from gentle_ledger.core.pace.forecast import RoundAhead, forecast
from gentle_ledger.core.pace.why import lasting
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.rehearsed import Rehearsed
from gentle_ledger.store.models import RehearsalRecord
from gentle_ledger.store.rehearsals import pace_then
from gentle_ledger.web.rehearsal.schemas import RehearsedOut, RehearsedTextOut
from gentle_ledger.web.rounds.view import counts_out
from gentle_ledger.web.strokes import strokes_of


def rehearsed_out(found: Rehearsed) -> RehearsedOut:
    """A rehearsal on screen."""
    strokes, each = strokes_of(found.marks)
    return RehearsedOut(
        stage=found.stage,
        began_at=found.began_at,
        texts=counts_out(found.texts),
        strokes=strokes,
        texts_a_stroke=each,
        outcome=found.outcome,
        lasted=lasting(found.lasted),
        latest=[RehearsedTextOut(**asdict(text)) for text in found.latest],
        not_taken=[RehearsedTextOut(**asdict(text)) for text in found.not_taken],
        note=found.note,
    )


def lasting_at_once(recipe: Recipe, texts: int) -> str:
    """How long so many texts take by gap and rests alone, as a rehearsal goes."""
    pace = recipe.pace.at_once().as_pace("UTC")
    run = forecast(LineState(), [RoundAhead(pace, [ANY_ROW] * texts)], Now(0.0, 0.0))[0]
    return lasting(run.last or 0.0)


def changed_since(kept: RehearsalRecord, seal: str, recipe: Recipe) -> str:
    """What is another than was rehearsed, in a sentence; "" where nothing is. `seal` is that of all that is ready."""
    if kept.seal != seal:
        return "Numbers or texts changed since."
    return "" if pace_then(kept) == recipe.pace else "Only the pace changed since."


def rehearsed_then(kept: RehearsalRecord, seal: str, recipe: Recipe) -> str:
    """When it was rehearsed, what came of it, and whether it changed since, in sentences."""
    at = kept.at.astimezone()
    how = "" if kept.whole else ", not to its end"
    said = changed_since(kept, seal, recipe) or "Nothing changed since."
    return f"Rehearsed on {at:%Y-%m-%d} at {at:%H:%M}{how}: {kept.outcome}. {said}"
