"""Every change of a round is one command; undo and redo walk all of them, whichever window made them."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.app.commands.blocks import ChangeCells, PasteBlock
from gentle_ledger.app.commands.columns import PutComputed, RemoveComputed, SetColumn
from gentle_ledger.app.commands.rows import AddRow, KeepRow, MendCell
from gentle_ledger.app.commands.setup import SetPace, SetUp
from gentle_ledger.app.commands.sheets import TakeNewer
from gentle_ledger.app.commands.wordings import WriteWording
from gentle_ledger.app.edit import Editor
from gentle_ledger.app.open_rounds import RoundCache
from gentle_ledger.app.parts import Behind
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import Computed, compute_round
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.block import Place
from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.store.database import Database
from gentle_ledger.store.deeds import NO_DEED, Deed, OtherLedger
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.journal import NotFromHere, close, entries_of, what_can_be_undone
from gentle_ledger.store.rounds import (
    add_round,
    kept_rows_of,
    recipe_of,
    remove_round,
    removed_rounds,
    restore_round,
    round_of,
    sheet_of,
)
from gentle_ledger.store.rows import originals_of

SHEET = Sheet(
    ("Name", "Mobile", "Due"), [(n, f"902-555-010{i}", str(i + 1)) for i, n in enumerate(["Ines", "Bo", "Cal"])]
)
AT = datetime(2026, 11, 24, tzinfo=UTC)


class Desk:
    """One copy of the program on a store; its clock stands still until it is wound."""

    def __init__(self, database):
        self.database = database
        self.now = AT
        self.cache = RoundCache()
        self.editor = Editor(database, self.cache, lambda: self.now)

    def new(self):
        with self.database.writing() as session:
            return add_round(session, SHEET, Recipe(title="Dues"), "dues.csv", None, AT).id

    def do(self, number, *commands, later=10.0, deed=NO_DEED):
        for command in commands:
            self.now += timedelta(seconds=later)
            opened = self.editor.edit(number, command, deed=deed).opened
        return opened

    def state(self, number):
        """All that a round is, as it stands in the store."""
        with self.database.reading() as session:
            found = round_of(session, number)
            return sheet_of(session, found), recipe_of(found), kept_rows_of(session, found)

    def opened(self, number):
        with self.database.reading() as session:
            return self.cache.opened(session, round_of(session, number))

    def undoable(self, number):
        with self.database.reading() as session:
            return what_can_be_undone(session, round_of(session, number))


@pytest.fixture(scope="module")
def database(tmp_path_factory):
    made = Database(tmp_path_factory.mktemp("edits") / "l.sqlite3")
    made.migrate()
    yield made
    made.close()


@pytest.fixture
def desk(database):
    return Desk(database)


NEWER = bring_in(b"Name,Mobile,Due\nDi,902-555-0104,7\nBo,902-555-0101,9\n", "newer.csv")
COMMANDS = st.one_of(
    st.builds(
        MendCell, row=st.integers(1, 2), column=st.sampled_from(["Name", "due"]), typed=st.sampled_from(["x", "1", ""])
    ),
    st.builds(KeepRow, row=st.integers(1, 2), left_out=st.booleans()),
    st.builds(KeepRow, row=st.integers(1, 2), released=st.booleans()),
    st.just(AddRow()),
    st.builds(WriteWording, wording=st.sampled_from(["", "{Name}", "{Late} {{"])),
    st.builds(PutComputed, name=st.just("Late"), formula=st.sampled_from(["{Due} * 2", "1"]), was=st.just("Late")),
    st.just(RemoveComputed(name="Late")),
    st.builds(SetColumn, name=st.just("Due"), role=st.sampled_from(["money", "text", None])),
    st.builds(SetColumn, name=st.just("due"), format=st.sampled_from(["money USD", None])),
    st.builds(SetUp, lookups=st.sampled_from([{}, {"Tariff": {"A": "14"}}]), repeat_days=st.integers(0, 2)),
    st.just(SetUp(leave_out=[{"when": "{Due} < 2", "reason": "little"}])),
    st.builds(SetPace, pace=st.sampled_from([PaceSettings(every=3.0, give_or_take=1.0), PaceSettings()])),
    st.just("newer"),
)
STEPS = st.lists(st.one_of(COMMANDS, st.just("undo"), st.just("redo")), max_size=10)


@settings(max_examples=60, deadline=None)
@given(STEPS)
def test_any_walk_ends_where_a_list_of_states_ends(database, steps):
    """The model keeps every state there was; undo and redo move along it, and a new change cuts off what was undone.

    A second copy of the program makes every other change; what either has at hand is what reading all anew gives.
    """
    copies = Desk(database), Desk(database)
    number = copies[0].new()
    past, here = [copies[0].state(number)], 0
    for turn, step in enumerate(steps):
        desk = copies[turn % 2]
        desk.now = AT + timedelta(minutes=turn)
        if step in ("undo", "redo"):
            to = here + (-1 if step == "undo" else 1)
            if not 0 <= to < len(past):
                with pytest.raises(NotNow):
                    getattr(desk.editor, step)(number)
            else:
                getattr(desk.editor, step)(number)
                here = to
        else:
            command = step
            if step == "newer":
                command = TakeNewer(brought=NEWER, file_name="n.csv", key="Name", version=desk.opened(number).version)
            try:
                desk.editor.edit(number, command)
            except LedgerError:
                assert desk.state(number) == past[here], "what was refused changed nothing"
            if (now := desk.state(number)) != past[here]:
                past, here = [*past[: here + 1], now], here + 1
        assert desk.state(number) == past[here]
        assert [said is not None for said in desk.undoable(number)] == [here > 0, here < len(past) - 1]
        for copy in copies:
            opened, (sheet, recipe, kept) = copy.opened(number), past[here]
            anew = compute_round(sheet, recipe, left_out=kept.left_out, released=kept.released)
            found = Computed(opened.composer, opened.kept.left_out, opened.kept.released)
            assert (found.texts, found.marks) == (anew.texts, anew.marks)
    with database.writing() as session:
        remove_round(session, number, AT)


def test_what_stood_there_is_kept_beside_it(desk):
    number = desk.new()
    desk.do(number, MendCell(row=1, column="Due", typed="9"), AddRow())
    with desk.database.reading() as session:
        found = round_of(session, number)
        assert originals_of(session, found, range(4)) == {0: ("Ines", "902-555-0100", "1"), 3: None}
    desk.do(number, MendCell(row=1, column="Due", typed="1"))
    with desk.database.reading() as session:
        assert 0 not in originals_of(session, round_of(session, number), range(4)), "mended back is not mended"


SAID = [
    (MendCell(row=1, column="due", typed="a very long cell that is cut short"), '"a very long cell th…" in row 1, Due'),
    (KeepRow(row=2, left_out=True), "leaving row 2 out"),
    (KeepRow(row=2, left_out=False), "taking row 2 back"),
    (KeepRow(row=2, released=True, reason="he  asked"), "sending row 2 all the same: he asked"),
    (AddRow(), "adding row 4"),
    (WriteWording(wording="{Name}"), "the wording"),
    (PutComputed(name="Late", formula="{Due} * 2"), "the computed column Late"),
    (SetColumn(name="due", format="money USD", role="money"), "the role and format of Due"),
    (SetUp(lookups={"A": {"b": "1"}}, locale="fr-CA"), "the language and the tables"),
    (SetPace(title="Dues, again"), "the title"),
    (RemoveComputed(name="Late"), "removing the column Late"),
]


def test_changes_are_named_and_entered_with_who_and_when(desk):
    number = desk.new()
    for command, said in SAID:
        desk.do(number, command)
        assert desk.undoable(number)[0] == said
    with desk.database.reading() as session:
        entries = entries_of(session, round_of(session, number), None, 50)
    assert [entry.what.sentence for entry in reversed(entries)] == [said for _, said in SAID]
    assert {entry.by for entry in entries} == {"this machine"}
    assert entries[0].at == desk.now


def test_what_changes_nothing_is_no_change(desk):
    number = desk.new()
    desk.do(number, WriteWording(wording="{Name}"), KeepRow(row=1, left_out=True))
    desk.editor.undo(number)
    before, version = desk.undoable(number), desk.opened(number).version
    for command in (
        WriteWording(wording="{Name}"),
        KeepRow(row=1, left_out=False),
        MendCell(row=1, column="Due", typed=" 1 "),
        SetPace(title="Dues"),
    ):
        desk.do(number, command)
    assert (desk.undoable(number), desk.opened(number).version) == (before, version)


def test_a_pause_of_typing_is_one_change_and_a_longer_one_two(desk):
    number = desk.new()
    desk.do(number, *[WriteWording(wording="Hello"[:n]) for n in range(1, 6)], later=1.5)
    desk.do(number, WriteWording(wording="Hello {Name}"), later=3)
    desk.editor.undo(number)
    assert desk.opened(number).recipe.wording == "Hello"
    desk.editor.undo(number)
    assert desk.opened(number).recipe.wording == ""
    desk.editor.redo(number)
    assert desk.opened(number).recipe.wording == "Hello"
    desk.do(number, WriteWording(wording="Hello!"), later=0.1)
    desk.editor.undo(number)
    assert desk.opened(number).recipe.wording == "Hello", "what was undone and done again is whole"


def test_a_wording_written_upon_another_replaces_none(desk):
    number = desk.new()
    desk.do(number, WriteWording(wording="mine", was=""))
    with pytest.raises(Behind) as refused:
        desk.do(number, WriteWording(wording="yours", was=""))
    assert refused.value.more["theirs"] == "mine"
    assert desk.do(number, WriteWording(wording="ours", was="mine")).recipe.wording == "ours"


def test_what_is_not_there_cannot_be_mended(desk):
    number = desk.new()
    for command, refusal in (
        (MendCell(row=9, column="Due", typed="x"), "no row 9"),
        (KeepRow(row=9, left_out=True), "no row 9"),
        (MendCell(row=1, column="Boat", typed="x"), 'no column "Boat"'),
        (MendCell.model_construct(row=1, column="Due", typed="x" * 40_000), "at most 32,767 characters"),
        (SetUp(currency="DOLLARS"), "ISO 4217"),
    ):
        before = desk.state(number)
        with pytest.raises(LedgerError, match=refusal):
            desk.do(number, command)
        assert desk.state(number) == before


def test_a_round_takes_all_that_hangs_on_it_along(desk):
    number = desk.new()
    version = desk.do(number, MendCell(row=1, column="Due", typed="9")).version
    desk.do(number, TakeNewer(brought=NEWER, file_name="n.csv", key="Name", version=version))
    with desk.database.reading() as session:
        found = round_of(session, number)
    other = desk.new()
    with desk.database.writing() as session:
        remove_round(session, number, AT)
    with desk.database.writing() as session:
        restore_round(session, number)
        assert len(entries_of(session, found, None, 9)) == 2, "brought back it is as it was"
        remove_round(session, number, AT)
        assert number in {kept.id for kept in removed_rounds(session, AT + timedelta(hours=23))}
        assert removed_rounds(session, AT + timedelta(hours=25)) == []
        remove_round(session, other, AT + timedelta(days=2))
        with pytest.raises(NotThere, match="not kept any more"):
            restore_round(session, number)
    with desk.database.reading() as session:
        assert entries_of(session, found, None, 9) == []
        left = session.connection().exec_driver_sql(
            "SELECT (SELECT count(*) FROM earlier_sheets WHERE round_id = ?)", (number,)
        )
        assert left.scalar() == 0
        with pytest.raises(NotThere):
            round_of(session, number)


def test_undo_and_redo_walk_to_a_change_that_is_named(desk):
    number = desk.new()
    steps = [MendCell(row=1, column="Due", typed="9"), KeepRow(row=2, left_out=True), SetPace(title="Again"), AddRow()]
    past = [desk.state(number)]
    for command in steps:
        desk.do(number, command)
        past.append(desk.state(number))
    with desk.database.reading() as session:
        ids = [entry.id for entry in reversed(entries_of(session, round_of(session, number), None, 9))]
    desk.editor.undo(number, upto=ids[1])
    assert desk.state(number) == past[1]
    with pytest.raises(NotNow, match="undone or done again meanwhile"):
        desk.editor.undo(number, upto=ids[3])
    desk.editor.redo(number, upto=ids[2])
    assert desk.state(number) == past[3]
    other = desk.new()
    desk.do(other, AddRow())
    with pytest.raises(NotNow):
        desk.editor.undo(other, upto=ids[0])
    assert desk.state(number) == past[3], "another round's change is none of this one's"


def test_once_sending_started_only_what_came_after_can_be_undone(desk):
    number = desk.new()
    desk.do(number, MendCell(row=1, column="Due", typed="9"))
    with desk.database.writing() as session:
        found = round_of(session, number)
        # The clock may have been set back meanwhile: what came first is told by the journal, not by it.
        found.stage, found.started_at = Stage.SENDING, desk.now - timedelta(hours=1)
        found.version += 1
        close(session, found)
    with pytest.raises(NotNow, match="nothing to undo"):
        desk.editor.undo(number)
    before = desk.state(number)
    desk.do(number, SetPace(title="Dues, later"))
    assert desk.undoable(number) == ("the title", None)
    desk.editor.undo(number)
    assert desk.state(number) == before


CELLS = [
    # what is done, the cells of all rows after it, and what the journal calls it
    (ChangeCells(act="empty", rows=[1, 3], columns=["Due", "Name"]), ["", "2", ""], "emptying 4 cells"),
    (ChangeCells(act="fill", rows=[1, 2, 3], columns=["Due"]), ["1", "1", "1"], "filling 2 cells down"),
    (ChangeCells(act="fill", rows=[2], columns=["Due"]), ["1", "2", "3"], None),
    (PasteBlock(text="7\n8\n", place=Place([1, 2, 3], ["Due"]), seen=1), ["7", "8", "3"], "pasting 2 cells"),
    (PasteBlock(text="1\n2", place=Place([1, 2, 3], ["Due"])), ["1", "2", "3"], None),
    (PasteBlock(text="5", place=Place([1, 2], ["Due"], 2), seen=1), ["5", "5", "3"], "pasting 2 cells"),
    (
        PasteBlock(text="3\n4\n5", place=Place([3], ["Due"])),
        ["1", "2", "3", "4", "5"],
        "pasting 2 cells, with 2 new rows",
    ),
    (
        PasteBlock(text="Di\t902-555-0107\t4", place=Place([1], ["Due"], below=True)),
        ["1", "2", "3", "4"],
        "pasting 3 cells, with 1 new row",
    ),
]


@pytest.mark.parametrize(("command", "dues", "said"), CELLS)
def test_many_cells_change_as_one_change(desk, command, dues, said):
    number = desk.new()
    before = desk.state(number)
    desk.do(number, command)
    sheet = desk.state(number)[0]
    assert [as_written(cell) for cell in sheet.values(2)] == dues
    assert desk.undoable(number)[0] == said
    if said:
        desk.editor.undo(number)
        assert desk.state(number) == before


def test_nothing_is_covered_that_was_not_shown(desk):
    number = desk.new()
    place = Place([1, 2], ["Due"])
    for command in (
        PasteBlock(text="7\n8", place=place),
        PasteBlock(text="7\n8", place=place, seen=9),
        MendCell(row=1, column="Due", typed="7", was="0.9"),
    ):
        before = desk.state(number)
        with pytest.raises(LedgerError, match=r"covers 2 cells|changed meanwhile, to “1”"):
            desk.do(number, command)
        assert desk.state(number) == before
    desk.do(number, MendCell(row=1, column="Due", typed="7", was="1"))


# What a window asks for: once, however often; over nothing of another window's; and taken back by itself alone.

MANY = [
    MendCell(row=1, column="Due", typed="7", was="1"),
    AddRow(),
    ChangeCells(act="fill", rows=[1, 2], columns=["Due"]),
    PasteBlock(text="a\tb", place=Place([3], ["Name", "Mobile"], 1, may_add=True), seen=None),
    KeepRow(row=1, left_out=True),
    SetUp(title="Other"),
    PutComputed(name="Late", formula="{Due} * 2"),
    MendCell(row=1, column="Due", typed="1", was="1"),
]


@pytest.mark.parametrize("command", MANY, ids=lambda c: type(c).__name__)
def test_what_is_asked_for_again_under_its_key_is_done_once(desk, command):
    number = desk.new()
    command = command.model_copy(update={"seen": 1}) if isinstance(command, PasteBlock) else command
    desk.do(number, command, deed=Deed(key=f"{number}/once"))
    once = desk.state(number), desk.opened(number).version
    # By now something else may stand there, over which nothing is written that was written before.
    desk.do(number, MendCell(row=1, column="Due", typed="99"))
    desk.do(number, command, deed=Deed(key=f"{number}/once"))
    desk.editor.undo(number)
    assert desk.state(number) == once[0]
    assert desk.opened(number).version == once[1] + 2
    desk.do(number, AddRow(), deed=Deed(key=f"{number}/another"))
    assert desk.opened(number).version == once[1] + 3, "under another key it is another deed"


def test_a_key_is_good_within_its_round(desk):
    first, second = desk.new(), desk.new()
    for number in (first, second):
        desk.do(number, AddRow(), deed=Deed(key="the same"))
    assert [desk.opened(number).version for number in (first, second)] == [2, 2]


def test_one_that_is_taken_back_once_more_under_its_key_is_taken_back_once(desk):
    number = desk.new()
    desk.do(number, MendCell(row=1, column="Due", typed="7"), MendCell(row=2, column="Due", typed="8"))
    for _ in range(2):
        desk.editor.undo(number, deed=Deed(key=f"{number}/undo"))
    assert [row[2] for row in desk.state(number)[0].rows] == ["7", "2", "3"]


def _asked(desk, number, command, seen, window="here", key=""):
    return desk.do(number, command, deed=Deed(key=key, window=window, seen=seen))


NEWER_TAKEN = TakeNewer(brought=NEWER, file_name="n.csv", key="Name", version=1)

THEIRS_AND_MINE = [
    (MendCell(row=1, column="Due", typed="5"), MendCell(row=1, column="Due", typed="7"), ["row 1, Due"]),
    (MendCell(row=1, column="Due", typed="5"), MendCell(row=2, column="Due", typed="7"), None),
    (MendCell(row=2, column="Due", typed="5"), ChangeCells(act="empty", rows=[1, 2], columns=["Due"]), ["row 2, Due"]),
    (MendCell(row=2, column="Name", typed="5"), ChangeCells(act="empty", rows=[1, 2], columns=["Due"]), None),
    (SetPace(pace=PaceSettings(every=9)), SetPace(pace=PaceSettings(every=30)), ["the gap"]),
    (SetUp(title="Theirs"), SetUp(title="Mine"), ["name of the round"]),
    (SetUp(title="Theirs"), SetUp(repeat_days=9), None),
    (
        PutComputed(name="Late", formula="{Due} * 2"),
        PutComputed(name="Late", was="Late", formula="{Due} * 3"),
        ["Late, its formula"],
    ),
    (SetColumn(name="Due", role="money"), SetColumn(name="Due", role="number"), ["Due, what it is for"]),
    (SetColumn(name="Due", role="money"), SetColumn(name="Due", fallback="none"), None),
    (KeepRow(row=1, left_out=True), KeepRow(row=1, left_out=False), ["row 1, left out"]),
    (KeepRow(row=1, left_out=True), KeepRow(row=2, left_out=True), None),
    (NEWER_TAKEN, MendCell(row=1, column="Due", typed="8"), ["row 1, Due"]),
    (NEWER_TAKEN, SetUp(title="Mine"), None),
    (AddRow(), AddRow(), None),
]


@pytest.mark.parametrize(("theirs", "mine", "places"), THEIRS_AND_MINE)
def test_what_another_window_changed_in_the_same_place_is_asked_about(desk, theirs, mine, places):
    number = desk.new()
    seen = desk.opened(number).version
    now = _asked(desk, number, theirs, seen, window="there").version
    before = desk.state(number)
    if places is None:
        assert _asked(desk, number, mine, seen).version == now + 1
        return
    with pytest.raises(Behind) as refused:
        _asked(desk, number, mine, seen, key=f"{number}/mine")
    assert [place["where"] for place in refused.value.more["places"]] == places
    assert desk.state(number) == before, "neither takes the other's place by itself"
    # One's own is never asked about, nor what was seen before it was written.
    assert _asked(desk, number, mine, seen, window="there").version == now + 1
    desk.editor.undo(number)
    assert _asked(desk, number, mine, now + 2, key=f"{number}/mine").version == now + 3, "chosen, it is done"


def test_what_was_taken_back_elsewhere_is_asked_about_too(desk):
    number = desk.new()
    seen = _asked(desk, number, SetUp(title="Mine"), 1).version
    desk.editor.undo(number, only=None, deed=Deed(window="here"))
    desk.editor.redo(number, deed=Deed(window="here"))
    desk.editor.undo(number, upto=_last_change(desk, number), deed=Deed(window="there"))
    with pytest.raises(Behind):
        _asked(desk, number, SetUp(title="Another"), seen)


def test_a_round_that_is_older_than_what_was_seen_asks(desk):
    number = desk.new()
    with pytest.raises(Behind, match="put back"):
        _asked(desk, number, SetUp(title="Mine"), 40)


def test_what_was_typed_for_another_ledger_is_not_written(desk):
    number = desk.new()
    with desk.database.reading() as session:
        uid = round_of(session, number).uid
    before = desk.state(number)
    with pytest.raises(OtherLedger):
        desk.do(number, SetUp(title="Mine"), deed=Deed(uid="another"))
    assert desk.state(number) == before
    desk.do(number, SetUp(title="Mine"), deed=Deed(uid=uid))


def _last_change(desk, number):
    with desk.database.reading() as session:
        return entries_of(session, round_of(session, number), None, 1)[0].id


def test_undo_takes_back_what_this_window_did_and_names_what_another_did(desk):
    number = desk.new()
    _asked(desk, number, SetUp(title="Mine"), None)
    _asked(desk, number, MendCell(row=1, column="Due", typed="5"), None, window="there")
    last = _last_change(desk, number)
    with pytest.raises(NotFromHere, match="row 1, Due") as refused:
        desk.editor.undo(number, deed=Deed(window="here"))
    assert refused.value.more["change"] == last
    desk.editor.undo(number, only=last, deed=Deed(window="here"))
    desk.editor.undo(number, deed=Deed(window="here"))
    with pytest.raises(NotFromHere):
        desk.editor.redo(number, deed=Deed(window="there"))
    desk.editor.redo(number, deed=Deed(window="here"))
    assert desk.state(number)[1].title == "Mine"


def test_what_two_windows_type_is_not_one_change(desk):
    number = desk.new()
    for typed, window in [("a", "here"), ("ab", "here"), ("abc", "there")]:
        desk.do(number, WriteWording(wording=typed), later=0.5, deed=Deed(window=window))
    desk.editor.undo(number)
    assert desk.state(number)[1].wording == "ab"


def test_cells_that_are_to_be_spared_stay(desk):
    number = desk.new()
    desk.do(number, ChangeCells(act="empty", rows=[1, 2, 3], columns=["Due", "Name"], spare=[(2, "due"), (3, "Name")]))
    assert [row[0::2] for row in desk.state(number)[0].rows] == [(None, None), (None, "2"), ("Cal", None)]
