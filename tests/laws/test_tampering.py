"""Whatever is changed in a loaded database, the proof finds it."""

from __future__ import annotations

import contextlib
import csv
import shutil
import sqlite3
from pathlib import Path
from unittest.mock import patch

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import tries
from hemplit.core.proof import telling
from hemplit.flow import designs, loading, proving, reading, studying
from hemplit.targets import sqlite
from worlds import world

#: So that a few rows are proven as a million are.
AS_LARGE = [
    *((telling, "FEWEST_ROWS", 10), (telling, "MOST", 1.0), (proving, "LARGE", 10)),
    *((sqlite, "LARGE", 10), (sqlite, "PIECE", 20), (sqlite, "PICKED", 20)),
]


@pytest.fixture(scope="module")
def loaded(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of a world's sheet, its design, and the database."""
    folder = tmp_path_factory.mktemp("yard")
    made = world(4, 300)
    with (folder / "yard.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([made.headers, *zip(*made.columns, strict=True)])
    sheets = reading.read([str(folder / "yard.csv")])
    design = designs.save_design(studying.draft(sheets), folder / "yard.design.toml", over_edited=False)
    assert len(design.tables) > 3
    done = loading.load_design(folder / "yard.design.toml", str(folder / "yard.sqlite"), replace_target=False)
    assert done.proof.holds
    return folder


def proven(folder: Path, target: Path) -> bool:
    return loading.prove_design(
        folder / "yard.design.toml",
        str(target),
    ).proof.holds


@settings(max_examples=tries(60))
@given(data=st.data())
def test_whatever_single_change_is_made_is_found(
    loaded: Path, tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    target = Path(shutil.copy(loaded / "yard.sqlite", tmp_path_factory.mktemp("odd") / "yard.sqlite"))
    database = sqlite3.connect(target, isolation_level=None)
    database.execute("PRAGMA ignore_check_constraints = ON")
    before = list(database.iterdump())
    change = data.draw(st.sampled_from([a_cell, a_row, the_structure]))
    large = data.draw(st.booleans())
    statement, values = change(database, data)
    with contextlib.suppress(sqlite3.IntegrityError):  # then the keys of the database did not let it happen
        database.execute(statement, values)
    same = list(database.iterdump()) == before
    database.close()
    with contextlib.ExitStack() as patched:
        for module, name, number in AS_LARGE if large else ():
            patched.enter_context(patch.object(module, name, number))
        assert proven(loaded, target) == same, (statement, values)


@pytest.mark.parametrize("name", ["file", "worksheet", "sheet"])
@pytest.mark.parametrize("value", [b"x", "x\0", 5])
def test_a_list_of_loads_that_somebody_changed_is_told(loaded: Path, tmp_path: Path, name: str, value: object) -> None:
    target = Path(shutil.copy(loaded / "yard.sqlite", tmp_path / "yard.sqlite"))
    with contextlib.closing(sqlite3.connect(target, isolation_level=None)) as database:
        database.execute(f"UPDATE hemplit_loads SET {name} = ?", (value,))
    assert not proven(loaded, target)


def a_table(database: sqlite3.Connection, data: st.DataObject) -> str:
    names = [name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
    return data.draw(st.sampled_from(names))


def a_cell(database: sqlite3.Connection, data: st.DataObject) -> tuple[str, tuple[object, ...]]:
    """Another value, a blank, or bytes in any cell."""
    table = a_table(database, data)
    column = data.draw(st.sampled_from([row[1] for row in database.execute(f"PRAGMA table_info({table})")]))
    row = data.draw(st.sampled_from([row for (row,) in database.execute(f"SELECT rowid FROM {table}")]))
    value = data.draw(
        st.none()
        | st.integers(-9, 9)
        | st.floats(-9, 9)
        | st.sampled_from(["", "x", "2026-01-01", b"x", b"\xffx", "x\0"])
    )
    return f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (value, row)


def a_row(database: sqlite3.Connection, data: st.DataObject) -> tuple[str, tuple[object, ...]]:
    """A row less, or one more."""
    table = a_table(database, data)
    row = data.draw(st.sampled_from([row for (row,) in database.execute(f"SELECT rowid FROM {table}")]))
    columns = [(name, bool(key)) for _, name, _, _, _, key in database.execute(f"PRAGMA table_info({table})")]
    again = ", ".join(f"{name} || '9'" if key else name for name, key in columns)
    more = f"INSERT INTO {table} SELECT {again} FROM {table} WHERE rowid = ?"
    return data.draw(st.sampled_from([f"DELETE FROM {table} WHERE rowid = ?", more])), (row,)


def the_structure(database: sqlite3.Connection, data: st.DataObject) -> tuple[str, tuple[object, ...]]:
    """A table, view, index, trigger or column more, less or renamed."""
    table = a_table(database, data)
    statements = [
        f"ALTER TABLE {table} RENAME TO other",
        f"ALTER TABLE {table} ADD COLUMN more TEXT",
        f"CREATE TRIGGER more AFTER DELETE ON {table} BEGIN SELECT 1; END",
        *(
            f"DROP {kind} {name}"
            for kind, name in database.execute(
                "SELECT type, name FROM sqlite_master WHERE type IN ('index', 'view') AND sql IS NOT NULL ORDER BY name"
            )
        ),
    ]
    return data.draw(st.sampled_from(statements)), ()


def test_untouched_it_is_proven_again(loaded: Path) -> None:
    assert proven(loaded, loaded / "yard.sqlite")
