"""What most rows of a group say of a column, and which rows look like slips of that.

On few rows one slip is a large share of them. There it is enough that nothing but slips stands against what decides a
column, and that the words of the column are not so alike that two meet by chance.
"""

from __future__ import annotations

import math
from collections import Counter
from itertools import combinations
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from rapidfuzz.distance import OSA

from hemplit.core.columns.codes import Grouping, most_frequent
from hemplit.core.model.grid import EMPTY
from hemplit.core.shape.deciding import breaks_in_few, filled, is_chance, together
from hemplit.core.shape.looks import is_word
from hemplit.core.shape.slips import near_by_chance, writing_of
from hemplit.core.texts.twins import differs_in_a_sign, sharing_a_half
from hemplit.core.texts.words import is_identifier, words

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import WorkingColumn

#: So many letters may differ, and shorter texts are all alike.
MOST_LETTERS, SHORTEST = 2, 3
#: Up to so many capitals are a code, of which another letter makes another one.
LONGEST_LETTERS = 4
#: Columns of more different texts are not looked at, nor more texts that have a half in common.
MOST_TEXTS, MOST_ALIKE = 2_000, 50
#: Slips alone may stand against what decides a column in one row, or in this share of them, and in no more than a
#: person looks at; if so small a share of the other texts are alike.
SLIPS_ALONE, MOST_SLIPS, ALIKE = 0.02, 20, 0.02
#: Chance would bear out what decides, but for slips, in less than one of 10^LEAST sheets, and it would besides make two
#: texts of that length alike in less than one of 10^TOGETHER. So none is seen in 67 tables that are right as they are.
LEAST, TOGETHER = 0.5, 4.0


class Slip(NamedTuple):
    """One text, by its code, in place of another."""

    odd: int
    meant: int


def broken_by_slips(column: WorkingColumn, naming: Sequence[WorkingColumn]) -> WorkingColumn | None:
    """What decides a column of words but for slips, of several a code; None if none of those does that ``naming``
    things."""
    if not holds_words(column):
        return None
    able = [one for one in naming if one is not column and is_broken_by_slips(column, one)]
    return min(able, key=lambda one: not is_identifier(words(one.name)), default=None)


def holds_words(column: WorkingColumn) -> bool:
    """Whether a column holds words, and not so many different ones that no two can be compared."""
    texts = column.cells.texts
    return 2 <= len(texts) <= MOST_TEXTS and all(is_word(str(text)) for text in texts.slice(0, 3).to_pylist())


def is_broken_by_slips(column: WorkingColumn, by: WorkingColumn) -> bool:
    """Whether another column decides this one in all rows but for slips, and hardly by chance."""
    group = together((by,))
    most = min(max(1, int(SLIPS_ALONE * len(group.codes))), MOST_SLIPS)
    if not breaks_in_few(group, column.cells.codes, most) or is_chance(group, column, 0, LEAST):
        return False
    odd, _ = odd_ones(column, group)
    rows, meant = slips_of(column, group)
    if not 0 < len(odd) <= min(most, len(rows)):
        return False
    texts = column.cells.texts.to_pylist()
    slips = set(pairs_of(column, rows, meant))
    alike = max(math.log10(near_by_chance(texts[one.odd])) + _further_letters(texts, one) for one in slips)
    if is_chance(group, column, len(rows), max(TOGETHER + alike, LEAST)):
        return False
    pairs = len(slips)
    others = len({frozenset(one) for one in possible_slips(texts)}) - pairs
    return others <= ALIKE * (len(texts) * (len(texts) - 1) // 2 - pairs)


def _further_letters(texts: Sequence[str], slip: Slip) -> int:
    """How many letters a slip is off besides one: each makes it ten times as likely that two are alike by chance."""
    return max(OSA.distance(*(texts[code].casefold() for code in slip)) - 1, 0)


def slips_of(column: WorkingColumn, group: Grouping) -> tuple[npt.NDArray[np.intp], Codes]:
    """The rows that are slips of what most of their group say, which stand nowhere else, and what that is.

    Where as many say the one as the other, neither may stand elsewhere.
    """
    rows, meant = odd_ones(column, group)
    pairs = Counter(pairs_of(column, rows, meant))
    slips = {one for one, count in pairs.items() if count == column.cells.counts[one.odd] and _looks_so(column, one)}
    own = np.array([one in slips for one in pairs_of(column, rows, meant)], dtype=bool)
    size = len(column.cells.texts) + 1  # a blank is one more
    groups = group.codes.astype(np.int64) * size + 1
    said = np.unique(groups + column.cells.codes, return_counts=True)
    beside = [_count_of(said, groups[rows] + codes) for codes in (meant, column.cells.codes[rows])]
    own &= (beside[0] > beside[1]) | (beside[0] == column.cells.counts[meant])
    return rows[own], meant[own]


def _count_of(
    counted: tuple[npt.NDArray[np.int64], npt.NDArray[np.intp]], numbers: npt.NDArray[np.int64]
) -> npt.NDArray[np.intp]:
    """How often each of some numbers was counted."""
    return counted[1][np.searchsorted(counted[0], numbers)]


def _looks_so(column: WorkingColumn, slip: Slip) -> bool:
    """Whether the one text looks like a slip of the other, and neither like another number nor like a further word."""
    odd, meant = (str(column.cells.texts[code]) for code in slip)
    further_word = len(odd.split()) != len(meant.split()) and odd.replace(" ", "") != meant.replace(" ", "")
    return _is_slip(odd, meant) and not further_word and not differs_in_a_sign(odd, meant)


def pairs_of(column: WorkingColumn, rows: npt.NDArray[np.intp], meant: Codes) -> list[Slip]:
    """For each of some rows what it says, and what it should."""
    return [Slip(int(column.cells.codes[row]), int(code)) for row, code in zip(rows, meant, strict=True)]


def possible_slips(texts: Sequence[str]) -> set[Slip]:
    """The texts that could stand in place of another."""
    lower = [text.casefold() for text in texts]
    groups = (alike[:MOST_ALIKE] for alike in sharing_a_half(lower))
    pairs = {
        (min(pair), max(pair))
        for alike in groups
        for pair in combinations(alike, 2)
        if abs(len(lower[pair[0]]) - len(lower[pair[1]])) <= MOST_LETTERS  # which most are not, and is told at once
    }
    slips = [pair for pair in pairs if _is_slip(texts[pair[0]], texts[pair[1]])]
    return {slip for one, other in slips for slip in (Slip(one, other), Slip(other, one))}


def _is_slip(odd: str, meant: str) -> bool:
    """Whether a person who meant the one could have typed the other, which goes for both ways round.

    What differs in a digit is another thing.
    """
    one, other = odd.casefold(), meant.casefold()
    if min(len(one), len(other)) < SHORTEST or [c for c in one if c.isdigit()] != [c for c in other if c.isdigit()]:
        return False
    if (
        odd.isupper()
        and meant.isupper()
        and max(len(odd), len(meant)) <= LONGEST_LETTERS
        and _differs_in_one(odd, meant)
    ):
        return False
    letters = 1 if min(map(len, _where_they_differ(one, other))) < 2 * SHORTEST else MOST_LETTERS
    return bool(OSA.distance(one, other, score_cutoff=letters) <= letters)


def _where_they_differ(one: str, other: str) -> tuple[str, str]:
    """Two texts without the words that both begin or end with, which make neither the likelier.

    >>> _where_they_differ("dr khan", "dr shaw"), _where_they_differ("grey heron", "gray heron")
    (('khan', 'shaw'), ('grey', 'gray'))
    """
    mine, theirs = one.split(), other.split()
    while mine and theirs and mine[0] == theirs[0]:
        del mine[0], theirs[0]
    while mine and theirs and mine[-1] == theirs[-1]:
        del mine[-1], theirs[-1]
    return " ".join(mine), " ".join(theirs)


def _differs_in_one(one: str, other: str) -> bool:
    return len(one) == len(other) and sum(left != right for left, right in zip(one, other, strict=True)) == 1


def odd_ones(column: WorkingColumn, group: Grouping) -> tuple[npt.NDArray[np.intp], Codes]:
    """The rows that say something else than most of their group, and what that is."""
    codes = column.cells.codes
    said = _most(column, group)[group.codes]
    rows = np.flatnonzero((codes != EMPTY) & (said != EMPTY) & (codes != said))
    return rows, said[rows]


def _most(column: WorkingColumn, group: Grouping) -> Codes:
    """What most rows of a group say, of two as frequent what is more common in the column, or its writing is; shape
    (groups + 1,)."""
    codes = column.cells.codes
    both = filled(group, codes)
    writings = [writing_of(str(text)) for text in column.cells.texts.to_pylist()]
    common = Counter(writings)
    order = np.lexsort((-np.array([common[one] for one in writings]), -column.cells.counts))
    rank = np.empty(len(order), dtype=np.int32)
    rank[order] = np.arange(len(order), dtype=np.int32)
    part = Grouping(group.codes[both], group.size)
    said = np.full(group.size + 1, EMPTY, dtype=np.int32)
    there = np.flatnonzero(np.bincount(part.codes))
    said[there] = order[most_frequent(part, Grouping(rank[codes[both]], len(order)))][there]
    return said
