"""The program as its web tests use it: served without a thread, over a carrier that counts."""

import atexit
from pathlib import Path

from fastapi.testclient import TestClient

from gentle_ledger.app.counting.pool import Pool
from gentle_ledger.cli.program import assemble
from gentle_ledger.sending.loop import Loop
from gentle_ledger.sending.sender import Sender
from gentle_ledger.web.settings import Settings
from tests.sending.world import CountingCarrier, HandClock

SHEET = "First name,Mobile,Berth,Due\nInes,902-555-0128,C14,186.40\n,902-555-0111,C15,50\nBo,902-555-012,C16,9\n"
WORDING = "Hello {First name}, berth {Berth} has {Due} to pay."


POOL = Pool()
"""The processes that count rows are the same for all tests: each has ledgers of its own."""
atexit.register(POOL.close)

OWN = {"origin": "http://127.0.0.1:8090"}


class Office:
    """The program without its thread: the sender acts by hand, over a carrier that counts."""

    def __init__(self, folder: Path) -> None:
        self.clock = HandClock()
        self.carrier = CountingCarrier(self.clock)
        settings = Settings(data=folder / "ledger.sqlite3", port=8090)
        program = assemble(settings, self.clock, pool=POOL)
        sender = Sender(program.database, self.carrier, self.clock, program.signal, office=settings.zone)
        self.app, self.loop = program.app, Loop(sender)
        self.sender = self.loop.sender
        # The line that rounds go by from now on is the one of this carrier.
        self.sender.begin()
        self.sender.give_back()
        self.client = TestClient(self.app, base_url="http://127.0.0.1:8090", headers=OWN, raise_server_exceptions=False)

    def call(self, method, path, status=200, **more):
        answer = self.client.request(method, path, **more)
        assert answer.status_code == status, answer.text
        return answer.json() if answer.content else None

    def bring(self, text=SHEET, name="november-dues.csv"):
        return self.call("POST", "/api/rounds", 201, files={"file": (name, text)})["id"]

    def started(self, text=SHEET):
        number = self.bring(text)
        self.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
        fallback = {"name": "First name", "fallback": "there"}
        self.call("PATCH", f"/api/rounds/{number}/columns", json=fallback)
        seal = self.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
        self.call("POST", f"/api/rounds/{number}/start", json={"seal": seal})
        return number

    def again(self, path, status=200, **body):
        """Sends what did not go, with the seal of what the page says of it."""
        if body["which"] == "ready":
            asked = {"rows": body.get("rows"), "all_the_same": body.get("all_the_same", False)}
            seal = self.call("POST", f"{path}/confirmation", json=asked)["seal"]
        else:
            seal = self.call("GET", f"{path}/tally")[f"seal_of_{body['which']}"]
        return self.call("POST", f"{path}/again", status, json={"seal": seal, **body})

    def run(self, seconds=600):
        until = self.clock.passed + seconds
        while self.sender.act() is not None and self.clock.passed < until:
            self.clock.passed += 5
