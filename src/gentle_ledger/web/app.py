"""The application: routes, guards, and the built client."""

import secrets
from collections.abc import AsyncIterator
from contextlib import AbstractContextManager, asynccontextmanager, nullcontext
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from gentle_ledger import __version__
from gentle_ledger.app.counting.pool import Pool
from gentle_ledger.app.rehearsing import Rehearsals
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.web.columns import numbers
from gentle_ledger.web.columns import router as columns
from gentle_ledger.web.context import Context
from gentle_ledger.web.copies import router as copies
from gentle_ledger.web.drawer import router as drawer
from gentle_ledger.web.findings import router as findings
from gentle_ledger.web.forecast import router as forecast
from gentle_ledger.web.guard import Guard, content_security_policy, own_hosts
from gentle_ledger.web.health import router as health
from gentle_ledger.web.help import router as help_pages
from gentle_ledger.web.help.description import problem_kinds, serve_description
from gentle_ledger.web.keyring import Keyring
from gentle_ledger.web.look import beside as look_beside
from gentle_ledger.web.look import router as look
from gentle_ledger.web.notices import router as notices
from gentle_ledger.web.people import router as people
from gentle_ledger.web.problems import add_problem_handlers
from gentle_ledger.web.rehearsal import router as rehearsal
from gentle_ledger.web.rounds import router as rounds
from gentle_ledger.web.rows import blocks
from gentle_ledger.web.rows import router as rows
from gentle_ledger.web.schemas import Problem
from gentle_ledger.web.sending import router as sending
from gentle_ledger.web.settings import Settings
from gentle_ledger.web.sheets import files
from gentle_ledger.web.sheets import router as sheets
from gentle_ledger.web.trials import router as trials
from gentle_ledger.web.way_in import router as way_in
from gentle_ledger.web.weight import router as weight
from gentle_ledger.web.wordings import router as wordings

CLIENT = Path(__file__).parent / "client"
_NOT_BUILT = "<!doctype html><title>Gentle Ledger</title><p>The client is not built yet: run <code>make build</code>."


def create_app(
    settings: Settings,
    database: Database,
    clock: Clock,
    signal: ChangeSignal,
    pool: Pool,
    rehearsals: Rehearsals,
    beside: AbstractContextManager[object] | None = None,
    keyring: Keyring | None = None,
) -> FastAPI:
    """The interface and the client as one ASGI application.

    Args:
        settings: where things are kept, and what new rounds begin with.
        database: the ledger, in its newest form.
        clock: where time comes from.
        signal: tells, and is told, that something changed.
        pool: the processes that count rows.
        rehearsals: who runs rehearsals.
        beside: what runs for as long as the application does, such as the sender and the processes of the pool.
        keyring: who is let in; None where nobody needs a key.
    """

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        with beside or nullcontext():
            yield
        rehearsals.close()
        database.leave_tidy()

    app = FastAPI(
        title="Gentle Ledger",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={
            "4XX": {"model": Problem, "description": "It was refused, and why."},
            "5XX": {"model": Problem, "description": "It could not be done now, and why."},
        },
        generate_unique_id_function=_operation_name,
    )
    app.openapi = lambda: _with_problems(app)  # type: ignore[method-assign]
    app.state.keyring = keyring
    app.state.context = Context(settings, database, signal, clock, pool, rehearsals)
    add_problem_handlers(app)
    for router in (
        columns.router,
        numbers.router,
        sheets.router,
        rounds.router,
        rows.router,
        wordings.router,
        look.router,
        look_beside.router,
        trials.router,
        rehearsal.router,
        drawer.router,
        weight.router,
        forecast.router,
        findings.router,
        people.router,
        notices.router,
        copies.router,
        blocks.router,
        sending.router,
        files.router,
        help_pages.router,
        way_in.router,
        health.router,
    ):
        app.include_router(router)
    app.add_middleware(Guard, hosts=own_hosts(settings.host, settings.port), keyring=keyring)
    serve_description(app)
    _serve_client(app, settings.zone, keyring)
    return app


def _with_problems(app: FastAPI) -> dict[str, Any]:
    """The description, in which every problem is an `application/problem+json` (RFC 9457, 3) of one shape."""
    if app.openapi_schema is None:
        found = FastAPI.openapi(app)
        for methods in found["paths"].values():
            for operation in methods.values():
                answers = operation["responses"]
                answers.pop("422", None)
                for status in ("4XX", "5XX"):
                    answers[status]["content"] = {"application/problem+json": answers[status]["content"].popitem()[1]}
        # Programs show the key; browsers have a cookie instead.
        found["components"]["securitySchemes"] = {"key": {"type": "http", "scheme": "bearer"}}
        found["security"] = [{"key": []}]
        found["components"]["schemas"]["Problem"]["properties"]["kind"]["enum"] = problem_kinds()
        for unused in ("HTTPValidationError", "ValidationError"):
            found["components"]["schemas"].pop(unused, None)
        app.openapi_schema = found
    return app.openapi_schema


def _operation_name(route: APIRoute) -> str:
    return route.name


def _serve_client(app: FastAPI, zone: str, keyring: Keyring | None) -> None:
    if (CLIENT / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=CLIENT / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(request: Request, path: str) -> HTMLResponse:
        """The client's one page, for every address it knows; its own inserted styles carry the nonce."""
        if path.startswith(("api/", "assets/")):
            raise HTTPException(404, "There is nothing at this address")
        index = CLIENT / "index.html"
        if not index.is_file():
            return HTMLResponse(_NOT_BUILT, status_code=503)
        nonce = secrets.token_urlsafe(16)
        text = index.read_text("utf-8").replace("__NONCE__", nonce).replace("__ZONE__", zone)
        text = text.replace("__KEYED__", "yes" if keyring else "no")
        headers = {"Content-Security-Policy": content_security_policy(nonce), "Cache-Control": "no-store"}
        answer = HTMLResponse(text, headers=headers)
        if keyring and (cookie := keyring.cookie_of(request.headers)):
            # Who comes back now and then stays in.
            way_in.give_cookie(answer, keyring, cookie)
        return answer
