"""The proof of tables: that they give the sheets back, and that a target holds them."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from hemplit.at_once import LARGE, beside
from hemplit.core.model.loads import Ability
from hemplit.core.model.proof import Check, Difference, Proof
from hemplit.core.proof.at_odds import at_odds
from hemplit.core.proof.compare import check_cells, check_rejoin, check_structure
from hemplit.core.proof.ledger import Member, ledger
from hemplit.core.proof.stored import check_stored, in_order
from hemplit.core.proof.strangers import strangers
from hemplit.core.proof.telling import telling_rows
from hemplit.core.proof.viewed import check_view
from hemplit.core.tables.same import contradictions, with_united
from hemplit.core.tally.flat import can_be_followed
from hemplit.dataclasses import replace
from hemplit.errors import TargetError
from hemplit.flow.noted import check_loads, loads_of
from hemplit.flow.totals import check_saved, with_added

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from hemplit.core.model.design import Design
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.proof import Ledger
    from hemplit.core.model.relation import Doubt
    from hemplit.core.model.tables import Tables, View
    from hemplit.core.tally.flat import Relations
    from hemplit.flow.reading import Sheets
    from hemplit.targets.contract import Target


def prove_tables(design: Design, sheets: Sheets, tables: Tables) -> Proof:
    """Whether the tables, before they go anywhere, give the sheets back, and where every cell went."""
    views = {view.sheet: view for view in tables.views}
    rows = sum(sheets.relations[name].row_count for name in sheets.grids)
    grids = {id(grid): grid for grid in sheets.grids.values()}
    skipped = tuple(f"{one} not read" for grid in grids.values() for one in grid.skipped)
    with beside(rows) as begin:
        checks = []
        for name, grid in sheets.grids.items():
            for one in sheets.family(name):
                if any(column.own for column in sheets.relations[one].columns):
                    checks.append(begin(partial(check_cells, grid, sheets.relations[one])))
                checks.append(begin(partial(check_rejoin, sheets.relations[one], tables, views[one])))
        ledgers = begin(lambda: ledgers_of(design, sheets, tables))
        return Proof(tuple(check() for check in checks), ledgers(), rows, skipped)


def ledgers_of(design: Design, sheets: Sheets, tables: Tables) -> tuple[Ledger, ...]:
    """Where every cell of each grid went."""
    views = {view.sheet: view for view in tables.views}
    members: dict[int, tuple[Grid, list[Member]]] = {}
    for name, grid in sheets.grids.items():
        _, of_grid = members.setdefault(id(grid), (grid, []))
        of_grid += [Member(sheets.relations[one], views[one], design.sheet(one)) for one in sheets.family(name)]
    return tuple(ledger(grid, some) for grid, some in members.values())


def told_by_steps(sheets: Sheets) -> Iterator[tuple[str, Doubt]]:
    """What the steps found otherwise than when they were drafted, by the title of the sheet."""
    return ((relation.source.title, one) for relation in sheets.relations.values() for one in relation.told)


def told_by_data(design: Design, tables: Tables, sheets: Sheets) -> Iterator[tuple[str, Doubt]]:
    """Names that no sheet lists, and what sheets say against each other, by the title of the sheet."""
    relations = with_united(design, sheets.relations)
    yield from strangers(design, tables, relations)
    yield from at_odds(design, tables, relations)
    yield from contradictions(design, relations)


def with_target(design: Design, proof: Proof, sheets: Sheets, tables: Tables, target: Target) -> Proof:
    """The proof of the tables, and that the target holds them and gives the sheets back."""
    target.check_held()
    structure = check_structure(*target.structure(tables))
    with beside(max((table.row_count for table in tables.tables), default=0)) as begin:
        compared: list[Callable[[], Check]] = []
        if Ability.ROWS not in target.lacks:
            compared.append(begin(partial(unless_torn, structure, "the tables", partial(prove_rows, tables, target))))
        compared.append(lambda: structure)
        if Ability.VIEWS not in target.lacks:
            views = ((view, partial(_prove_view, view, sheets, tables, target)) for view in tables.views)
            compared += [begin(partial(unless_torn, structure, f"view {view.name}", check)) for view, check in views]
        checks = [check() for check in compared]
    if Ability.VIEWS not in target.lacks:
        relations = with_added(sheets.relations, ())
        checks += checks_of_saved(structure, target, tables, relations)
    if Ability.GROW not in target.lacks:
        noted = partial(loads_of, sheets, tables, target)
        checks.append(unless_torn(structure, "hemplit_loads", lambda: check_loads(noted(), target.loads())))
    return replace(proof, checks=(*proof.checks, *checks))


def checks_of_saved(structure: Check, target: Target, tables: Tables, relations: Relations) -> list[Check]:
    """Whether the saved questions are answered as the sheets answer them, of each to which these have an answer."""
    return [
        unless_torn(structure, f"view {saved.name}", partial(check_saved, saved, target, tables, relations))
        for saved in tables.tallies
        if can_be_followed(saved.part)
    ]


def prove_rows(tables: Tables, target: Target) -> Check:
    """Whether a target holds exactly the rows of all tables; those of a large one are read in pieces."""
    small = tuple(table for table in tables.tables if table.row_count < LARGE)
    held = target.read(replace(tables, tables=small))
    ordered = tuple(in_order(table, target.order(table)) for table in tables.tables)
    return check_stored(
        replace(tables, tables=ordered),
        target.expected,
        lambda table: [held[table.name]] if table.name in held else target.rows(table),
    )


def _prove_view(view: View, sheets: Sheets, tables: Tables, target: Target) -> Check:
    telling = telling_rows(view, tables)
    pieces = None if telling is None else target.some_of_view(view, tables, telling)
    some = None if telling is None or pieces is None else (telling, pieces)
    order = target.order(tables.by_name[view.base])
    return check_view(view, tables, sheets.relations, order, lambda: target.view(view, tables), some)


def unless_torn(structure: Check, what: str, check: Callable[[], Check]) -> Check:
    """The check; what cannot be read because somebody changed the structure is a difference and no error."""
    try:
        return check()
    except TargetError as error:
        if not structure.different:
            raise
        return Check(f"{what} can be read", 1, "parts", 1, (Difference(what, "its rows", error.what),))
