"""Months that are added one after the other give what loading all of them at once gives, but for the ids."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from random import Random

import pytest

from conftest import hemplit, same_cells

BOATS = [(f"MQ-{at:03}", f"{name} {at}", f"Owner {at % 9}") for at, name in enumerate(["Teal", "Knot", "Smew"] * 12)]
CREW = "Ines Aldo Gerrit Lotte Karin Nuala Sile Elske".split()
WORKS = [("hull scrape", "38.50"), ("rig check", "54.00"), ("paint", "41.25"), ("engine", "62.00")]


class Shape:
    """A sheet of an office: its header, and its rows for a month, of which later ones speak of further things."""

    header = "Job,Boat Reg,Boat,Owner,Status,Hours"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        boat = BOATS[random.randrange(12 + 4 * month)]
        status = random.choice(["open", "done", "paid", *(["on hold"] if month > 2 else [])])
        return [str(4000 + number), *boat, status, f"{random.randrange(1, 40) / 4:.2f}"]


class WithoutKey(Shape):
    header = "Day,Boat Reg,Boat,Owner,Hours,Remarks"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        boat = BOATS[random.randrange(12 + 4 * month)]
        remark = random.choice(["", f"sent back {number}", f"new rope {number}"])
        return [f"2026-{month + 1:02}-{random.randrange(1, 29):02}", *boat, f"{number / 4:.2f}", remark]


class Sideways(Shape):
    header = "Job No,Day,Part 1,Qty 1,Part 2,Qty 2,Part 3,Qty 3"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        parts = random.sample(["anode", "cleat", "shackle", "rope", "winch", *(["toggle"] if month else [])], 3)
        kept = random.randrange(1, 4)
        cells = [cell for at, part in enumerate(parts) for cell in ([part, str(at + 2)] if at < kept else ["", ""])]
        return [str(5000 + number), f"2026-{month + 1:02}-{random.randrange(1, 29):02}", *cells]


class Lists(Shape):
    header = "Job No,Crew,Hours"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        crew = random.sample([*CREW, *(["Zoe", "Yann"] if month > 1 else [])], random.randrange(1, 4))
        return [str(6000 + number), '"' + ", ".join(crew) + '"' if len(crew) > 1 else crew[0], str(number % 7 + 1)]


class Computed(Shape):
    header = "Job No,Opened,Work,Hourly Rate,Hours,Cost"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        work, rate = random.choice([*WORKS, *([("welding", "70.00")] if month > 1 else [])])
        hours = random.randrange(1, 30) / 4
        day = f"2026-{month + 1:02}-{random.randrange(1, 29):02}"
        return [str(7000 + number), day, work, rate, f"{hours:.2f}", f"{float(rate) * hours:.2f}"]


class Pairs(Shape):
    header = "Gauge,Hour,Depth,Wind"

    def row(self, random: Random, number: int, month: int) -> list[str]:
        return [f"G{number % 4 + 1}", str(number // 4), str(random.randrange(90, 400)), str(random.randrange(1, 60))]


class Titled(Shape):
    header = "Lift,Boat Reg,Crane,Tonnes"
    title, total = "Lifts of the yard", True

    def row(self, random: Random, number: int, month: int) -> list[str]:
        return [str(800 + number), BOATS[random.randrange(12 + 4 * month)][0], "AB"[number % 2], str(number % 9 + 2)]


SHAPES = [Shape, WithoutKey, Sideways, Lists, Computed, Pairs, Titled]


def write(path: Path, shape: Shape, rows: list[list[str]]) -> None:
    lines = [shape.header, *map(",".join, rows)]
    if hasattr(shape, "title"):
        total = sum(int(row[-1]) for row in rows)
        lines = [shape.title + ",,,", *lines, f"Total,,,{total}"]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")


def counts(target: Path) -> dict[str, int]:
    with sqlite3.connect(target) as database:
        names = [row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        ours = [name for name in names if not name.startswith("hemplit_")]
        return {name: database.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0] for name in ours}


@pytest.mark.parametrize("kind", SHAPES, ids=lambda kind: kind.__name__)
def test_months_that_are_added_are_as_all_of_them_loaded_at_once(kind: type[Shape], tmp_path: Path) -> None:
    random, shape = Random(3), kind()
    months, number = [], 0
    for month in range(6):
        made = []
        for _ in range(60 if month == 0 else 24):
            number += 1
            made.append(shape.row(random, number, month))
        months.append(made)
        write(tmp_path / f"m{month}.csv", shape, made)
    ran = hemplit("load", "m0.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    for month in range(1, 6):
        # The month before comes with it again, as people send it.
        write(tmp_path / "next.csv", shape, months[month - 1] + months[month] if month % 2 else months[month])
        ran = hemplit("topup", "yard.design.toml", "next.csv", "--into", "yard.sqlite", folder=tmp_path)
        assert "Verified" in ran.out, ran.out + ran.err
        (tmp_path / "next.csv").rename(tmp_path / f"added{month}.csv")
    write(tmp_path / "all.csv", shape, [row for made in months for row in made])
    design = (tmp_path / "yard.design.toml").read_text(encoding="utf-8").replace('"m0.csv"', '"all.csv"')
    (tmp_path / "all.design.toml").write_text(design, encoding="utf-8")
    at_once = hemplit("load", "all.design.toml", "--into", "all.sqlite", folder=tmp_path)
    assert "Verified" in at_once.out, at_once.err
    assert counts(tmp_path / "yard.sqlite") == counts(tmp_path / "all.sqlite")
    plain = tmp_path / "plain.csv"
    plain.write_text(
        "\n".join([shape.header, *(",".join(row) for made in months for row in made)]) + "\n", encoding="utf-8"
    )
    assert same_cells(plain, tmp_path / "yard.sqlite", "m0_sheet")
