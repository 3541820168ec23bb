"""Columns that are filled only in some rows, always together, become a table of their own: one row where they are.

    Fee   Paid By   Card No   Card Expiry        Fee   Paid By        Fee   Card No   Card Expiry
    700   card      C-1042    2027-05       →    700   card      +    700   C-1042    2027-05
    701   cash                                   701   cash

Another column says where that is; without it they may be blank together by accident, and stay.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.naming import plural, singular, stem, without
from hemplit.core.draft.rules import STRONG
from hemplit.core.model.design import ColumnPlan, Grain, Purpose, TablePlan
from hemplit.core.texts.words import words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from hemplit.core.model.findings import FilledWhere, Findings


def parted_rows(
    base: TablePlan,
    headers: Mapping[str, str],
    found: Findings,
    name_of: Callable[[Sequence[str]], str],
) -> list[TablePlan]:
    """The table of a sheet's rows, and one for each set of its columns that are filled in the same rows only.

    ``headers`` has the header of each column; ``name_of`` gives a table a name that is free.
    """
    conditions = {one.name: one for one in found.filled_where} if found.row_count >= STRONG else {}
    fixed = {*base.key, *(name for columns in base.unique for name in columns)}
    groups: dict[tuple[str, tuple[str, ...]], list[ColumnPlan]] = {}
    for column in base.columns:
        condition = conditions.get(headers[column.name]) if column.name in headers else None
        if condition is not None and column.store and column.name not in fixed and _moves(base, column):
            groups.setdefault((condition.by, condition.values), []).append(column)
    made = []
    for columns in groups.values():
        if len(columns) > 1:
            own = [headers[column.name] for column in columns]
            made.append(_table(base, columns, own, conditions[own[0]], name_of))
    moved = {column.name for table in made for column in table.columns} - {*base.key}
    return [replace(base, columns=tuple(column for column in base.columns if column.name not in moved)), *made]


def _moves(base: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column can stand elsewhere: not a reference to the same table, nor a part of a longer one."""
    return column.target is None or (column.target[0] != base.name and column.target[1] is None)


def _table(
    base: TablePlan,
    columns: Sequence[ColumnPlan],
    headers: Sequence[str],
    condition: FilledWhere,
    name_of: Callable[[Sequence[str]], str],
) -> TablePlan:
    single = len(base.key) == 1
    key = tuple(ColumnPlan(name, to=base.name if single else f"{base.name}.{name}", required=True) for name in base.key)
    about = singular(words(base.name))
    common = stem(headers)
    what = common if all(words(header)[: len(common)] == common for header in headers) else words(condition.values[0])
    shown, values = (", ".join(f"'{one}'" for one in some) for some in (headers, condition.values))
    why = f"{shown} are filled in {condition.rows:,} rows of '{base.name}', exactly where '{condition.by}' is {values}"
    return TablePlan(
        name_of((*about, *without(plural(what), about))),
        base.sheet,
        Purpose.DETAIL,
        base.key,
        (*key, *(replace(column, required=True) for column in columns)),
        why=why,
        grain=Grain.SUBSET,
        of=base.name,
    )
