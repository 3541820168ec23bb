"""The proof by itself: whatever is wrong in tables, in what a target holds or in the account of cells, is found."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import replace
from functools import cache, partial
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.grid import EMPTY, Grid, Source
from hemplit.core.model.proof import Check
from hemplit.core.model.relation import Relation
from hemplit.core.model.tables import Table, Tables
from hemplit.core.proof import telling
from hemplit.core.proof.compare import check_cells, check_rejoin
from hemplit.core.proof.ledger import Member, ledger
from hemplit.core.proof.stored import check_stored
from hemplit.core.proof.viewed import check_view
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying
from hemplit.flow.reading import Sheets
from hemplit.targets import postgresql, sqlite, target_for
from hemplit.targets.sqlite import SqliteTarget
from places import MariadbPlace, Place

if TYPE_CHECKING:
    from hemplit.core.model.design import Design

ROWS = [
    ["Job", "Boat", "Length", "Day", "Crew", "Part 1", "Qty 1", "Part 2", "Qty 2", "Hours", "Rate", "Cost", "Note"],
    *(
        [
            str(row), f"Boat {row % 7}", f"{5 + row % 7}.5", f"{row % 27 + 1:02}/03/2026",
            "Ann, Ben" if row % 3 else "Cas", "rope", "2", *[("n/a", "n/a"), ("", ""), ("tar", "3"), ("", "")][row % 4],
            str(row % 5 + 1), str(row % 7 + 10), str((row % 5 + 1) * (row % 7 + 10)), "" if row % 4 else f"n{row}",
        ]
        for row in range(1, 40)
    ),
]  # fmt: skip


@cache
def loaded() -> tuple[Sheets, Design, Tables]:
    columns = tuple(from_texts([row[place] for row in ROWS]) for place in range(len(ROWS[0])))
    sheets = reading.shape_grids({"jobs": Grid(Source("jobs.csv"), columns, len(ROWS))})
    design = studying.draft(sheets)
    return sheets, design, split(design, sheets.relations)


def test_what_is_right_is_proven() -> None:
    sheets, design, tables = loaded()
    proof = proving.prove_tables(design, sheets, tables)
    assert proof.holds
    assert {table.purpose for table in tables.tables} >= {"main", "entity"}
    assert any(column.formula for view in tables.views for column in view.columns)
    (account,) = proof.ledgers
    assert account.cells == len(ROWS) * len(ROWS[0])
    # The cells that said n/a are changed, though the blocks that they stood in are left out.
    assert {one.reason: one.cells for one in account.changes}["treat as blank"] == 18


def changed_cell(table: Table, column: int, row: int, to: int) -> Table:
    one = table.columns[column]
    codes = one.codes.copy()
    codes[row] = EMPTY if to == len(one.values) else to
    columns = (*table.columns[:column], replace(one, codes=codes), *table.columns[column + 1 :])
    return replace(table, columns=columns)


@given(st.data())
def test_one_cell_of_a_table_is_found_by_joining(data: st.DataObject) -> None:
    sheets, _, tables = loaded()
    table = data.draw(st.sampled_from(tables.tables))
    place = data.draw(st.integers(0, len(table.columns) - 1))
    column = table.columns[place]
    row = data.draw(st.integers(0, table.row_count - 1))
    to = data.draw(st.integers(0, len(column.values)))
    before = int(column.codes[row])
    if (EMPTY if to == len(column.values) else to) == before:
        return
    odd = tuple(changed_cell(one, place, row, to) if one is table else one for one in tables.tables)
    checks = [check_rejoin(sheets.relations[view.sheet], replace(tables, tables=odd), view) for view in tables.views]
    unseen = table.purpose != "range" and _is_unused(tables, table, column.name, row)
    assert any(check.different for check in checks) or unseen


def _is_unused(tables: Tables, table: Table, column: str, row: int) -> bool:
    """Whether no view shows the cell: a key that is made up, exchanged for one that nothing refers to."""
    shown = {
        (one.path[-1].table if one.path else view.base, one.column) for view in tables.views for one in view.columns
    }
    return (table.name, column) not in shown and column in table.key


@pytest.mark.parametrize("more", [-1, 1])
def test_rows_too_few_or_too_many_are_found_by_joining(more: int) -> None:
    sheets, _, tables = loaded()
    for view in tables.views:
        table = tables.by_name[view.base]
        rows = np.arange(table.row_count + more) % table.row_count
        columns = tuple(replace(one, codes=one.codes[rows]) for one in table.columns)
        odd = replace(table, columns=columns, row_count=len(rows))
        others = tuple(odd if one is table else one for one in tables.tables)
        assert check_rejoin(sheets.relations[view.sheet], replace(tables, tables=others), view).different


def test_a_cell_that_no_step_changed_must_be_as_in_the_sheet() -> None:
    sheets, _, _ = loaded()
    grid = sheets.grids["jobs"]
    for relation in sheets.relations.values():
        for place, column in enumerate(relation.columns):
            if not column.own:
                continue
            assert not check_cells(grid, relation).different
            rows = np.flatnonzero(column.changed == 0) if column.changed is not None else np.arange(len(column.codes))
            for row in rows[:3]:
                codes = column.codes.copy()
                codes[row] = EMPTY if codes[row] != EMPTY else 0
                odd = replace(column, codes=codes)
                columns = (*relation.columns[:place], odd, *relation.columns[place + 1 :])
                assert check_cells(grid, replace(relation, columns=columns)).different == 1


def members(relations: dict[str, Relation]) -> list[Member]:
    _, design, tables = loaded()
    views = {view.sheet: view for view in tables.views}
    return [Member(relations[sheet.name], views[sheet.name], sheet) for sheet in design.sheets]


def test_cells_that_are_lost_or_claimed_twice_show_in_the_account() -> None:
    sheets, _, _ = loaded()
    grid = sheets.grids["jobs"]
    relations = dict(sheets.relations)
    whole = ledger(grid, members(relations))
    assert whole.adds_up
    assert whole.unaccounted == whole.twice == 0
    jobs = relations["jobs"]
    rows = np.arange(jobs.row_count - 1)
    fewer = replace(
        jobs,
        columns=tuple(
            replace(one, codes=one.codes[rows], changed=None if one.changed is None else one.changed[rows])
            for one in jobs.columns
        ),
        grid_rows=jobs.grid_rows[rows],
    )
    lost = ledger(grid, members({**relations, "jobs": fewer}))
    assert not lost.adds_up
    assert lost.unaccounted == sum(one.own for one in jobs.columns)
    proof = proving.prove_tables(loaded()[1], sheets, loaded()[2])
    assert not replace(proof, ledgers=(lost,)).holds
    dropped = replace(jobs, account=())
    assert ledger(grid, members({**relations, "jobs": dropped})).unaccounted == len(grid.columns)
    twice = replace(jobs, account=(*jobs.account, Cells(Fate.LEFT_OUT, "x", np.array([5]), (0,))))
    again = ledger(grid, members({**relations, "jobs": twice}))
    assert (again.twice, again.adds_up) == (1, False)
    for part, relation in relations.items():
        if relation.of:
            gone = ledger(grid, members({**relations, part: replace(relation, account=())}))
            assert not gone.adds_up


def test_what_a_design_leaves_out_is_in_the_account_by_name() -> None:
    sheets, design, tables = loaded()
    views = {view.sheet: view for view in tables.views}
    for sheet in design.sheets:
        for header in sheets.relations[sheet.name].names:
            view = views[sheet.name]
            less = replace(view, columns=tuple(one for one in view.columns if one.header != header))
            told = replace(sheet, leave_out=(header,))
            some = [
                Member(one.relation, less, told) if one.sheet is sheet else one
                for one in members(dict(sheets.relations))
            ]
            account = ledger(sheets.grids["jobs"], some)
            column = sheets.relations[sheet.name].by_name[header]
            assert account.adds_up, (sheet.name, header)
            named = [one for one in account.left_out if one.reason.startswith("leave_out in the design")]
            assert bool(named) == (column.own or bool(sheet.of)), (sheet.name, header)
            silent = [
                Member(one.relation, less, sheet) if one.sheet is sheet else one
                for one in members(dict(sheets.relations))
            ]
            lost = ledger(sheets.grids["jobs"], silent)
            shared = header in sheets.relations[sheet.name].of
            assert (lost.unaccounted > 0) == (
                (column.own and not shared) or _is_value(sheets.relations[sheet.name], header)
            ), (sheet.name, header)


def test_tables_on_one_sheet_share_its_account(tmp_path: Path) -> None:
    """What no table takes is left out by name, and nothing is counted for two."""
    (tmp_path / "two.csv").write_text(
        "Job,Boat,Hours,,Berth,Dock\n1,Teal,2,,N1,North\n2,Smew,3,,S1,South\n3,Knot,4,,,\n4,Rail,1,,,\n",
        encoding="utf-8",
    )
    sheets = reading.read([str(tmp_path / "two.csv")])
    assert len(sheets.grids) == 2
    design = studying.draft(sheets)
    tables = split(design, sheets.relations)
    views = {view.sheet: view for view in tables.views}
    both = [Member(sheets.relations[one.name], views[one.name], one) for one in design.sheets]
    grid = next(iter(sheets.grids.values()))
    whole = ledger(grid, both)
    assert whole.adds_up
    assert {one.reason: one.cells for one in whole.left_out} == {"outside of the tables that the design takes": 5 + 4}
    alone = ledger(grid, both[:1])
    assert alone.adds_up
    assert alone.set_aside == 5 * 3


def _is_value(relation: Relation, header: str) -> bool:
    return bool(relation.of) and header == relation.columns[-2].name and not any(one.own for one in relation.columns)


@pytest.fixture(scope="module")
def target(tmp_path_factory: pytest.TempPathFactory) -> SqliteTarget:
    made = SqliteTarget(str(tmp_path_factory.mktemp("yard") / "jobs.sqlite"))
    made.write(loaded()[2], over=False)
    return made


def test_one_cell_of_what_is_stored_is_found(target: SqliteTarget) -> None:
    _, _, tables = loaded()
    held = target.read(tables)

    def differences(name: str, *pieces: pa.Table) -> Check:
        return check_stored(tables, target.expected, lambda one: pieces if one.name == name else [held[one.name]])

    assert not differences("").different
    assert not check_stored(tables, target.expected, target.rows).different
    for table in tables.tables:
        rows = held[table.name]
        assert not differences(table.name, rows.slice(0, 2), rows.slice(2)).different
        for place, name in enumerate(rows.column_names):
            values = rows.column(name).to_pylist()
            odd = [*values[:-1], None if values[-1] is not None else "x"]
            array = pa.array([None if one is None else str(one) for one in odd], pa.string())
            other = rows.set_column(place, name, array)
            assert differences(table.name, other).different >= 1, (table.name, name)
            assert differences(table.name, rows.slice(0, 1), other.slice(1)).different >= 1, (table.name, name)
        fewer = differences(table.name, rows.slice(1))
        assert (fewer.different, fewer.differences[0].found) == (1, "no row")
        doubled = differences(table.name, rows, rows.slice(0, 1))
        assert (doubled.different, doubled.differences[0].found) == (1, "another of this key")
        backwards = rows.take(pa.array(range(rows.num_rows - 1, -1, -1)))
        assert not differences(table.name, backwards).different


def test_one_cell_of_a_view_is_found(target: SqliteTarget) -> None:
    sheets, _, tables = loaded()
    for view in tables.views:
        order = target.order(tables.by_name[view.base])
        (cells,) = target.view(view, tables)

        def differs(*pieces: pa.Table, view: object = view, order: object = order) -> int:
            return check_view(view, tables, sheets.relations, order, lambda: pieces).different  # type: ignore[arg-type]

        assert not differs(cells)
        assert not differs(cells.slice(0, 7), cells.slice(7))
        assert not differs(cells.take(pa.array(range(cells.num_rows - 1, -1, -1))))
        assert differs(cells.slice(1))
        assert differs(cells.slice(0, cells.num_rows - 1))
        assert differs(cells, cells.slice(0, 1))
        assert differs(cells.drop_columns([cells.column_names[-1]]))
        for place, name in enumerate(cells.column_names):
            values = cells.column(name).to_pylist()
            at = len(values) // 2
            changed = None if values[at] is not None else "x"
            odd = [str(one) if one is not None else None for one in (*values[:at], changed, *values[at + 1 :])]
            assert differs(cells.set_column(place, name, pa.array(odd, pa.string()))), (view.name, name)


def test_a_view_read_in_the_rows_that_tell_all_shows_each_change_of_what_they_lead_to(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    header = ["Line No", "Boat Reg", "Boat", "Owner", "Owner Town", "Day", "Hours", "Rate", "Cost", "Remark"]
    boats = [(f"MQ-{boat}", f"Teal {boat}", f"Owner {boat % 5}", f"Town {boat % 5 % 3}") for boat in range(9)]
    random, lines = Random(1), []
    for line in range(90):
        hours, rate, boat = random.randrange(1, 4), random.choice([20, 30, 40]), boats[line % 9]
        worked = [f"2026-03-0{random.randrange(1, 4)}", str(hours), str(rate), str(hours * rate)]
        lines.append([str(500 - line), *boat, *worked, f"note {line}"])
    columns = tuple(from_texts(list(cells)) for cells in zip(header, *lines, strict=True))
    sheets = reading.shape_grids({"lines": Grid(Source("lines.csv"), columns, len(lines) + 1)})
    design = studying.draft(sheets)
    tables = split(design, sheets.relations)
    monkeypatch.setattr(telling, "FEWEST_ROWS", 10)
    monkeypatch.setattr(sqlite, "PICKED", 7)
    target = SqliteTarget(str(tmp_path / "lines.sqlite"))
    target.write(tables, over=False)
    (view,) = tables.views
    base = tables.by_name[view.base]
    picked, order = telling.telling_rows(view, tables), target.order(base)
    assert picked is not None and 9 <= picked.sum() < 20
    assert {table.name: table.row_count for table in tables.tables} == {"owners": 5, "boats": 9, "lines": 90}
    assert any(column.formula for column in view.columns) and order.tolist() != sorted(order)
    whole = pa.concat_tables(target.view(view, tables)).take(pa.array(np.flatnonzero(picked[order])))
    assert pa.concat_tables(target.some_of_view(view, tables, picked) or ()).equals(whole)

    def checked() -> Check:
        some = picked, target.some_of_view(view, tables, picked) or ()
        return check_view(view, tables, sheets.relations, order, partial(target.view, view, tables), some)

    alike = checked()
    assert (alike.different, alike.compared) == (0, int(picked.sum()) * len(header))
    changed = 0
    for table in tables.tables:
        for column in table.columns if table is not base else ():
            for row in range(1, table.row_count + 1) if column.name not in table.key else ():
                with closing(sqlite3.connect(target.path, isolation_level=None)) as database:
                    was = f"SELECT {column.name} FROM {table.name} WHERE rowid = {row}"
                    told = f"UPDATE {table.name} SET {column.name} = ? WHERE rowid = {row}"
                    ((kept,),) = database.execute(was).fetchall()
                    database.execute(told, ("x",))
                assert checked().different, (table.name, column.name, row)
                with closing(sqlite3.connect(target.path, isolation_level=None)) as database:
                    database.execute(told, (kept,))
                changed += 1
    assert changed > 12 and not checked().different


def test_a_large_view_is_read_in_ranges_and_is_the_same(place: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    _, _, tables = loaded()
    target = target_for(place.text)
    target.write(tables, over=False)
    view = tables.views[0]
    whole = pa.concat_tables(target.view(view, tables))
    for module, name in ((sqlite, "LARGE"), (sqlite, "PIECE"), (postgresql, "LARGE")):
        monkeypatch.setattr(module, name, 10)
    pieces = list(target.view(view, tables))
    assert pa.concat_tables(pieces).equals(whole)
    assert len(pieces) > 1 or isinstance(place, MariadbPlace)
