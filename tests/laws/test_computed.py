"""What other columns give is not stored; the view computes it again, in the database, as the sheet has it."""

from __future__ import annotations

import json
import sqlite3
from datetime import date, timedelta
from decimal import ROUND_HALF_UP, Decimal
from pathlib import Path
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import hemplit, same_cells, tries
from hemplit.core.model.grid import Grid, Source
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying
from places import Place

HEADER = [
    "Bill No", "Boat", "Billed", "Year", "Month", "Day", "Month Name", "Short Month", "Quarter", "Q", "Period",
    "Net", "Discount %", "Discount", "With Fee",
]  # fmt: skip
COMPUTED = [*HEADER[3:11], *HEADER[13:]]


def bill_rows(form: str, blanks: int) -> list[list[str]]:
    """Bills with all that a date tells; every so many of them have none."""
    random = Random(4)
    rows = []
    for number in range(240):
        day = date(2024, 1, 1) + timedelta(days=random.randrange(900))
        quarter = (day.month + 2) // 3
        told = [str(day.year), str(day.month), str(day.day), f"{day:%B}", f"{day:%b}", str(quarter), f"Q{quarter}"]
        of_date = [day.strftime(form), *told, f"{day:%Y-%m}"]
        if blanks and number % blanks == 5:
            of_date = [""] * len(of_date)
        net, share = Decimal(random.randint(1000, 90000)) / 100, Decimal(random.choice(["0", "5", "12.5", "20"]))
        discount = (net * share / 100).quantize(Decimal("0.01"), ROUND_HALF_UP)
        boat = random.choice(["Teal", "Smew", "Knot"])
        rows.append([str(7000 + number), boat, *of_date, f"{net:.2f}", str(share), str(discount), f"{net + 4:.2f}"])
    return rows


def written(folder: Path, form: str = "%Y-%m-%d", blanks: int = 0) -> Path:
    path = folder / "bills.csv"
    path.write_text("\n".join(",".join(row) for row in [HEADER, *bill_rows(form, blanks)]) + "\n", encoding="utf-8")
    return path


@pytest.mark.parametrize(("form", "blanks"), [("%Y-%m-%d", 0), ("%d.%m.%Y", 0), ("%Y-%m-%d", 9)])
def test_the_view_gives_back_what_is_not_stored(form: str, blanks: int, tmp_path: Path) -> None:
    bills = written(tmp_path, form, blanks)
    drafted = json.loads(hemplit("draft", "bills.csv", "--json", folder=tmp_path).out)
    columns = [column for table in drafted["tables"] for column in table["columns"]]
    assert [column["from"] for column in columns if not column["store"]] == COMPUTED
    assert hemplit("load", "bills.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert same_cells(bills, tmp_path / "yard.sqlite", "bills_sheet")
    database = sqlite3.connect(tmp_path / "yard.sqlite")
    stored = {name for _, name, *_ in database.execute("PRAGMA table_info(bills)")}
    database.close()
    assert stored == {"bill_no", "boat_id", "billed", "net", "discount_percent"}


def test_a_table_of_dates_still_tells_the_parts(tmp_path: Path) -> None:
    bills = written(tmp_path)
    hemplit("draft", "bills.csv", "--dates", folder=tmp_path)
    assert hemplit("load", "bills.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert same_cells(bills, tmp_path / "yard.sqlite", "bills_sheet")


def test_what_is_wished_for_is_stored(tmp_path: Path) -> None:
    bills = written(tmp_path)
    hemplit("draft", "bills.csv", "--keep", "Year", "--keep", "Discount", folder=tmp_path)
    assert hemplit("load", "bills.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    database = sqlite3.connect(tmp_path / "yard.sqlite")
    assert database.execute("SELECT min(year), max(year) FROM bills").fetchone() == (2024, 2026)
    assert database.execute("SELECT count(discount) FROM bills").fetchone() == (240,)
    database.close()
    assert same_cells(bills, tmp_path / "yard.sqlite", "bills_sheet")


TELLS = 'tells = "year", by = "Billed"'
FAULTS = {
    'tells = "moon", by = "Billed"': "'moon' is no part of a date",
    'tells = "week", by = "Billed"': "'week' is no part of a date",
    'tells = "year", plus = "4", by = "Billed"': "it is computed in two ways, tells and plus",
    'sum = ["Net", "With Fee"], by = "Billed"': "range, tells, plus and by go together",
    'total = ["Net"], places = 2': "a sum also three, and a total any number",
    'plus = "four", by = "Net"': "'four' is no number",
    'tells = "year", by = "Net"': "computed from 'Net', of type 'decimal', from which it cannot be",
    'plus = "4", by = "Boat"': "computed from 'Boat', of type 'text', from which it cannot be",
    'joined = ["Boat", "Net"]': "of type 'whole number', which is not what is computed",
    'tells = "name of the month", by = "Billed"': "of type 'whole number', which is not what is computed",
    'tells = "year", by = "Year"': "computed from 'Year', which no table",
}


@pytest.mark.parametrize("instead", FAULTS)
def test_a_formula_that_cannot_be_is_refused(instead: str, tmp_path: Path) -> None:
    written(tmp_path)
    hemplit("draft", "bills.csv", folder=tmp_path)
    design = tmp_path / "bills.design.toml"
    design.write_text(design.read_text().replace(TELLS, instead))
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 2 and FAULTS[instead] in ran.err and ran.err.count("\n") == 1
    assert not (tmp_path / "yard.sqlite").exists()


def test_a_later_date_that_tells_another_year_is_refused(tmp_path: Path) -> None:
    bills = written(tmp_path)
    hemplit("draft", "bills.csv", folder=tmp_path)
    lines = [line.split(",") for line in bills.read_text().splitlines()]
    lines[4][3] = "1999"
    bills.write_text("\n".join(",".join(line) for line in lines) + "\n")
    ran = hemplit("load", "bills.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, ran.out) == (2, "")
    assert "bills.csv D5 says '1999', and the tables would give back '2024'" in ran.err
    assert not (tmp_path / "yard.sqlite").exists()


def claim(number: int, random: Random, later: bool) -> list[str]:
    """What somebody spent, was given and worked, each with its total.

    Later cells need two decimals and may be blank that had been filled so far.
    """
    cells = [f"{random.randint(1, 900) / (4 if later else 2):.2f}" for _ in range(9)]
    cells = [
        cell if random.random() > (0.7 if later else 0.3 * (place < 4)) else "" for place, cell in enumerate(cells)
    ]
    spent, gained, hours = ([float(cell or 0) for cell in some] for some in (cells[:3], cells[3:5], cells[5:]))
    totals = (f"{sum(some):.2f}" for some in (spent, gained, hours))
    return [f"C-{number}", "2026", *cells[:3], next(totals), *cells[3:5], next(totals), *cells[5:], next(totals)]


def test_a_blank_cell_adds_nothing_to_a_total(place: Place, tmp_path: Path) -> None:
    """Of what stands side by side before it; a later month may leave blank what the first one did not."""
    header = "Claim,Year,Travel,Meals,Other,Spent,Gift,Fee,Given,On Deck,Aloft,Ashore,Below,Hours"
    random = Random(7)
    for name, numbers in (("claims", range(1, 31)), ("june", range(31, 41))):
        rows = [",".join(claim(number, random, later=name == "june")) for number in numbers]
        (tmp_path / f"{name}.csv").write_text("\n".join([header, *rows]) + "\n", encoding="utf-8")
    assert hemplit("load", "claims.csv", "--into", place.text, folder=tmp_path).code == 0
    (design,) = tmp_path.glob("*.design.toml")
    totals = dict.fromkeys(("Spent", "Given", "Hours"), "")
    for line in design.read_text().splitlines():
        totals |= {name: line for name in totals if f'from = "{name}"' in line}
    assert 'total = ["Travel", "Meals", "Other"]' in totals["Spent"] and 'total = ["Gift", "Fee"]' in totals["Given"]
    assert 'total = ["On Deck", "Aloft", "Ashore", "Below"]' in totals["Hours"]
    assert hemplit("topup", design, "june.csv", "--into", place.text, folder=tmp_path).code == 0
    assert hemplit("prove", design, "--into", place.text, folder=tmp_path).code == 0
    query = f"SELECT sum({place.mark}Spent{place.mark}), count(*) FROM claims_sheet"
    told = [
        line.split(",")[5]
        for name in ("claims", "june")
        for line in (tmp_path / f"{name}.csv").read_text().splitlines()
    ]
    ((spent, count),) = place.rows(query)
    assert (round(float(spent), 2), count) == (sum(float(cell) for cell in told if cell != "Spent"), 40)


days = st.dates(date(1950, 1, 1), date(2060, 12, 31)) | st.none()


@settings(max_examples=tries(20))
@given(st.lists(days, min_size=12, max_size=60))
def test_every_date_tells_its_parts_again(dates: list[date | None]) -> None:
    rows = [
        ["No", "Day", "Year", "Month", "Quarter"],
        *(
            [str(place), str(one), str(one.year), f"{one:%B}", f"Q{(one.month + 2) // 3}"]
            if one
            else [str(place), *[""] * 4]
            for place, one in enumerate(dates)
        ),
    ]
    columns = tuple(from_texts([row[place] for row in rows]) for place in range(5))
    sheets = reading.shape_grids({"days": Grid(Source("days.csv"), columns, len(rows))})
    design = studying.draft(sheets)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds
