"""References that lead nowhere: rows that name a key which the table has not to which they refer."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import combine, stack, with_blank
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.tables import Reference, Table, Tables


def to_nobody(tables: Tables) -> Iterator[tuple[Table, Reference]]:
    """The references of tables that lead nowhere in some row.

    >>> from hemplit.core.model.design import Purpose
    >>> from hemplit.core.model.relation import Kind
    >>> from hemplit.core.model.tables import Reference, Table, TableColumn, Tables
    >>> import pyarrow as pa
    >>> def table(name, reg, *references):
    ...     column = TableColumn("reg", Kind("text"), np.arange(len(reg)), pa.array(reg), required=True)
    ...     return Table(name, Purpose.MAIN, (column,), ("reg",), (), references, len(reg))
    >>> to_boats = Reference(("reg",), "boats", ("reg",))
    >>> boats, jobs = table("boats", ["MQ-1", "MQ-2"]), table("jobs", ["MQ-2", "MQ-3"], to_boats)
    >>> [reference.table for _, reference in to_nobody(Tables((boats, jobs), ()))]
    ['boats']
    """
    for table in tables.tables:
        for reference in table.references:
            if not _all_lead(table, reference, tables.by_name[reference.table]):
                yield table, reference


def _all_lead(table: Table, reference: Reference, pointed: Table) -> bool:
    """Whether each row without a blank in the columns of a reference has there a key of the table it points to."""
    sides = [
        (table.by_name[own], pointed.by_name[theirs])
        for own, theirs in zip(reference.columns, reference.table_columns, strict=True)
    ]
    stacked = (stack([(one.codes, one.values) for one in pair]) for pair in sides)
    whole = reduce(combine, (with_blank(codes, len(values)) for codes, values in stacked))
    known = np.zeros(whole.size, dtype=bool)
    known[whole.codes[table.row_count :]] = True
    filled = np.logical_and.reduce([own.codes != EMPTY for own, _ in sides])
    return bool(known[whole.codes[: table.row_count]][filled].all())
