"""Ready-made formulas in the trade's words. Each fills in a formula that is seen and can be changed."""

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.roles import Role


@dataclass(frozen=True, slots=True)
class Slot:
    """A column that a formula or a wording needs: `name` stands in it, and `words` are what such columns are called.

    `role` is what the column has to be for; None takes any. Common practice, no source.
    """

    name: str
    role: Role | None
    words: str


@dataclass(frozen=True, slots=True)
class StartingPoint:
    """A formula to begin with.

    Attributes:
        key: its short name.
        label: what the clerk chooses.
        about: what it works out, and what in it is to be changed.
        column: the name the computed column gets.
        formula: with the slots' names as fields.
        format: how its values are written.
        slots: the columns it is over.
    """

    key: str
    label: str
    about: str
    column: str
    formula: str
    format: str
    slots: tuple[Slot, ...]

    def filled(self, names: Sequence[str], roles: Sequence[Role]) -> str:
        """The formula over the columns there are; a slot that no column fits keeps its name, to be replaced by hand."""
        formula = self.formula
        taken: set[str] = set()
        for slot in self.slots:
            found = fitting(slot, names, roles, taken)
            if found:
                taken.add(found)
                formula = formula.replace(f"{{{slot.name}}}", f"{{{found}}}")
        return formula


def fitting(slot: Slot, names: Sequence[str], roles: Sequence[Role], taken: Collection[str] = ()) -> str | None:
    """The column whose name has most of the slot's words, the earlier words counting more; its role has to fit."""
    wanted = slot.words.split()
    best: tuple[int, str] | None = None
    for name, role in zip(names, roles, strict=True):
        words = set(re.findall(r"[^\W\d_]+", column_key(name)))
        score = max((len(wanted) - i for i, word in enumerate(wanted) if word in words), default=0)
        fits = slot.role in {None, role} or (slot.role is Role.NUMBER and role is Role.MONEY)
        if score and fits and name not in taken and (best is None or score > best[0]):
            best = (score, name)
    return best[1] if best else None


_CHARGES = Slot("Charges", Role.MONEY, "charges charge invoiced invoice billed dues fee fees due total amount")
_PAID = Slot("Paid", Role.MONEY, "paid payments payment received credit deposit")
_AMOUNT = Slot("Amount", Role.MONEY, "balance due amount total charges charge invoice dues fee")
_OVERDUE = Slot("Amount", Role.MONEY, "arrears overdue outstanding owing owed balance due amount total charges charge")
_SINCE = Slot("Due date", Role.DATE, "since overdue due payable deadline date")
_DUE_DATE = Slot("Due date", Role.DATE, "due payable deadline date")
_INVOICE_DATE = Slot("Invoice date", Role.DATE, "invoice invoiced issued billed date")
_METERED = Slot("Metered", Role.NUMBER, "metered use used usage consumption kwh units power")
_BEFORE = Slot("Reading before", Role.NUMBER, "before previous last start opening old")
_NOW = Slot("Reading now", Role.NUMBER, "now current end closing new reading")
_LENGTH = Slot("Length", Role.NUMBER, "length metres meters feet loa size")
_COUNT = Slot("Count", Role.NUMBER, "days day overdue late count nights weeks months number")
_CLASS = Slot("Class", Role.TEXT, "class category kind type tier")

STARTING_POINTS = (
    StartingPoint(
        "balance",
        "Balance",
        "Charges less payments.",
        "Balance",
        "{Charges} - {Paid}",
        "money",
        (_CHARGES, _PAID),
    ),
    StartingPoint(
        "late percent",
        "Late charge, percent a month",
        "From the day after the days of grace: 1.5% of the amount for every 30 days since it was due; 0 where nothing "
        "is owed. Change the 10 days and the percentage to your terms.",
        "Late charge",
        "IF({Amount} > 0; IF(TODAY() > {Due date} + 10; "
        "ROUND({Amount} * 1.5% * (TODAY() - {Due date}) / 30; 2); 0); 0)",
        "money",
        (_SINCE, _OVERDUE),
    ),
    StartingPoint(
        "late flat",
        "Late charge, flat",
        "One sum once the days of grace are over; 0 where nothing is owed. Change the 10 days and the 25.00 to your "
        "terms.",
        "Late charge",
        "IF({Amount} > 0; IF(TODAY() > {Due date} + 10; 25.00; 0); 0)",
        "money",
        (_SINCE, _OVERDUE),
    ),
    StartingPoint(
        "overdue",
        "Days overdue",
        "Days since the due date, by the round's own date; 0 until then.",
        "Days overdue",
        "MAX(0; TODAY() - {Due date})",
        "number",
        (_DUE_DATE,),
    ),
    StartingPoint(
        "discount",
        "Early-payment discount (2/10 net 30)",
        "2% off when paid within 10 days of the invoice, else the whole amount. Change the percentage and the days.",
        "To pay",
        "IF(TODAY() <= {Invoice date} + 10; ROUND({Amount} * (1 - 2%); 2); {Amount})",
        "money",
        (_INVOICE_DATE, _AMOUNT),
    ),
    StartingPoint(
        "due date",
        "Due date from terms",
        "30 days after the invoice. For the end of that month: EOMONTH({Invoice date} + 30; 0).",
        "Due date",
        "{Invoice date} + 30",
        "date",
        (_INVOICE_DATE,),
    ),
    StartingPoint(
        "first instalment",
        "First of equal instalments",
        "The amount in 3 instalments with the odd cents on this first one. Change both the 3 and the 2, one less.",
        "First instalment",
        "{Amount} - 2 * ROUNDDOWN({Amount} / 3; 2)",
        "money",
        (_AMOUNT,),
    ),
    StartingPoint(
        "further instalment",
        "Each further instalment",
        "What each of 3 instalments comes to after the first.",
        "Instalment",
        "ROUNDDOWN({Amount} / 3; 2)",
        "money",
        (_AMOUNT,),
    ),
    StartingPoint(
        "metered",
        "Metered use times a rate",
        "Units used times what one costs. Change the 0.31 to your rate.",
        "Metered charge",
        "ROUND({Metered} * 0.31; 2)",
        "money",
        (_METERED,),
    ),
    StartingPoint(
        "readings",
        "Two meter readings times a rate",
        "The reading now less the one before, times what a unit costs.",
        "Metered charge",
        "ROUND(({Reading now} - {Reading before}) * 0.31; 2)",
        "money",
        (_BEFORE, _NOW),
    ),
    StartingPoint(
        "tiers",
        "Tiers of a rate",
        "The first 100 units at one rate, all above at another.",
        "Metered charge",
        "ROUND(MIN({Metered}; 100) * 0.31 + MAX(0; {Metered} - 100) * 0.27; 2)",
        "money",
        (_METERED,),
    ),
    StartingPoint(
        "tariff",
        "Length times a tariff by class",
        "The rate comes from the table Tariff, which is kept with the round: a line for each class.",
        "Berth charge",
        'ROUND({Length} * FROMTABLE("Tariff"; {Class}); 2)',
        "money",
        (_LENGTH, _CLASS),
    ),
    StartingPoint(
        "plural",
        "A count with its word",
        "“1 day” or “3 days”, by the rules of the round's language. Change the words, and the column that is counted.",
        "Counted",
        '{Count} & " " & PLURAL({Count}; "one"; "day"; "days")',
        "",
        (_COUNT,),
    ),
    StartingPoint(
        "tax added",
        "Tax added",
        "The amount with 14% tax on top. Change the 14% to your rate.",
        "With tax",
        "ROUND({Amount} * (1 + 14%); 2)",
        "money",
        (_AMOUNT,),
    ),
    StartingPoint(
        "tax included",
        "Tax included",
        "The 14% tax that is within the amount. Change the 14% to your rate.",
        "Tax",
        "{Amount} - ROUND({Amount} / (1 + 14%); 2)",
        "money",
        (_AMOUNT,),
    ),
)
