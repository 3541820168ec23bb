"""The list of what was loaded, as databases hold it, and cells as statements write them."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.loads import Load
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Sequence


#: The tables of ours that remember what Hemplit made in a database, and what was loaded into it.
OBJECTS, LOADS = "hemplit_objects", "hemplit_loads"
NOTED = ("file", "worksheet", "sheet", "mark", "rows", "at", "topup", "how", "counts", "left_out", "seal")
#: What those of them are that stand for themselves.
TYPES = [str, str, str, str, int, str, int, str]


def noted(loads: Sequence[Load]) -> pa.Table:
    """The rows that tell of loads."""
    rows = [[*_plain(one), json.dumps(dict(one.counts)), json.dumps(one.left_out), one.seal] for one in loads]
    return pa.table([list(column) for column in zip(*rows, strict=True)], names=NOTED)


def _load_of(row: Sequence[Any]) -> Load:
    """What a row of the list says; what is no load is one that somebody changed."""
    *said, counts, left_out, seal = row
    try:
        held = {str(name): int(count) for name, count in json.loads(counts).items()}
        if [*map(type, said)] != TYPES or "\0" in said[0]:
            raise TypeError("these are no values that were noted")
        file, worksheet, sheet, mark, rows, at, topup, how = said
        besides = tuple(map(str, json.loads(left_out)))
        load = Load(file, worksheet, sheet, mark, rows, at, bool(topup), how, held, besides)
    except (ValueError, TypeError, AttributeError):
        return Load(str(said[0]).replace("\0", ""), "", str(said[2]), "", 0, "", sealed=False)
    return replace(load, sealed=load.seal == seal)


def numbered(rows: Sequence[tuple[Any, ...]]) -> tuple[Load, ...]:
    """The loads of rows that begin with their number; they are counted from 1, and somebody has changed what is not."""
    told = ((number, _load_of(row)) for number, *row in rows)
    return tuple(one if number == at else replace(one, sealed=False) for at, (number, one) in enumerate(told, 1))


def _plain(load: Load) -> tuple[str | int, ...]:
    """What the list has of a load in columns of their own."""
    return (load.file, load.worksheet, load.sheet, load.mark, load.rows, load.at, int(load.topup), load.how)


def literals(column: pa.Array, *, backslashes: bool = False) -> pa.Array:
    """The cells of a column as a statement writes them; ``backslashes`` are signs of their own to some databases.

    >>> literals(pa.array(["Teal", "it's", None])).to_pylist()
    ["'Teal'", "'it''s'", 'NULL']
    """
    texts = pc.cast(column, pa.string())
    if not (pa.types.is_boolean(column.type) or pa.types.is_integer(column.type) or pa.types.is_floating(column.type)):
        escaped = pc.replace_substring(texts, "\\", "\\\\") if backslashes else texts
        texts = pc.binary_join_element_wise("'", pc.replace_substring(escaped, "'", "''"), "'", "")
    return pc.fill_null(texts, "NULL")
