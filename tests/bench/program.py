"""How long the program takes to count a round anew, and how much memory its processes take (`make bench`).

Beside each lot stands the floor of the same run: a bare request to the same program.
"""

import tempfile
import time
from pathlib import Path

import httpx

from tests.bench.sheets import WORDING, as_csv
from tests.servers import harbour


def main() -> None:
    print("the program over HTTP (s)           bare  first  wording    rows  mended  a file  memory by process (MB)")
    for rows in (10_000, 100_000):
        with tempfile.TemporaryDirectory() as folder, harbour(Path(folder)) as office:
            with httpx.Client(base_url=office.url, timeout=600, headers=office.own) as client:
                took = measured(client, rows)
            memory = [f"{megabytes(pid):.0f}" for pid in family(office.program.process.pid)]
        print(f"{rows:>7,} rows {'':18}" + "".join(f"{seconds:8.3f}" for seconds in took), " + ".join(memory))


def measured(client: httpx.Client, rows: int) -> list[float]:
    number = client.post("/api/rounds", files={"file": ("a.csv", as_csv(rows))}).json()["id"]
    path = f"/api/rounds/{number}"

    def took(method: str, address: str, **more) -> float:
        begun = time.perf_counter()
        client.request(method, address, **more).raise_for_status()
        return time.perf_counter() - begun

    def worded(wording: str) -> float:
        took("PUT", f"{path}/wording", json={"wording": wording, "row": 1})
        return took("GET", path)

    first = worded(WORDING)
    changed = min(worded(f"{WORDING} {letter}") for letter in "abc")
    window = min(took("GET", f"{path}/rows?limit=100&offset={start}") for start in (100, 200, 300))
    cells = ({"column": "Due", "typed": f"{amount}.00"} for amount in (77, 78, 79))
    mended = min(took("PATCH", f"{path}/rows/5/cells", json=cell) for cell in cells)
    file = took("GET", f"{path}/marked-sheet.csv")
    return [took("GET", "/api/samples"), first, changed, window, mended, file]


def family(pid: int) -> list[int]:
    """A process and those that it started, by proc(5)."""
    found = [pid]
    for status in Path("/proc").glob("[0-9]*/stat"):
        # What stands in front may have blanks in it.
        if int(status.read_text().rpartition(")")[2].split()[1]) == pid:
            found += family(int(status.parent.name))
    return found


def megabytes(pid: int) -> float:
    """Memory of a process, shared pages by their share (proc(5), smaps_rollup)."""
    lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("Pss:")) / 1024


if __name__ == "__main__":
    main()
