"""A carrier's odd answers: only one that names our reference is an acceptance, only one that names its fault a refusal.

The status counts before the body: what it says of the carrier is no row's fault. Anything else is silence, and silence
is asked about, never simply sent again.
"""

import json
from datetime import UTC, datetime

import httpx
import pytest

from gentle_ledger.sending.lines import Accepted, NoRecord, Refused, Silent, Unavailable
from gentle_ledger.sending.lines.oma_messaging import OmaMessagingLine

OURS = {"outboundMessageRequest": {"clientCorrelator": "r1", "resourceURL": "/x/requests/17"}}


def fault(message_id, kind="serviceException", text="Words of the carrier"):
    return {"requestError": {kind: {"messageId": message_id, "text": text}}}


def line_that_answers(answer):
    """A line whose network is one function."""
    return OmaMessagingLine(
        "http://127.0.0.1:1/messaging/v1", "Quay Office", now=lambda: NOW, transport=httpx.MockTransport(answer)
    )


def respond(status, body, headers=None):
    """An answer that is still on its way, as over a network."""

    async def pieces():
        yield body if isinstance(body, bytes) else json.dumps(body).encode()

    return httpx.Response(status, headers=headers, content=pieces())


NOW = datetime(2026, 10, 21, 7, 27, 0, tzinfo=UTC)
UNKNOWN = "the carrier refused it: Words of the carrier"
BUSY = "the carrier was busy (503)"
TROUBLE = "the carrier has trouble of its own"


def away(reason, wait=0.0, taken=False, fast=False):
    return Unavailable(reason, wait, taken, fast)


ANSWERS = [
    # status, body, headers, what it means, why
    (201, OURS, {}, Accepted("17"), "accepted"),
    (200, OURS, {}, Accepted("17"), "the same correlator again"),
    (201, OURS, {"retry-after": "30"}, Accepted("17"), "a wait that belongs to no refusal"),
    (201, {"outboundMessageRequest": {"clientCorrelator": "r2", "resourceURL": "/x/1"}}, {}, Silent, "another's"),
    (201, {"outboundMessageRequest": {"clientCorrelator": "r1"}}, {}, Silent, "no resource"),
    (201, {}, {}, Silent, "empty object"),
    (201, [], {}, Silent, "a list"),
    (201, "accepted", {}, Silent, "a bare word"),
    (201, b"<html>Welcome</html>", {}, Silent, "a page instead of JSON"),
    (201, b"[" * 60_000, {}, Silent, "JSON nested deeper than can be read"),
    (201, b'{"a":' * 9_000 + b"1" + b"}" * 9_000, {}, Silent, "objects in objects"),
    (201, b'"' + b"x" * 70_000 + b'"', {}, Silent, "more than 64 kB"),
    (201, b"\xff\xfe\x00", {}, Silent, "no text at all"),
    (201, b"1" * 5_000, {}, Silent, "a number of 5,000 digits"),
    (201, b"", {"content-encoding": "gzip"}, Silent, "packed although not asked for"),
    (302, b"", {"location": "http://evil.example/"}, Silent, "sent elsewhere"),
    (304, b"", {}, Silent, "nothing new"),
    (400, b"<h1>Bad request</h1>", {}, Silent, "a page that refuses"),
    (422, {"detail": "no"}, {}, Silent, "an error in other words than the interface's"),
    (500, b"", {}, away(f"{TROUBLE} (500)", taken=True), "an empty 500"),
    (500, fault("SVC0001"), {}, away(f"{TROUBLE} (500)", taken=True), "a general error"),
    (500, fault("SVC0004"), {}, away(f"{TROUBLE} (500)", taken=True), "the status counts before the body"),
    (502, b"<h1>Bad gateway</h1>", {}, away(f"{TROUBLE} (502)", taken=True), "a gateway's page"),
    (503, b"<h1>Busy</h1>", {"retry-after": "9"}, away(f"{TROUBLE} (503)", 9, taken=True), "a page, with a wait"),
    (503, {"requestError": {}}, {}, away(f"{TROUBLE} (503)", taken=True), "an error without its name"),
    (503, {"requestError": "busy"}, {}, away(f"{TROUBLE} (503)", taken=True), "an error that is a word"),
    (504, b"", {}, away(f"{TROUBLE} (504)", taken=True), "a gateway that did not wait"),
    (599, OURS, {}, away(f"{TROUBLE} (599)", taken=True), "our reference under an error"),
    (401, b"", {}, away("the carrier does not know this program's credentials (401)"), "credentials"),
    (401, fault("SVC0004"), {}, away("the carrier does not know this program's credentials (401)"), "and a body"),
    (403, b"", {}, away("the carrier does not let this line in (403)"), "shut out"),
    (404, b"<h1>Not found</h1>", {}, away("the carrier's address is not where it was set (404)"), "a wrong address"),
    (407, b"", {}, away("a proxy stands before the carrier (407)"), "a proxy"),
    (429, b"", {}, away("the carrier asks for fewer texts (429)", fast=True), "too many, no wait named"),
    (429, fault("POL1010"), {"retry-after": "60"}, away("the carrier was busy (429)", 60, fast=True), "too many"),
    (400, fault("SVC0004"), {}, Refused("the number is not in use", own=True), "not in use"),
    (
        403,
        fault("POL1011", "policyException"),
        {},
        Refused("refused: the recipient has blocked this sender", own=True),
        "blocked",
    ),
    (403, fault("POL0001", "policyException"), {}, Refused(UNKNOWN, may_retry=True), "a policy we do not know"),
    (400, fault("SVC1000"), {}, away("the carrier had no room for it (400)"), "no room, whatever the status"),
    (503, fault("POL1010", "policyException"), {"retry-after": "7"}, away(BUSY, 7), "busy"),
    (503, fault("POL1010", "policyException"), {}, away(BUSY), "busy, no wait named"),
    (503, fault("POL1010"), {"retry-after": "Wed, 21 Oct 2026 07:28:00 GMT"}, away(BUSY, 60), "a date"),
    (503, fault("POL1010"), {"retry-after": "Wednesday, 21-Oct-26 07:28:00 GMT"}, away(BUSY, 60), "a date of old form"),
    (
        503,
        fault("POL1010"),
        {"retry-after": "Wed, 21 Oct 2026 09:00:30 GMT", "date": "Wed, 21 Oct 2026 09:00:00 GMT"},
        away(BUSY, 30),
        "a date by the carrier's own clock, which is wrong",
    ),
    (503, fault("POL1010"), {"retry-after": "Wed, 21 Oct 2026 07:00:00 GMT"}, away(BUSY), "a date that is over"),
    (503, fault("POL1010"), {"retry-after": "Wed, 99 Oct 2026 07:28:00 GMT"}, away(BUSY), "no date"),
    (503, fault("POL1010"), {"retry-after": "-5"}, away(BUSY), "a wait below nothing"),
    (503, fault("POL1010"), {"retry-after": "1e9"}, away(BUSY), "no whole seconds"),
    (503, fault("POL1010"), {"retry-after": "9" * 400}, away(BUSY), "more digits than a wait has"),
    (503, fault("POL1010"), {"retry-after": "999999"}, away(BUSY, 86_400), "a day at most"),
    (400, fault("SVC9999"), {}, Refused(UNKNOWN, may_retry=True), "a fault we do not know"),
    (400, fault("SVC9999", text="x" * 9_000), {}, Refused(f"the carrier refused it: {'x' * 159}…", True), "clipped"),
    (
        400,
        b'{"requestError":{"serviceException":{"messageId":"SVC9999","text":"a\\ud800b\\u202ec\\n\\u0007d"}}}',
        {},
        Refused("the carrier refused it: a b c d", True),
        "marks that cannot be shown or kept",
    ),
    (400, fault(["SVC0004"]), {}, Silent, "a name that is a list"),
    (400, fault("SVC9999", text={"a": 1}), {}, Refused("the carrier refused it: ", True), "words that are none"),
]


@pytest.mark.parametrize(("status", "body", "headers", "means", "why"), ANSWERS, ids=[a[4] for a in ANSWERS])
def test_answers(status, body, headers, means, why):
    line = line_that_answers(lambda _request: respond(status, body, headers))
    for outcome in (line.hand_over("r1", "+19025550101", "Hello"), line.ask("r1")):
        if isinstance(means, type):
            assert isinstance(outcome, means)
        else:
            assert outcome == means
        assert not isinstance(outcome, Unavailable) or outcome.reason.isprintable()
    line.close()


@pytest.mark.parametrize(
    ("error", "means"),
    [
        (httpx.ConnectError("refused"), Unavailable("the carrier cannot be reached")),
        (httpx.ConnectTimeout("slow"), Silent("the connection to the carrier broke off")),
        (httpx.ReadTimeout("slow"), Silent("the connection to the carrier broke off")),
        (httpx.WriteError("broken pipe"), Silent("the connection to the carrier broke off")),
        (httpx.ReadError("reset"), Silent("the connection to the carrier broke off")),
        (httpx.RemoteProtocolError("cut off"), Silent("the connection to the carrier broke off")),
    ],
)
def test_errors_on_the_way(error, means):
    def answer(_request):
        raise error

    line = line_that_answers(answer)
    assert line.hand_over("r1", "+19025550101", "Hello") == means
    assert line.ask("r1") == means
    line.close()


@pytest.mark.parametrize(
    "url", ["http://127.0.0.1:1", "http://carrier.invalid", "http://a..b", "ftp://127.0.0.1", "nonsense", "http://[::1"]
)
def test_a_carrier_that_was_never_reached_knows_of_no_try(url):
    line = OmaMessagingLine(url, "Quay Office", timeout=2)
    assert line.hand_over("r1", "+19025550101", "Hello") == Unavailable("the carrier cannot be reached")
    line.close()


def test_only_the_carriers_own_words_are_no_record():
    """A 404 of some proxy must not count as "the carrier knows no such reference"."""
    line = line_that_answers(lambda _: respond(404, fault("SVC0002")))
    assert line.ask("r1") == NoRecord()
    line.close()
    line = line_that_answers(lambda _: respond(404, {"detail": "Not found"}))
    assert isinstance(line.ask("r1"), Unavailable)
    line.close()


def test_what_is_asked_for():
    asked = []

    def answer(request):
        asked.append(request)
        return respond(201, OURS)

    line = line_that_answers(answer)
    line.hand_over("r1", "+19025550101", "Hello €")
    line.ask("r1")
    post, get = asked
    assert post.url.raw_path == get.url.raw_path.split(b"?")[0] == b"/messaging/v1/outbound/Quay%20Office/requests"
    body = json.loads(post.content)["outboundMessageRequest"]
    assert body == {
        "address": ["tel:+19025550101"],
        "senderAddress": "Quay Office",
        "outboundSMSTextMessage": {"message": "Hello €"},
        "clientCorrelator": "r1",
    }
    assert dict(get.url.params) == {"clientCorrelator": "r1"}
    line.close()
