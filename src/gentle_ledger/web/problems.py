"""Every error as RFC 9457 problem details, with a sentence for the clerk."""

import logging
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException

from gentle_ledger.app.settings import refusal
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.store.errors import cannot_write

log = logging.getLogger(__name__)


def problem(status: int, kind: str, detail: str, **more: Any) -> JSONResponse:
    """A problem details answer; `detail` is the sentence the clerk reads, `kind` tells programs which problem it is.

    Without a type of its own the title is the status's phrase (RFC 9457, 4.2.1).
    """
    title = HTTPStatus(status).phrase
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, "kind": kind}
    body |= {key: value for key, value in more.items() if value is not None}
    return JSONResponse(body, status_code=status, media_type="application/problem+json")


def add_problem_handlers(app: FastAPI) -> None:
    @app.exception_handler(LedgerError)
    def ledger_error(_request: Request, fault: LedgerError) -> JSONResponse:
        return problem(fault.status, fault.kind, fault.sentence, row=fault.row, column=fault.column, **fault.more)

    @app.exception_handler(RequestValidationError)
    def not_valid(_request: Request, fault: RequestValidationError) -> JSONResponse:
        first = fault.errors()[0]
        if first["loc"][0] == "path":
            return problem(404, "not there", "There is nothing at this address. Go back to the list of rounds.")
        return problem(422, "not valid", refusal(first["loc"][1:] or ("the request",), first["msg"]))

    @app.exception_handler(OSError)
    @app.exception_handler(DBAPIError)
    def database(_request: Request, fault: OSError | DBAPIError) -> JSONResponse:
        known = cannot_write(fault)
        if known is None:
            return internal(_request, fault)
        log.error("The ledger could not be used: %s", known.sentence)
        return problem(known.status, known.kind, known.sentence)

    @app.exception_handler(HTTPException)
    def http(_request: Request, fault: HTTPException) -> JSONResponse:
        detail = fault.detail or HTTPStatus(fault.status_code).phrase
        return problem(fault.status_code, "http", f"{detail}.".replace("..", "."))

    @app.exception_handler(Exception)
    def internal(_request: Request, fault: Exception) -> JSONResponse:
        log.error("A request failed.", exc_info=fault)
        return problem(
            500, "internal error", "Something went wrong inside the program. Look at the round again before you go on."
        )
