"""The table in docs/checks.md, drawn from the registry. Run as a module it writes the page anew."""

from pathlib import Path

from gentle_ledger.core.checks import CHECKS, Level

PAGE = Path(__file__).parents[1] / "docs" / "checks.md"
BEGIN, END = "<!-- drawn from the registry -->\n", "<!-- until here -->\n"
_SAID = {Level.HOLDS: "holds", Level.MAY_BE_RELEASED: "holds, may be released", Level.LOOK: "look"}


def drawn() -> str:
    """The table: each check by its key, what it does unless a round says otherwise, and what it looks for."""
    lines = ["| key | does | looks for | what to do |", "| --- | --- | --- | --- |"]
    for check in CHECKS:
        fixed = ", always" if check.fixed else ""
        lines.append(f"| `{check.key}` | {_SAID[check.level]}{fixed} | {check.doc} | {check.do} |")
    return "\n".join(lines) + "\n"


def with_table(page: str) -> str:
    """The page with the table as it is now."""
    before, rest = page.split(BEGIN)
    return before + BEGIN + drawn() + END + rest.split(END)[1]


if __name__ == "__main__":
    PAGE.write_text(with_table(PAGE.read_text("utf-8")), "utf-8")
