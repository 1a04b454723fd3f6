"""The key: who has it is let in, and nobody else on this machine; a browser by a code that is good once."""

import os
import re
from http.cookies import SimpleCookie

import pytest
from fastapi.testclient import TestClient

from gentle_ledger.cli.program import assemble
from gentle_ledger.cli.serve import NotForTheDemo, refuse_real
from gentle_ledger.store.key import NoKey, key_file, key_to_serve, read_key
from gentle_ledger.web.keyring import CODE_LASTS, LASTS, Keyring
from gentle_ledger.web.settings import Settings
from tests.web.office import POOL

BASE = "http://127.0.0.1:8090"
OWN = {"origin": BASE}
PATIENT = {**OWN, "content-type": "application/json"}


class Clock:
    now = 1_800_000_000.0

    def __call__(self):
        return self.now


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def served(tmp_path, clock):
    program = assemble(Settings(data=tmp_path / "ledger.sqlite3", port=8090), pool=POOL, keyed=True)
    program.keyring._now, program.keyring._since = clock, clock()
    yield program
    program.database.close()


def browser(program):
    return TestClient(program.app, base_url=BASE, headers=OWN)


def let_in(program, code=None):
    client = browser(program)
    answer = client.post("/api/way-in", json={"code": program.keyring.new_code() if code is None else code})
    return client, answer


def test_without_the_key_nothing_is_read_or_changed_and_the_page_says_how_to_get_in(served):
    client = browser(served)
    operations = [
        (method.upper(), path.replace("{round_id}", "1"))
        for path, methods in served.app.openapi()["paths"].items()
        for method in methods
        if path != "/api/way-in"
    ]
    assert len(operations) > 60
    operations += [
        ("GET", "/api/openapi.json"),
        ("GET", "/api/description"),
        ("GET", "/api/nowhere"),
        ("HEAD", "/api/rounds"),
    ]
    for method, path in operations:
        answer = client.request(method, path)
        assert answer.status_code == 401, (method, path)
        assert answer.headers["www-authenticate"] == "Bearer"
        assert method == "HEAD" or "gentle-ledger address" in answer.json()["detail"]
    # The page itself says nothing of the ledger.
    assert client.get("/rounds/1").status_code in {200, 503}


@pytest.mark.parametrize(
    ("shown", "status"),
    [
        ("Bearer {key}", 200),
        ("bearer {key}", 200),
        ("Bearer {key}x", 401),
        ("Bearer {short}", 401),
        ("Bearer ", 401),
        ("Basic {key}", 401),
        ("{key}", 401),
        ("Bearer ü", 401),
    ],
)
def test_a_program_is_let_in_by_the_key_itself(served, shown, status):
    key = read_key(served.settings.data)
    client = TestClient(served.app, base_url=BASE)
    headers = {"authorization": shown.format(key=key, short=key[:-1]).encode()}
    assert client.get("/api/rounds", headers=headers).status_code == status
    # It need not say where it comes from: no page of another origin can show the key.
    changed = client.post("/api/rounds", headers=headers, files={"file": ("a.csv", "Name,Mobile\nA,902-555-0100\n")})
    assert changed.status_code == (201 if status == 200 else 403)
    other = {**headers, "origin": "http://127.0.0.1:9999"}
    assert client.post("/api/rounds", headers=other).status_code == 403, "but not from another page"


def test_a_browser_is_let_in_once_by_a_code_and_stays(served, clock, tmp_path):
    code = served.keyring.new_code()
    client, answer = let_in(served, code)
    assert answer.status_code == 200
    [kept] = SimpleCookie(answer.headers["set-cookie"]).values()
    assert (kept.key, kept["httponly"], kept["samesite"], kept["path"]) == ("gentle-ledger-8090", True, "strict", "/")
    assert int(kept["max-age"]) == LASTS == 400 * 86_400
    value = {"gentle-ledger-value": answer.json()["value"]}
    assert client.get("/api/rounds", headers=value).status_code == 200
    _, second = let_in(served, code)
    assert second.status_code == 401
    assert "used before" in second.json()["detail"]
    # A bookmark goes on working after a new start, and long after the code.
    clock.now += 300 * 86_400
    again = assemble(served.settings, pool=POOL, keyed=True)
    later = TestClient(again.app, base_url=BASE, headers=OWN, cookies=client.cookies)
    assert later.get("/api/rounds", headers=value).status_code == 200
    renewed = later.get("/")
    assert renewed.status_code == 503 or f"Max-Age={LASTS}" in renewed.headers["set-cookie"]
    again.database.close()


def test_the_cookie_alone_which_another_port_can_be_sent_does_nothing(served):
    client, answer = let_in(served)
    value = answer.json()["value"]
    sheet = {"files": {"file": ("a.csv", "Name,Mobile\nA,902-555-0100\n")}}
    _, other = let_in(served)
    for shown in ("", "x", other.json()["value"], value[:-1]):
        for how in ({"headers": {"gentle-ledger-value": shown}}, {"params": {"value": shown}}):
            for method, more in (("GET", {}), ("POST", sheet)):
                refused = client.request(method, "/api/rounds", **how, **more)
                assert (refused.status_code, refused.json()["kind"]) == (403, "no key")
    assert client.post("/api/rounds", headers={"gentle-ledger-value": value}, **sheet).status_code == 201
    # What is opened without headers, a stream or a file that is saved, has it in its address.
    assert client.get("/api/copies/now", params={"value": value}).status_code == 200
    assert browser(served).get("/api/rounds", headers={"gentle-ledger-value": value}).status_code == 401


def bent_codes(code):
    made, _, mac = code.partition(".")
    at, _, rest = made.partition("-")
    yield from (
        "",
        ".",
        code[:-1],
        f"{code}x",
        f"{made}.",
        f".{mac}",
        f"{int(at) + 1}-{rest}.{mac}",
        f"{made}.{mac}.x",
        "ü.ü",
    )


def test_a_code_is_good_for_a_minute_at_its_port_and_after_the_start_alone(served, clock):
    keyring, key = served.keyring, read_key(served.settings.data)
    for bent in bent_codes(keyring.new_code()):
        assert let_in(served, bent)[1].status_code == 401, bent
    late = keyring.new_code()
    clock.now += CODE_LASTS + 1
    assert let_in(served, late)[1].status_code == 401
    just = keyring.new_code()
    clock.now += CODE_LASTS - 1
    assert let_in(served, just)[1].status_code == 200
    # The same key makes codes in another process: for that port alone, and after the server began.
    assert let_in(served, Keyring(key, 8090, clock).new_code())[1].status_code == 200
    assert let_in(served, Keyring(key, 8091, clock).new_code())[1].status_code == 401
    assert let_in(served, Keyring(key[::-1], 8090, clock).new_code())[1].status_code == 401
    before = keyring.new_code()
    clock.now += 10
    keyring._since = clock()
    assert let_in(served, before)[1].status_code == 401, "nobody knows whether it was used"
    clock.now += 60
    ahead = keyring.new_code()
    clock.now -= 30
    assert let_in(served, ahead)[1].status_code == 401, "the clock was put back"


@pytest.mark.parametrize("cookie", ["", "x", "a.b", "{right}x", "{visitor}.", "; ; =", "{right}; gentle-ledger-8090=x"])
def test_a_cookie_that_is_not_ours_lets_nobody_in(served, cookie):
    client, answer = let_in(served)
    value = {"gentle-ledger-value": answer.json()["value"]}
    right = client.cookies["gentle-ledger-8090"]
    known = {"right": right, "visitor": right.partition(".")[0]}
    shown = {"cookie": f"gentle-ledger-8090={cookie.format(**known)}", **value}
    assert TestClient(served.app, base_url=BASE).get("/api/rounds", headers=shown).status_code == 401
    # Of another port's cookie with the same name of host nothing is taken.
    elsewhere = {"cookie": f"gentle-ledger-8091={right}; other=1", **value}
    assert TestClient(served.app, base_url=BASE).get("/api/rounds", headers=elsewhere).status_code == 401
    beside = {"cookie": f"other=1; gentle-ledger-8090={right}; another", **value}
    assert TestClient(served.app, base_url=BASE).get("/api/rounds", headers=beside).status_code == 200


def as_it_is(path):
    return None


def readable_by_others(path):
    path.chmod(0o644)


def empty(path):
    path.write_text("\n")


def a_link(path):
    path.rename(path.with_name("theirs"))
    path.symlink_to(path.with_name("theirs"))


def gone(path):
    path.unlink()


@pytest.mark.parametrize(
    ("bend", "kept"), [(as_it_is, True), (readable_by_others, False), (empty, False), (a_link, False), (gone, False)]
)
def test_a_key_that_others_could_have_read_is_replaced(tmp_path, bend, kept, caplog):
    ledger = tmp_path / "ledger.sqlite3"
    before = key_to_serve(ledger)
    assert re.fullmatch(r"[\w-]{43}", before)
    bend(key_file(ledger))
    after = key_to_serve(ledger)
    assert (after == before) is kept
    assert key_file(ledger).stat().st_mode & 0o777 == 0o600
    assert not key_file(ledger).is_symlink()
    assert ("A new one was made" in caplog.text) is (bend in {readable_by_others, empty, a_link})
    assert read_key(ledger) == after == key_to_serve(ledger)
    assert sorted(path.name for path in tmp_path.iterdir() if path.name != "theirs") == ["ledger.sqlite3.key"]


def test_who_has_no_key_is_told(tmp_path):
    with pytest.raises(NoKey, match="was never served"):
        read_key(tmp_path / "ledger.sqlite3")


@pytest.mark.skipif(os.getuid() == 0, reason="root may read everything")
def test_another_user_cannot_read_it(tmp_path):
    key_to_serve(tmp_path / "l")
    key_file(tmp_path / "l").chmod(0)
    with pytest.raises(NoKey, match="cannot be read"):
        read_key(tmp_path / "l")


def test_the_demo_needs_no_key_and_takes_neither_a_ledger_with_one_nor_a_line_that_leaves_this_machine(tmp_path):
    demo = Settings(data=tmp_path / "demo.sqlite3", port=8090)
    program = assemble(demo, pool=POOL)
    assert browser(program).get("/api/rounds").status_code == 200
    assert browser(program).post("/api/way-in", json={"code": "x"}).json() == {"value": ""}
    program.database.close()
    refuse_real(demo)
    for host in ("carrier.example", "192.0.2.1"):
        with pytest.raises(NotForTheDemo, match="stand-ins"):
            refuse_real(demo.model_copy(update={"carrier_url": f"http://{host}/messaging/v1"}))
    key_to_serve(demo.data)
    with pytest.raises(NotForTheDemo, match="has a key"):
        refuse_real(demo)
