"""Long rounds: nobody waits long for the ledger, and what is cut off has changed nothing, or a part that is true."""

from contextlib import contextmanager

import pytest
from fastapi.testclient import TestClient

from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.store import processes, sheets
from gentle_ledger.store.clearing import clear_away
from gentle_ledger.store.database import Database
from gentle_ledger.store.statements import statements_of
from tests.web.office import OWN, Office

ROWS = 1_300
AREAS = ("902", "506", "782", "709")
SHEET = "Name,Mobile,Due\n" + "".join(f"P{i},{AREAS[i % 4]}-555-01{i // 4 % 100:02},{i}.50\n" for i in range(ROWS))
NEWER = SHEET.replace(".50\n", ".75\n")
EVERY = list(range(1, ROWS + 1))
MOST_ROWS = 1_200
"""What one write may change: 1,000 rows take some ten milliseconds."""


class Cut(Exception):
    """The plug is pulled."""


def opened(folder):
    office = Office(folder)
    # What is raised within comes through.
    office.client = TestClient(office.app, base_url="http://127.0.0.1:8090", headers=OWN)
    return office


@pytest.fixture
def office(tmp_path):
    return opened(tmp_path)


def brought_in(office):
    path = f"/api/rounds/{office.bring(SHEET)}"
    office.call("PUT", f"{path}/wording", json={"wording": "Hello {Name} {Due}", "row": 1})
    office.call("PATCH", path, json={"repeat_days": 0, "checks": {"same number": "look"}})
    return path


def start(office, path):
    office.call("POST", f"{path}/start", json={"seal": office.call("GET", f"{path}/confirmation")["seal"]})


def started(office):
    path = brought_in(office)
    start(office, path)
    return path


def stopped(office):
    path = started(office)
    office.call("POST", f"{path}/stop")
    return path


def filled(office):
    path = brought_in(office)
    fill(office, path)
    return path


def replaced(office):
    path = brought_in(office)
    newer(office, path)
    return path


def chosen(office):
    path = brought_in(office)
    seal = office.call("POST", f"{path}/confirmation", json={"rows": [1]})["seal"]
    office.call("POST", f"{path}/start", json={"seal": seal, "rows": [1]})
    return path


def removed(office):
    path = brought_in(office)
    office.call("DELETE", path, 204)
    office.clock.passed += 2 * 86_400
    return f"/api/rounds/{office.bring()}"


def fill(office, path):
    office.call("POST", f"{path}/cells", json={"act": "fill", "rows": EVERY, "columns": ["Name"]})


def newer(office, path):
    data = {"key": "Name", "version": office.call("GET", path)["version"]}
    office.call("POST", f"{path}/newer", data=data, files={"file": ("b.csv", NEWER)})


def paste(office, path):
    block = {"text": "\n".join(f"Q{i}" for i in EVERY), "rows": [ROWS], "columns": ["Name"], "below": True}
    office.call("POST", f"{path}/cells/paste", json=block)


def take_up(office, path):
    office.again(path, which="stopped", texts=office.call("GET", f"{path}/tally")["may_take_up"])


WHOLE = {
    # What is done at one stroke: from where, and what.
    "bring in": (lambda office: "", lambda office, path: office.bring(SHEET)),
    "fill": (brought_in, fill),
    "undo": (filled, lambda office, path: office.call("POST", f"{path}/undo")),
    "paste": (brought_in, paste),
    "newer": (brought_in, newer),
    "undo newer": (replaced, lambda office, path: office.call("POST", f"{path}/undo")),
    "start": (brought_in, start),
    "take back": (started, lambda office, path: office.call("POST", f"{path}/take-back")),
    "remove": (removed, lambda office, path: office.call("DELETE", path, 204)),
}
BY_AND_BY = {
    # What leaves a part of it done where it is cut off.
    "stop": (started, lambda office, path: office.call("POST", f"{path}/stop")),
    "take up": (stopped, take_up),
    "keep back": (chosen, lambda office, path: office.call("POST", f"{path}/keep-back")),
}


@contextmanager
def writes(monkeypatch, cut_after=None, meanwhile=None):
    """How many rows each write changes; after so many writes the plug is pulled, until this ends.

    `meanwhile` is how many writes come before something that another window does, and that.
    """
    changed: list[int] = []
    whole, bare = Database.writing, Database.writing_bare

    def counted(of):
        @contextmanager
        def write(self, *, piece=False):
            if cut_after is not None and len(changed) >= cut_after:
                raise Cut
            if meanwhile is not None and len(changed) == meanwhile[0]:
                changed.append(0)
                meanwhile[1]()
            with of(self) as found:
                ledger = found if of is bare else statements_of(found)
                before = ledger.first("SELECT total_changes()")[0]
                yield found
                if of is whole:
                    found.flush()
                changed.append(ledger.first("SELECT total_changes()")[0] - before)

        return write

    with monkeypatch.context() as patch:
        patch.setattr(Database, "writing", counted(whole))
        patch.setattr(Database, "writing_bare", counted(bare))
        yield changed


def everything(office):
    """All that can be seen of the rounds, but for what only counts, and for what chance chose."""
    seen = [office.call("GET", "/api/rounds")]
    for found in seen[0]:
        path = f"/api/rounds/{found['id']}"
        seen += [
            {**office.call("GET", path), "uid": ""},
            office.call("GET", f"{path}/rows?limit=3"),
            office.call("GET", f"{path}/tally"),
        ]
    return seen


def of_tables(office):
    with office.app.state.context.database.reading_bare() as ledger:
        return [ledger.first(f"SELECT count(*) FROM {table}")[0] for table in ("sheets", "sheet_rows", "messages")]


@pytest.mark.parametrize("what", WHOLE)
def test_no_write_is_long_and_what_is_cut_off_has_changed_nothing(tmp_path, monkeypatch, what):
    before, do = WHOLE[what]
    whole = opened(tmp_path / "whole")
    path = before(whole)
    with writes(monkeypatch) as changed:
        do(whole, path)
    assert max(changed) <= MOST_ROWS, changed
    assert sum(changed) >= ROWS or what == "undo newer", "there both sheets stand already"
    after = everything(whole)
    office = opened(tmp_path / "cut off")
    path = before(office)
    ledger = office.app.state.context.database
    clear_away(ledger)
    tables, seen = of_tables(office), everything(office)
    for cut_after in sorted({0, 1, len(changed) // 2, len(changed) - 1} & set(range(len(changed)))):
        with pytest.raises(Cut), writes(monkeypatch, cut_after):
            do(office, path)
        now = everything(office)
        assert now in (seen, after), "as it was, or done"
        clear_away(ledger)
        assert now == everything(office)
        if now == after:
            break
        assert of_tables(office) == tables
    else:
        do(office, path)
    assert everything(office) == after
    assert of_tables(office) == of_tables(whole)


@pytest.mark.parametrize("what", BY_AND_BY)
def test_what_is_done_by_and_by_and_cut_off_can_be_gone_on_with(office, monkeypatch, what):
    before, do = BY_AND_BY[what]
    path = before(office)
    with pytest.raises(Cut), writes(monkeypatch, 2):
        do(office, path)
    part = office.call("GET", f"{path}/tally")["counts"]
    assert len(part) >= 2
    assert sum(each["rows"] for each in part) == ROWS
    if what == "stop":
        # The sender leaves the rest out, and nothing leaves meanwhile; nothing is taken up before.
        body = {"which": "stopped", "texts": 1, "seal": ""}
        assert "just being stopped" in office.call("POST", f"{path}/again", 409, json=body)["detail"]
        office.run(200)
        assert office.carrier.arrived == []
    else:
        if what == "take up":
            # The rest is offered again as soon as nothing goes any more.
            office.call("POST", f"{path}/stop")
        with writes(monkeypatch) as changed:
            do(office, path)
        assert max(changed) <= MOST_ROWS, changed
    ends = {"stop": "Left out", "take up": "To go", "keep back": "Left out"}[what]
    counts = {each["mark"]: each["rows"] for each in office.call("GET", f"{path}/tally")["counts"]}
    assert counts[ends] == ROWS - (what == "keep back")


def test_texts_of_a_round_that_is_just_being_started_count_for_nothing(tmp_path, monkeypatch):
    office = opened(tmp_path)
    path, other = brought_in(office), brought_in(office)
    office.call("PATCH", other, json={"repeat_days": 30})
    seen = everything(office)
    with pytest.raises(Cut), writes(monkeypatch, 4):
        start(office, path)
    assert of_tables(office)[2] == 1_000
    assert everything(office) == seen
    # Nor is any of them touched by what is done to texts elsewhere.
    added = office.call(
        "POST", "/api/no-more-texts", 201, json={"number": "902-555-0100", "on": "2026-11-24", "how": "x"}
    )
    assert added["left_out"] == 0
    clear_away(office.app.state.context.database)
    assert of_tables(office)[2] == 0


def test_who_is_just_writing_is_left_alone_and_who_is_gone_is_not(office, monkeypatch):
    database = office.app.state.context.database
    sheet = bring_in(SHEET.encode(), "a.csv").sheet
    with sheets.laid_sheet(database, sheet):
        clear_away(database)
        assert of_tables(office)[:2] == [1, ROWS]
    assert of_tables(office)[:2] == [0, 0]
    with sheets.laid_sheet(database, sheet):
        monkeypatch.setattr(sheets, "is_at_it", lambda token: False)
        clear_away(database)
        assert of_tables(office)[:2] == [0, 0]
    monkeypatch.undo()
    for process, at_it in (("", False), ("elsewhere/1/2/3", False), (f"{processes.this_process()}", False)):
        assert sheets.is_at_it(process) is at_it
    with sheets.at_work() as token:
        assert sheets.is_at_it(token)
    assert not sheets.is_at_it(token)


def test_two_windows_start_one_round_and_each_text_is_there_once(office, monkeypatch):
    path = brought_in(office)
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    with sheets.at_work() as token:
        with office.app.state.context.database.writing_bare() as ledger:
            ledger.run("UPDATE rounds SET laid_by = ?", token)
        said = office.call("POST", f"{path}/start", 409, json={"seal": seal})["detail"]
    assert "just being started in another window" in said
    assert of_tables(office)[2] == 0
    office.call("POST", f"{path}/start", json={"seal": seal})
    assert of_tables(office)[2] == ROWS


def test_what_another_window_changes_during_a_long_change_stays(office, monkeypatch):
    path = brought_in(office)
    mend = {"column": "Due", "typed": "7.00"}
    other = lambda: office.call("PATCH", f"{path}/rows/3/cells", json=mend)  # noqa: E731
    with writes(monkeypatch, meanwhile=(2, other)):
        fill(office, path)
    [row] = office.call("GET", f"{path}/rows?offset=2&limit=1")["rows"]
    assert [cell["shown"] for cell in row["cells"]] == ["P0", AREAS[2] + "-555-0100", "$7.00"]
    # Nor is what another one did taken back instead of what was meant.
    with writes(monkeypatch, meanwhile=(2, lambda: office.call("PATCH", path, json={"title": "Other"}))):
        office.call("POST", f"{path}/undo?upto={office.call('GET', f'{path}/changes')['changes'][0]['id']}", 409)
    assert office.call("GET", path)["title"] == "Other"


@pytest.mark.parametrize("stops", [True, False])
def test_who_stops_a_round_while_it_is_taken_up_is_followed(office, monkeypatch, stops):
    path = stopped(office)
    press = lambda: office.call("POST", f"{path}/{'stop' if stops else 'pause'}")  # noqa: E731
    with writes(monkeypatch, meanwhile=(1, press)):
        take_up(office, path)
    tally = office.call("GET", f"{path}/tally")
    ends = ("stopped", "Left out") if stops else ("paused", "To go")
    assert (tally["stage"], tally["counts"]) == (ends[0], [{"mark": ends[1], "rows": ROWS}])
