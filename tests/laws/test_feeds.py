"""What several sheets speak of and none lists stands in one table, whatever they say of it and whoever says it next."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from random import Random

import pytest

from conftest import hemplit, same_cells

NAMES = (
    "Teal Heron Knot Gull Avocet Rail Swift Eider Smew Scaup Plover Curlew Dunlin Godwit Ruff Stint Tern Auk".split()
)
#: What is known of a boat, by what a sheet calls it.
BOATS = [
    {"Name": name, "Length m": f"{6 + at * 0.7:.1f}", "Owner": f"{'ABCDEF'[at % 6]}. {NAMES[-1 - at % 7]}", "Rig": rig}
    for at, (name, rig) in enumerate(zip(NAMES, ["sloop", "ketch", "yawl"] * 6, strict=True))
]
REGS = [f"PZ-{211 + 37 * at}" for at in range(len(NAMES))]
STATES = ["waiting", "in work", "done", "lost"]


class Sheet:
    """A sheet of records that speak of boats, under headers of its own, in one place of a row or in two."""

    def __init__(self, name: str, reg: str, said: dict[str, str], most: int, other: str = "") -> None:
        self.name, self.reg, self.said, self.most, self.other = name, reg, said, most, other
        self.number = f"{name[:-1].title()} No"
        self.rows: list[list[str]] = []

    def grow(self, random: Random, boats: list[int], rows: int) -> list[list[str]]:
        """So many rows more."""
        new = []
        for _ in range(rows):
            at, beside = random.choice(boats), random.choice(boats)
            cells = [BOATS[at][what] for what in self.said]
            number = f"{self.number[0]}-{100 + len(self.rows) + len(new)}"
            others = [REGS[beside]] if self.other else []
            state, minutes = random.choice(STATES[: self.most]), str(random.randint(100, 900))
            new.append([number, REGS[at], *cells, *others, state, minutes])
        self.rows += new
        return new

    def write(self, folder: Path, rows: list[list[str]], file: str) -> None:
        others = [self.other] if self.other else []
        lines = [[self.number, self.reg, *self.said.values(), *others, "Status", "Minutes"], *rows]
        (folder / file).write_text("".join(",".join(line) + "\n" for line in lines))


def sheets() -> list[Sheet]:
    return [
        Sheet("jobs", "Boat Reg", {"Name": "Boat", "Length m": "Length m", "Owner": "Owner"}, 3),
        Sheet("lifts", "Reg", {"Name": "Boat Name", "Rig": "Rig"}, 4),
        Sheet("visits", "Boat Reg", {"Name": "Boat"}, 4),
        Sheet("tows", "Boat Reg", {"Name": "Boat"}, 4, "Towed By Reg"),
    ]


def contents(database: Path) -> dict[str, list[tuple[object, ...]]]:
    """What is said of boats, and in which table it stands."""
    with sqlite3.connect(database) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        assert {"boats", "statuses"} == {name for name in tables if "boat" in name or "status" in name}
        query = "SELECT boat_reg, boats.name, length_m, rigs.name FROM boats LEFT JOIN rigs USING (rig_id)"
        counts = {name: list(connection.execute(f"SELECT count(*) FROM {name}")) for name in tables - {"hemplit_loads"}}
        counts.pop("hemplit_held", None)
        return {**counts, "said": sorted(connection.execute(query), key=str)}


@pytest.mark.parametrize("seed", range(4))
def test_sheets_that_fill_one_table_grow_in_turn(seed: int, tmp_path: Path) -> None:
    random, given = Random(seed), sheets()
    for at, sheet in enumerate(given):
        sheet.grow(random, range(2 * at, 8 + at), 40)
        sheet.write(tmp_path, sheet.rows, f"{sheet.name}.csv")
    files = [f"{sheet.name}.csv" for sheet in given]
    ran = hemplit("load", *files, "--into", "yard.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    again = hemplit("load", *random.sample(files, 4), "--into", "turned.sqlite", folder=tmp_path)
    assert contents(tmp_path / "yard.sqlite") == contents(tmp_path / "turned.sqlite"), again.err
    for month in range(1, 4):
        for sheet in random.sample(given, 4):
            rows = sheet.grow(random, range(4 * month, min(8 + 4 * month, len(BOATS))), 12)
            sheet.write(tmp_path, rows, f"{sheet.name}{month}.csv")
            ran = hemplit(
                "topup", "yard.design.toml", f"{sheet.name}{month}.csv", "--into", "yard.sqlite", folder=tmp_path
            )
            assert (ran.code, "Verified" in ran.out, "contradict" in ran.out) == (0, True, False), ran.out + ran.err
    assert "Verified" in hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=tmp_path).out
    for sheet in given:
        sheet.write(tmp_path, sheet.rows, f"{sheet.name}.csv")
        assert same_cells(tmp_path / f"{sheet.name}.csv", tmp_path / "yard.sqlite", f"{sheet.name}_sheet")
    ran = hemplit("load", "yard.design.toml", "--into", "all.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    assert contents(tmp_path / "yard.sqlite") == contents(tmp_path / "all.sqlite")
