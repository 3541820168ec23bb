"""Which row of one table the cells of another sheet name: by a key, by several columns, or by how people write it."""

from __future__ import annotations

import re
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, combine, first_rows, stack, with_blank
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes

    #: The codes of a column and its distinct values.
    Cells = tuple[Codes, pa.Array]


def partners(own: Sequence[Cells], theirs: Sequence[Cells], *, alike: bool = False) -> npt.NDArray[np.int64]:
    """For each row of one side the only row of the other that says the same in all columns, else ``EMPTY``.

    Where a cell is blank, those that are filled have to do. ``alike`` compares what is said together, whatever the
    capitals, zeros in front, and order of the words.

    >>> boats = [(np.array([0, 1]), pa.array(["Teal", "Knot"]))]
    >>> partners([(np.array([1, EMPTY, 0]), pa.array(["Knot", "Teal"]))], boats).tolist()
    [0, -1, 1]
    """
    if alike:
        return _by_all([described(own)], [described(theirs)])
    rows = _by_all(own, theirs)
    # Which cells of a row are filled, a bit for each.
    filled = reduce(np.bitwise_or, ((codes != EMPTY).astype(np.int64) << place for place, (codes, _) in enumerate(own)))
    for pattern in np.flatnonzero(np.bincount(filled)).tolist():
        some = np.array([place for place in range(len(own)) if pattern >> place & 1])
        if 0 < len(some) < len(own):
            these = filled == pattern
            by_some = _by_all([own[place] for place in some.tolist()], [theirs[place] for place in some.tolist()])
            rows = np.where(these, by_some, rows)
    return rows


def _by_all(own: Sequence[Cells], theirs: Sequence[Cells]) -> npt.NDArray[np.int64]:
    together = [stack([one, other]) for one, other in zip(theirs, own, strict=True)]
    whole = reduce(combine, (with_blank(codes, len(values)) for codes, values in together))
    filled = np.logical_and.reduce([codes != EMPTY for codes, _ in together])
    codes = np.where(filled, whole.codes, whole.size)
    count = len(theirs[0][0])
    there = Grouping(codes[:count], whole.size + 1)
    once = np.bincount(there.codes, minlength=there.size) == 1
    found = first_rows(there)
    wanted = codes[count:]
    return np.where(filled[count:] & once[wanted], found[wanted], EMPTY)


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


def plainly(text: str) -> str:
    """A text without what is only a matter of writing.

    >>> plainly("00041"), plainly("Lowe, Ann"), plainly("LAKE  Road")
    ('41', 'ann lowe', 'lake road')
    """
    parts = re.findall(r"[^\s,;]+", text.casefold())
    return " ".join(sorted(part.lstrip("0") or "0" if part.isdecimal() else part for part in parts))
