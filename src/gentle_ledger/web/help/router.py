"""What never changes while the program runs: roles, formats, functions, checks."""

from collections.abc import Iterable

from fastapi import APIRouter, Response

from gentle_ledger.core.cells.places import currencies, locales, regions
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks import CHECKS
from gentle_ledger.core.formulas.functions import FUNCTIONS
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.format import FormatKind
from gentle_ledger.core.sheets.bring_in import OLD_NAMES, TEXT_NAMES, ZIPPED_NAMES
from gentle_ledger.web.help.schemas import (
    AggregateOut,
    Catalogue,
    CheckOut,
    ExampleOut,
    FormatOut,
    FunctionOut,
    NamedCode,
    PlacesOut,
    RoleOut,
)

router = APIRouter(prefix="/api", tags=["help"])


@router.get("/catalogue")
def catalogue(response: Response) -> Catalogue:
    """All of it at once, from the registries; it may be kept for as long as the program is not started anew."""
    response.headers["Cache-Control"] = "private, max-age=3600"
    return Catalogue(
        roles=[RoleOut(role=role, doc=role.doc) for role in Role],
        formats=[FormatOut(kind=kind, doc=kind.doc) for kind in FormatKind],
        aggregates=[AggregateOut(aggregate=each, doc=each.doc) for each in Aggregate],
        checks=[
            CheckOut(key=check.key, label=check.label, level=check.level, doc=check.doc, do=check.do, fixed=check.fixed)
            for check in CHECKS
        ],
        functions=[
            FunctionOut(
                name=f.name,
                topic=f.topic,
                shape=f.shape,
                doc=f.doc,
                examples=[ExampleOut(formula=formula, value=value) for formula, value in f.examples],
            )
            for f in FUNCTIONS
        ],
        places=PlacesOut(region=_named(regions()), currency=_named(currencies()), locale=_named(locales())),
        endings=sorted(TEXT_NAMES | ZIPPED_NAMES | OLD_NAMES),
    )


def _named(pairs: Iterable[tuple[str, str]]) -> list[NamedCode]:
    return [NamedCode(code=code, name=name) for code, name in pairs]
