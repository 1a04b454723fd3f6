"""The forecast: when each text leaves, and why not sooner."""

from fastapi import APIRouter

from gentle_ledger.core.pace.places import holiday_places
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.web.context import Here, NumberInPath, RoundId
from gentle_ledger.web.forecast.schemas import ForecastOut, HolidayPlace, RowAhead
from gentle_ledger.web.forecast.view import forecast_out, row_ahead

router = APIRouter(prefix="/api/rounds/{round_id}/forecast", tags=["forecast"])


@router.get("")
def forecast(here: Here, round_id: RoundId) -> ForecastOut:
    """When the texts of a round leave by its pace: as if Send were pressed now, or as they still go."""
    found, opened = here.opened(round_id)
    return forecast_out(here, found, opened)


@router.get("/holidays")
def holidays_to_keep(here: Here, round_id: RoundId) -> list[HolidayPlace]:
    """The places of the round's country whose public holidays can be kept."""
    found, _ = here.opened(round_id)
    return [HolidayPlace(code=code, name=name) for code, name in holiday_places(recipe_of(found).region)]


@router.get("/rows/{row}")
def forecast_of_row(here: Here, round_id: RoundId, row: NumberInPath) -> RowAhead | None:
    """When the text of a row leaves, and why not sooner; null where it has none that is to go."""
    found, opened = here.opened(round_id)
    if row > found.row_count:
        raise NotThere(f"There is no row {row}.")
    return row_ahead(here, found, opened, row)
