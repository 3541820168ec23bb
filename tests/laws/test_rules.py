"""Rules that a sheet keeps are offered, hold in the database once they are taken, and no row breaks them in silence."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from random import Random

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import hemplit, same_cells
from hemplit.core.design.rules import breaking
from hemplit.core.model.design import Rule, RuleKind
from hemplit.core.model.relation import TEXT, Kind
from hemplit.core.model.tables import TableColumn

WAYS = ["card", "cheque", "cash in the office"]
Cells = list[str | None]


def column(name: str, cells: Cells, kind: Kind = TEXT) -> TableColumn:
    encoded = pa.array([cell or None for cell in cells], pa.string()).dictionary_encode()
    codes = encoded.indices.fill_null(-1).to_numpy().astype(np.int32)
    values = encoded.dictionary if kind == TEXT else encoded.dictionary.cast(pa.float64())
    return TableColumn(name, kind, codes, values, required=False)


@given(st.lists(st.tuples(st.sampled_from(["A1", "B2", "A10", "b3", ""]), st.sampled_from(["x", "y", ""])), min_size=1))
def test_the_rows_that_break_a_rule_are_those_that_a_person_would_name(rows: list[tuple[str, str]]) -> None:
    code, way = column("code", [one for one, _ in rows]), column("way", [other for _, other in rows])
    columns = {"code": code, "way": way}
    expected = {
        Rule(RuleKind.ALLOWED, ("code",), ("A1", "B2")): [one not in ("", "A1", "B2") for one, _ in rows],
        Rule(RuleKind.PATTERN, ("code",), ("A9",)): [one not in ("", "A1", "B2") for one, _ in rows],
        Rule(RuleKind.ONE_FILLED, ("code", "way")): [bool(one) == bool(other) for one, other in rows],
        Rule(RuleKind.FILLED_ONLY_IF, ("code", "way"), ("x",)): [bool(one) != (other == "x") for one, other in rows],
    }
    for rule, wrong in expected.items():
        assert breaking(rule, columns).tolist() == wrong, rule


@given(st.lists(st.sampled_from(["-1", "0", "0.5", "12", ""]), min_size=1))
def test_no_smaller_number(cells: list[str]) -> None:
    columns = {"hours": column("hours", list(cells), Kind("decimal"))}
    assert breaking(Rule(RuleKind.MIN, ("hours",), ("0",)), columns).tolist() == [cell == "-1" for cell in cells]


@pytest.fixture
def fees(tmp_path: Path) -> Path:
    """Fees paid in one of three ways; only a card has a number, and only where a fee was paid by card."""
    random = Random(11)
    rows = [["Fee No", "Paid By", "Card Ref", "Berth Code", "Amount"]]
    for number in range(240):
        way = random.choice(WAYS)
        card = f"C-{random.randint(100, 999)}{number:03}" if way == "card" else ""
        amount = f"{random.randint(100, 9000) / 100:.2f}"
        rows.append([str(700 + number), way, card, f"{random.choice('EW')}{random.randint(10, 49)}", amount])
    path = tmp_path / "fees.csv"
    path.write_text("\n".join(",".join(row) for row in rows) + "\n")
    return path


def rules_of(folder: Path) -> dict[tuple[str, ...], list[str]]:
    drafted = json.loads(hemplit("draft", "fees.csv", "--json", folder=folder).out)
    fees = next(table for table in drafted["tables"] if table["name"] == "fees")
    return {(rule["rule"], *rule["columns"]): rule["values"] for rule in fees["rules"]}


def test_a_condition_that_is_chosen_from_a_lookup_is_stated(fees: Path) -> None:
    rules = rules_of(fees.parent)
    assert rules["filled_only_if", "card_ref", "paid_by_id"] == ["card"]
    assert rules["pattern", "card_ref"] == ["A-999999"] and rules["pattern", "berth_code"] == ["A99"]
    design = fees.with_name("fees.design.toml")
    design.write_text(design.read_text().replace("# { columns", "  { columns"))
    assert hemplit("load", design, "--into", "yard.sqlite", folder=fees.parent).code == 0
    assert same_cells(fees, fees.with_name("yard.sqlite"), "fees_sheet")
    database = sqlite3.connect(fees.with_name("yard.sqlite"))
    paid = database.execute("SELECT fee_no, paid_by_id FROM fees WHERE card_ref IS NOT NULL LIMIT 1").fetchone()
    for broken in ("card_ref = NULL", f"paid_by_id = {paid[1] % 3 + 1}", "card_ref = 'C-12345'", "berth_code = 'e11'"):
        with pytest.raises(sqlite3.IntegrityError):
            database.execute(f"UPDATE fees SET {broken} WHERE fee_no = ?", paid[:1])
    database.execute("UPDATE fees SET card_ref = 'D-123456', berth_code = 'N99' WHERE fee_no = ?", paid[:1])
    database.close()


@pytest.mark.parametrize(
    ("number", "place", "cell", "said"),
    [
        (3, 2, "C12345", "Card Ref 'C12345' does not look like A-999999"),
        (3, 3, "E1", "Berth Code 'E1' does not look like A99"),
        (3, 4, "-0.50", "Amount '-0.50' is less than 0"),
        (3, 1, "cheque", "Card Ref must be filled exactly where Paid By is card: they say '"),
    ],
)
def test_a_later_row_that_breaks_a_rule_is_named(number: int, place: int, cell: str, said: str, fees: Path) -> None:
    rules_of(fees.parent)
    design = fees.with_name("fees.design.toml")
    design.write_text(design.read_text().replace("# { columns", "  { columns"))
    lines = [line.split(",") for line in fees.read_text().splitlines()]
    paid = [row for row, line in enumerate(lines) if line[1] == "card"][number]
    lines[paid][place] = cell
    fees.write_text("\n".join(",".join(line) for line in lines) + "\n")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=fees.parent)
    assert ran.code == 2 and f"row {paid + 1}: {said}" in ran.err and ran.err.count("\n") == 1
