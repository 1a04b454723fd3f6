"""What a round's texts weigh, and plain characters in the place of those that make them heavy."""

from fastapi import APIRouter

from gentle_ledger.app.commands.characters import ReplaceCharacters
from gentle_ledger.app.counting.reading_texts import WeighTexts
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk
from gentle_ledger.web.weight.schemas import CostlyOut, SizeOut, WeightOut

router = APIRouter(prefix="/api/rounds/{round_id}/weight", tags=["weight"])


@router.get("")
@from_the_newest
def weight(here: Here, round_id: RoundId) -> WeightOut:
    """How many parts the texts take, and which characters make them take more."""
    _, opened = here.opened(round_id, preparing=True)
    found = here.counting.answer(opened, WeighTexts())
    return WeightOut(
        version=opened.version,
        sizes=[SizeOut(parts=parts, texts=texts) for parts, texts in found.texts],
        one_less=found.one_less,
        signs_less=found.signs_less,
        costly=[CostlyOut(**{name: getattr(each, name) for name in CostlyOut.model_fields}) for each in found.costly],
    )


@router.post("/replace")
def replace_characters(here: Here, round_id: RoundId, body: ReplaceCharacters) -> Desk:
    """Writes plain characters for special ones, in the wordings and in the cells that the texts are made from."""
    return changed_desk(here, round_id, body)
