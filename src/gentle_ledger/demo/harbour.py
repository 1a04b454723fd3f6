"""The made-up berth holders. Numbers are from 555-0100 to 555-0199, which are reserved for fiction."""

import csv
import io
import random
from datetime import date, datetime
from decimal import Decimal

import xlsxwriter

from gentle_ledger.core.recipe.model import ColumnSettings, ConditionalWording, LeaveOutRule

AREAS = ("902", "506", "782", "709", "207")
COUNTRIES = ("US",)
"""Some boats are from across the border; it was said long ago that their numbers are right."""
# fmt: off
FIRST = (
    "Tobias", "Maren", "Piet", "Yusra", "Oswin", "Dorothea", "Ines", "Hamish", "Linh", "Bartholomew", "Agnieszka",
    "Sunniva", "Callum", "Farida", "Jonty", "Esme", "Nuno", "Petra", "Rowan", "Teodor", "Signe", "Aurelio",
    "Wilhelmina", "Kofi", "Brigid", "Anselm", "Mairead", "Ottoline", "Pascal", "Ruta", "Leofric", "Zainab",
)
LAST = (
    "Arkwright", "Castellane", "Vandersloot", "Halabi", "Threlkeld", "Lindqvist", "Okafor", "Puddephat", "Tran-Moreau",
    "Quill", "Wolny", "Aasen", "Reddaway", "Benali", "Okonkwo-Hale", "Garrowby", "Figueira", "Lindholm",
    "Ferrars", "Vasile", "Marchbanks", "Dunmore", "Eldershaw", "Sorley", "Pomfret", "Haverkamp", "Ashdown",
    "Brackley", "Tidswell", "Corrigall", "Mowbray", "Ostrander",
)
# fmt: on
# Names that take more room, or other characters, than most.
UNUSUAL = {
    15: ("D’Arcy", "Garrowby"),
    18: ("Zoë", "Ferrars"),
    21: ("Bartholomew-Maximilian Octavian", "Featherstonehaugh-Cholmondeley of Upper Marsh"),
}
PIERS = ("A", "B", "C", "D", "E")
DUES_WORDING = (
    "Hello {First name}, berth {Berth} has {Due} to pay by {Due date}. Pay here: {Pay link}\nSaltmarsh Quay office"
)
ARREARS_WORDING = ConditionalWording(
    name="With arrears",
    when="{Arrears} > 0",
    text=(
        "Hello {First name}, berth {Berth} has {Due} to pay by {Due date}, {Arrears} of it still open from before. "
        "Pay here: {Pay link}\nSaltmarsh Quay office"
    ),
)
LIFT_WORDING = (
    "Hello {First name}, {Boat} is down for winter lift-out on {Lift-out}. The lift costs {Charge}. "
    "Please have her at the slip by high water. Saltmarsh Quay office"
)
OCTOBER_WORDING = (
    "Hello {First name}, your October dues at berth {Berth}, {Metered} kWh of shore power with it: {Due} to pay. "
    "Saltmarsh Quay office"
)
# fmt: off
BOATS = (
    "Kittiwake", "Grey Heron", "Sandpiper", "Marram", "Little Egret", "Turnstone", "Samphire", "Dunlin", "Whimbrel",
    "Eelgrass", "Oystercatcher", "Sea Lavender",
)
# fmt: on
# Dollars a metre of berth by class, kept with November's round as its tariff.
TARIFF = {"A": "14.00", "B": "12.50", "C": "9.75"}
DUES_COLUMNS = {
    "First name": ColumnSettings(fallback="there"),
    "Late charge": ColumnSettings(
        formula=(
            "IF({Arrears} > 0; IF(TODAY() > {Arrears since} + 10; "
            "ROUND({Arrears} * 1.5% * (TODAY() - {Arrears since}) / 30; 2); 0); 0)"
        ),
        format="money",
    ),
    "Due": ColumnSettings(
        formula=(
            'ROUND({Length (m)} * FROMTABLE("Tariff"; {Class}) + {Metered (kWh)} * 0.31 '
            "+ {Arrears} + {Late charge} - {Paid}; 2)"
        ),
        format="money",
    ),
    "Pay link": ColumnSettings(template="https://pay.saltmarsh.example/{Berth}{?Due}"),
}
DUES_RULES = (LeaveOutRule(when="{Due} <= 0", reason="nothing to pay"),)
KWH = Decimal("0.31")


def _number(i: int, used: set[str], rng: random.Random) -> tuple[str, str]:
    """An area code and four digits nobody else has, whose last two are not among the stand-in carrier's rules."""
    while True:
        area, line = rng.choice(AREAS), f"01{rng.randrange(90) if i else 12:02}"
        if area + line not in used:
            used.add(area + line)
            return area, line


def _holders() -> list[dict[str, str]]:
    """The 58 berths as they stand in the office's sheet, before hands have been at it."""
    rng = random.Random(1126)
    used: set[str] = set()
    rows = []
    for i in range(58):
        area, line = _number(i, used, rng)
        length = Decimal(rng.randrange(60, 140)) / 10
        metered = rng.choice((0, 0, *range(8, 150)))
        paid = rng.choice((Decimal(0),) * 6 + (Decimal(60), Decimal("97.50")))
        arrears = rng.choice((Decimal(0),) * 7 + (Decimal("88.40"), Decimal("142.75")))
        berth = f"{PIERS[i // 12]}{(i % 12) * 2 + 1:02}"
        usual = FIRST[i % len(FIRST)], LAST[(i * 7 + i // len(FIRST)) % len(LAST)]
        first, last = UNUSUAL.get(i, usual)
        rows.append(
            {
                "Holder": f"{first} {last}",
                "First name": first,
                "Mobile": f"{area}-555-{line}",
                "Berth": berth,
                "Class": "ABC"[i // 24],
                "Length (m)": f"{length:.2f}",
                "Metered (kWh)": str(metered),
                "Paid": f"{paid:.2f}" if paid else "",
                "Arrears": f"{arrears:.2f}" if arrears else "",
                "Arrears since": "2026-10-31" if arrears else "",
                "Due date": "2026-11-30",
                "Note": "",
            }
        )
    return rows


def november() -> bytes:
    """The sheet of November's berth dues as an office keeps it: 58 rows with the faults real sheets have."""
    rows = _holders()
    _spoil(rows)
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, rows[0].keys(), lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode()


def november_workbook() -> bytes:
    """The same sheet as a workbook: figures as numbers and days as dates, what hands spoilt as it stands."""
    out = io.BytesIO()
    lines = list(csv.reader(io.StringIO(november().decode())))
    with xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd"}) as book:
        page = book.add_worksheet("November")
        for r, line in enumerate(lines):
            for c, cell in enumerate(line):
                if r and cell and lines[0][c] in {"Arrears since", "Due date"}:
                    page.write_datetime(r, c, datetime.fromisoformat(cell))
                elif r and cell.replace(".", "", 1).isdecimal() and lines[0][c] != "Mobile":
                    page.write_number(r, c, float(cell))
                elif cell:
                    page.write_string(r, c, cell)
    return out.getvalue()


def _spoil(rows: list[dict[str, str]]) -> None:
    """What hands do to a sheet in a year."""
    rows[1]["Mobile"] = rows[1]["Mobile"].replace("-", " ")
    rows[2]["Mobile"] = rows[2]["Mobile"][:-1]
    rows[4]["Mobile"] = "(" + rows[4]["Mobile"].replace("-", ") ", 1)
    rows[6]["Mobile"] = " " + rows[6]["Mobile"] + " "
    rows[8]["First name"] = ""
    rows[9]["Length (m)"] = ""
    rows[11]["Mobile"] += " landline"
    rows[13]["Mobile"] = "+1" + rows[13]["Mobile"].replace("-", "")
    rows[24]["Mobile"] = rows[23]["Mobile"]
    rows[27]["Length (m)"] = rows[27]["Length (m)"].replace(".", "")
    rows[30]["Paid"] = "400.00"
    rows[33]["Mobile"] = rows[33]["Mobile"].replace("-", "")
    rows[36]["Mobile"] = ""
    rows[40]["Length (m)"] = "ask Hamish"
    rows[47]["Class"] = "D"
    rows[44]["Note"] = "pays by cheque, do not chase"


def october() -> bytes:
    """The sheet of the round that is finished: the dues of 41 of the same berths, some of which the carrier refuses.

    Five numbers were wrong then; one berth has another reference since.
    """
    rng = random.Random(1026)
    lines = ["Holder,First name,Mobile,Berth,Metered,Due"]
    endings = {5: "90", 13: "91", 22: "95", 29: "90", 36: "95"}
    for i, holder in enumerate(_holders()[:41]):
        mobile = f"{holder['Mobile'][:-2]}{endings[i]}" if i in endings else holder["Mobile"]
        metered = rng.randrange(6, 160)
        dues = Decimal(holder["Length (m)"]) * Decimal(TARIFF[holder["Class"]]) + metered * KWH
        berth = "E23" if i == 38 else holder["Berth"]
        written = "" if i == 17 else mobile
        lines.append(f"{holder['Holder']},{holder['First name']},{written},{berth},{metered},{dues:.2f}")
    return ("\r\n".join(lines) + "\r\n").encode()


def lift_out() -> bytes:
    """The small workbook that is ready to send: 12 boats, one of whose carriers is busy the first time."""
    rng = random.Random(77)
    used: set[str] = set()
    out = io.BytesIO()
    with xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd"}) as book:
        page = book.add_worksheet("Lift-out")
        for c, name in enumerate(("Holder", "First name", "Mobile", "Boat", "Length", "Lift-out", "Charge")):
            page.write_string(0, c, name)
        for i, boat in enumerate(BOATS, 1):
            area, line = _number(i, used, rng)
            if i == 5:
                line = "0192"
            if i == 9:
                line = "0190"
            length = Decimal(rng.randrange(62, 128)) / 10
            first, last = FIRST[(i * 11) % len(FIRST)], LAST[(i * 5) % len(LAST)]
            page.write_string(i, 0, f"{first} {last}")
            page.write_string(i, 1, first)
            page.write_number(i, 2, int(f"{area}555{line}"))
            page.write_string(i, 3, boat)
            page.write_number(i, 4, length)
            page.write_datetime(i, 5, date(2026, 12, 1 + i // 3))
            page.write_number(i, 6, (length * 23).quantize(Decimal("0.01")))
    return out.getvalue()
