"""What stands before every request, and what comes in through it: each a sentence, never an error inside."""

import asyncio
import os
import stat
from concurrent.futures import ThreadPoolExecutor

import pytest

from gentle_ledger.core.sheets.export import safe_for_spreadsheet
from gentle_ledger.web.guard import Guard, own_hosts
from gentle_ledger.web.settings import SettingError, read_settings
from tests.web.office import OWN, SHEET, Office

HOST = {"host": "127.0.0.1:8090"}


REQUESTS = [
    # method, headers, peer, let through
    ("GET", HOST, "127.0.0.1", True),
    ("GET", HOST, "::1", True),
    ("GET", HOST, "192.0.2.7", False),
    ("GET", HOST, "2001:db8::1", False),
    ("GET", {"host": "localhost:8090"}, "127.0.0.1", True),
    ("GET", {"host": "[::1]:8090"}, "::1", True),
    ("GET", {"host": "evil.example"}, "127.0.0.1", False),
    ("GET", {"host": "127.0.0.1:9999"}, "127.0.0.1", False),
    ("GET", {}, "127.0.0.1", False),
    ("GET", {**HOST, **OWN}, "127.0.0.1", True),
    ("GET", {**HOST, "origin": "http://evil.example"}, "127.0.0.1", False),
    ("GET", {**HOST, "origin": "null"}, "127.0.0.1", False),
    ("POST", {**HOST, **OWN}, "127.0.0.1", True),
    ("POST", {"host": "localhost:8090", **OWN}, "127.0.0.1", False),
    ("POST", {"host": "localhost:8090", "origin": "http://localhost:8090"}, "127.0.0.1", True),
    ("POST", HOST, "127.0.0.1", False),
    ("DELETE", HOST, "127.0.0.1", False),
    ("POST", {**HOST, **OWN, "sec-fetch-site": "same-origin"}, "127.0.0.1", True),
    ("POST", {**HOST, **OWN, "sec-fetch-site": "cross-site"}, "127.0.0.1", False),
    ("POST", {**HOST, **OWN, "sec-fetch-site": "none"}, "127.0.0.1", False),
    ("POST", {**HOST, "origin": "https://127.0.0.1:8090"}, "127.0.0.1", False),
    ("POST", {**HOST, **OWN}, "192.0.2.7", False),
]


@pytest.mark.parametrize(("method", "headers", "peer", "through"), REQUESTS)
def test_only_this_machine_its_own_host_and_changes_from_its_own_page(method, headers, peer, through):
    sent, reached = [], []

    async def app(_scope, _receive, send):
        reached.append(True)
        await send({"type": "http.response.start", "status": 200, "headers": []})

    async def send(message):
        sent.append(message)

    scope = {
        "type": "http",
        "method": method,
        "path": "/api/rounds",
        "client": (peer, 50_000),
        "headers": [(name.encode(), value.encode()) for name, value in headers.items()],
    }
    # On a thread of its own: the browser tests leave a loop running on this one.
    with ThreadPoolExecutor(1) as own:
        own.submit(asyncio.run, Guard(app, own_hosts("127.0.0.1", 8090))(scope, None, send)).result()
    assert bool(reached) == through
    assert sent[0]["status"] == (200 if through else 403)
    names = {name for name, _ in sent[0]["headers"]}
    assert {b"x-content-type-options", b"content-security-policy", b"cache-control"} <= names


@pytest.mark.parametrize("chunked", [False, True])
def test_what_is_too_large_is_refused_whether_it_says_so_or_not(office, chunked):
    """52 MB, with a length in front or counted as they come."""
    megabyte = b"x" * 1024 * 1024
    whole = b'--b\r\nContent-Disposition: form-data; name="file"; filename="a.csv"\r\n\r\n' + 52 * megabyte
    pieces = (whole[i : i + 65_536] for i in range(0, len(whole), 65_536))
    answer = office.client.post(
        "/api/rounds",
        content=pieces if chunked else whole,
        headers={"content-type": "multipart/form-data; boundary=b"},
    )
    assert (answer.status_code, "50 MB" in answer.json()["detail"]) == (413, True)
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert office.call("GET", "/api/rounds") == []


@pytest.mark.parametrize("host", ["0.0.0.0", "::", "192.168.1.7", "harbour.example", ""])
def test_listening_beyond_this_machine_is_refused_with_a_reason(host):
    with pytest.raises(SettingError, match="people and passwords"):
        read_settings(host=host)


@pytest.mark.parametrize("host", ["127.0.0.1", "127.0.0.2", "::1", "localhost"])
def test_this_machine_can_be_listened_to(host):
    assert read_settings(host=host).host == host


HUGE = [2**53, 2**63 - 1, 2**63, 2**64, 10**30, 0, -1]


@pytest.mark.parametrize("number", HUGE)
@pytest.mark.parametrize(
    ("method", "path"),
    [
        ("GET", "/api/rounds/{}"),
        ("DELETE", "/api/rounds/{}"),
        ("GET", "/api/rounds/{}/tally"),
        ("GET", "/api/rounds/{}/events"),
        ("GET", "/api/rounds/{}/marked-sheet.csv"),
        ("GET", "/api/rounds/1/rows/{}/slip"),
        ("PATCH", "/api/rounds/1/rows/{}"),
        ("POST", "/api/rounds/{}/pause"),
    ],
)
def test_numbers_of_nothing_are_not_there(office, method, path, number):
    office.bring()
    answer = office.client.request(method, path.format(number), json={"left_out": True} if method == "PATCH" else None)
    assert answer.status_code == 404
    assert answer.json()["detail"].endswith(".")


@pytest.mark.parametrize("due", ["1" * 27, "9" * 16, "-" + "9" * 16, "1" * 26 + ".5", "9" * 15 + ".9999"])
def test_an_amount_beyond_what_a_bill_has_is_a_held_row(office, due):
    number = office.bring(f"Name,Mobile,Due\nInes,902-555-0101,{due}\nBo,902-555-0102,5.00\nCal,902-555-0103,6.00\n")
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hi {Name} {Due}", "row": 1})
    rows = office.call("GET", f"/api/rounds/{number}/rows")["rows"]
    assert [row["mark"] for row in rows] == ["Held", "Ready", "Ready"]
    assert "too large" in rows[0]["reason"]


def test_the_largest_amount_is_written_in_full(office):
    number = office.bring(f"Name,Mobile,Due\nInes,902-555-0101,{'9' * 15}.99\nBo,902-555-0102,5.00\n")
    found = office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "{Due}", "row": 1})
    assert found["slip"]["parts"][0][0]["text"] == "$999,999,999,999,999.99"


FORMULAS = ["10^26", "10^99", "-10^40", "10^-26", "1" * 40 + "*2", "10^50*10^49", "1/3*10^30"]


@pytest.mark.parametrize("formula", FORMULAS)
@pytest.mark.parametrize("wanted", [None, "money", "number 2", "percent 2", "percent"])
def test_no_formula_keeps_a_round_from_being_opened(office, formula, wanted):
    number = office.bring()
    body = {"name": "X", "formula": formula, "format": wanted}
    office.call("PUT", f"/api/rounds/{number}/columns/computed", json=body)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "{X}", "row": 1})
    office.call("GET", f"/api/rounds/{number}")
    rows = office.call("GET", f"/api/rounds/{number}/rows")["rows"]
    assert office.client.get(f"/api/rounds/{number}/marked-sheet.csv").status_code == 200
    if wanted == "money" and formula != "10^-26":
        assert {row["mark"] for row in rows} == {"Held"}


@pytest.mark.parametrize("characters", [10_000, 10_001, 20_000, 20_001])
def test_one_limit_for_a_wording(office, characters):
    number = office.bring()
    body = {"wording": "x" * characters, "row": 1}
    office.call("PUT", f"/api/rounds/{number}/wording", 200 if characters <= 10_000 else 422, json=body)
    assert len(office.call("GET", f"/api/rounds/{number}")["wording"]) == (10_000 if characters <= 10_000 else 0)


@pytest.mark.parametrize(
    ("name", "title", "file_name"),
    [
        ("november-dues.csv", "November dues", "november-dues.csv"),
        ("..\\..\\evil.csv", "Evil", "evil.csv"),
        ("C:\\Quay\\dues.csv", "Dues", "dues.csv"),
        ("../../etc/dues.csv", "Dues", "dues.csv"),
        ("e\u202evil\u200b.csv", "E vil", "e vil .csv"),
        ("...csv", "Untitled round", "...csv"),
    ],
)
def test_a_files_name_is_no_path(office, name, title, file_name):
    number = office.bring(name=name)
    found = office.call("GET", f"/api/rounds/{number}")
    assert (found["title"], found["file_name"]) == (title, file_name)


@pytest.mark.parametrize("front", ["", " ", "\u00a0", "\ufeff", "\u200b", "\u2060 ", "\u00ad", "\x00", "\u3000"])
@pytest.mark.parametrize("formula", ["=1+1", "@SUM(A1)", "+cmd|x", "-2+3", "\t=1", "＝1"])
def test_no_cell_becomes_a_formula(front, formula):
    assert safe_for_spreadsheet(front + formula) == f"'{front}{formula}"


@pytest.mark.parametrize(
    "text", ["-12.50", "+19025550112", " Ines", "a=b", "\u200bInes", "5 - 3", "", "'tis", "'12.50"]
)
def test_what_is_no_formula_stays_as_it_is(text):
    assert safe_for_spreadsheet(text) == text


def test_files_are_for_their_owner_only(tmp_path):
    before = os.umask(0)
    try:
        made = Office(tmp_path / "new")
        number = made.started()
        made.loop.take_turn()
        assert number
        rights = {p.name: stat.S_IMODE(p.stat().st_mode) for p in (tmp_path / "new").iterdir()}
        assert set(rights.values()) == {0o600}
        assert {"ledger.sqlite3", "ledger.sqlite3-wal", "ledger.sqlite3.sender"} <= set(rights)
        assert stat.S_IMODE((tmp_path / "new").stat().st_mode) == 0o700
        made.loop.release_turn()
        made.app.state.context.database.close()
    finally:
        os.umask(before)


def test_the_description_has_problems_as_they_are_sent(office):
    described = office.app.openapi()
    for methods in described["paths"].values():
        for operation in methods.values():
            assert set(operation["responses"]["4XX"]["content"]) == {"application/problem+json"}
            assert "422" not in operation["responses"]
    answer = office.client.get("/api/rounds/99")
    assert set(answer.json()) <= set(described["components"]["schemas"]["Problem"]["properties"])


ODD = [
    ("PUT", "wording", b"[" * 100_000),
    ("PUT", "wording", b'{"wording":"' + b"{" * 9_000 + b'","row":1}'),
    ("PUT", "wording", b'{"wording":"\\u0000\\u001b[2J","row":1}'),
    ("PUT", "wording", b'{"wording":"\\ud800","row":1}'),
    ("PATCH", "rows/1/cells", b'{"column":"Due","typed":"' + b"9" * 32_767 + b'"}'),
    ("PATCH", "rows/1/cells", '{"column":"Mobile","typed":"\u0669\u0660\u0662"}'.encode()),
    ("PATCH", "", b'{"lookups":{"a":' + b'{"b":' * 5_000 + b"1" + b"}" * 5_000 + b"}}"),
]


@pytest.mark.parametrize(("method", "path", "body"), ODD)
def test_no_odd_body_is_an_error_of_the_inside(office, method, path, body):
    number = office.bring()
    where = f"/api/rounds/{number}/{path}".rstrip("/")
    answer = office.client.request(method, where, content=body, headers={"content-type": "application/json"})
    assert answer.status_code < 500
    assert office.call("GET", f"/api/rounds/{number}")["rows"] == 3
    office.call("GET", f"/api/rounds/{number}/rows")


@pytest.mark.parametrize(
    "recipe", [b"a = " + b"[" * 100_000, b"[" * 100_000, b"\xff\xfe", b"x=1" * 300_000, b"a" * 999_999]
)
def test_no_recipe_file_is_an_error_of_the_inside(office, recipe):
    files = {"file": ("a.csv", SHEET), "recipe": ("r.toml", recipe)}
    assert "settings file" in office.call("POST", "/api/rounds", 422, files=files)["detail"]
