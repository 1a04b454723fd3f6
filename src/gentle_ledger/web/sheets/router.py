"""Sheets: how a file would be read, bringing it in, mending its cells, and taking a newer version of it."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import tzinfo
from pathlib import PureWindowsPath
from typing import Annotated

from fastapi import APIRouter, Depends, Form, UploadFile
from pydantic import TypeAdapter, ValidationError

from gentle_ledger.app.commands.sheets import SaidOfMended, TakeNewer
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.reading import bring_in_apart, glance_apart
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.errors import LedgerError, SheetError
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.reading import column_reading
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import clipped, listed, printable
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.columns.recognise import recognise_roles
from gentle_ledger.core.columns.sent_before import heeded
from gentle_ledger.core.pace.civil import zone_named
from gentle_ledger.core.recipe.file import before_of, remembering
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.toml import recipe_from_bytes
from gentle_ledger.core.sheets.bring_in import BroughtIn, Choice, parts_of
from gentle_ledger.core.sheets.characters import READINGS
from gentle_ledger.core.sheets.model import MAX_BYTES, Sheet
from gentle_ledger.core.sheets.torn import Commas, Torn
from gentle_ledger.core.sheets.versions import Comparison, Originals, compare, key_columns, nearest_key
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.rounds import (
    add_round,
    list_rounds,
    recipe_of,
    round_of,
)
from gentle_ledger.store.rows import originals_of
from gentle_ledger.store.sheets import laid_sheet
from gentle_ledger.web.columns.view import question_out
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.rounds.schemas import Desk, RoundInList
from gentle_ledger.web.rounds.view import changed_desk, round_in_list
from gentle_ledger.web.schemas import NextOut
from gentle_ledger.web.sheets.schemas import (
    ChangedCell,
    CharactersOut,
    CommasOut,
    GlanceOut,
    MendedCell,
    NewerOut,
    ReadAs,
)

router = APIRouter(prefix="/api/rounds", tags=["sheets"])

_LINES = 15
"""Lines of a file that are shown, or half as many more than come before its rows."""
_SHOWN = 200
"""New, changed and gone rows that are named one by one."""
_MOST_MENDED = 500
"""Mended cells that are asked about one by one; what is said of the rest counts for all others."""

Worksheet = Annotated[str | None, Form()]
Header = Annotated[int | None, Form(ge=1, le=1_000)]
Characters = Annotated[str | None, Form(max_length=40)]
CommasSaid = Annotated[str | None, Form(max_length=100_000, description='As JSON: {"Due": "within cells"}.')]


def _choice(
    worksheet: Worksheet = None, header: Header = None, characters: Characters = None, commas: CommasSaid = None
) -> Choice:
    try:
        said = _COMMAS.validate_json(commas) if commas else {}
    except ValidationError as fault:
        raise NotUsable("What was answered about the commas cannot be read.", "Look at the file again.") from fault
    return Choice(worksheet or None, header, characters or None, said)


_COMMAS: TypeAdapter[dict[str, Commas]] = TypeAdapter(dict[str, Commas])


Chosen = Annotated[Choice, Depends(_choice)]


def _bytes_of(file: UploadFile) -> tuple[bytes, str]:
    """The file's bytes, one past the bound at most: that is enough to refuse it."""
    return file.file.read(MAX_BYTES + 1), file.filename or "sheet.csv"


@router.post("/glance")
def look(here: Here, file: UploadFile, choice: Chosen) -> GlanceOut:
    """How a file would be read; stores nothing. A file that cannot be opened at all is refused."""
    data, name = _bytes_of(file)
    currency = here.settings.currency
    found = glance_apart(data, name, choice, least=_LINES, after=_LINES // 2, currency=currency)
    seen, brought = found.glance, found.brought
    trouble = found.trouble.sentence if found.trouble else None
    asked = bool(seen.characters and not choice.characters) or any(choice.of_commas(each) is None for each in seen.torn)
    named = brought.reading.header if brought else choice.header
    sheet = brought.sheet if brought else Sheet((), [])
    said = brought.reading.sentence if brought else ""
    read_as = _read_as(here, sheet, seen.lines[named - 1]) if brought and named else []
    plain = Recipe(region=here.settings.region, locale=here.settings.locale)
    doubt = _doubt(sheet, plain) if brought else ""
    return GlanceOut(
        worksheets=list(seen.worksheets),
        worksheet=seen.worksheet,
        unseen=list(seen.unseen),
        lines=[list(line) for line in seen.lines],
        parts=parts_of(seen.lines, brought) if brought else [],
        header=named,
        columns=list(sheet.columns),
        read_as=read_as,
        rows=len(sheet.rows),
        reading=said,
        trouble=None if asked else trouble,
        characters=[
            CharactersOut(name=reading, about=READINGS[reading], word=word) for reading, word in seen.characters
        ],
        commas=[_commas_out(each, choice) for each in seen.torn],
        doubt=doubt,
        asks=len(set(seen.worksheets).difference(seen.unseen)) > 1
        or bool(doubt)
        or trouble is not None
        or bool(said)
        or any(read and read.question for read in read_as),
    )


def _commas_out(torn: Torn, choice: Choice) -> CommasOut:
    answer = choice.of_commas(torn)
    return CommasOut(column=torn.column, ask=torn.ask, whole=torn.whole, apart=torn.cells, answer=answer)


def _read_as(here: Context, sheet: Sheet, names: Sequence[str]) -> list[ReadAs | None]:
    roles = recognise_roles(sheet, here.settings.region, here.settings.locale)
    found = iter(_read_in(here, sheet, i, role) for i, role in enumerate(roles))
    # A column with neither a name nor a value is passed over.
    return [next(found) if name.strip() else None for name in names]


def _read_in(here: Context, sheet: Sheet, position: int, role: Role) -> ReadAs:
    settings = here.settings
    cells, office = sheet.values(position), zone_named(settings.zone)
    found = column_reading(cells, role, settings.currency, settings.locale, office=office)
    return ReadAs(
        name=sheet.columns[position],
        role=role,
        order=found.order,
        evidence="" if found.question else found.said,
        question=question_out(found),
    )


class SeeFirst(LedgerError):
    """A file of which something is to be decided or to be known before it is brought in."""

    kind = "see first"
    status = 409


def _doubt(sheet: Sheet, made: Recipe) -> str:
    """Why a file may be no sheet of a round at all, such as a letter; "" for one that looks like one."""
    if len(sheet.columns) == 1:
        return "the file has one column only"
    told = [settings for name, settings in made.columns.items() if settings.formula or sheet.position(name) is not None]
    roles = [*recognise_roles(sheet, made.region, made.locale), *(settings.role for settings in told)]
    return "" if Role.MOBILE in roles else "no column of the file seems to have mobile numbers"


def _to_be_seen(brought: BroughtIn, worksheet: str | None, made: Recipe, office: tzinfo) -> str:
    if doubt := _doubt(brought.sheet, made):
        return doubt
    shown = [name for name in brought.worksheets if name not in brought.unseen]
    if len(shown) > 1 and not worksheet and brought.worksheet != made.file.worksheet:
        return f"{len(shown)} worksheets can be brought in"
    if not brought.reading.left_out <= set(made.file.left_out):
        return brought.reading.sentence
    asked = [brought.sheet.columns[place] for place in Readings(brought.sheet, office).questions(made)]
    return f"it is a question how {listed(asked)} {'is' if len(asked) == 1 else 'are'} read" if asked else ""


_ANSWERS: TypeAdapter[dict[str, Order]] = TypeAdapter(dict[str, Order])


def _answered(made: Recipe, sheet: Sheet, answers: str | None) -> Recipe:
    """The set-up with what was answered at the glance; raises NotUsable for what is no answer, or names no column."""
    try:
        said = _ANSWERS.validate_json(answers) if answers else {}
    except ValidationError as fault:
        raise NotUsable("What was answered about the columns cannot be read.", "Look at the file again.") from fault
    for name, order in said.items():
        if sheet.position(name) is None:
            raise NotUsable(f'There is no column "{clipped(name)}" in the file.', "Look at the file again.")
        made = made.with_column(name, made.setting(name).model_copy(update={"reading": order}))
    return made


@router.post("", status_code=201)
def bring_in_sheet(
    here: Here,
    file: UploadFile,
    choice: Chosen,
    like: Annotated[int | None, Form(ge=1, le=2**63 - 1)] = None,
    recipe: UploadFile | None = None,
    ask: Annotated[bool, Form()] = False,
    answers: Annotated[str | None, Form(max_length=100_000)] = None,
) -> RoundInList:
    """A new round from a file; nothing is stored unless all of it can be read.

    With `ask`, a file of which something is to be decided or to be known first is refused, so that it can be shown.
    The round begins with the set-up of the earlier round `like`, or with the one in the `recipe` file (TOML);
    `answers` says, as JSON, how columns are read whose cells leave it open: {"Due": "decimal point"}.
    """
    data, name = _bytes_of(file)
    now = here.now()
    with here.database.reading() as session:
        made = _recipe_for(here, name, recipe) if like is None else recipe_of(round_of(session, like))
        if like is None and recipe is None:
            # Who writes is the same from one round to the next, until somebody says otherwise.
            last = next((recipe_of(found).sender for found, _ in list_rounds(session)), "")
            made = made.model_copy(update={"sender": last})
    choice = replace(choice, before=before_of(made))
    brought = bring_in_apart(data, name, choice, currency=made.currency)
    if ask and (said := _to_be_seen(brought, choice.worksheet, made, zone_named(here.settings.zone))):
        raise SeeFirst(f"{_name_of(name)}: {said}.", "Look at it and bring it in.")
    made = _answered(heeded(remembering(made, brought, choice), brought.sheet), brought.sheet, answers)
    with laid_sheet(here.database, brought.sheet) as laid, here.database.writing() as session:
        if like is not None or recipe is not None:
            made = made.model_copy(update={"as_of": now.date(), "title": _title(name)})
        found = add_round(
            session,
            brought.sheet,
            made,
            _name_of(name),
            brought.worksheet,
            now,
            brought.reading.sentence,
            laid,
        )
    return round_in_list(found, {})


def _name_of(file_name: str) -> str:
    """The name alone, whichever system's folders stand in front of it, and fit to be shown."""
    return printable(PureWindowsPath(file_name).name, 200) or "sheet"


def _title(file_name: str) -> str:
    title = PureWindowsPath(_name_of(file_name)).stem.replace("-", " ").replace("_", " ").strip(" .")
    return f"{title[0].upper()}{title[1:]}" if title else "Untitled round"


def _recipe_for(here: Context, name: str, recipe: UploadFile | None) -> Recipe:
    if recipe is not None:
        return recipe_from_bytes(recipe.file.read(1_000_000))
    settings = here.settings
    return Recipe(
        title=_title(name),
        as_of=here.now().date(),
        region=settings.region,
        currency=settings.currency,
        locale=settings.locale,
    )


@router.post("/{round_id}/newer/glance")
def compare_newer(
    here: Here,
    round_id: RoundId,
    file: UploadFile,
    choice: Chosen,
    key: Annotated[str | None, Form()] = None,
) -> NewerOut:
    """What a newer version of the round's sheet brings; stores nothing."""
    found, state = here.opened(round_id, preparing=True)
    with here.database.reading() as session:
        originals = originals_of(session, found)
    brought, found_keys, compared = _compared(file, choice, key, state, originals)
    # Only what its rows are called is looked at: which of them go together would be told by all their numbers.
    newer = Composer(state.readings.anew(brought.sheet), state.recipe.model_copy(update={"combine": None}))
    return NewerOut(
        version=found.version,
        key=compared.key,
        keys=list(found_keys),
        rows=len(brought.sheet.rows),
        new=len(compared.new),
        changed=compared.changed_rows,
        gone=len(compared.gone),
        new_rows=[NextOut(row=number_of_row(row), label=newer.label(row)) for row in compared.new[:_SHOWN]],
        gone_rows=[NextOut(row=number_of_row(row), label=state.composer.label(row)) for row in compared.gone[:_SHOWN]],
        changes=[
            ChangedCell(
                row=number_of_row(change.row),
                label=newer.label(change.row),
                column=change.column,
                before=change.before,
                after=change.after,
            )
            for change in compared.changes[: 3 * _SHOWN]
        ],
        mended=[
            MendedCell(
                row=number_of_row(cell.row),
                label=newer.label(cell.row),
                column=cell.column,
                original=as_written(cell.original).strip(),
                here=as_written(cell.here).strip(),
                newer=as_written(cell.newer).strip(),
                doubtful=cell.doubtful,
            )
            # Those that wait for an answer come first.
            for cell in sorted(compared.mended, key=lambda cell: not cell.doubtful)[:_MOST_MENDED]
        ],
        mended_in_all=len(compared.mended),
        doubtful=sum(cell.doubtful for cell in compared.mended),
        added=[NextOut(row=number_of_row(row), label=state.composer.label(row)) for row in compared.added[:_SHOWN]],
        added_in_all=len(compared.added),
        columns_new=list(compared.columns_new),
        columns_gone=list(compared.columns_gone),
        reading=brought.reading.sentence,
    )


def _compared(
    file: UploadFile, choice: Choice, key: str | None, state: OpenRound, originals: Originals
) -> tuple[BroughtIn, tuple[str, ...], Comparison]:
    """The newer version, the columns that can say which row is which, and the comparison by the chosen one."""
    data, name = _bytes_of(file)
    choice = replace(choice, before=before_of(state.recipe))
    brought = bring_in_apart(data, name, choice, currency=state.recipe.currency)
    older, added = state.readings.sheet, [row for row, cells in originals.items() if cells is None]
    both = [column for column in key_columns(older, added) if column in key_columns(brought.sheet)]
    keys = tuple(sorted(both, key=lambda column: _KEY_ROLES.get(state.composer.roles[older.position(column) or 0], 9)))
    chosen = key or (keys[0] if keys else None) or _nearest(older, brought.sheet, added)
    if chosen is None:
        raise SheetError(
            "No column is filled and different in every row of both versions, so none can say which row is which.",
            "Give both a column with a number or a code of its own for each row.",
        )
    return brought, keys, compare(older, brought.sheet, chosen, originals)


def _nearest(older: Sheet, newer: Sheet, added: Sequence[int]) -> str | None:
    """The column that nearly says which row is which: what is wrong with it is to be said, and not of all columns."""
    both = [name for name in older.columns if newer.position(name) is not None]
    return nearest_key(older, both, added) and nearest_key(newer, both)


_KEY_ROLES = {Role.REFERENCE: 0, Role.MOBILE: 1, Role.NAME: 2, Role.TEXT: 3}
"""Which of the columns that could do it says best which row is which: a code, a number, a name."""


@router.post("/{round_id}/newer")
def take_newer(
    here: Here,
    round_id: RoundId,
    file: UploadFile,
    key: Annotated[str, Form()],
    version: Annotated[int, Form()],
    choice: Chosen,
    mended: Annotated[str | None, Form(max_length=20_000_000)] = None,
) -> Desk:
    """Takes the newer version. Rows that were left out or released stay so; `mended` says, as JSON, what of the cells
    that were mended here is kept: {"cells": [[3, "Due", true]], "rest": false, "added": true}.
    """
    try:
        said = SaidOfMended.model_validate_json(mended) if mended else SaidOfMended()
    except ValidationError as fault:
        raise NotUsable("What was said of the mended cells cannot be read.", "Compare the versions again.") from fault
    _, opened = here.opened(round_id, preparing=True)
    data, name = _bytes_of(file)
    choice = replace(choice, before=before_of(opened.recipe))
    brought = bring_in_apart(data, name, choice, currency=opened.recipe.currency)
    taken = TakeNewer(brought=brought, file_name=_name_of(name), key=key, version=version, said=said)
    return changed_desk(here, round_id, taken)
