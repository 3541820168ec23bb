"""What stands against a design in the data: each check refuses it with the rows that do, and nothing is dropped."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.design import resolve
from hemplit.core.design.formulas import computable
from hemplit.core.design.rules import breaking, broken_in_words
from hemplit.core.model.design import RuleKind
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import TableColumn
from hemplit.core.shape.looks import is_total
from hemplit.errors import DataError, DesignError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table


#: The kinds of which one value is less than another.
NUMBERS = ("whole number", "decimal")


def all_of(flags: Sequence[npt.NDArray[np.bool_]], rows: int) -> npt.NDArray[np.bool_]:
    """Where all of the flags are set, shape (rows,)."""
    return reduce(np.logical_and, flags, np.ones(rows, dtype=bool))


def grouping_of(column: TableColumn, rows: npt.NDArray[np.int64] | slice = slice(None)) -> Grouping:
    """The rows of a column in groups, a blank being one value."""
    return with_blank(column.codes[rows], len(column.values))


def shown(column: TableColumn, row: int) -> str:
    """A value as a message shows it."""
    code = int(column.codes[row])
    return "a blank" if code == EMPTY else f"'{kinds.show(column.values[code].as_py(), column.kind)}'"


def under(relation: Relation, header: str, row: int) -> str:
    """What stands under a header, as a message shows it; empty if the sheet has no such header."""
    if header not in relation.by_name:
        return ""
    came = relation.by_name[header]
    return shown(TableColumn(header, came.kind, came.codes, came.values, False), row % relation.row_count)


def grid_row(relation: Relation, row: int) -> int:
    """The place in the grid of a row; in a table of several roles, all rows come once for each."""
    return int(relation.grid_rows[row % relation.row_count])


def row_said(relation: Relation, row: int) -> str:
    """The row of the sheet; in a table of several roles, all rows come once for each."""
    return relation.row(row % relation.row_count)


def check_operands(plan: TablePlan, relation: Relation) -> None:
    """Raises ``DesignError`` if a column is computed from one of which nothing can be computed in that way."""
    for column in plan.columns:
        formula = column.formula
        if column.store or formula is None:
            continue
        operands, results = computable(formula)
        what = ""
        result = relation.by_name.get(str(column.source))
        if result is not None and result.kind.word not in results:
            what = f"of type '{result.kind}', which is not what is computed"
        for name in formula.operands:
            operand = relation.by_name.get(name)
            if operand is not None and operand.kind.word not in operands:
                what = f"computed from '{name}', of type '{operand.kind}', from which it cannot be"
        if what:
            place = f"{resolve.place(plan)}.columns.{column.name}"
            raise DesignError(place, f"it is {what}", "correct the formula, or write store = true")


def check_key_filled(
    design: Design,
    plan: TablePlan,
    relation: Relation,
    cells: Mapping[str, TableColumn],
    faulty: npt.NDArray[np.bool_],
) -> None:
    """Raises ``DataError`` if the key is blank where the table has content."""
    if faulty.any():
        row = int(faulty.argmax())
        name = next(name for name in plan.key if cells[name].codes[row] == EMPTY)
        header = resolve.header(design, plan, plan.by_name[name], row // relation.row_count)
        said = next((one, cell) for one, cell in cells.items() if one not in plan.key and cell.codes[row] != EMPTY)
        other = resolve.header(design, plan, plan.by_name[said[0]], row // relation.row_count)
        raise DataError(
            f"{resolve.place(plan)}.key",
            f"{relation.source.title} {row_said(relation, row)}: {header} is blank, and {other}"
            f" {under(relation, other, row) or shown(said[1], row)} depends on it",
            "fill the cell, or use a generated key such as \"id = { ids = 'number' }\"",
            grid_row(relation, row),
        )


def check_filled(
    design: Design, plan: TablePlan, relation: Relation, table: Table, first: npt.NDArray[np.int64]
) -> None:
    """Raises ``DesignError`` if a required column is blank."""
    for column in table.columns:
        blank = column.codes == EMPTY
        if column.required and blank.any():
            row = int(first[int(blank.argmax())])
            header = resolve.header(design, plan, plan.by_name[column.name])
            total = _total_in(relation, row % relation.row_count)
            what = f"{relation.source.title} {row_said(relation, row)}: {header} is blank"
            if total:
                what += f", and '{total}' looks like a line of totals"
                hint = f'write a step {{ do = "skip total rows", labels = ["{total}"] }}, or fill the cell'
            else:
                what += ", which it may not be"
                hint = "fill the cell, or allow blanks (delete required = true, or take it out of the key)"
            place = f"{resolve.place(plan)}.columns.{column.name}"
            raise DataError(place, what, hint, grid_row(relation, row))


def _total_in(relation: Relation, row: int) -> str:
    """The text of a row that is a word for totals; empty if it has none."""
    texts = (str(one.values[int(one.codes[row])]) for one in relation.columns if one.codes[row] != EMPTY)
    return next((text for text in texts if is_total(text)), "")


def check_rules(
    design: Design, plan: TablePlan, relation: Relation, table: Table, first: npt.NDArray[np.int64]
) -> None:
    """Raises ``DataError`` if a row breaks a rule."""
    as_written = (rule for rule in plan.rules if not rule.proposed)
    for rule, written in zip(table.rules, as_written, strict=True):
        kind = table.by_name[rule.columns[0]].kind
        if rule.kind == RuleKind.MIN and kind.word not in NUMBERS:
            place = f"{resolve.place(plan)}.rules"
            raise DesignError(place, f"'{rule.columns[0]}' is a {kind} and has no smallest number", "delete the rule")
        broken = breaking(rule, table.by_name)
        if broken.any():
            row = int(broken.argmax())
            at = int(first[row])
            headers = [resolve.header(design, plan, plan.by_name[name]) for name in rule.columns]
            said = [
                under(relation, header, at) or shown(table.by_name[name], row)
                for header, name in zip(headers, rule.columns, strict=True)
            ]
            raise DataError(
                f"{resolve.place(plan)}.rules",
                f"{relation.source.title} {row_said(relation, at)}: {broken_in_words(written, headers, said)}",
                "correct the sheet, or delete the rule",
                grid_row(relation, at),
            )


def check_combinations(
    design: Design, base: TablePlan, relation: Relation, owner: Codes, lists: Mapping[str, Codes]
) -> None:
    """Raises ``DataError`` unless the rows of a sheet are, for each row of a table, all combinations of its lists.

    ``owner`` and ``lists`` hold, for each row of the sheet, the row of the table and of each list.
    """
    rows = len(owner)
    listed_under = [_listed_under(design, design.by_name[name]) for name in lists]
    hint = "write a table with each_row = true instead of the lists, or correct the sheet"

    def refuse(what: str, *rows: int) -> None:
        said = f"{relation.source.title} {row_said(relation, rows[0])} {what}"
        raise DataError(resolve.place(base), said, hint, *(grid_row(relation, row) for row in rows))

    if (owner == EMPTY).any():
        many = " and ".join(listed_under)
        refuse(f"speaks of no row of '{base.name}' to which {many} could belong", int((owner == EMPTY).argmax()))
    group = Grouping(owner, int(owner.max(initial=-1)) + 1)
    parts = [with_blank(own, int(own.max(initial=-1)) + 1) for own in lists.values()]
    whole = reduce(combine, parts, group)
    again = np.flatnonzero(first_rows(whole)[whole.codes] != np.arange(rows))
    if len(again):
        refuse("says again what an earlier row says", int(again[0]))
    wanted = np.ones(group.size, dtype=np.int64)
    for own in lists.values():
        listed = np.flatnonzero(own != EMPTY)
        pairs = combine(Grouping(owner[listed], group.size), Grouping(own[listed], int(own.max(initial=-1)) + 1))
        counts = np.bincount(owner[listed][first_rows(pairs)], minlength=group.size)
        wanted *= np.maximum(counts, 1)
    held = np.bincount(owner, minlength=group.size)
    wrong = held != wanted
    if wrong.any():
        thing = int(wrong.argmax())
        alike = np.flatnonzero(owner == thing).tolist()
        said = " with each ".join(listed_under)
        headers = (resolve.header(design, base, base.by_name[name]) for name in resolve.identity(base))
        named = ", ".join(f"{header} {under(relation, header, alike[0])}" for header in headers)
        refuse(f"is one of {held[thing]} rows of {named}, and each {said} would be {wanted[thing]}", *alike)


def _listed_under(design: Design, plan: TablePlan) -> str:
    """The headers under which the entries of a list stand."""
    own = (column for column in plan.stored if (column.target or ("",))[0] != plan.list_of)
    return " + ".join(f"'{resolve.header(design, plan, column)}'" for column in own)


def check_unique(
    design: Design, relation: Relation, table: Table, names: Sequence[str], first: npt.NDArray[np.int64]
) -> None:
    """Raises ``DesignError`` if two rows have the same values in columns that are to be unique."""
    plan = design.by_name[table.name]
    columns = [table.by_name[name] for name in names]
    complete = np.flatnonzero(all_of([column.codes != EMPTY for column in columns], table.row_count))
    grouping = reduce(combine, (grouping_of(column, complete) for column in columns))
    earlier = complete[first_rows(grouping)[grouping.codes]] if len(complete) else complete
    again = np.flatnonzero(earlier != complete)
    if len(again):
        one, two = int(earlier[again[0]]), int(complete[again[0]])
        cells = ", ".join(
            f"{resolve.header(design, plan, plan.by_name[column.name])} {shown(column, one)}" for column in columns
        )
        raise DataError(
            resolve.place(plan),
            f"{relation.source.title} has {cells} in {row_said(relation, int(first[one]))} and again in "
            f"{row_said(relation, int(first[two]))}, and no two {plan.name} may have the same",
            "correct the sheet, or " + ("choose another key" if names == table.key else "take it out of 'unique'"),
            grid_row(relation, int(first[two])),
        )
