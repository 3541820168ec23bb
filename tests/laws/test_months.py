"""Months that are added one after the other give what loading all of them at once gives, but for the ids."""

from __future__ import annotations

import sqlite3
from itertools import product
from pathlib import Path
from random import Random

import pytest

from conftest import Ran, hemplit, same_cells
from places import SERVERS, Place

BOATS = [(f"MQ-{at:03}", f"{name} {at}", f"Owner {at % 9}") for at, name in enumerate(["Teal", "Knot", "Smew"] * 12)]
CREW = "Ines Aldo Gerrit Lotte Karin Nuala Sile Elske".split()
WORKS = [("hull scrape", "38.50"), ("rig check", "54.00"), ("paint", "41.25"), ("engine", "62.00")]


class Shape:
    """A sheet of an office: its header, and its rows for a month, of which later ones speak of further things."""

    header = "Job,Boat Reg,Boat,Owner,Status,Hours"
    delimiter = ","
    #: The column that names a kind of thing, in which a slip is told, and the one that is corrected late.
    named: int | None = 4
    late: int | None = -1

    def corrected(self, rows: list[list[str]]) -> list[str]:
        """The seventh row as somebody corrects it later."""
        assert self.late is not None
        late = [*rows[6]]
        late[self.late] = next(row[self.late] for row in rows[7:] if row[self.late] != late[self.late])
        return late

    def row(self, random: Random, number: int, month: int) -> list[str]:
        boat = BOATS[random.randrange(12 + 4 * month)]
        status = random.choice(["open", "done", "paid", *(["on hold"] if month > 2 else [])])
        return [str(4000 + number), *boat, status, f"{random.randrange(1, 40) / 4:.2f}"]

    def rows(self, random: Random, number: int, month: int) -> list[list[str]]:
        return [self.row(random, number, month)]


class WithoutKey(Shape):
    header = "Day,Boat Reg,Boat,Owner,Hours,Remarks"
    named, late = None, None

    def row(self, random: Random, number: int, month: int) -> list[str]:
        boat = BOATS[random.randrange(12 + 4 * month)]
        remark = random.choice(["", f"sent back {number}", f"new rope {number}"])
        return [f"2026-{month + 1:02}-{random.randrange(1, 29):02}", *boat, f"{number / 4:.2f}", remark]


class Sideways(Shape):
    header = "Job No,Day,Part 1,Qty 1,Part 2,Qty 2,Part 3,Qty 3"
    named, late = 2, 1

    def row(self, random: Random, number: int, month: int) -> list[str]:
        parts = random.sample(["anode", "cleat", "shackle", "rope", "winch", *(["toggle"] if month else [])], 3)
        kept = random.randrange(1, 4)
        cells = [cell for at, part in enumerate(parts) for cell in ([part, str(at + 2)] if at < kept else ["", ""])]
        return [str(5000 + number), f"2026-{month + 1:02}-{random.randrange(1, 29):02}", *cells]


class Lists(Shape):
    header = "Job No,Crew,Hours"
    named, late = 1, -1

    def row(self, random: Random, number: int, month: int) -> list[str]:
        crew = random.sample([*CREW, *(["Zoe", "Yann"] if month > 1 else [])], random.randrange(1, 4))
        return [str(6000 + number), '"' + ", ".join(crew) + '"' if len(crew) > 1 else crew[0], str(number % 7 + 1)]


class Counted(Shape):
    """The view of the sheet gives the numbers in a column of their own."""

    header = "Job No,Parts,Hours"
    named, late = None, -1

    def row(self, random: Random, number: int, month: int) -> list[str]:
        parts = random.sample(
            ["anode", "cleat", "shackle", "rope 8 mm", *(["toggle"] if month else [])], 1 + number % 3
        )
        counted = "; ".join(f"{random.randrange(1, 9)}x {part}" for part in parts)
        return [str(6000 + number), counted, str(number % 7 + 1)]


class Computed(Shape):
    header = "Job No,Opened,Work,Hourly Rate,Hours,Cost"
    named = 2

    def corrected(self, rows: list[list[str]]) -> list[str]:
        hours = float(rows[6][4]) + 0.25
        return [*rows[6][:4], f"{hours:.2f}", f"{float(rows[6][3]) * hours:.2f}"]

    def row(self, random: Random, number: int, month: int) -> list[str]:
        work, rate = random.choice([*WORKS, *([("welding", "70.00")] if month > 1 else [])])
        hours = random.randrange(1, 30) / 4
        day = f"2026-{month + 1:02}-{random.randrange(1, 29):02}"
        return [str(7000 + number), day, work, rate, f"{hours:.2f}", f"{float(rate) * hours:.2f}"]


class Pairs(Shape):
    header = "Gauge,Hour,Depth,Wind"
    named, late = None, -1

    def row(self, random: Random, number: int, month: int) -> list[str]:
        return [f"G{number % 4 + 1}", str(number // 4), str(random.randrange(90, 400)), str(random.randrange(1, 60))]


class Titled(Shape):
    header = "Lift,Boat Reg,Crane,Tonnes"
    named, late = None, -1
    title, total = "Lifts of the yard", True

    def row(self, random: Random, number: int, month: int) -> list[str]:
        return [str(800 + number), BOATS[random.randrange(12 + 4 * month)][0], "AB"[number % 2], str(number % 9 + 2)]


class Roles(Shape):
    header = "Move,From Berth,From Dock,To Berth,To Dock,Boat Reg"
    named, late = None, -1

    def row(self, random: Random, number: int, month: int) -> list[str]:
        one, other = random.sample(range(9 + 2 * month), 2)
        docks = ["West Dock", "Fish Quay", "Old Basin"]
        berths = [cell for at in (one, other) for cell in (f"B{at:02}", docks[at % 3])]
        return [str(300 + number), *berths, BOATS[random.randrange(20)][0]]


class German(Shape):
    header = "Auftrag Nr;Datum;Kunde;Ort;Betrag"
    named, late = None, -1
    delimiter = ";"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        at = random.randrange(9 + 2 * month)
        amount = f"{random.randrange(1, 4)}.{random.randrange(100, 999)},{random.randrange(10, 99)}"
        return [
            str(9000 + number),
            f"{random.randrange(13, 29)}.{month + 1:02}.2026",
            f"Kunde {at}",
            f"Ort {at % 5}",
            amount,
        ]


class OwnRows(Shape):
    header = "Staff No,Name,Trade,Lead No"
    named, late = 2, -1

    def row(self, random: Random, number: int, month: int) -> list[str]:
        lead = f"S{random.randrange(1, number):03}" if number > 5 else ""
        trade = random.choice(["rigger", "joiner", "painter", *(["welder"] if month > 1 else [])])
        return [f"S{number:03}", f"{CREW[number % 8]} {CREW[number % 7]} {number}", trade, lead]


class Combined(Shape):
    """Every work that somebody can do stands beside every tongue that he speaks."""

    header = "Rigger,Town,Work,Tongue"
    named, late = None, None

    def rows(self, random: Random, number: int, month: int) -> list[list[str]]:
        works = random.sample([work for work, _ in WORKS] + ["welding"] * (month > 1), random.randrange(1, 4))
        tongues = random.sample(["Dutch", "Danish", "English", "Frisian"], random.randrange(1, 4))
        return [[f"{CREW[number % 8]} {number}", f"Town {number % 3}", *pair] for pair in product(works, tongues)]


SHAPES = [Shape, WithoutKey, Sideways, Lists, Computed, Pairs, Titled, Roles, German, OwnRows, Combined, Counted]


def write(path: Path, shape: Shape, rows: list[list[str]], more: str = "") -> None:
    lines = [shape.header, *map(shape.delimiter.join, rows)]
    if more:
        cells = [more, *(f"B{at % 7}" for at in range(len(rows)))]
        lines = [f"{line}{shape.delimiter}{cell}" for line, cell in zip(lines, cells, strict=True)]
    if hasattr(shape, "title"):
        total = sum(int(row[3]) for row in rows if row[3])
        lines = [shape.title + ",,,", *lines, f"Total,,,{total}"]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")


#: Every shape in a file, and every second one on one of the servers by turns.
TRIED = [
    *((kind, "sqlite") for kind in SHAPES),
    *((kind, [*SERVERS][at % len(SERVERS)]) for at, kind in enumerate(SHAPES[::2])),
]


@pytest.mark.parametrize(("kind", "place"), TRIED, indirect=["place"], ids=lambda one: getattr(one, "__name__", one))
def test_after_each_month_the_tables_are_as_if_all_were_loaded_at_once(
    kind: type[Shape], tmp_path: Path, place: Place
) -> None:
    """New rows and things, the month before once more, a column more, a slip, a late correction, rows that moved."""
    random, shape = Random(3), kind()
    months, number = [], 0
    for month in range(6 if type(place) is Place else 5):  # servers take longer
        months.append([])
        for _ in range(60 if month == 0 else 24):
            number += 1
            months[month] += shape.rows(random, number, month)
    write(tmp_path / "m0.csv", shape, months[0])
    ran = hemplit("draft", "m0.csv", "--out", "yard.design.toml", folder=tmp_path)
    assert ran.code < 2, ran.err
    ran = hemplit("load", "yard.design.toml", "--into", place.text, folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err

    def topup(rows: list[list[str]], *how: str, more: str = "") -> Ran:
        write(tmp_path / "next.csv", shape, rows, more)
        return hemplit("topup", "yard.design.toml", "next.csv", "--into", place.text, *how, folder=tmp_path)

    for month in range(1, len(months)):
        new = months[month]
        if month == 1:
            ran = topup(months[0] + new)
        elif month == 2:
            ran = topup(new, more="Slipway")
            assert (ran.code, "its column 'Slipway' is new" in ran.err) == (2, True), ran.out + ran.err
            ran = topup(new, "--leave-out", "Slipway", more="Slipway")
        elif month == 3 and shape.named is not None:
            slip = next(row for row in new if len(row[shape.named]) > 3 and "," not in row[shape.named])
            slip[shape.named] = slip[shape.named][:-2] + slip[shape.named][-1] + slip[shape.named][-2]
            ran = topup(new)
            assert (ran.code, f"has now '{slip[shape.named]}', which is like" in ran.out) == (1, True), ran.out
        elif month == 4 and shape.late is not None:
            before, late = place.counts(), shape.corrected(months[0])
            ran = topup([late, *new])
            found = place.counts()
            assert (ran.code, "something else now" in ran.out, found) == (1, True, before), ran.out + ran.err
            ran = topup([late, *new], "--conflicts", "update")
            months[0][6] = late
        else:
            ran = topup([*new[:9], [""] * len(new[0]), *new[9:]])
        assert "Verified" in ran.out, ran.out + ran.err
        (tmp_path / "next.csv").rename(tmp_path / f"added{month}.csv")
        write(tmp_path / "all.csv", shape, [row for made in months[: month + 1] for row in made])
        design = (tmp_path / "yard.design.toml").read_text(encoding="utf-8").replace('"m0.csv"', '"all.csv"')
        (tmp_path / "all.design.toml").write_text(design, encoding="utf-8")
        at_once = hemplit("load", "all.design.toml", "--into", "all.sqlite", "--replace", folder=tmp_path)
        assert "Verified" in at_once.out, at_once.err
        assert place.counts() == Place(tmp_path, "all.sqlite").counts()
        if not isinstance(shape, German | Counted):  # whose dates and numbers the view gives as it has read them
            assert same_cells(plain(tmp_path, shape, months[: month + 1]), place, "m0_sheet")
    ran = hemplit("prove", "yard.design.toml", "--into", place.text, folder=tmp_path)
    assert "Verified" in ran.out, ran.out


@pytest.mark.parametrize("seed", range(6))
def test_sheets_of_the_same_things_that_grow_in_turn_are_as_both_loaded_at_once(seed: int, tmp_path: Path) -> None:
    """Berth list and insurer's list of the same boats; of some they say different rigs, of some only one speaks."""
    random = Random(seed)
    rigs = {reg: random.choice(["Sloop", "Yawl", "Ketch", "Cutter"]) for reg, _, _ in BOATS}
    lists = {
        "yard": [[reg, name, rigs[reg], f"{1970 + at}"] for at, (reg, name, _) in enumerate(BOATS)],
        "insured": [
            [reg, str(at % 3), random.choice(["Lugger", *[rigs[reg]] * 6]), str(900 + 35 * at)]
            for at, (reg, _, _) in enumerate(BOATS)
        ],
    }
    headers = {"yard": "Boat Reg,Boat,Rig,Built", "insured": "Reg,Class,Rigged As,Premium"}
    given = {name: sorted(random.sample(range(20), 16)) for name in lists}

    def write_list(name: str, which: list[int], file: str) -> None:
        lines = [headers[name], *(",".join(lists[name][at]) for at in which)]
        (tmp_path / file).write_text("\n".join(lines) + "\n", encoding="utf-8")

    # From the start they differ in one boat, so that the design keeps what the second says.
    both = next(at for at in given["yard"] if at in given["insured"])
    lists["insured"][both][2] = "Lugger"
    for name, which in given.items():
        write_list(name, which, f"{name}.csv")
    ran = hemplit("load", "yard.csv", "insured.csv", "--into", "boats.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    for month in range(4):
        for name, which in given.items():
            new = random.sample([at for at in range(20 + 4 * month) if at not in which], 3)
            write_list(name, [*random.sample(which, 2), *new], f"{name}{month}.csv")
            which += new
            again = ("topup", "boats.design.toml", f"{name}{month}.csv", "--into", "boats.sqlite")
            ran = hemplit(*again, "--conflicts", "update", folder=tmp_path)
            assert "Verified" in ran.out, ran.out + ran.err
    ran = hemplit("prove", "boats.design.toml", "--into", "boats.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out
    for name, which in given.items():
        write_list(name, which, f"{name}.csv")
        assert same_cells(tmp_path / f"{name}.csv", tmp_path / "boats.sqlite", f"{name}_sheet")
    assert "Verified" in hemplit("load", "boats.design.toml", "--into", "all.sqlite", folder=tmp_path).out
    # A rig of which nobody speaks any more stays in its list.
    added, at_once = Place(tmp_path, "boats.sqlite").counts(), Place(tmp_path, "all.sqlite").counts()
    assert {**added, "rigs": 0} == {**at_once, "rigs": 0}
    query = "SELECT boat_reg, boats.name, rigs.name, built, class, premium FROM boats JOIN rigs USING (rig_id)"
    said = []
    for target in ("boats", "all"):
        with sqlite3.connect(tmp_path / f"{target}.sqlite") as database:
            said.append(sorted(map(str, database.execute(query))))
    assert said[0] == said[1]


def plain(folder: Path, shape: Shape, months: list[list[list[str]]]) -> Path:
    """All rows in one sheet, without titles and totals."""
    lines = [shape.header, *(shape.delimiter.join(row) for made in months for row in made)]
    (folder / "plain.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    return folder / "plain.csv"
