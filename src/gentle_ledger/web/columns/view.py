"""The columns of a round as the browser shows them."""

from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.figures import order_of
from gentle_ledger.core.cells.order import Order, Reading
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.display import example, lines_up, reading_of
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.wording.renaming import uses_of, without
from gentle_ledger.core.wording.uses import awaited
from gentle_ledger.web.columns.schemas import AnswerOut, ColumnOut, QuestionOut, UnmatchedOut
from gentle_ledger.web.places import formula_problem


def question_out(reading: Reading) -> QuestionOut | None:
    if not reading.question:
        return None
    return QuestionOut(
        ask=reading.question, answers=[AnswerOut(order=order, then=then) for order, then in reading.answers]
    )


def _unusual(order: Order | None, locale: str) -> Order | None:
    """An order of days, or a decimal mark that is not that of the locale: what goes without saying is not said."""
    return None if order is order_of(locale) else order


def columns_out(state: OpenRound) -> list[ColumnOut]:
    composer, columns = state.composer, state.composer.columns
    waiting = awaited(state.recipe, columns, state.readings)
    recognised = state.readings.recognised(state.recipe)
    found = []
    for i, name in enumerate(columns.names):
        settings = columns.settings[i]
        computed = i >= columns.first_computed
        reading = reading_of(composer.evaluation, i)
        found.append(
            ColumnOut(
                name=name,
                role=columns.roles[i],
                recognised=columns.roles[i] if computed else recognised[i].role,
                recognised_by="" if computed else recognised[i].evidence,
                fallback=settings.fallback,
                format=settings.format,
                formula=settings.formula if computed else None,
                template=settings.template if computed else None,
                problem=formula_problem(settings.formula or settings.template, composer.evaluation.problems.get(i)),
                reading=settings.reading,
                read_as=reading.order if reading.answered else _unusual(reading.order, state.recipe.locale),
                evidence="" if reading.answered or reading.question else reading.said,
                question=question_out(reading),
                awaited=i in waiting,
                used=i in state.composer.used,
                doc=columns.roles[i].doc,
                example=example(composer.evaluation, i),
                characters=_SHORT if computed else _characters(state, i),
                to_the_right=lines_up(composer.evaluation, i),
                blanks=0 if computed else state.readings.blanks(i),
            )
        )
    return found


_SHORT = 9
"""Characters of a computed amount; links are given their room by their role."""


_SIGNS = 2
"""Characters that an amount gets in addition when it is written: its currency's sign, and a mark between groups."""


def _characters(state: OpenRound, position: int) -> int:
    """A long name may be cut short in the sheet; a figure may not."""
    role = state.composer.columns.roles[position]
    share = 1.0 if role.counts else 0.9
    return state.readings.characters(position, share) + (_SIGNS if role is Role.MONEY else 0)


def unmatched_out(recipe: Recipe, name: str) -> UnmatchedOut:
    return UnmatchedOut(name=name, uses=uses_of(recipe, name), goes=without(recipe, name) != recipe)
