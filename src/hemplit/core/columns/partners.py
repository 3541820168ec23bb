"""Which row of one table the cells of another sheet name: by a key, by several columns, or by how people write it."""

from __future__ import annotations

import re
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import FLAGS_PER_ROW, combine, distinct, first_rows, with_blank
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes

    #: The codes of a column and its distinct values.
    Cells = tuple[Codes, pa.Array]


#: What people write in short or in full as it comes.
IN_FULL = {"&": "and", "+": "and", "ltd": "limited", "co": "company", "inc": "incorporated", "corp": "corporation"}
#: Before a first and a last name people write how somebody is to be called.
TITLES = frozenset("mr mrs ms miss dr prof sir rev capt captain herr frau".split())
#: A whole name has so many words at least, so that a title before one of them is all that tells who it is.
FULL = 2
SPACE = " "
#: A name of which all but one word are initials, in the order of what is said plainly.
INITIALS = re.compile(r"(?=.*[^\W\d_]{2})(?=.*\b[^\W\d_]\b)(?:[^\W\d_] )*[^\W\d_]+(?: [^\W\d_])*")
#: The letters and the number of a code, which some part by a sign.
#: The sign of a vehicle, or a code like that, which some write with a space or a line between its parts.
PLATE = re.compile(r"(?=.*([a-z]\d|\d[a-z]))([a-z\d]{1,4}[ -]?){2,3}", re.IGNORECASE)
CODE = re.compile(r"^([^\W\d_]{1,4})[-_./](\d+)$")


def partners(own: Sequence[Cells], theirs: Sequence[Cells], *, alike: bool = False) -> npt.NDArray[np.int64]:
    """For each row of one side the only row of the other that says the same in all columns, else ``EMPTY``.

    Where a cell is blank, those that are filled have to do. ``alike`` compares what is said together, whatever the
    capitals, zeros in front, and order of the words.

    >>> boats = [(np.array([0, 1]), pa.array(["Teal", "Knot"]))]
    >>> partners([(np.array([1, EMPTY, 0]), pa.array(["Knot", "Teal"]))], boats).tolist()
    [0, -1, 1]
    """
    return Lookup(theirs, alike=alike).rows(own)


class Lookup:
    """Rows of one table, to be found by what several columns say: made once, and asked by many sheets."""

    def __init__(self, theirs: Sequence[Cells], *, alike: bool = False) -> None:
        self._theirs = [described(theirs)] if alike else theirs
        self._alike = alike
        self._by: dict[tuple[int, ...], _Index] = {}

    def rows(self, own: Sequence[Cells]) -> npt.NDArray[np.int64]:
        """For each row of another sheet the only row here that says the same, as ``partners``."""
        if self._alike:
            codes, texts = described(own)
            own = [(codes, with_full_names(texts, self._theirs[0][1]))]
        rows = self._found(own, range(len(own)))
        if not any((codes == EMPTY).any() for codes, _ in own):
            return rows
        # Which cells of a row are filled, a bit for each.
        bits = ((codes != EMPTY).astype(np.int64) << place for place, (codes, _) in enumerate(own))
        filled = reduce(np.bitwise_or, bits)
        for pattern in np.flatnonzero(np.bincount(filled)).tolist():
            some = [place for place in range(len(own)) if pattern >> place & 1]
            if 0 < len(some) < len(own):
                rows = np.where(filled == pattern, self._found(own, some), rows)
        return rows

    def _found(self, own: Sequence[Cells], places: Sequence[int]) -> npt.NDArray[np.int64]:
        by = tuple(places)
        if by not in self._by:
            self._by[by] = _Index([self._theirs[place] for place in by])
        return self._by[by].rows([own[place] for place in by])


class _Index:
    """The rows of a table in which some columns are filled, by the numbers that their codes make together."""

    def __init__(self, theirs: Sequence[Cells]) -> None:
        filled = np.flatnonzero(np.logical_and.reduce([codes != EMPTY for codes, _ in theirs]))
        self._steps: list[tuple[pa.Array, _Places]] = []
        whole, count = np.zeros(len(filled), dtype=np.int64), 1
        for codes, values in theirs:
            numbers = whole * len(values) + codes[filled]
            step = _Places(numbers, count * len(values))
            whole, count = step.of(numbers), step.count
            self._steps.append((values, step))
        self._rows = np.full(count + 1, EMPTY, dtype=np.int64)  # the last is for what is not here
        self._rows[whole] = filled
        self._rows[:-1][np.bincount(whole, minlength=count) > 1] = EMPTY

    def rows(self, own: Sequence[Cells]) -> npt.NDArray[np.int64]:
        """For each row of another sheet the only row here that says the same, else ``EMPTY``."""
        whole = np.zeros(len(own[0][0]), dtype=np.int64)
        for (values, step), (codes, said) in zip(self._steps, own, strict=True):
            known = pc.fill_null(pc.index_in(said, values), EMPTY).to_numpy(zero_copy_only=False)
            there = np.append(known, EMPTY)[codes]
            both = (whole != EMPTY) & (there != EMPTY)
            whole = step.of(np.where(both, whole * len(values) + there, EMPTY))
        return self._rows[whole]


class _Places:
    """Numbers below ``space``, and the place of each different one of them, from 0 on."""

    def __init__(self, numbers: npt.NDArray[np.int64], space: int) -> None:
        self._flags: npt.NDArray[np.int64] | None = None
        self._sorted = np.array([space])
        if space <= FLAGS_PER_ROW * len(numbers) + 1024:
            present = np.zeros(space + 1, dtype=bool)
            present[numbers] = True
            # The last entry, which is never there, is the one that ``EMPTY`` finds.
            self._flags = np.where(present, np.cumsum(present) - 1, EMPTY)
            self.count = int(np.count_nonzero(present))
        else:
            # The last entry lies beyond all numbers, so that each has a place before which it would stand.
            self._sorted = np.append(distinct(numbers), space)
            self.count = len(self._sorted) - 1

    def of(self, numbers: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        """The place of each number; ``EMPTY`` of ``EMPTY`` and of one that is not there."""
        if self._flags is not None:
            return self._flags[numbers]
        places = np.searchsorted(self._sorted, numbers)
        return np.where(self._sorted[places] == numbers, places, EMPTY)


def described(columns: Sequence[Cells]) -> Cells:
    """What several columns say together of each row, plainly; ``EMPTY`` where they say nothing.

    >>> first, last = (np.array([0, 0]), pa.array(["Ann"])), (np.array([0, 1]), pa.array(["Lowe", "Ray"]))
    >>> codes, values = described([first, last])
    >>> codes.tolist(), values.to_pylist()
    ([0, 1], ['ann lowe', 'ann ray'])
    """
    whole = reduce(combine, (with_blank(codes, len(values)) for codes, values in columns))
    texts = []
    for row in first_rows(whole).tolist():
        said = [str(values[int(codes[row])]) for codes, values in columns if row != EMPTY and codes[row] != EMPTY]
        texts.append(plainly(" ".join(said)) if said else None)
    encoded = pa.array(texts, pa.string()).dictionary_encode()
    numbers = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
    return numbers[whole.codes], encoded.dictionary


def with_full_names(texts: pa.Array, names: pa.Array) -> pa.Array:
    """The texts, and for each that has all but one word as an initial the only one of the names that this stands for.

    >>> with_full_names(pa.array(["a lowe", "b roe"]), pa.array(["ann lowe", "ben roe", "bo roe"])).to_pylist()
    ['ann lowe', 'b roe']
    """
    short = {text for text in texts.to_pylist() if INITIALS.fullmatch(text)}
    if not short:
        return texts
    meant: dict[str, set[str]] = {}
    for name in names.to_pylist():
        for text in _in_short(name):
            meant.setdefault(text, set()).add(name)
    only = {text: min(meant[text]) for text in short if len(meant.get(text, ())) == 1}
    return pa.array([only.get(text, text) for text in texts.to_pylist()], pa.string())


def _in_short(name: str) -> Iterator[str]:
    """What a name of several words is with all but one of them as initials, in the order of what is said plainly."""
    parts = name.split(SPACE)
    if len(parts) > 1 and all(len(part) > 1 and part.isalpha() for part in parts):
        for whole in parts:
            yield SPACE.join(sorted(part if part is whole else part[0] for part in parts))


def plainly(text: str) -> str:
    """A text without what is only a matter of writing.

    >>> plainly("00041"), plainly("Lowe, Ann"), plainly("Mrs Ann Lowe"), plainly("Keel & Co."), plainly("A-101")
    ('41', 'ann lowe', 'ann lowe', 'and company keel', 'a101')
    >>> plainly("AB12 CDE") == plainly("ab12cde")
    True
    """
    if PLATE.fullmatch(text):
        return re.sub(r"[ -]", "", text).casefold()
    parts = [part.rstrip(".") or part for part in re.findall(r"[^\s,;]+", text.casefold())]
    parts = parts[1:] if len(parts) > FULL and parts[0] in TITLES else parts
    parts = [CODE.sub(r"\1\2", part) for part in parts]
    parts = [part.lstrip("0") or "0" if part.isdecimal() else IN_FULL.get(part, part) for part in parts]
    return " ".join(sorted(parts))
