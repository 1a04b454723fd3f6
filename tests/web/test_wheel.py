"""The wheel: installed where nothing else is, on a machine without Node and for a user with an empty home."""

import re
import signal
import subprocess
import sys
import sysconfig
from pathlib import Path

import httpx
import pytest

from gentle_ledger import __version__
from gentle_ledger.web.app import CLIENT
from tests.servers import free_port, until

ROOT = Path(__file__).parents[2]
BROWSER = '#!/bin/sh\ncp "${1#file://}" "$HOME/opened"\n'


@pytest.fixture(scope="module")
def installed(tmp_path_factory):
    """The program's command in an environment of its own. What it depends on is taken from this one, without it."""
    if not (CLIENT / "index.html").is_file():
        pytest.skip("the client is not built")
    folder = tmp_path_factory.mktemp("wheel")
    subprocess.run(["sh", "scripts/wheel.sh", str(folder), sys.executable], cwd=ROOT, check=True, capture_output=True)
    [wheel] = folder.glob("*.whl")
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", str(folder / "env")], check=True)
    python = str(folder / "env" / "bin" / "python")
    install = [sys.executable, "-m", "pip", "--python", python, "install", "-q", "--no-index", "--no-deps", str(wheel)]
    subprocess.run(install, check=True, capture_output=True)
    [packages] = (folder / "env" / "lib").glob("python*/site-packages")
    # A line of this file is a folder, and its own such files are not looked at: the program's sources are not there.
    (packages / "others.pth").write_text(sysconfig.get_path("purelib") + "\n")
    return folder / "env" / "bin" / "gentle-ledger"


@pytest.fixture
def env(tmp_path, installed):
    """What a command has: no programs but its own and the smallest of the system, and a home with nothing in it."""
    home = tmp_path / "home"
    home.mkdir()
    (home / "browser").write_text(BROWSER)
    (home / "browser").chmod(0o755)
    return {"PATH": f"{installed.parent}:/bin", "HOME": str(home), "BROWSER": str(home / "browser")}


def run(installed, env, folder, *command):
    return subprocess.run([installed, *command], env=env, cwd=folder, capture_output=True, text=True, check=False)


def test_it_says_which_version_and_commit_it_is(installed, env, tmp_path):
    said = run(installed, env | {"PATH": str(installed.parent)}, tmp_path, "--version").stdout
    asked = ["git", "-C", str(ROOT), "describe", "--always", "--dirty", "--exclude", "*"]
    commit = subprocess.run(asked, capture_output=True, text=True, check=False).stdout.strip()
    assert said == f"gentle-ledger {__version__}{f', commit {commit}' if commit else ''}\n"


def test_it_serves_the_whole_program_and_lets_the_browser_in_that_it_opens(installed, env, tmp_path):
    port = free_port()
    base = f"http://127.0.0.1:{port}"
    for command in ("address", "status"):
        asked = run(installed, env, tmp_path, command)
        assert (asked.returncode, asked.stdout) == (2, "")
        assert "does not run" in asked.stderr
    command = [installed, "serve", "--open", "--port", str(port)]
    with subprocess.Popen(command, env=env, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as served:
        opened = Path(env["HOME"]) / "opened"
        until(opened.exists, "the browser")
        [code] = re.findall(rf'location.replace\("{base}/in#([^"]+)"\)', until(opened.read_text, "its page"))
        with httpx.Client(base_url=base, headers={"origin": base}) as browser:
            page = browser.get("/in").text
            files = re.findall(r'"(/assets/[^"]+)"', page)
            assert len(files) > 3
            assert {browser.get(file).status_code for file in files} == {200}
            value = browser.post("/api/way-in", json={"code": code}).raise_for_status().json()["value"]
            sheet = {"file": ("a.csv", "Name,Mobile\nInes,902-555-0100\n")}
            made = browser.post("/api/rounds", files=sheet, headers={"gentle-ledger-value": value})
            assert made.status_code == 201
        until(lambda: run(installed, env, tmp_path, "status").returncode == 0, "a sender")
        status = run(installed, env, tmp_path, "status").stdout
        assert "a sender is there" in status
        assert "All is well." in status
        # Another address for another browser, told by where it is served.
        found = run(installed, env, tmp_path, "address").stdout
        code = re.fullmatch(rf"{base}/in#(\S+)\n", found)[1]
        for let_in in (200, 401):
            assert httpx.post(f"{base}/api/way-in", json={"code": code}, headers={"origin": base}).status_code == let_in
        # Told to end with a page open, it says nothing of that.
        events = f"{base}/api/rounds/{made.json()['id']}/events?value={value}"
        with httpx.stream("GET", events, cookies=browser.cookies) as open_page:
            assert open_page.status_code == 200
            served.send_signal(signal.SIGTERM)
            told, errors = served.communicate(timeout=20)
    assert errors == b""
    assert f"{base}/in#" in told.decode()
    left = {path.name for path in (Path(env["HOME"]) / ".local" / "state" / "gentle-ledger").iterdir()}
    assert not any(name.startswith("open-") for name in left)
    asked = run(installed, env, tmp_path, "status")
    assert (asked.returncode, "does not run" in asked.stderr) == (2, True)
