"""Whatever is changed in a loaded database, the proof finds it."""

from __future__ import annotations

import csv
import shutil
import sqlite3
from pathlib import Path
from random import Random

import pytest

from hemplit import flow
from worlds import world


@pytest.fixture(scope="module")
def loaded(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of a world's sheet, its design, and the database."""
    folder = tmp_path_factory.mktemp("yard")
    made = world(4, 300)
    with (folder / "yard.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([made.headers, *zip(*made.columns, strict=True)])
    sheets = flow.read([str(folder / "yard.csv")])
    design = flow.save_design(flow.draft(sheets), folder / "yard.design.toml", over_edited=False)
    assert len(design.tables) > 3
    done = flow.load_design(folder / "yard.design.toml", str(folder / "yard.sqlite"), replace_target=False)
    assert done.proof.holds
    return folder


def proven(folder: Path, target: Path) -> bool:
    return flow.prove_design(
        folder / "yard.design.toml",
        str(target),
    ).proof.holds


@pytest.mark.parametrize("seed", range(24))
def test_one_cell_one_row_more_or_less(seed: int, loaded: Path, tmp_path: Path) -> None:
    random = Random(seed)
    target = Path(shutil.copy(loaded / "yard.sqlite", tmp_path / "yard.sqlite"))
    database = sqlite3.connect(target, isolation_level=None)
    database.execute("PRAGMA ignore_check_constraints = ON")
    tables = [name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
    table = random.choice([name for name in tables if not name.startswith(("sqlite_", "hemplit_"))])
    columns = [(name, bool(key)) for _, name, _, _, _, key in database.execute(f"PRAGMA table_info({table})")]
    place = random.choice([row for (row,) in database.execute(f"SELECT rowid FROM {table}")])
    if seed % 4 == 3:
        database.execute(f"DELETE FROM {table} WHERE rowid = ?", (place,))
    else:
        name = random.choice([name for name, key in columns if not key] or [columns[0][0]])
        (before,) = database.execute(f"SELECT {name} FROM {table} WHERE rowid = ?", (place,)).fetchone()
        after = before + 1 if isinstance(before, int | float) else f"{before}x"
        after = 99_999 if seed % 4 == 2 and isinstance(before, int) else after
        database.execute(f"UPDATE OR IGNORE {table} SET {name} = ? WHERE rowid = ?", (after, place))
        (now,) = database.execute(f"SELECT {name} FROM {table} WHERE rowid = ?", (place,)).fetchone()
        if now == before:  # the key of the database itself did not let it happen
            database.close()
            assert proven(loaded, target)
            return
    database.close()
    assert not proven(loaded, target)


def test_untouched_it_is_proven_again(loaded: Path) -> None:
    assert proven(loaded, loaded / "yard.sqlite")
