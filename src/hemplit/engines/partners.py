"""Which rows of another sheet's table the rows of a sheet name, where more than the equality of two columns says it.

Of several cells those that are filled have to do, and people write one name in several ways: no join says that. So it
is found outside the engine, as in memory, for all different cells, and staged inside as a table of partners.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.partners import partners
from hemplit.core.design import resolve
from hemplit.core.model.grid import EMPTY
from hemplit.engines.fill import partners_of, said, staged

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from hemplit.core.columns.partners import Cells
    from hemplit.core.model.design import TablePlan
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Tables
    from hemplit.engines.contract import Engine
    from hemplit.engines.fill import Fill


def stage_partners(
    engine: Engine, fill: Fill, plan: TablePlan, tables: Tables, sheets: Mapping[str, Relation]
) -> Iterator[str]:
    """Stages the partners for the references of a table that need some; their names."""
    for column, sheet in fill.looked_up(plan):
        pointed = resolve.target(fill.design, plan, column)
        assert pointed is not None
        headers, names = resolve.naming(fill.design, plan, column, sheet)
        other = tables.by_name[pointed.table.name]
        own = _columns(engine, fill, headers, f"{fill.dialect.quote(staged(sheet))} WHERE {fill.some_filled(headers)}")
        theirs = _columns(engine, fill, (*names, *other.key), fill.made(other.name), "")
        types = [sheets[sheet].by_name[header].values.type for header in headers]
        keys = [other.by_name[key].values.type for key in other.key]
        named = [theirs[place].cast(own[place].type) for place in range(len(names))] if not column.alike else theirs
        rows = partners([_cells(one) for one in own], [_cells(one) for one in named[: len(names)]], alike=column.alike)
        found = pa.array(rows != EMPTY)
        at = pa.array(rows[rows != EMPTY])
        cells = [one.filter(found).cast(kind) for one, kind in zip(own, types, strict=True)]
        cells += [one.take(at).cast(kind) for one, kind in zip(theirs[len(names) :], keys, strict=True)]
        name = partners_of(plan, column, sheet)
        writer = engine.stage(name)
        writer.add(pa.table(cells, names=[said(place) for place in range(len(cells))]))
        writer.close()
        if any(one.null_count for one in cells):
            fill.partly.add(name)
        yield name


def _columns(
    engine: Engine, fill: Fill, names: tuple[str, ...], source: str, only: str = "DISTINCT "
) -> list[pa.Array]:
    shown = ", ".join(f"{fill.dialect.quote(name)} AS {said(place)}" for place, name in enumerate(names))
    return [column.combine_chunks() for column in engine.rows(f"SELECT {only}{shown} FROM {source}").columns]


def _cells(column: pa.Array) -> Cells:
    encoded = column.dictionary_encode()
    codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False)
    return codes.astype(np.int32), encoded.dictionary
