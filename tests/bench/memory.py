"""How much memory 100,000 rows of 12 columns take when they are brought in and computed (`make bench`)."""

import csv
import io
import resource

from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.bring_in import bring_in
from tests.bench.sheets import HEADER, rows

ROWS = 100_000
MORE = ("Boat", "Class", "Note")


def main() -> None:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow((*HEADER, *MORE))
    writer.writerows((*row, f"Boat {i}", "ABC"[i % 3], "") for i, row in enumerate(rows(ROWS)))
    sheet = bring_in(out.getvalue().encode(), "a.csv").sheet
    recipe = Recipe(
        wording="Hello {First name}, berth {Berth} has {To pay} to pay by {Due date}. Pay here: {Link}",
        columns={
            "To pay": ColumnSettings(formula="ROUND({Length} * 14 + {Metered} * 0.31 + {Due}; 2)", format="money"),
            "Link": ColumnSettings(template="https://pay.saltmarsh.example/{Berth}{?To pay}"),
        },
    )
    computed = compute_round(sheet, recipe)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{len(computed):,} rows of {len(sheet.columns)} columns: at most {peak:,.0f} MB of memory")


if __name__ == "__main__":
    main()
