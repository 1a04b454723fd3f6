"""The OMA RESTful Network API for Messaging in JSON, what the program uses of it (from memory), and one plain page."""

import asyncio
import html
from datetime import datetime
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Response
from fastapi.responses import HTMLResponse, JSONResponse
from pydantic import BaseModel, Field
from starlette.middleware.trustedhost import TrustedHostMiddleware

from gentle_ledger.carrier import records as kept
from gentle_ledger.carrier.rules import Answer, rule_for

ROOT = "/messaging/v1"
_BUSY_WAIT = 2
_PAGE_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
}
_FAULTS = {
    "SVC0004": ("serviceException", 400, "No valid addresses provided in message part %1", ["address"]),
    "SVC0002": ("serviceException", 404, "Invalid input value for message part %1", ["clientCorrelator"]),
    "SVC0001": ("serviceException", 400, "A service error occurred", []),
    "POL1011": ("policyException", 403, "The recipient does not accept messages from %1", ["senderAddress"]),
    "POL1010": ("policyException", 503, "Temporarily over capacity", []),
}
_ONCE = {Answer.BUSY: "POL1010", Answer.ERROR_ONCE: "SVC0001"}


class TextMessage(BaseModel):
    message: str


class OutboundMessageRequest(BaseModel):
    address: list[str] = Field(min_length=1, max_length=1)
    senderAddress: str  # noqa: N815 - the interface's own name
    outboundSMSTextMessage: TextMessage  # noqa: N815
    clientCorrelator: str = Field(min_length=1, max_length=100)  # noqa: N815


class Outbound(BaseModel):
    outboundMessageRequest: OutboundMessageRequest  # noqa: N815


class LostAnswer(Response):
    """Drops the connection instead of answering, as a broken network does."""

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        await send({"type": "http.response.start", "status": 201, "headers": [(b"content-length", b"10")]})
        raise ConnectionResetError("the answer is lost, as this number's rule says")


def create_carrier(data_file: Path, hang_seconds: float = 60.0) -> FastAPI:
    """The stand-in over its data file.

    Args:
        data_file: where it keeps what it was given.
        hang_seconds: how long "no answer" stays silent before it drops the connection.
    """
    app = FastAPI(title="Stand-in carrier", docs_url=None, redoc_url=None, openapi_url=None)
    records = kept.Records(data_file)
    app.state.records = records
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])

    @app.post(f"{ROOT}/outbound/{{sender}}/requests")
    async def outbound(sender: str, body: Outbound) -> Response:
        request = body.outboundMessageRequest
        number = request.address[0].removeprefix("tel:")
        first = records.by_correlator(sender, request.clientCorrelator)
        if first is not None:
            return _answer(first)
        answer = rule_for(number).answer
        if answer is Answer.NO_ANSWER:
            await asyncio.sleep(hang_seconds)
            return LostAnswer()
        fault = {Answer.NOT_IN_USE: "SVC0004", Answer.BLOCKED: "POL1011"}.get(answer, "")
        if answer in _ONCE and records.first_time(number):
            return _fault(_ONCE[answer])
        status = _FAULTS[fault][1] if fault else 201
        at = datetime.now().astimezone().isoformat(timespec="seconds")
        text = request.outboundSMSTextMessage.message
        request_kept = records.add(sender, request.clientCorrelator, number, text, status, fault, at)
        return LostAnswer() if answer is Answer.ANSWER_LOST else _answer(request_kept)

    @app.get(f"{ROOT}/outbound/{{sender}}/requests")
    def by_correlator(sender: str, clientCorrelator: str) -> Response:  # noqa: N803
        found = records.by_correlator(sender, clientCorrelator)
        return _answer(found, asked=True) if found else _fault("SVC0002")

    @app.get(f"{ROOT}/outbound/{{sender}}/requests/{{request_id}}/deliveryInfos")
    def delivery(sender: str, request_id: int) -> Response:
        found = records.by_id(sender, request_id)
        return JSONResponse({"deliveryInfoList": _delivery(found)}) if found else _fault("SVC0002")

    @app.get("/", response_class=HTMLResponse)
    def page() -> HTMLResponse:
        return HTMLResponse(_page(records.arrived()), headers=_PAGE_HEADERS)

    return app


def _resource(request: kept.Request) -> str:
    return f"{ROOT}/outbound/{request.sender}/requests/{request.id}"


def _delivery(request: kept.Request) -> dict[str, Any]:
    status = "DeliveredToTerminal" if request.sent else "DeliveryImpossible"
    return {
        "deliveryInfo": [{"address": f"tel:{request.number}", "deliveryStatus": status}],
        "resourceURL": f"{_resource(request)}/deliveryInfos",
    }


def _answer(request: kept.Request, *, asked: bool = False) -> Response:
    if request.fault:
        # Asked about, it says which request it speaks of: another fault would be one of the question.
        return _fault(request.fault, *([request.correlator] if asked else []))
    body = {
        "outboundMessageRequest": {
            "address": [f"tel:{request.number}"],
            "senderAddress": request.sender,
            "outboundSMSTextMessage": {"message": request.text},
            "clientCorrelator": request.correlator,
            "resourceURL": _resource(request),
            "deliveryInfoList": _delivery(request),
        }
    }
    return JSONResponse(body, status_code=200 if asked else 201, headers={"Location": _resource(request)})


def _fault(message_id: str, *more: str) -> Response:
    kind, status, text, variables = _FAULTS[message_id]
    body = {"requestError": {kind: {"messageId": message_id, "text": text, "variables": [*variables, *more]}}}
    headers = {"Retry-After": str(_BUSY_WAIT)} if status == 503 else {}
    return JSONResponse(body, status_code=status, headers=headers)


def _page(arrived: list[kept.Request]) -> str:
    handsets: dict[str, list[kept.Request]] = {}
    for request in arrived:
        handsets.setdefault(request.number, []).append(request)
    blocks = "".join(
        f"<section><h2>{html.escape(number)}</h2>"
        + "".join(
            f"<article><p class=t>{html.escape(r.at)} from {html.escape(r.sender)}, reference "
            f"{html.escape(r.correlator)}</p><pre>{html.escape(r.text)}</pre></article>"
            for r in texts
        )
        + "</section>"
        for number, texts in sorted(handsets.items())
    )
    empty = "" if arrived else "<p>No text has arrived yet.</p>"
    return (
        "<!doctype html><html lang=en><meta charset=utf-8><title>Stand-in carrier</title><style>"
        "body{font:15px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#1F2B43;"
        "background:#F6F1E4}section{border:1px solid #CFC4A9;background:#FFFDF6;margin:1rem 0;padding:.5rem 1rem}"
        "h2{font-size:1rem;margin:.3rem 0}.t{color:#59617A;font-size:.85rem;margin:.6rem 0 0}"
        "pre{font:inherit;white-space:pre-wrap;overflow-wrap:anywhere;margin:.2rem 0 .6rem}"
        "</style><main><h1>Stand-in carrier</h1>"
        f"<p>{len(arrived):,} texts arrived on {len(handsets):,} handsets. Nothing leaves this machine.</p>"
        f"{empty}{blocks}</main></html>"
    )
