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
from hemplit.core.texts.words import shown_together
from hemplit.errors import DataError, DesignError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table
    from hemplit.core.tables.filled import Filled, Places


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
    places: Places,
    cells: Mapping[str, TableColumn],
    faulty: npt.NDArray[np.bool_],
) -> None:
    """Raises ``DataError`` if the key is blank where the table has content."""
    if faulty.any():
        place = int(faulty.argmax())
        spot = places.spot(place)
        name = next(name for name in plan.key if cells[name].codes[place] == EMPTY)
        header = resolve.header(design, plan, plan.by_name[name], spot.feed)
        said = next((one, cell) for one, cell in cells.items() if one not in plan.key and cell.codes[place] != EMPTY)
        other = resolve.header(design, plan, plan.by_name[said[0]], spot.feed)
        raise DataError(
            f"{resolve.place(plan)}.key",
            f"{spot.title} {spot.said}: {header} is blank, and {other}"
            f" {spot.under(other) or shown(said[1], place)} depends on it",
            "fill the cell, or use a generated key such as \"id = { ids = 'number' }\"",
            spot.grid_row,
            sheet=spot.feed.sheet,
        )


def check_filled(design: Design, plan: TablePlan, table: Table, filled: Filled) -> None:
    """Raises ``DesignError`` if a required column is blank."""
    for column in table.columns:
        blank = column.codes == EMPTY
        if column.required and blank.any():
            spot = filled.places.spot(int(filled.first[int(blank.argmax())]))
            header = resolve.header(design, plan, plan.by_name[column.name], spot.feed)
            total = _total_in(spot.relation, spot.row)
            what = f"{spot.title} {spot.said}: {header} is blank"
            if total:
                what += f", and '{total}' looks like a line of totals"
                hint = f'write a step {{ do = "skip total rows", labels = ["{total}"] }}, or fill the cell'
            else:
                what += ", and " + (
                    "it is in the key" if column.name in plan.key else "the design says required = true"
                )
                hint = "fill the cell, or allow blanks (delete required = true, or take it out of the key)"
            place = f"{resolve.place(plan)}.columns.{column.name}"
            raise DataError(place, what, hint, spot.grid_row, sheet=spot.feed.sheet)


def _total_in(relation: Relation, row: int) -> str:
    """The text of a row that is a word for totals; empty if it has none."""
    texts = (str(one.values[int(one.codes[row])]) for one in relation.columns if one.codes[row] != EMPTY)
    return next((text for text in texts if is_total(text)), "")


def check_rules(design: Design, plan: TablePlan, table: Table, filled: Filled) -> None:
    """Raises ``DataError`` if a row breaks a rule."""
    as_written = (rule for rule in plan.rules if not rule.proposed)
    for rule, written in zip(table.rules, as_written, strict=True):
        kind = table.by_name[rule.columns[0]].kind
        if rule.kind == RuleKind.MIN and not kind.is_number:
            place = f"{resolve.place(plan)}.rules"
            raise DesignError(place, f"'{rule.columns[0]}' is a {kind} and has no smallest number", "delete the rule")
        broken = breaking(rule, table.by_name)
        if broken.any():
            row = int(broken.argmax())
            spot = filled.places.spot(int(filled.first[row]))
            headers = [resolve.header(design, plan, plan.by_name[name], spot.feed) for name in rule.columns]
            said = [
                spot.under(header) or shown(table.by_name[name], row)
                for header, name in zip(headers, rule.columns, strict=True)
            ]
            raise DataError(
                f"{resolve.place(plan)}.rules",
                f"{spot.title} {spot.said}: {broken_in_words(written, headers, said)}",
                "correct the sheet, or delete the rule",
                spot.grid_row,
                sheet=spot.feed.sheet,
            )


def check_combinations(
    design: Design, base: TablePlan, places: Places, owner: Codes, lists: Mapping[str, Codes]
) -> None:
    """Raises ``DataError`` unless the rows of a sheet are, for each row of a table, all combinations of its lists.

    ``owner`` and ``lists`` hold, for each row of the sheet, the row of the table and of each list.
    """
    rows = len(owner)
    listed_under = [_listed_under(design, design.by_name[name]) for name in lists]
    hint = "write a table with each_row = true instead of the lists, or correct the sheet"

    def refuse(what: str, *rows: int) -> None:
        spots = [places.spot(row) for row in rows]
        said = f"{spots[0].title} {spots[0].said} {what}"
        rows_of_grid = [spot.grid_row for spot in spots]
        raise DataError(resolve.place(base), said, hint, *rows_of_grid, sheet=spots[0].feed.sheet)

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
        spot = places.spot(alike[0])
        headers = (resolve.header(design, base, base.by_name[name], spot.feed) for name in resolve.identity(base))
        named = ", ".join(f"{header} {spot.under(header)}" for header in headers)
        refuse(f"is one of {held[thing]} rows of {named}, and each {said} would be {wanted[thing]}", *alike)


def _listed_under(design: Design, plan: TablePlan) -> str:
    """The headers under which the entries of a list stand."""
    own = (column for column in plan.stored if (column.target or ("",))[0] != plan.of)
    return shown_together(resolve.header(design, plan, column) for column in own)


def check_unique(design: Design, table: Table, names: Sequence[str], filled: Filled) -> None:
    """Raises ``DesignError`` if two rows have the same values in columns that are to be unique."""
    plan = design.by_name[table.name]
    columns = [table.by_name[name] for name in names]
    complete = np.flatnonzero(all_of([column.codes != EMPTY for column in columns], table.row_count))
    grouping = reduce(combine, (grouping_of(column, complete) for column in columns))
    earlier = complete[first_rows(grouping)[grouping.codes]] if len(complete) else complete
    again = np.flatnonzero(earlier != complete)
    if len(again):
        rows = int(earlier[again[0]]), int(complete[again[0]])
        one, two = (filled.places.spot(int(filled.first[row])) for row in rows)
        said = ((resolve.header(design, plan, plan.by_name[column.name], one.feed), column) for column in columns)
        cells = ", ".join(f"{header} {one.under(header) or shown(column, rows[0])}" for header, column in said)
        of_other = f"{two.title} " if two.relation is not one.relation else ""
        raise DataError(
            resolve.place(plan),
            f"{one.title} has {cells} in {one.said} and again in {of_other}{two.said}, and no two {plan.name} may"
            " have the same",
            "correct the sheet, or " + ("choose another key" if names == table.key else "take it out of 'unique'"),
            two.grid_row,
            sheet=two.feed.sheet,
        )
