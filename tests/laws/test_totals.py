"""Totals out of any database are those that pandas makes of the flat sheet, each thing counted once; or are refused."""

from __future__ import annotations

import csv
import json
from collections.abc import Sequence
from decimal import Decimal
from pathlib import Path
from random import Random

import pandas as pd
import pytest

from conftest import hemplit
from hemplit.core.design import resolve
from hemplit.core.model.design import Design, Grain
from hemplit.core.model.tally import Ask
from hemplit.core.tally import sums
from hemplit.errors import InputError
from hemplit.flow import tallying
from hemplit.flow.opening import open_design
from hemplit.targets import sqlite
from places import Place, as_text
from worlds import world

DESIGN = "yard.design.toml"


def flat(path: Path) -> pd.DataFrame:
    """The sheet as texts, a blank as None."""
    with path.open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    return pd.DataFrame([[cell or None for cell in row] for row in rows], columns=header, dtype=object)


def totals(sheet: pd.DataFrame, each: Sequence[str], of: str, by: Sequence[str]) -> dict[tuple[str, ...], Decimal]:
    """What pandas makes of it: each thing once, blanks in a group of their own."""
    once = sheet.dropna(subset=[*each]).drop_duplicates(subset=[*each]) if each else sheet
    numbers = once.assign(number=[Decimal(cell) if cell is not None else None for cell in once[of]])
    found: dict[tuple[str, ...], Decimal] = {}
    for key, number in zip(once[[*by]].itertuples(index=False), numbers["number"], strict=True):
        group = tuple("(none)" if cell is None else as_text([cell])[0] for cell in key)
        found.setdefault(group, Decimal(0))
        found[group] += number if number is not None else 0
    return found


def grain(design: Design, header: str) -> tuple[str, ...]:
    """The headers that tell the things apart to which a column belongs; none where that is each row."""
    table = next(one for one in design.tables for column in one.columns if header in column.headers)
    if table.grain is Grain.ROW:
        return ()
    headers = (resolve.source(design, table, table.by_name[name]) for name in resolve.identity(table))
    return tuple(header for header in headers if header is not None)


@pytest.mark.parametrize("seed", [0, 4, 10])
def test_every_total_is_that_of_the_flat_sheet(
    seed: int, place: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = world(seed, 300)
    with (tmp_path / "yard.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([made.headers, *zip(*made.columns, strict=True)])
    assert hemplit("draft", "yard.csv", "--out", DESIGN, folder=tmp_path).code < 2
    assert hemplit("load", DESIGN, "--into", place.text, folder=tmp_path).code < 2
    _, design = open_design(tmp_path / DESIGN)
    sheet, random = flat(tmp_path / "yard.csv"), Random(seed)
    stored = [column for table in design.tables for column in table.columns if column.source and column.store]
    numbers = [str(one.source) for one in stored if one.kind and one.kind.word in ("whole number", "decimal")]
    texts = [str(one.source) for one in stored if one.kind and one.kind.word == "text"]
    if seed % 4:  # as large tables are added up
        monkeypatch.setattr(sqlite, "LARGE", 1)
    if seed % 3:  # as numbers of more than eight bytes
        monkeypatch.setattr(sums, "LARGEST", 0.0)
    answered = 0
    for _ in range(8):
        of, by = random.choice(numbers), random.sample(texts, min(len(texts), random.choice([1, 1, 2])))
        try:
            tallied = tallying.tally(tmp_path / DESIGN, place.text, Ask((of,), tuple(by)))
        except InputError as refused:
            assert any(said in str(refused) for said in ("may have several", "nothing leads", "is no amount")), (of, by)
            continue
        answered += 1
        assert not tallied.differences, (of, by)
        told = {as_names(names): Decimal(total or 0) for names, (total,) in tallied.answer.rows}
        assert told == totals(sheet, grain(design, of), of, by), (of, by)
    assert answered


def as_names(names: Sequence[str]) -> tuple[str, ...]:
    return tuple(name if name == "(none)" else as_text([name])[0] for name in names)


BILLS = "Bill No,Bill Day,Boat Reg,Boat,Length m,Owner,Town,Mooring Fee,Cleaning,Bill Total,Part,Maker,Price,Qty".split(
    ","
)


def bills(random: Random) -> list[list[str]]:
    """Lines of bills: a fee for each bill, a length for each boat, a price for each part; some bills name no boat."""
    boats = [
        [f"MQ-{at:02}", f"Teal {at}", f"{6 + at / 4:.2f}", f"Owner {at % 5}", f"Town {at % 5 % 3}"] for at in range(12)
    ]
    parts = [[f"P{at:02}", f"Maker {at % 4}", f"{3 + at * 1.15:.2f}"] for at in range(15)]
    rows = []
    for bill in range(60):
        boat = random.choice(boats) if random.random() > 0.1 else [""] * 5
        fee, cleaning = random.randrange(40, 90), random.randrange(5, 30)
        day = f"2026-{bill // 20 + 1:02}-{bill % 20 + 1:02}" if bill else "2024-12-30"  # in the first week of 2025
        head = [f"{700 + bill}", day, *boat, f"{fee}.50", f"{cleaning}.25", f"{fee + cleaning}.75"]
        some = random.sample(parts, random.randrange(1, 5))
        rows += [[*head, *part, str(random.randrange(1, 9))] for part in some]
    return rows


@pytest.fixture
def billed(place: Place, tmp_path: Path) -> pd.DataFrame:
    with (tmp_path / "bills.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([BILLS, *bills(Random(3))])
    assert hemplit("draft", "bills.csv", "--out", DESIGN, folder=tmp_path).code < 2
    assert hemplit("load", DESIGN, "--into", place.text, folder=tmp_path).code < 2
    return flat(tmp_path / "bills.csv")


def asked(place: Place, folder: Path, *words: str) -> dict[str, object]:
    ran = hemplit("tally", DESIGN, "--into", place.text, *words, "--json", folder=folder)
    assert ran.code == 0, ran.out + ran.err
    answer: dict[str, object] = json.loads(ran.out)
    assert answer["checked"] and not answer["differences"]
    return answer


GRAINS = {
    "Qty": (),
    "Mooring Fee": ("Bill No",),
    "Bill Total": ("Bill No",),
    "Length m": ("Boat Reg",),
    "Price": ("Part",),
}
#: By what each may be told apart; the others belong to several of its things, or to none.
HONEST = {
    "Qty": ("Bill No", "Boat", "Owner", "Town", "Part", "Maker"),
    "Mooring Fee": ("Bill No", "Boat", "Owner", "Town"),
    "Bill Total": ("Bill No", "Boat", "Owner", "Town"),
    "Length m": ("Boat", "Owner", "Town"),
    "Price": ("Part", "Maker"),
}


def test_each_thing_counts_once_or_there_is_no_answer(billed: pd.DataFrame, place: Place, tmp_path: Path) -> None:
    for of, each in GRAINS.items():
        for by in ("Bill No", "Boat", "Owner", "Town", "Part", "Maker"):
            ran = hemplit("tally", DESIGN, "--into", place.text, "--of", of, "--by", by, "--json", folder=tmp_path)
            if by not in HONEST[of]:
                assert (ran.code, "may have several" in ran.err or "nothing leads" in ran.err) == (2, True), (of, by)
                continue
            rows = json.loads(ran.out)["rows"]
            told = {as_names(row["groups"]): Decimal(row["numbers"][0] or 0) for row in rows}
            assert told == totals(billed, each, of, [by]), (of, by)


def test_parts_of_days_conditions_and_grains_beside_each_other(
    billed: pd.DataFrame, place: Place, tmp_path: Path
) -> None:
    words = ("--of", "Mooring Fee, Qty, number of boats", "--by", "Town")
    with pytest.raises(AssertionError, match="Bill Day"):
        asked(place, tmp_path, *words, "--where", "Bill Day >= 2026-02-01")
    answer = asked(place, tmp_path, *words)
    rows = {row["groups"][0]: row["numbers"] for row in answer["rows"]}  # type: ignore[attr-defined]
    fees = totals(billed, ["Bill No"], "Mooring Fee", ["Town"])
    assert {(town,): Decimal(numbers[0] or 0) for town, numbers in rows.items()} == fees
    assert sum(numbers[2] for numbers in rows.values()) == billed["Boat Reg"].nunique()
    for part, named in (("month", "%Y-%m"), ("week", "%G-W%V"), ("weekday", "%A"), ("year", "%Y")):
        since = "2024-01-01" if part == "week" else "2026-02-01"
        late = billed[billed["Bill Day"] >= since]
        days = pd.to_datetime(late["Bill Day"])
        wanted = totals(late.assign(part=days.dt.strftime(named).astype(object)), ["Bill No"], "Mooring Fee", ["part"])
        words = ("--by", f"{part} of Bill Day", "--where", f"Bill Day >= {since}")
        found = asked(place, tmp_path, "--of", "Mooring Fee", *words)
        told = {(row["groups"][0],): Decimal(row["numbers"][0]) for row in found["rows"]}  # type: ignore[attr-defined]
        assert told == wanted, part
    assert next(iter(told)) == ("2026",)
    others = asked(place, tmp_path, "--of", "Mooring Fee", "--by", "Town", "--where", "Boat != Teal 1 or Teal 2")
    told = {as_names(row["groups"]): Decimal(row["numbers"][0]) for row in others["rows"]}  # type: ignore[attr-defined]
    assert told == totals(billed[~billed["Boat"].isin(["Teal 1", "Teal 2"])], ["Bill No"], "Mooring Fee", ["Town"])
    first = asked(place, tmp_path, "--of", "Qty", "--by", "weekday of Bill Day")["rows"][0]  # type: ignore[index]
    assert first["groups"] == ["Monday"]


def test_what_was_added_counts_too_and_what_somebody_changed_is_found(
    billed: pd.DataFrame, place: Place, tmp_path: Path
) -> None:
    """A further sheet says some lines again; they count once."""
    held = bills(Random(3))
    again = next(row for row in held if row[0] == "720")  # a bill that is there, with a part that it did not have
    part = next(row[-4:-1] for row in held if row[-4] not in {one[-4] for one in held if one[0] == "720"})
    rows = [*held[-6:], [*again[:-4], *part, "7"], *([f"9{row[0]}", *row[1:]] for row in bills(Random(4))[:40])]
    with (tmp_path / "more.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([BILLS, *rows])
    ran = hemplit("topup", DESIGN, "more.csv", "--into", place.text, "--conflicts", "keep", folder=tmp_path)
    assert ran.code < 2, ran.err
    both = pd.concat([billed, flat(tmp_path / "more.csv")]).drop_duplicates(["Bill No", "Part"])
    for of, each, by in (("Qty", (), "Maker"), ("Mooring Fee", ("Bill No",), "Boat")):
        found = asked(place, tmp_path, "--of", of, "--by", by)
        told = {as_names(row["groups"]): Decimal(row["numbers"][0]) for row in found["rows"]}  # type: ignore[attr-defined]
        assert told == totals(both, each, of, [by])
    place.run("UPDATE bills SET mooring_fee = mooring_fee + 1 WHERE bill_no = 703")
    ran = hemplit("tally", DESIGN, "--into", place.text, "--of", "Mooring Fee", "--by", "Bill No", folder=tmp_path)
    assert ran.code == 1
    assert "1 number is not what the sheets say" in ran.out and "Mooring Fee, 703: " in ran.out
