"""From a sheet and a recipe to texts, marks and findings: the one way into the core."""

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from functools import cached_property
from itertools import chain

from gentle_ledger.core.cells.phones import Number, regions_of
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.checks import Finding, Level, Release, RoundView, levels_in, run_checks
from gentle_ledger.core.checks.distance import Spread
from gentle_ledger.core.checks.each.same_matter import codes_of
from gentle_ledger.core.checks.history import Recall, nothing_before
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.exclusions import Exclusions
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.rounds.oddness import ODD, oddness, surprises
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sms.parts import MOST_PARTS, Measure, measure
from gentle_ledger.core.wording.bound import BoundWording, Gap
from gentle_ledger.core.wording.composer import Choice, Composer

GOES_WITH = reason_kind("goes with a row", "goes in the text of row {row}")


@dataclass(frozen=True, slots=True)
class Standing:
    """Where one row of a computed round stands.

    Attributes:
        mark: Ready, Held or Left out.
        reasons: why it is held or left out, or that it goes along with another row; none for a row that is ready.
        findings: what the checks say of the row that bears its text, in their order, each with what that does.
        released: why the clerk let it go; None where nothing was let go.
    """

    mark: PlanMark
    reasons: tuple[Reason, ...]
    findings: tuple[tuple[Finding, Level], ...]
    released: str | None = None

    @property
    def holding(self) -> list[Finding]:
        """What holds it."""
        return [finding for finding, level in self.findings if level.holds]

    @property
    def releasable(self) -> bool:
        """Whether all that holds the row are checks that the clerk may overrule."""
        levels = [level for _, level in self.findings if level.holds]
        return self.mark is PlanMark.HELD and all(level is Level.MAY_BE_RELEASED for level in levels)


class Computed:
    """A whole round computed: one entry a row in each sequence, rows counted from 0.

    Attributes:
        numbers, texts, measures: a row that goes along with an earlier one has no text of its own.
        marks: where each row stands.
        levels: the checks that were made, in their order, each with what it does.
        by_check, by_row: what the checks say, by check in their order, and by row.
        released: the rows that the clerk let go.
        let_go: what would hold rows that are let go, by row; none of a row that was mended since.
        history: what went to the round's numbers in other rounds.
    """

    def __init__(
        self,
        composer: Composer,
        left_out: Collection[int] = frozenset(),
        released: Mapping[int, Release] | None = None,
        recall: Recall = nothing_before,
        today: date | None = None,
        most_parts: int = MOST_PARTS,
        first: Collection[int] = (),
    ) -> None:
        rows = range(len(composer.readings.sheet.rows))
        groups = composer.groups
        self.composer = composer
        self._exclusions = Exclusions(composer, left_out)
        follow = {row for members in groups.members for row in members[1:]}
        self.numbers = self._numbers()
        self.texts = composer.texts()
        for row in follow:
            self.texts[row] = ""
        gaps: list[tuple[Gap, ...]] = []
        self.measures: list[Measure] = []
        for row in rows:
            text = self.texts[row]
            gaps.append(() if text or row in follow else composer.gaps(row))
            self.measures.append(measure(text))
        witnesses = _witnesses(composer)
        cells = {cell for found in witnesses.values() for _, cell in found}
        self.history = recall({number.e164 for number in self.numbers if number.e164}, cells)
        self.view = RoundView(
            composer,
            self.numbers,
            self.texts,
            self.measures,
            gaps,
            self._wordings(),
            self.history,
            self._exclusions.undecided,
            self._exclusions.said_sent,
            witnesses,
            composer.recipe.as_of or today,
            most_parts,
        )
        out = set(self._exclusions.left_out)
        self.levels = levels_in(composer.recipe)
        self.released = released or {}
        self.by_check, self.let_go = run_checks(self.view, self.levels, out | follow, self.released, first)
        self.by_row: dict[int, list[Finding]] = {}
        for finding in chain.from_iterable(self.by_check.values()):
            self.by_row.setdefault(finding.row, []).append(finding)
        # A row that follows another one stands where that one does.
        out |= {row for row in follow if groups.lead(row) in out}
        holding = (found for key, found in self.by_check.items() if self.levels[key].holds)
        held = {finding.row for found in holding for finding in found}
        self.marks = [self._mark(row, out, held) for row in rows]

    @property
    def findings(self) -> list[Finding]:
        """What the checks say, in their order."""
        return [finding for found in self.by_check.values() for finding in found]

    def __len__(self) -> int:
        return len(self.texts)

    def _mark(self, row: int, out: Collection[int], held: Collection[int]) -> PlanMark:
        if row in out:
            return PlanMark.LEFT_OUT
        return PlanMark.HELD if self.lead(row) in held else PlanMark.READY

    def _numbers(self) -> list[Number]:
        composer = self.composer
        if composer.mobile is None:
            return [composer.number(row) for row in range(len(composer.readings.sheet.rows))]
        return composer.phones.all(composer.mobile)

    def _wordings(self) -> list[BoundWording | None]:
        composer = self.composer
        if not composer.conditions:
            return [composer.plain] * len(self.texts)
        return [composer.wording_of(row) for row in range(len(self.texts))]

    def standing(self, row: int) -> Standing:
        """Where a row stands."""
        lead = self.lead(row)
        found = tuple((finding, self.levels[finding.check]) for finding in self.by_row.get(lead, ()))
        release = self.released.get(lead)
        return Standing(
            self.marks[row],
            tuple(self.reasons(row)),
            found,
            release.reason if release and lead in self.let_go and self.marks[row] is PlanMark.READY else None,
        )

    def choices(self) -> list[Choice]:
        """Which wording is whose, by the place of each among those of the round."""
        return [self.composer.choice(row) for row in range(len(self))]

    def wording_name(self, row: int) -> str | None:
        """What the row's wording is called; None for the plain one, "" where it cannot be said which is the row's."""
        wording = self.view.wordings[row]
        return "" if wording is None else wording.name

    def codes(self, row: int) -> list[str]:
        """The references of a row as they are compared, each once."""
        return codes_of(self.view, row)

    def holding(self, row: int) -> list[Finding]:
        """What holds a row's text."""
        return [found for found in self.by_row.get(self.lead(row), ()) if self.levels[found.check].holds]

    def reasons(self, row: int) -> list[Reason]:
        """Why a row is held or left out, or that it goes along with another one; none for a row that is ready."""
        if self.marks[row] is PlanMark.LEFT_OUT:
            excluded = self._exclusions.left_out
            return [excluded[row] if row in excluded else excluded[self.lead(row)]]
        holding = [finding.reason for finding in self.holding(row)]
        if self.lead(row) != row and not holding:
            return [GOES_WITH(row=number_of_row(self.lead(row)))]
        return holding

    def reason(self, row: int) -> str:
        """The same in plain words; "" for a row that is ready."""
        return "; ".join(reason.sentence for reason in self.reasons(row))

    def lead(self, row: int) -> int:
        """The row that bears this row's text: itself, unless it is combined with earlier ones."""
        return self.composer.groups.lead(row)

    @cached_property
    def oddness(self) -> list[float]:
        """How odd each row is, see `rounds.oddness`; 0 for one that is left out. A row that follows is as its first."""
        looked_at = [row for row, mark in enumerate(self.marks) if mark is not PlanMark.LEFT_OUT and self._bears(row)]
        looks = ((f.row, f.check) for f in self.findings if not self.levels[f.check].holds)
        bits = surprises(looks, len(looked_at))
        distances = self._distances(looked_at)
        found = [0.0] * len(self)
        for row in looked_at:
            found[row] = oddness(len(self.holding(row)), bits.get(row, 0.0), distances.get(row, ()))
        return [found[self.lead(row)] for row in range(len(self))]

    @cached_property
    def odd(self) -> frozenset[int]:
        """The rows with a text of their own that are to be read first: held, or with what few others have."""
        return frozenset(row for row, odd in enumerate(self.oddness) if self._bears(row) and self._stands_out(row, odd))

    def _stands_out(self, row: int, odd: float) -> bool:
        return odd >= ODD and any(True for _ in self.by_row.get(row, ()))

    def _bears(self, row: int) -> bool:
        return self.lead(row) == row

    def _distances(self, rows: Sequence[int]) -> dict[int, list[float]]:
        """How far each row's length and its figures are from those of the other rows with its wording."""
        found: dict[int, list[float]] = {row: [] for row in rows}
        for _, mine in self.view.by_wording(rows):
            sizes = {row: float(self.measures[row].characters) for row in mine if self.texts[row]}
            _add_scores(found, sizes)
        for _, _, figures in self.view.figures():
            for _, mine in self.view.by_wording(rows):
                _add_scores(found, {row: float(figure) for row in mine if (figure := figures[row]) is not None})
        return found

    @cached_property
    def ready(self) -> list[int]:
        """The rows whose texts may be sent: one for each text, not the rows that only go along."""
        return [row for row, mark in enumerate(self.marks) if mark is PlanMark.READY and self.lead(row) == row]

    def parts_to(self, rows: Sequence[int]) -> dict[str, int]:
        """In how many parts the texts of some rows are carried to numbers of each country (ISO 3166-1)."""
        found: Counter[str] = Counter()
        for row, region in zip(rows, regions_of(self.numbers[row].e164 for row in rows), strict=True):
            found[region] += self.measures[row].parts
        return dict(found)

    def worth_reading(self, going: Sequence[int]) -> list[tuple[str, int]]:
        """Those of some texts to read first, each row once: the first, the longest, the one with the largest amount."""
        if not going:
            return []
        longest = max(going, key=lambda row: (self.measures[row].parts, len(self.texts[row])))
        picks = [("The first", going[0]), ("The longest", longest)]
        for column, amounts in self.view.amounts():
            known = [(value, row) for row in going if (value := amounts[row]) is not None]
            if known:
                largest: tuple[Decimal, int] = max(known, key=lambda pair: pair[0])
                picks.append((f"The largest {column}", largest[1]))
                break
        merged: dict[int, str] = {}
        for why, row in picks:
            merged[row] = f"{merged[row]}, {why[0].lower()}{why[1:]}" if row in merged else why
        return [(why, row) for row, why in merged.items()]


def _add_scores(found: dict[int, list[float]], figures: Mapping[int, float]) -> None:
    if figures:
        spread = Spread(list(figures.values()))
        for row, figure in figures.items():
            found[row].append(spread.score(figure))


def compute_round(
    sheet: Sheet,
    recipe: Recipe,
    *,
    left_out: Collection[int] = frozenset(),
    released: Mapping[int, Release] | None = None,
    readings: Readings | None = None,
    today: date | None = None,
) -> Computed:
    """Computes every row of a round.

    Args:
        sheet: the rows.
        recipe: the set-up.
        left_out: rows (from 0) that the clerk keeps out.
        released: rows (from 0) that the clerk sends although a releasable check holds them.
        today: the day on which it is computed, for a round that has no date of its own.
        readings: what was already read of this same sheet.
    """
    return Computed(Composer(readings or Readings(sheet), recipe, left_out), left_out, released, today=today)


def _witnesses(composer: Composer) -> dict[int, list[tuple[str, str]]]:
    """By row, the cells that can witness that a text went, each with its column; none that the texts are made of.

    None at all where somebody has said that what the sheet says of sending is of no account: they know that it went.
    """
    if False in composer.recipe.sent_columns.values():
        return {}
    used, found = set(composer.used), dict[int, list[tuple[str, str]]]()
    for position in range(composer.columns.first_computed):
        for row, cell in composer.readings.witnesses(position).items() if position not in used else ():
            found.setdefault(row, []).append((composer.columns.names[position], cell))
    return found
