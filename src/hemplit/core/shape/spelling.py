"""Several spellings of one value (``marlow boats``, ``Marlow Botas``) become the one that most cells have.

A spelling that differs in capitals only is corrected where the other is clearly more common, or is written like the
rest of the column. A near-twin in letters is corrected only where the rest of the row agrees: some other column says
the same in both, and never anything else. Otherwise, and among codes, of which one letter makes another one, the
correction is proposed and waits for a person.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import holds_codes
from hemplit.core.shape.looks import is_word
from hemplit.core.shape.working import Working, first_places, rewritten, with_column
from hemplit.core.twins import are_twins, sharing_a_half

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import WorkingColumn

ACT = Act.SPELLING
SETTINGS = {"column": "column", "instead": "text", "of": "text"}
#: Values that hardly repeat are no names of things, and columns of more different texts are no lists of them.
REPEATS = 1.5
MOST_TEXTS = 20_000
#: A spelling is a slip of another that is this many times as common, ...
TIMES = 4
#: ... or only so many times, where the rest of the row agrees, ...
TIMES_WITNESSED = 2
#: ... and no slip happens more often than this; ...
RARE = 10
#: ... in capitals this many times.
TIMES_IN_CAPITALS = 2
#: Longer texts are remarks.
LONGEST = 60
#: So many rows must agree that the other spelling belongs there.
WITNESSES = 2
#: With so many rows what is the same in all is no accident; with so few, two such columns are needed, and with fewer
#: nothing can be told.
ENOUGH_ROWS, FEWEST_ROWS = 6, 3
#: Shorter texts are all alike, and of those with the same half no more than this are looked at.
SHORTEST, MOST_ALIKE = 4, 200
#: So many rows tell most columns that are no witnesses.
FIRST_ROWS = 50


@dataclass(frozen=True)
class Variant:
    """Two spellings, as codes of the column, the rarer one first."""

    odd: int
    common: int
    capitals: bool


def find(working: Working) -> Iterator[Step]:
    """A step for each spelling, the sure ones to be done and the others proposed."""
    witnesses = _Witnesses(working)
    for column in working.columns:
        texts = column.cells.texts
        filled = int(np.count_nonzero(column.filled))
        if len(texts) < 2 or len(texts) > MOST_TEXTS or filled < REPEATS * len(texts):
            continue
        probe = [str(text) for text in texts.slice(0, 20).to_pylist()]
        if not any(is_word(text) for text in probe) or any(len(text) > LONGEST for text in probe):
            continue
        yield from _steps(working, column, witnesses)


def _steps(working: Working, column: WorkingColumn, witnesses: _Witnesses) -> Iterator[Step]:
    counts = column.cells.counts
    in_capitals = len(pc.unique(pc.utf8_lower(column.cells.texts))) < len(counts)
    if not in_capitals and counts.min() > min(counts.max() // TIMES_WITNESSED, RARE):
        return
    texts = [str(text) for text in column.cells.texts.to_pylist()]
    first = first_places(column)
    variants = _variants(texts, counts)
    # What is beside a slip may be another slip of the same text, which says nothing against it.
    meant = np.append(np.arange(len(texts), dtype=np.int32), np.int32(EMPTY))
    for one in reversed(variants):
        meant[one.odd] = one.common
    meant_codes = meant[column.cells.codes]
    codes = holds_codes(column)
    agreeing = {one: witnesses.agree(column, meant_codes, one) for one in variants}
    # Of several texts that were perhaps meant, the one that the rest of the row says, or the most common.
    chosen: dict[int, Variant] = {}
    for one in variants:
        if one.odd not in chosen or (agreeing[one] and not agreeing[chosen[one.odd]]):
            chosen[one.odd] = one
    for one in sorted(chosen.values(), key=lambda one: one.odd):
        agrees = agreeing[one]
        sure = agrees or (one.capitals and _is_rarer(one, texts, counts))
        if not sure and not one.capitals and counts[one.common] < TIMES * counts[one.odd]:
            continue
        odd, common = texts[one.odd], texts[one.common]
        place = working.address(int(first[one.odd]), column)
        why = f"×{counts[one.odd]:,} → ×{counts[one.common]:,}, {place}"
        why += "; the rest of the row agrees" if agrees else ""
        strength = float(counts[one.common]) / float(counts[one.odd])
        settings = (("column", column.name), ("instead", common), ("of", odd))
        yield Step(ACT, settings, why, proposed=codes or not sure, strength=strength)


def _variants(texts: Sequence[str], counts: npt.NDArray[np.int64]) -> list[Variant]:
    folded: dict[str, list[int]] = defaultdict(list)
    for code, text in enumerate(texts):
        folded[text.casefold()].append(code)
    found = []
    common_of: dict[str, int] = {}
    for key, codes in folded.items():
        common_of[key] = codes[0] if len(codes) == 1 else _best(codes, texts, counts)
        found += [Variant(code, common_of[key], True) for code in codes if code != common_of[key]]
    found += [
        Variant(common_of[odd], common_of[common], False)
        for odd, common in _twins({key: int(counts[codes].sum()) for key, codes in folded.items()})
    ]
    return found


def _best(codes: Sequence[int], texts: Sequence[str], counts: npt.NDArray[np.int64]) -> int:
    """Of spellings in different capitals the most common, or one like the rest of the column if it is nearly so."""
    most = max(codes, key=lambda code: (counts[code], -code))
    style = _style([text for code, text in enumerate(texts) if code not in codes])
    alike = [code for code in codes if _style_of(texts[code]) == style and TIMES * counts[code] >= counts[most]]
    return max(alike, key=lambda code: (counts[code], -code), default=most)


def _style(texts: Sequence[str]) -> str:
    common = Counter(_style_of(text) for text in texts).most_common(1)
    return common[0][0] if common else ""


def _style_of(text: str) -> str:
    if text.isupper():
        return "upper"
    if text.islower():
        return "lower"
    return "title" if text.istitle() else "sentence" if text[:1].isupper() else "mixed"


def _is_rarer(one: Variant, texts: Sequence[str], counts: npt.NDArray[np.int64]) -> bool:
    """Whether a spelling in other capitals is a slip and not just another way: rarer, or unlike the rest."""
    if len(texts[one.odd]) < 3 or _is_worse_form(texts[one.common], texts[one.odd]):
        return False
    style = _style([text for code, text in enumerate(texts) if code not in (one.odd, one.common)])
    unlike = _style_of(texts[one.common]) == style != _style_of(texts[one.odd])
    return bool(counts[one.common] >= TIMES_IN_CAPITALS * counts[one.odd]) or unlike


def _is_worse_form(text: str, other: str) -> bool:
    """Whether a text is as a machine capitalises it, and another has capitals that somebody chose: Macneil, MacNeil.

    >>> _is_worse_form("Macneil", "MacNeil"), _is_worse_form("Macneil", "macneil")
    (True, False)
    """
    return text == text.title() and not other.islower() and not other.isupper()


def _twins(counts: dict[str, int]) -> list[tuple[str, str]]:
    """Rare texts with the common ones that each is a near-twin of, the most common first.

    Texts within two letters of each other share what is left when one letter is taken out of each, or their first or
    last half; only those are compared.
    """
    most = max(counts.values(), default=0)
    often = min(most // TIMES_WITNESSED, RARE)
    texts = list(counts)
    rare = {text for text, count in counts.items() if count <= often and len(text) >= SHORTEST}
    near: dict[str, set[str]] = defaultdict(set)
    for alike in sharing_a_half(texts) if rare else ():
        some = [texts[place] for place in alike[:MOST_ALIKE]]
        for text in rare.intersection(texts[place] for place in alike):
            near[text].update(some)
    return [(text, other) for text in texts for other in _common_twins(text, near[text], counts)]


def _common_twins(text: str, near: Iterable[str], counts: Mapping[str, int]) -> list[str]:
    """Which of the texts near a rare one are common and its near-twins, the most common first."""
    common = (other for other in near if other != text and counts[other] >= TIMES_WITNESSED * counts[text])
    twins = [other for other in common if abs(len(other) - len(text)) <= 2 and are_twins(text, other)]
    return sorted(twins, key=lambda other: (-counts[other], other))


class _Rows:
    """The rows of each value of a column, found at once for all values."""

    def __init__(self, codes: Codes, size: int) -> None:
        self.codes = codes
        self._order = np.argsort(codes, kind="stable")
        blanks = int(np.count_nonzero(codes == EMPTY))
        self._ends = blanks + np.cumsum(np.bincount(codes[codes != EMPTY], minlength=size))
        self._starts = np.append(blanks, self._ends[:-1])

    def of(self, code: int) -> npt.NDArray[np.intp]:
        return self._order[self._starts[code] : self._ends[code]]


class _Witnesses:
    """The other columns of a sheet, asked what goes with a spelling."""

    def __init__(self, working: Working) -> None:
        self._columns = [column for column in working.columns if len(column.cells.texts) > 1]
        self._all_rows = working.row_count
        self._rows: dict[int, _Rows] = {}

    def rows(self, column: WorkingColumn) -> _Rows:
        """The rows of each value of a column."""
        if column.position not in self._rows:
            self._rows[column.position] = _Rows(column.cells.codes, len(column.cells.texts))
        return self._rows[column.position]

    def agree(self, column: WorkingColumn, meant: Codes, one: Variant) -> bool:
        """Whether some column, wherever the odd spelling stands, says what else goes only with the common one.

        ``meant`` of shape (rows,) is the column with every slip as what was probably meant.
        """
        own = self.rows(column)
        odd_rows = own.of(one.odd)
        if self._is_another_thing(column, odd_rows, own.of(one.common)):
            return False
        others = (other for other in self._columns if other is not column and len(other.cells.texts) < self._all_rows)
        return any(self._agrees(column, meant, other, odd_rows, one) for other in others)

    def _agrees(
        self, column: WorkingColumn, meant: Codes, other: WorkingColumn, odd_rows: npt.NDArray[np.intp], one: Variant
    ) -> bool:
        witnesses = set(other.cells.codes[odd_rows].tolist())
        if EMPTY in witnesses:
            return False
        total = 0
        for witness in witnesses:
            rows = self.rows(other).of(witness)
            # The first rows settle most cases.
            for some in (rows[:FIRST_ROWS], rows):
                beside = meant[some[column.cells.codes[some] != one.odd]]
                if (beside != one.common).any():
                    return False
            if not len(beside):
                return False
            total += len(beside)
        # Each value of the other column goes with the common spelling, and more than once on the whole.
        return total >= WITNESSES * len(witnesses)

    def _is_another_thing(
        self, column: WorkingColumn, odd_rows: npt.NDArray[np.intp], common_rows: npt.NDArray[np.intp]
    ) -> bool:
        """Whether what is always the same beside the common spelling is something else beside the odd one."""
        if len(common_rows) < FEWEST_ROWS:
            return False
        needed = 1 if len(common_rows) >= ENOUGH_ROWS else 2
        for other in self._columns:
            codes = other.cells.codes
            first = codes[common_rows[0]]
            if other is column or first == EMPTY or not (codes[odd_rows] != first).any():
                continue
            if all((codes[some] == first).all() for some in (common_rows[:FIRST_ROWS], common_rows)):
                needed -= 1
            if not needed:
                return True
        return False


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with one spelling in place of another."""
    column = working.named(step.text("column"))
    if column is None:
        return working
    texts = column.cells.texts
    other = pc.if_else(pc.equal(texts, step.text("of")), pa.scalar(step.text("instead")), texts)
    return with_column(working, column, rewritten(column, other, number))
