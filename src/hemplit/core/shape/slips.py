"""How likely an odd text beside a common one is a slip of it and no other real one: the odds, from the column itself.

    odds = n(common) · slips per cell · again / real · companions

``again`` is the chance that the same slip comes so often, ``real`` how many real texts of so few cells stand near to
one, told from the texts of the column that are surely real, and ``companions`` what the other columns say: whether
each row of the odd text stands in a group that otherwise says the common one, or says beside it what is usual there,
and how often real texts do so by accident. A text is surely real if it stands often, or near to nothing.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from rapidfuzz.distance import OSA

from hemplit.core.columns.codes import are_among
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.twins import differs_in_a_sign
from hemplit.core.texts.words import in_ascii
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import WorkingColumn

#: Slips per cell of careful typing, and of a careless column, which is used where a slip must have come twice.
SLIPS, CARELESS = 0.001, 0.01
#: The same slip hardly comes so often.
SURE = 3
#: A text is common beside an odd one that is at most so frequent, and is so many times as frequent.
MOST_ODD, TIMES = 5, 2
#: Changed, left out, doubled, swapped: a slip falls on one of so many texts per letter.
WAYS = 4
#: A slip is one of letters, of capitals or of blanks.
OF_CAPITALS = 1 / 3
#: The share of texts that are meant in two writings, over the columns of 67 tables that are right as they are, and as
#: if how many texts of a column had borne that out.
IN_TWO_WRITINGS, AS_IF = 0.0004, 250
#: A writing that is not seen elsewhere in the column is still possible.
OWN_WRITING = 0.05
#: A common writing that is less than so many times as frequent may be the other's equal.
CLEARLY = 4
#: So many texts must bear a witness out, and so many one that contradicts, which may itself be broken in so few rows.
FOR, AGAINST, BROKEN = 10, 30, 0.02
CONTRADICTED = 0.02
#: No more is known of how often two texts share what is usual beside them.
LEAST_SHARED = 0.001
#: The chance that two real texts of a column are one slip apart, by the length of the one; the last for longer ones.
#: Measured over the text columns of 67 tables that are right as they are, each column counting once.
NEAR_BY_LENGTH = {3: 0.0114, 4: 0.0023, 5: 0.0010, 6: 0.0005, 7: 0.0001}
#: So many rows tell what stands beside a text.
MOST_ROWS = 100_000
#: Texts of fewer signs are all alike.
SHORTEST = 3


@dataclass(frozen=True)
class Slip:
    """An odd text and the common one that it may be a slip of, by their codes, and the odds of that.

    ``witnessed`` says that another column says the same beside both.
    """

    odd: int
    common: int
    odds: float
    witnessed: bool


def slips(column: WorkingColumn, others: Sequence[WorkingColumn], least: float) -> list[Slip]:
    """The likeliest slip that each odd text may be, from those odds on."""
    return _Column(column, others).slips(least)


def near(texts: Sequence[str]) -> dict[int, list[int]]:
    """For each text the others that are one slip away, by their places: texts that are the same without one letter.

    >>> near(["heron", "herno", "teal", "herons", "N01", "N02"])
    {0: [1, 3], 1: [0], 3: [0]}
    """
    of_digits: dict[str, list[int]] = defaultdict(list)
    for place, text in enumerate(texts):
        if len(text) >= SHORTEST:
            of_digits["".join(filter(str.isdigit, text))].append(place)
    pairs: set[tuple[int, int]] = set()
    for alike in of_digits.values():
        if len(alike) > 1:
            pairs |= _sharing(texts, alike)
    found: dict[int, list[int]] = defaultdict(list)
    for one, other in sorted(pairs):
        if OSA.distance(texts[one], texts[other]) == 1 and not differs_in_a_sign(texts[one], texts[other]):
            found[one].append(other)
            found[other].append(one)
    return {place: sorted(others) for place, others in sorted(found.items())}


def _sharing(texts: Sequence[str], places: Sequence[int]) -> set[tuple[int, int]]:
    """The pairs of texts that are the same, or can be, once a letter is taken out of each."""
    index: dict[str, list[int]] = defaultdict(list)
    for place in places:
        text = texts[place]
        for part in {text, *(text[:at] + text[at + 1 :] for at in range(len(text)))}:
            index[part].append(place)
    several = [some for some in index.values() if len(some) > 1]
    return {(one, other) for some in several for one in some for other in some if one < other}


def writing_of(text: str) -> str:
    """How a text is capitalised.

    >>> [writing_of(text) for text in ("TEAL", "teal", "Grey Heron", "Grey heron", "McNeil")]
    ['upper', 'lower', 'title', 'sentence', 'mixed']
    """
    if text.isupper():
        return "upper"
    if text.islower():
        return "lower"
    if text.istitle():
        return "title"
    return "sentence" if text[:1].isupper() and text[1:].islower() else "mixed"


class _Column:
    """A column whose texts that differ in capitals only count as one; ``folded`` gives each text its number."""

    def __init__(self, column: WorkingColumn, others: Sequence[WorkingColumn]) -> None:
        self.texts = [str(text) for text in column.cells.texts.to_pylist()]
        self.counts = column.cells.counts
        self.codes = column.cells.codes
        self.others = others
        numbers: dict[str, int] = {}
        self.folded = np.array([numbers.setdefault(text.casefold(), len(numbers)) for text in self.texts], np.int32)
        self.names = list(numbers)
        self.often = np.bincount(self.folded, weights=self.counts, minlength=len(numbers)).astype(np.int64)
        self.near = near(self.names)
        #: The texts of each number, the most frequent first.
        self.written: dict[int, list[int]] = defaultdict(list)
        for code in np.argsort(-self.counts, kind="stable").tolist():
            self.written[int(self.folded[code])].append(code)

    def slips(self, least: float) -> list[Slip]:
        best: dict[int, Slip] = {}
        for one in (*self._of_capitals(), *self._of_letters(least)):
            if one.odds >= least and (one.odd not in best or best[one.odd].odds < one.odds):
                best[one.odd] = one
        return [best[odd] for odd in sorted(best)]

    @cached_property
    def real(self) -> npt.NDArray[np.bool_]:
        """Which texts are real: those that stand often, or near to nothing."""
        return np.array([often >= SURE or place not in self.near for place, often in enumerate(self.often.tolist())])

    @cached_property
    def crowded(self) -> float:
        """How many more of the texts that stand often are near to one another than texts of their lengths are."""
        sure = self.often >= SURE
        places = np.flatnonzero(sure).tolist()
        ends = sum(int(sure[other]) for one in places for other in self.near.get(one, ()))
        expected = sum(near_by_chance(self.names[one]) for one in places) * max(len(places) - 1, 0)
        return (ends + 1) / (expected + 1)

    @cached_property
    def standing(self) -> dict[int, float]:
        """How many real texts stand so many times, told from those near to nothing."""
        sure = np.flatnonzero(self.often >= SURE).tolist()
        apart = sum(place not in self.near for place in sure)
        alone = Counter(often for place, often in enumerate(self.often.tolist()) if place not in self.near)
        return {often: (alone[often] + 0.5) * (len(sure) + 1) / (apart + 1) for often in range(1, MOST_ODD + 1)}

    def _near_ones(self, text: int) -> float:
        """How many real texts that stand as often as this one are near to a common one."""
        return near_by_chance(self.names[text]) * self.crowded * self.standing[int(self.often[text])]

    def _of_letters(self, least: float) -> Iterator[Slip]:
        for odd, others in self.near.items():
            n = int(self.often[odd])
            letters = max(sum(map(str.isalpha, self.names[odd])), 1)
            for common in others:
                many = int(self.often[common])
                if n > MOST_ODD or many < max(TIMES * n, 2) or _has_accents_of(self.names[odd], self.names[common]):
                    continue
                mean = many * CARELESS / (WAYS * letters)
                again = math.exp(-mean) * mean**n / math.factorial(n) / -math.expm1(-mean)
                odds = many * SLIPS * again / self._near_ones(odd)
                if odds * self.by_letters.most < least:
                    continue
                agree, disagree = self.by_letters.hear(odd, common)
                odds *= agree * disagree
                to = self.written[common][0]
                if odds >= least:
                    yield from (Slip(code, to, odds, witnessed=agree > 1) for code in self.written[odd])

    def _of_capitals(self) -> Iterator[Slip]:
        several = [codes for codes in self.written.values() if len(codes) > 1]
        equal = sum(2 * self.counts[codes[1]] > self.counts[codes[0]] for codes in several)
        both = (equal + IN_TWO_WRITINGS * AS_IF) / (len(self.names) + AS_IF)
        writings: Counter[str] = Counter()
        for text, count in zip(self.texts, self.counts.tolist(), strict=True):
            writings[writing_of(text)] += count
        for codes in several:
            for odd in codes[1:]:
                common = self._best_writing(odd, codes, writings)
                if common == odd or _is_chosen(self.texts[odd], self.texts[common]):
                    continue
                n, many = int(self.counts[odd]), int(self.counts[common])
                writing = writing_of(self.texts[odd])
                rest = int(self.counts.sum() - self.counts[codes].sum())
                like = writings[writing] - sum(
                    int(self.counts[code]) for code in codes if writing_of(self.texts[code]) == writing
                )
                own = max(like / rest if rest else 0.0, OWN_WRITING)
                odds = many * SLIPS / (both * n) * OF_CAPITALS / own
                odds *= 1.0 if many >= CLEARLY * n else 0.1
                agree, _ = self.by_writing.hear(odd, common)
                yield Slip(odd, common, odds * agree, witnessed=agree > 1)

    def _best_writing(self, odd: int, codes: Sequence[int], writings: Counter[str]) -> int:
        """The most frequent writing of a text; of two as frequent, the one like the rest of the column."""
        most = self.counts[codes[0]]
        equal = [code for code in codes if self.counts[code] == most]
        return max(equal, key=lambda code: (writings[writing_of(self.texts[code])], code != odd, -code))

    # Companions -----------------------------------------------------------------------------------------------------

    @cached_property
    def by_letters(self) -> _Companions:
        """What stands beside each text, in whichever writing."""
        number = np.append(self.folded, np.int32(EMPTY))[self.codes]
        return _Companions(number, self.real, self.near, self.others)

    @cached_property
    def by_writing(self) -> _Companions:
        """What stands beside each writing of a text."""
        return _Companions(self.codes, self.real[self.folded], {}, self.others)


def _some_rows(number: Codes) -> npt.NDArray[np.intp] | slice:
    """All rows; of very many each so-many-th, and those of the texts that stand seldom."""
    if len(number) <= MOST_ROWS:
        return slice(None)
    counts = np.bincount(number + 1)
    seldom = np.flatnonzero((counts[number + 1] <= MOST_ODD) & (number != EMPTY))
    return np.union1d(np.arange(0, len(number), len(number) // MOST_ROWS), seldom)


class _Companions:
    """The other columns, asked what goes with a text: ``number`` of shape (rows,) has the number of each row's text.

    ``real`` tells which of these are surely real, and ``near`` which of them are alike.
    """

    def __init__(
        self,
        number: Codes,
        real: npt.NDArray[np.bool_],
        near: Mapping[int, Sequence[int]],
        others: Sequence[WorkingColumn],
    ) -> None:
        some = _some_rows(number)
        self.number, self.real, self.near = number[some], real, near
        able = [_Witness(self, one, some) for one in others if 1 < len(one.cells.texts) < len(number)]
        # Those that say the same in every row are one witness.
        apart = {(one.size, one.alone, one.shared, one.broken): one for one in able}
        self.witnesses = sorted(apart.values(), key=lambda one: min(one.alone, one.shared))

    @cached_property
    def most(self) -> float:
        """How much likelier the best of them could make a slip."""
        return max([1.0, *(max(1 / one.alone, 1 / one.shared) for one in self.witnesses)])

    def hear(self, odd: int, common: int) -> tuple[float, float]:
        """How much likelier a slip is as the best of them says the same beside both, and how much less likely as others
        say otherwise; 1 where none does.

        Groups that are wrong more often than those of another which says the same are not heard against it.
        """
        rows = np.flatnonzero(self.number == odd)
        speaking = [one.speaks_for(odd, common, rows) for one in self.witnesses]
        agree = max([1.0, *(said / rank for rank, said in enumerate(speaking, 1))])
        most = min((one.broken for one, said in zip(self.witnesses, speaking, strict=True) if said > 1), default=BROKEN)
        return agree, math.prod(one.speaks_against(odd, common, rows, most) for one in self.witnesses)


class _Witness:
    """Another column, asked what goes with a text."""

    def __init__(self, of: _Companions, column: WorkingColumn, some: npt.NDArray[np.intp] | slice) -> None:
        self.of, self.codes, self.size = of, column.cells.codes[some], len(column.cells.texts)
        both = np.flatnonzero((self.codes != EMPTY) & (of.number != EMPTY))
        kinds = len(of.real)
        pairs = self.codes[both].astype(np.int64) * kinds + of.number[both]
        cells, counts = np.unique(pairs, return_counts=True)
        #: The pairs of a value here and a text there: values, texts, rows.
        self.values, self.texts, self.rows = cells // kinds, cells % kinds, counts
        self.in_group = np.bincount(self.values, weights=counts, minlength=self.size).astype(np.int64)
        self.different = np.bincount(self.values, minlength=self.size)
        self.start = np.searchsorted(self.values, np.arange(self.size + 1))
        order = np.lexsort((-counts, self.texts))
        first = order[np.append(True, self.texts[order][1:] != self.texts[order][:-1])] if len(order) else order
        #: What is usual beside each text, and in how many rows; ``EMPTY`` beside none.
        self.usual = np.full(kinds, EMPTY, np.int64)
        self.usual[self.texts[first]] = self.values[first]
        self.usual_rows = np.zeros(kinds, np.int64)
        self.usual_rows[self.texts[first]] = counts[first]
        self.all_rows = np.bincount(self.texts, weights=counts, minlength=kinds).astype(np.int64)
        # What stands beside in half of the rows or fewer is not usual.
        self.usual[(2 * self.usual_rows <= self.all_rows) | (self.all_rows < 2)] = EMPTY

    def _said(self, value: int) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        some = slice(self.start[value], self.start[value + 1])
        return self.texts[some], self.rows[some]

    @cached_property
    def alone(self) -> float:
        """The share of real texts that stand in a group whose other rows all say one other text, and more often.

        What is near to that other one may be a slip of it, too, and counts as it.
        """
        real, kinds = self.of.real, len(self.of.real)
        leading = np.zeros(self.size, np.int64)
        order = np.argsort(self.rows, kind="stable")
        leading[self.values[order]] = self.texts[order]
        led_by = leading[self.values]
        near = [one * kinds + other for one, others in self.of.near.items() for other in others]
        alike = (led_by == self.texts) | are_among(led_by * kinds + self.texts, near)
        else_ = np.bincount(self.values, weights=np.where(alike, 0, self.rows), minlength=self.size)[self.values]
        lonely = (led_by != self.texts) & (else_ == np.where(alike, 0, self.rows))
        lonely &= (2 * self.rows < self.in_group[self.values]) & real[self.texts]
        count = len(set(self.texts[lonely].tolist()))
        judged = int(np.count_nonzero(real))
        return min((count + 0.5) / (judged + 1), 1.0)

    @cached_property
    def shared(self) -> float:
        """The chance that two real texts share what is usual beside them."""
        usual = self.usual[self.of.real & (self.usual != EMPTY)]
        if len(usual) < FOR:
            return 1.0
        shares = np.bincount(usual) / len(usual)
        return max(float((shares**2).sum()), LEAST_SHARED)

    @cached_property
    def broken(self) -> float:
        """The share of rows that say another text than most of their group, in groups of two and more."""
        most = np.zeros(self.size, np.int64)
        np.maximum.at(most, self.values, self.rows)
        several = self.in_group > 1
        rows = int(self.in_group[several].sum())
        return 1.0 if rows < AGAINST else float((self.in_group - most)[several].sum()) / rows

    @cached_property
    def unusual(self) -> float:
        """The share of rows that say beside a real text something else than is usual."""
        some = self.of.real & (self.usual != EMPTY)
        rows = int(self.all_rows[some].sum())
        return 1.0 if np.count_nonzero(some) < AGAINST else float((self.all_rows - self.usual_rows)[some].sum()) / rows

    def speaks_for(self, odd: int, common: int, rows: npt.NDArray[np.intp]) -> float:
        """How much likelier a slip is than a real text, as each row of the odd text stands with the common one."""
        values = set(self.codes[rows].tolist())
        if EMPTY in values:
            return 1.0
        found = 1.0
        alike = {odd, *self.of.near.get(common, ())}
        few = all(self.different[value] <= len(alike) + 1 for value in values)
        said = (dict(zip(*map(np.ndarray.tolist, self._said(value)), strict=True)) for value in values)
        if few and all(one.keys() - alike == {common} and one[odd] < one[common] for one in said):
            found = 1 / self.alone
        if len(values) == 1 and self.usual[common] in values:
            found = max(found, 1 / self.shared)
        return found

    def speaks_against(self, odd: int, common: int, rows: npt.NDArray[np.intp], most: float) -> float:
        """How much less likely it is, as a group says a third text, or as something else stands beside.

        Its groups are heard where they are broken in at most that share of the rows.
        """
        values = set(self.codes[rows].tolist()) - {EMPTY}
        found = 1.0
        if self.broken < BROKEN and self.broken <= most:
            beside = {text for value in values for text in self._said(value)[0].tolist()} - {odd}
            # What is near to the common one may be a slip of it, too.
            if beside - {common, *self.of.near.get(common, ())}:
                found = CONTRADICTED
        if self.unusual < BROKEN and self.all_rows[common] > 1 and EMPTY != self.usual[common] not in values:
            found = min(found, max(self.unusual, LEAST_SHARED))
        return found


def _has_accents_of(odd: str, common: str) -> bool:
    """Whether a text has accents that a common one lacks, and is its better form: Zoë, where most say Zoe.

    >>> _has_accents_of("zoë", "zoe"), _has_accents_of("zoe", "zoë")
    (True, False)
    """
    return not odd.isascii() and common.isascii() and in_ascii(odd) == common


def near_by_chance(text: str) -> float:
    """The chance that a real text is one slip away from another of that length.

    >>> near_by_chance("Eider") > near_by_chance("Kittiwake")
    True
    """
    return NEAR_BY_LENGTH[min(max(len(text), min(NEAR_BY_LENGTH)), max(NEAR_BY_LENGTH))]


def _is_chosen(odd: str, common: str) -> bool:
    """Whether a text has capitals that somebody chose, besides those of a common one: MacNeil, where most say Macneil.

    >>> _is_chosen("MacNeil", "Macneil"), _is_chosen("Grey heron", "Grey Heron"), _is_chosen("TEAL", "Teal")
    (True, False, False)
    """
    if odd.isupper() or len(odd) != len(common):
        return False
    pairs = list(zip(odd, common, strict=True))
    return all(one.isupper() for one, other in pairs if other.isupper()) and odd != common
