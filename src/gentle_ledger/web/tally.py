"""The tally of a started round: counts, strokes, what is next, and what happened in one sentence."""

from datetime import timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.marks import Mark, Stage
from gentle_ledger.core.pace import Why, last_leaves
from gentle_ledger.core.words import count, listed
from gentle_ledger.store.messages import (
    counts_of,
    failures_of,
    marks_in_order,
    may_be_tried_again,
    next_to_go,
    stopped_before_turn,
    texts_of,
)
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.web import schemas as out
from gentle_ledger.web.context import Context
from gentle_ledger.web.views import counts_out

MOST_STROKES = 600
_LETTER = {Mark.TO_GO: "t", Mark.GOING: "g", Mark.SENT: "s", Mark.FAILED: "f", Mark.UNSURE: "u"}


def strokes_of(marks: list[Mark]) -> tuple[str, int]:
    """One letter a stroke, and how many rows a stroke stands for.

    A stroke for several rows shows the worst of them, so that no failed row hides in a stroke of sent ones; while some
    of its rows are still to go and none is failed or unsure, it is half drawn.
    """
    each = max(1, -(-len(marks) // MOST_STROKES))
    if each == 1:
        return "".join(_LETTER[mark] for mark in marks), 1
    letters = []
    for start in range(0, len(marks), each):
        here = set(marks[start : start + each])
        if Mark.FAILED in here:
            letters.append("f")
        elif Mark.UNSURE in here:
            letters.append("u")
        elif len(here) == 1:
            letters.append(_LETTER[here.pop()])
        else:
            letters.append("g")
    return "".join(letters), each


def sentence_of(stage: Stage, texts: dict[Mark, int], rows: dict[Mark, int]) -> str:
    """What happened, in one sentence: how many texts went, and how many rows were kept back."""
    sent, failed, unsure = (texts.get(mark, 0) for mark in (Mark.SENT, Mark.FAILED, Mark.UNSURE))
    to_go = texts.get(Mark.TO_GO, 0) + texts.get(Mark.GOING, 0)
    handed = sent + failed + unsure
    if stage in {Stage.SENDING, Stage.PAUSED}:
        return f"{count(to_go, 'text')} still to go."
    if not handed:
        return "Stopped before any text was sent."
    if sent == handed:
        said = f"All {count(sent, 'text')} sent." if sent > 1 else "The one text is sent."
    else:
        rest = [f"{failed:,} failed"] if failed else []
        rest += [f"{unsure:,} unsure"] if unsure else []
        said = f"{sent:,} of {count(handed, 'text')} sent, {listed(rest)}."
    kept = [
        f"{count(n, 'row')} {word}"
        for n, word in ((rows.get(Mark.HELD, 0), "held"), (rows.get(Mark.LEFT_OUT, 0), "left out"))
        if n
    ]
    return f"{said} {listed(kept)}, not sent." if kept else said


def tally(context: Context, session: Session, found: Round) -> out.TallyOut:
    """A whole picture of where a started round stands."""
    counts = counts_of(session, found.id)
    texts = texts_of(session, found.id)
    stage = Stage(found.stage)
    strokes, each = strokes_of(marks_in_order(session, found.id))
    coming = next_to_go(session, found.id) if stage in {Stage.SENDING, Stage.PAUSED} else None
    seconds = waits_for = last = None
    elsewhere = stage is Stage.SENDING and not context.sender.has_the_lock
    if coming is not None and stage is Stage.SENDING:
        pace = recipe_of(found).pace.as_pace()
        seconds = None if elsewhere else context.sender.seconds_to_next(pace)
        carrier = context.sender.waits_for_carrier()
        waits_for = Why.CARRIER if carrier else None
        # Rounds that send at the same time take turns on the line.
        sharing = session.scalar(select(func.count()).select_from(Round).where(Round.stage == Stage.SENDING)) or 1
        first = context.now() + timedelta(seconds=seconds or 0.0)
        last = last_leaves(pace, texts.get(Mark.TO_GO, 0) * sharing, first)
    return out.TallyOut(
        stage=stage,
        version=found.version,
        note=found.note,
        sentence=sentence_of(stage, texts, counts),
        counts=counts_out(counts),
        strokes=strokes,
        rows_a_stroke=each,
        next=out.NextOut(row=coming.row, label=coming.label) if coming else None,
        next_in_ms=None if seconds is None else round(seconds * 1000),
        waits_for=waits_for,
        sender_elsewhere=elsewhere,
        last_leaves_at=last,
        failures=[
            out.FailureOut(reason=reason, rows=rows, may_retry=may)
            for reason, rows, may in failures_of(session, found.id)
        ],
        may_try_again=len(may_be_tried_again(session, found.id)),
        may_take_up=len(stopped_before_turn(session, found.id)),
        unsure=texts.get(Mark.UNSURE, 0),
    )
