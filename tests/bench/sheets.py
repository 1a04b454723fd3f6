"""Long made-up sheets of Saltmarsh Quay, the same ones in every run."""

import csv
import io
import random
from collections.abc import Iterator

HEADER = ("Holder", "First name", "Mobile", "Berth", "Length", "Metered", "Due", "Due date", "Pay link")
WORDING = "Hello {First name}, berth {Berth} has {Due} to pay by {Due date}. Pay here: {Pay link}"


def rows(n: int) -> Iterator[tuple[str, ...]]:
    rng = random.Random(n)
    for i in range(n):
        area = ("902", "506", "782", "709", "204")[i % 5]
        number, due = f"{area}-555-01{i % 100:02}", f"{rng.randrange(500, 40_000) / 100:.2f}"
        link = f"https://pay.saltmarsh.example/B{i}"
        yield (f"Holder {i}", f"P{i}", number, f"B{i}", "9.20", str(i % 150), due, "2026-11-30", link)


def as_csv(n: int) -> bytes:
    out = io.StringIO()
    csv.writer(out).writerows((HEADER, *rows(n)))
    return out.getvalue().encode()
