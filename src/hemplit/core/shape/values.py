"""The last step of shaping: the texts of a column become values of the kind that all of them have."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import TEXT, Column
from hemplit.core.shape.looks import is_total
from hemplit.core.shape.working import SHOWN
from hemplit.core.texts.vocabulary import NUMBERING
from hemplit.core.texts.words import is_identifier, words
from hemplit.errors import CellError

if TYPE_CHECKING:
    from collections.abc import Sequence

    import pyarrow as pa

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Kind
    from hemplit.core.shape.working import Working, WorkingColumn

#: A number of so many digits may be a year, under which things are counted with so many digits; and other parts go
#: past this digit only where they are no fraction.
YEAR, PADDED, LAST_DIGIT = 4, 3, 9
#: Beside a heading of an outline stand so many parts at least.
OUTLINED = 2
#: No book has more sections, and no register more entries of a year, than a person would number so.
MOST_PARTS = 20_000


def read_values(column: WorkingColumn, decided: Kind | None, working: Working) -> Column:
    """The column with its texts read as values; one value written in several ways is one value.

    Raises ``CellError`` with the texts that are not of the ``decided`` kind.
    """
    cells = column.cells
    kind = decided or kinds.recognise(cells.texts)
    if decided is None and kind.word == "decimal" and is_numbering(column.name, cells.texts.to_pylist()):
        kind = TEXT
    values = kinds.parse(cells.texts, kind)
    if values.null_count:
        raise _misfit(column, kind, values, working)
    merged = pc.dictionary_encode(values) if kind.word == "decimal" else None
    if merged is None or len(merged.dictionary) == len(values):
        return _column(column, kind, cells.codes, values)
    return _column(column, kind, _merge(cells, merged), merged.dictionary)


def is_numbering(header: str, texts: Sequence[str]) -> bool:
    """Whether numbers with a point count parts, as those of sections do, and measure nothing.

    The header says so, or that they are numbers of something, and not all parts have as many digits; or the parts
    behind the point are numbers of a year, or count up past nine, and some text would not come back from its value, as
    1.10 does not from 1.1.

    >>> is_numbering("Accession No", ["1987.12", "1990.4"]), is_numbering("Length", ["1.5", "1.50", "2.25"])
    (True, False)
    >>> is_numbering("Object No", ["1987.12", "1990.4"]), is_numbering("No of Reefs", ["1.5", "2"])
    (True, False)
    >>> is_numbering("No", [f"2.{part}" for part in range(1, 12)]), is_numbering("Key", ["1998.001", "1998.002"])
    (True, True)
    >>> is_numbering("Item", "1 1.1 1.2 2 2.1 2.2".split()), is_numbering("Fee", "1 1.1 2 2.1".split())
    (True, False)
    """
    if len(texts) > MOST_PARTS:
        return False
    parts = [text.partition(".")[::2] for text in texts]
    changed = any(fraction.endswith("0") for _, fraction in parts)
    even = len({len(fraction) for _, fraction in parts}) == 1
    said = words(header)
    if not even and (NUMBERING.intersection(said) or (len(said) > 1 and is_identifier(said[-1:]))):
        return True
    under: dict[str, set[int]] = {}
    for whole, fraction in parts:
        under.setdefault(whole, set()).add(int(fraction or "0"))
    counting = all(found == set(range(min(found), min(found) + len(found))) for found in under.values())
    if not counting or any(min(found) > 1 for found in under.values()):
        return False
    first = all(min(found) == 1 for found in under.values())
    of_years = even and first and all(len(whole) == YEAR and len(fraction) >= PADDED for whole, fraction in parts)
    past_nine = changed and not even and max(map(max, under.values())) > LAST_DIGIT
    # 1, 1.1, 1.2, 2, 2.1, 2.2: under each there are several, and it is there itself.
    outlined = len(under) > 1 and all(min(found) == 0 and len(found) > OUTLINED for found in under.values())
    return len(parts) > 1 and (of_years or past_nine or outlined)


def _column(column: WorkingColumn, kind: Kind, codes: Codes, values: pa.Array) -> Column:
    return Column(
        column.name,
        column.position,
        kind,
        codes,
        values,
        column.own,
        column.changed,
        column.places,
        column.part_of,
        column.headers,
    )


def _merge(cells: GridColumn, merged: pa.DictionaryArray) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
    renumber = np.append(merged.indices.to_numpy().astype(np.int32), np.int32(EMPTY))
    return renumber[cells.codes]  # EMPTY is -1 and so finds the last place


def _way_out(text: str, kind: Kind, header: str) -> str:
    """What to do about a text that is no value of its column's kind."""
    if is_total(text):
        return f'it looks like a line of totals: write a step {{ do = "skip total rows", labels = ["{text}"] }}'
    if kind.word == "whole number" and text.endswith(".0"):
        step = f'{{ do = "read numbers", column = "{header}", decimal = ".", whole = true }}'
        return f"if a program wrote whole numbers so, write a step {step}"
    return 'correct the cell, or write type = "text" for this column in the design'


def _misfit(column: WorkingColumn, kind: Kind, values: pa.Array, working: Working) -> CellError:
    """The error for the first text that is no such value, with those for some more."""
    odd = np.flatnonzero(pc.is_null(values).to_numpy(zero_copy_only=False))
    form = f" like {kind.form}" if kind.form else ""
    errors = []
    for code in odd[:SHOWN].tolist():
        rows = working.grid_rows[column.cells.codes == code]
        where = f"{working.source.title} {working.source.address(int(rows[0]), column.position)}"
        rest = len(odd) - SHOWN if code == odd[:SHOWN][-1] else 0
        more = f", nor {'are' if rest > 1 else 'is'} {rest:,} other text{'s' if rest > 1 else ''}" if rest > 0 else ""
        text = str(column.cells.texts[code])
        what = f"'{text}' under '{column.name}' is no {kind}{form}{more}"
        errors.append(CellError(where, what, _way_out(text, kind, column.name), tuple(rows.tolist())))
    first, *further = errors
    if len(odd) > SHOWN:
        errors[-1].rows += tuple(working.grid_rows[np.isin(column.cells.codes, odd[SHOWN:])].tolist())
    first.further = tuple(further)
    return first
