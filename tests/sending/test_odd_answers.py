"""A carrier's odd answers: only one that names our reference is an acceptance, only one that names its fault a refusal.

Anything else is silence, and silence is asked about, never simply sent again.
"""

import json

import httpx
import pytest

from gentle_ledger.sending.lines import Accepted, NoRecord, Refused, Silent
from gentle_ledger.sending.lines.oma_messaging import OmaMessagingLine

OURS = {"outboundMessageRequest": {"clientCorrelator": "r1", "resourceURL": "/x/requests/17"}}


def fault(message_id, kind="serviceException", text="Words of the carrier"):
    return {"requestError": {kind: {"messageId": message_id, "text": text}}}


def line_that_answers(answer):
    """A line whose network is one function."""
    line = OmaMessagingLine("http://127.0.0.1:1/messaging/v1", "Quay Office")
    line._http.close()
    line._http = httpx.Client(transport=httpx.MockTransport(answer))
    return line


ANSWERS = [
    # status, body, headers, what it means, why
    (201, OURS, {}, Accepted("17"), "accepted"),
    (200, OURS, {}, Accepted("17"), "the same correlator again"),
    (201, {"outboundMessageRequest": {"clientCorrelator": "r2", "resourceURL": "/x/1"}}, {}, Silent, "another's"),
    (201, {"outboundMessageRequest": {"clientCorrelator": "r1"}}, {}, Silent, "no resource"),
    (201, {}, {}, Silent, "empty object"),
    (201, [], {}, Silent, "a list"),
    (201, "accepted", {}, Silent, "a bare word"),
    (201, b"<html>Welcome</html>", {}, Silent, "a page instead of JSON"),
    (302, b"", {"location": "http://evil.example/"}, Silent, "sent elsewhere"),
    (500, b"", {}, Silent, "an empty 500"),
    (502, b"<h1>Bad gateway</h1>", {}, Silent, "a gateway's page"),
    (503, {"requestError": {}}, {}, Silent, "an error without its name"),
    (503, {"requestError": "busy"}, {}, Silent, "an error that is a word"),
    (400, fault("SVC0004"), {}, Refused("the number is not in use"), "not in use"),
    (
        403,
        fault("POL1011", "policyException"),
        {},
        Refused("refused: the recipient has blocked this sender"),
        "blocked",
    ),
    (503, fault("POL1010", "policyException"), {"retry-after": "7"}, Refused("the carrier was busy", True, 7), "busy"),
    (503, fault("POL1010", "policyException"), {}, Refused("the carrier was busy", True, 0), "busy, no wait named"),
    (
        503,
        fault("POL1010"),
        {"retry-after": "Wed, 21 Oct 2026 07:28:00 GMT"},
        Refused("the carrier was busy", True),
        "a date",
    ),
    (503, fault("POL1010"), {"retry-after": "-5"}, Refused("the carrier was busy", True), "a wait below nothing"),
    (503, fault("POL1010"), {"retry-after": "999999"}, Refused("the carrier was busy", True, 3600), "an hour at most"),
    (400, fault("SVC9999"), {}, Refused("the carrier refused it: Words of the carrier"), "a fault we do not know"),
]


@pytest.mark.parametrize(("status", "body", "headers", "means", "why"), ANSWERS, ids=[a[4] for a in ANSWERS])
def test_answers(status, body, headers, means, why):
    content = {"content": body} if isinstance(body, bytes) else {"json": body}
    line = line_that_answers(lambda request: httpx.Response(status, headers=headers, **content))
    for outcome in (line.hand_over("r1", "+19025550101", "Hello"), line.ask("r1")):
        if isinstance(means, type):
            assert isinstance(outcome, means)
        else:
            assert outcome == means
    line.close()


@pytest.mark.parametrize(
    ("error", "means"),
    [
        (httpx.ConnectError("refused"), Refused),
        (httpx.ConnectTimeout("slow"), Silent),
        (httpx.ReadTimeout("slow"), Silent),
        (httpx.WriteError("broken pipe"), Silent),
        (httpx.ReadError("reset"), Silent),
        (httpx.RemoteProtocolError("cut off"), Silent),
    ],
)
def test_errors_on_the_way(error, means):
    def answer(_request):
        raise error

    line = line_that_answers(answer)
    assert isinstance(line.hand_over("r1", "+19025550101", "Hello"), means)
    assert isinstance(line.ask("r1"), Silent)
    line.close()


def test_only_the_carriers_own_words_are_no_record():
    """A 404 of some proxy must not count as "the carrier knows no such reference"."""
    line = line_that_answers(lambda _: httpx.Response(404, json=fault("SVC0002")))
    assert line.ask("r1") == NoRecord()
    line.close()
    line = line_that_answers(lambda _: httpx.Response(404, json={"detail": "Not found"}))
    assert isinstance(line.ask("r1"), Silent)
    line.close()


def test_what_is_asked_for():
    asked = []

    def answer(request):
        asked.append(request)
        return httpx.Response(201, json=OURS)

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
