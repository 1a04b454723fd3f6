"""The real program, the real carrier, and Debian's Chromium."""

import os

import pytest
from playwright.sync_api import expect

from tests.servers import harbour, let_in

# How long something may take to come is no test here: a busy machine is slow, and what comes at once costs nothing.
PATIENCE = 30_000
expect.set_options(timeout=PATIENCE)
# How many times slower the page's processor is to be: what only a busy machine shows is found with `SLOWER=6`.
SLOWER = float(os.environ.get("SLOWER", "1"))


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    args = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
    return {**browser_type_launch_args, "executable_path": "/usr/bin/chromium", "args": args}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args):
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}, "locale": "en-CA"}


@pytest.fixture(scope="session")
def base_url():
    """Each module starts its own program, so there is no one address for all."""
    return


@pytest.fixture(scope="module")
def office(tmp_path_factory):
    with harbour(tmp_path_factory.mktemp("harbour")) as made:
        yield made


@pytest.fixture
def context(office, context):
    """A browser that was let in before."""
    name, cookie, value = let_in(office.url, office.ledger)
    context.add_cookies([{"name": name, "value": cookie, "url": office.url, "httpOnly": True, "sameSite": "Strict"}])
    context.add_init_script(
        f"if (location.origin === '{office.url}') localStorage.setItem('gentle-ledger-value', '{value}')"
    )
    return context


@pytest.fixture
def desk(office, page):
    """The page, with every error of the console and every request to elsewhere counted as a fault."""
    faults = []
    page.on("console", lambda m: faults.append(m.text) if m.type == "error" and "status of 4" not in m.text else None)
    page.on("pageerror", lambda e: faults.append(str(e)))
    page.on("request", lambda r: None if r.url.startswith((office.url, "blob:")) else faults.append(r.url))
    page.set_default_timeout(PATIENCE)
    if SLOWER > 1:
        page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    yield page
    # A killed program breaks off its answers; that is what one of the tests is about.
    assert [f for f in faults if "net::ERR_" not in f] == []
