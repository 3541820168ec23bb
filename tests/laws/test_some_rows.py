"""Columns that are filled only where another says so stand in a table of their own, which gives the sheet back."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import hemplit, same_cells, tries
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import Grid, Source
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying

HEADER = ["Fee No", "Boat", "Paid By", "Card No", "Card Expiry", "Card Kind", "Amount"]
WAYS = ["card", "cheque", "cash"]
KINDS = ["debit", "credit"]


def fee_rows(count: int = 240, seed: int = 11) -> list[list[str]]:
    random = Random(seed)
    rows = []
    for number in range(count):
        way = random.choice(WAYS)
        number_of_card = f"C-{random.randint(100, 999)}{number:03}"
        of_card = [number_of_card, f"{random.randint(2027, 2031)}-{random.randint(10, 12)}", random.choice(KINDS)]
        of_card = of_card if way == "card" else [""] * 3
        boat = random.choice(["Teal", "Smew", "Knot"])
        rows.append([str(700 + number), boat, way, *of_card, f"{random.randint(100, 9000) / 100:.2f}"])
    return rows


def written(folder: Path, header: list[str], rows: list[list[str]]) -> Path:
    path = folder / "fees.csv"
    path.write_text("\n".join(",".join(row) for row in [header, *rows]) + "\n", encoding="utf-8")
    return path


def drafted(path: Path) -> dict[str, dict]:
    ran = hemplit("draft", path.name, "--json", folder=path.parent)
    return {table["name"]: table for table in json.loads(ran.out)["tables"]}


def names(table: dict) -> list[str]:
    return [column["name"] for column in table["columns"]]


def test_what_goes_with_a_card_is_a_table_of_the_fees_paid_by_card(tmp_path: Path) -> None:
    fees = written(tmp_path, HEADER, fee_rows())
    tables = drafted(fees)
    assert tables["fee_cards"]["some_of"] == "fees"
    assert names(tables["fee_cards"]) == ["fee_no", "card_no", "card_expiry", "card_kind_id"]
    assert names(tables["fees"]) == ["fee_no", "boat_id", "paid_by_id", "amount"]
    told = hemplit("why", "fees.design.toml", "fee_cards", folder=tmp_path).out
    assert "exactly where 'Paid By' is 'card'" in " ".join(told.split())
    assert hemplit("load", "fees.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert same_cells(fees, tmp_path / "yard.sqlite", "fees_sheet")
    database = sqlite3.connect(tmp_path / "yard.sqlite")
    paid = [row[0] for row in fee_rows() if row[2] == "card"]
    assert [str(one) for (one,) in database.execute("SELECT fee_no FROM fee_cards ORDER BY fee_no")] == paid
    assert database.execute("SELECT count(*) FROM fee_cards WHERE card_no IS NULL").fetchone() == (0,)
    database.close()


def test_without_a_code_the_made_up_id_goes_along(tmp_path: Path) -> None:
    rows = [[row[1], *row[2:]] for row in fee_rows()]
    fees = written(tmp_path, HEADER[1:], rows)
    table = drafted(fees)["fee_cards"]
    assert (table["key"], table["columns"][0]["to"]) == (["fee_id"], "fees")
    assert hemplit("load", "fees.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert same_cells(fees, tmp_path / "yard.sqlite", "fees_sheet")


def test_a_key_of_two_columns_goes_along_whole(tmp_path: Path) -> None:
    rows = [[str(700 + place // 4), str(1 + place % 4), *row[2:]] for place, row in enumerate(fee_rows())]
    fees = written(tmp_path, ["Fee No", "Line No", *HEADER[2:]], rows)
    table = drafted(fees)["fee_cards"]
    assert [column["to"] for column in table["columns"][:2]] == ["fees.fee_no", "fees.line_no"]
    assert hemplit("load", "fees.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert same_cells(fees, tmp_path / "yard.sqlite", "fees_sheet")


@pytest.mark.parametrize(
    ("count", "blanked"),
    [
        (60, ("Card No", "Card Expiry", "Card Kind")),  # so few rows may be an accident
        (240, ("Card No",)),  # one column is a rule
    ],
)
def test_columns_stay_where_they_are(count: int, blanked: tuple[str, ...], tmp_path: Path) -> None:
    places = [place for place, name in enumerate(HEADER) if name in blanked or not name.startswith("Card")]
    rows = [[row[place] for place in places] for row in fee_rows(count)]
    tables = drafted(written(tmp_path, [HEADER[place] for place in places], rows))
    assert not [name for name, table in tables.items() if table["some_of"]]
    assert "card_no" in names(tables["fees"])


def test_columns_that_nothing_says_are_filled_stay(tmp_path: Path) -> None:
    rows = fee_rows()
    for place, row in enumerate(rows):
        row[3:6] = [f"C-{place:04}", "2027-10", "debit"] if place % 7 == 3 else ["", "", ""]
    assert not [table for table in drafted(written(tmp_path, HEADER, rows)).values() if table["some_of"]]


FAULTS = {
    'some_of = "boats"': "'boats' has no row for each row of the sheet",
    "": "no reference leads from 'fees' to it",
    'some_of = "fees"\n#': "its key must refer to 'fees'",
}


@pytest.mark.parametrize("instead", FAULTS)
def test_a_design_that_contradicts_itself_is_refused(instead: str, tmp_path: Path) -> None:
    drafted(written(tmp_path, HEADER, fee_rows()))
    design = tmp_path / "fees.design.toml"
    text = design.read_text().replace('some_of = "fees"', instead)
    design.write_text(text.replace('#\nkey = ["fee_no"]', '\nkey = ["card_no"]'))
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 2 and FAULTS[instead] in ran.err and ran.err.count("\n") == 1


def test_a_later_card_without_its_date_is_named(tmp_path: Path) -> None:
    rows = fee_rows()
    fees = written(tmp_path, HEADER, rows)
    drafted(fees)
    paid = [place for place, row in enumerate(rows) if row[2] == "card"][4]
    rows[paid][4] = ""
    written(tmp_path, HEADER, rows)
    ran = hemplit("load", "fees.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 2 and f"row {paid + 2}: " in ran.err and "is blank" in ran.err


cells = st.tuples(st.sampled_from(WAYS), st.sampled_from(["x", "y", "z"]), st.sampled_from(["1", "2"]))


@settings(max_examples=tries(25))
@given(st.lists(cells, min_size=120, max_size=160))
def test_whatever_is_filled_the_sheet_comes_back(rows: list[tuple[str, str, str]]) -> None:
    made = [
        [str(number), way, *((one, other) if way == "card" else ("", "")), one + other]
        for number, (way, one, other) in enumerate(rows)
    ]
    header = ["No", "Way", "Card Kind", "Card Stage", "Note"]
    columns = tuple(from_texts([row[place] for row in [header, *made]]) for place in range(len(header)))
    sheets = reading.shape_grids({"fees": Grid(Source("fees.csv"), columns, len(made) + 1)})
    design = studying.draft(sheets)
    some = [table for table in design.tables if table.grain is Grain.SUBSET]
    paid = sum(row[0] == "card" for row in rows)
    assert not some or paid >= 5
    tables = split(design, sheets.relations)
    assert all(tables.by_name[table.name].row_count == paid for table in some)
    assert proving.prove_tables(design, sheets, tables).holds
