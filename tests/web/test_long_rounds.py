"""Long rounds: nobody waits long for the ledger, and what is cut off is finished by the sender."""

import statistics
import time
from contextlib import contextmanager

import pytest

from gentle_ledger.app.commands.sending import Stop
from gentle_ledger.store import steps
from gentle_ledger.store.database import Database
from tests.web.office import Office

ROWS = 2_300
LONGEST = 0.1


@pytest.fixture
def started(tmp_path):
    office = Office(tmp_path)
    areas = ("902", "506", "782", "709")
    rows = "".join(f"P{i},{areas[i % 4]}-555-01{i // 4 % 100:02}\n" for i in range(ROWS))
    path = f"/api/rounds/{office.bring(f'Name,Mobile{chr(10)}{rows}')}"
    office.call("PUT", f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
    office.call("PATCH", path, json={"repeat_days": 0, "checks": {"same number": "look"}})
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    office.call("POST", f"{path}/start", json={"seal": seal})
    return office, path


def test_stop_keeps_nobody_waiting_for_long(started, monkeypatch):
    office, path = started
    took, bare = [], Database.writing_bare

    @contextmanager
    def timed(self):
        with bare(self) as ledger:
            at = time.perf_counter()
            yield ledger
        took.append(time.perf_counter() - at)

    monkeypatch.setattr(Database, "writing_bare", timed)
    tally = office.call("POST", f"{path}/stop")
    assert tally["counts"] == [{"mark": "Left out", "rows": ROWS}]
    # Some of them may be held up by a busy machine.
    assert statistics.median(took) < LONGEST
    assert len(took) > ROWS / steps._PIECE
    monkeypatch.undo()
    with office.app.state.context.database.reading_bare() as ledger:
        assert ledger.first("SELECT count(*) FROM ledger WHERE mark = 'Left out'")[0] == ROWS


def test_what_a_stop_that_was_cut_off_left_is_left_out_by_the_sender(started):
    office, path = started
    office.app.state.context.editor.edit(int(path.rpartition("/")[2]), Stop())
    assert office.call("GET", f"{path}/tally")["counts"] == [{"mark": "To go", "rows": ROWS}]
    body = {"which": "stopped", "texts": 1, "seal": ""}
    assert "just being stopped" in office.call("POST", f"{path}/again", 409, json=body)["detail"]
    office.run(200)
    tally = office.call("GET", f"{path}/tally")
    assert (tally["counts"], tally["may_take_up"]) == ([{"mark": "Left out", "rows": ROWS}], ROWS)
    assert office.carrier.arrived == []
    office.again(path, which="stopped", texts=ROWS)
    assert office.call("GET", f"{path}/tally")["counts"] == [{"mark": "To go", "rows": ROWS}]
