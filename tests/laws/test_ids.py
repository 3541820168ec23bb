"""Codes that are made up count on over all sheets, and a thing has the same one in each."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import hemplit, same_cells
from hemplit.core.design.ids import CodeBook

OWNERS = [f"{first} {last}" for first in ("Ada", "Ben", "Cara", "Dirk", "Eva") for last in ("Falk", "Keel", "Lund")]

names = st.none() | st.tuples(st.sampled_from(OWNERS[:6]))


@given(st.lists(st.lists(names, max_size=8), max_size=5))
def test_one_code_for_a_name_and_no_code_for_two(sheets: list[list[tuple[str, ...] | None]]) -> None:
    book = CodeBook("W-07")
    given_to: dict[str, set[object]] = {}
    for number, sheet in enumerate(sheets):
        for place, (name, code) in enumerate(zip(sheet, book.codes(sheet), strict=True)):
            given_to.setdefault(code, set()).add(name if name is not None else (number, place))
    assert all(len(things) == 1 for things in given_to.values())
    named = [name for things in given_to.values() for name in things]
    assert len(named) == len(set(named))
    assert sorted(given_to) == [f"W-{7 + number:02}" for number in range(len(given_to))]


def yard(folder: Path, first_of_fees: int) -> None:
    """Jobs for ten owners, and berth fees of those from a number on."""
    for path, title, first, owners in (
        ("jobs.csv", "Job No", 500, OWNERS[:10]),
        ("berth-fees.csv", "Fee No", 9000, OWNERS[first_of_fees:]),
    ):
        lines = [f"{title},Owner,Owner Phone,Amount"]
        for number in range(120):
            place = (number * 11) % len(owners)
            phone = f"0550 {1000 + 37 * OWNERS.index(owners[place])}"
            lines.append(f"{first + number},{owners[place]},{phone},{(number * 173 % 991) / 4:.2f}")
        (folder / path).write_text("\n".join(lines) + "\n")


def owners_of(folder: Path, *tables: str) -> list[dict[str, str | int]]:
    database = sqlite3.connect(folder / "yard.sqlite")
    found = [dict(database.execute(f"SELECT name, owner_id FROM {table}").fetchall()) for table in tables]
    database.close()
    return found


@pytest.mark.parametrize("ids", [(), ("--ids", "W-0001")], ids=["numbers", "codes"])
def test_owners_of_two_sheets_are_counted_in_one_table(ids: tuple[str, ...], tmp_path: Path) -> None:
    yard(tmp_path, 6)
    hemplit("draft", "jobs.csv", "berth-fees.csv", *ids, "--out", "y.design.toml", folder=tmp_path)
    assert hemplit("load", "y.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    (owners,) = owners_of(tmp_path, "owners")
    assert sorted(owners) == sorted(OWNERS)
    assert sorted(owners.values()) == [f"W-{number:04}" if ids else number for number in range(1, 16)]
    for sheet in ("jobs", "berth-fees"):
        assert same_cells(tmp_path / f"{sheet}.csv", tmp_path / "yard.sqlite", f"{sheet.replace('-', '_')}_sheet")
    assert hemplit("prove", "y.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0


def test_an_owner_has_one_code_where_few_are_the_same_and_tables_stay_apart(tmp_path: Path) -> None:
    yard(tmp_path, 8)
    hemplit("draft", "jobs.csv", "berth-fees.csv", "--ids", "W-0001", "--out", "y.design.toml", folder=tmp_path)
    assert hemplit("load", "y.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    of_jobs, of_fees = owners_of(tmp_path, "owners", "berth_fee_owners")
    assert sorted(of_jobs.values()) == [f"W-{number:04}" for number in range(1, 11)]
    assert {name: code for name, code in of_fees.items() if name in of_jobs} == {
        name: of_jobs[name] for name in OWNERS[8:10]
    }
    assert sorted(set(of_fees.values()) - set(of_jobs.values())) == [f"W-{number:04}" for number in range(11, 16)]
    assert hemplit("prove", "y.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
