"""The sheets that the boatyard's office keeps, with the habits of people who keep sheets, written into a folder."""

from __future__ import annotations

import csv
import shutil
import tempfile
from datetime import datetime
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING

import xlsxwriter

from hemplit.demo.world import SEED, World, world

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

JOBS = "jobs.csv"
PARTS = "parts-used.csv"
ROSTER = "crew-roster.xlsx"
HAUL_OUTS = "haul-outs"
PART_GROUPS = 4
MONTHS = {4: "April", 5: "May", 6: "June"}


def write_sheets(folder: Path, seed: int = SEED) -> tuple[str, ...]:
    """Writes all sheets into the folder and returns their names in it.

    Raises ``FileExistsError`` with the name of a file that is there and says something else; nothing is written then.
    """
    with tempfile.TemporaryDirectory() as made:
        names = _write(Path(made), seed)
        for name in names:
            there = folder / name
            if there.exists() and there.read_bytes() != (Path(made) / name).read_bytes():
                raise FileExistsError(str(there))
        for name in names:
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(Path(made) / name, folder / name)
    return names


def _write(folder: Path, seed: int) -> tuple[str, ...]:
    yard = world(seed)
    (folder / HAUL_OUTS).mkdir(parents=True, exist_ok=True)
    _write_csv(folder / JOBS, _job_rows(yard))
    _write_csv(folder / PARTS, _part_rows(yard))
    _write_roster(folder / ROSTER, yard)
    names = [JOBS, PARTS, ROSTER]
    for name, rows in _haul_out_sheets(yard, Random(seed)):
        _write_csv(folder / HAUL_OUTS / name, rows)
        names.append(f"{HAUL_OUTS}/{name}")
    return tuple(names)


def _write_csv(path: Path, rows: Iterable[Sequence[object]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(rows)


def _money(cents: int) -> str:
    return f"{cents // 100}.{cents % 100:02}"


def _job_rows(yard: World) -> list[Sequence[object]]:
    """One line per job; each repeats all of its boat, the boat's owner and its berth."""
    rows: list[Sequence[object]] = [
        (
            "Job No,Opened,Boat Reg,Boat,Length m,Hull Class,Owner,Owner Phone,Owner Town,Berth,Dock,Work,Status,Crew,"
            "Labour Hours,Hourly Rate,Labour Cost,Urgent,Remarks"
        ).split(",")
    ]
    for job in yard.jobs:
        boat = job.boat
        about = (
            (
                boat.registration,
                boat.name,
                f"{boat.length:.1f}",
                boat.hull_class,
                boat.owner.name,
                boat.owner.phone,
                boat.owner.town,
                boat.berth,
                boat.dock,
            )
            if boat
            else ("",) * 9
        )
        cost = (job.quarter_hours * job.rate + 2) // 4
        rows.append(
            (
                job.number,
                job.opened.isoformat(),
                *about,
                job.work,
                job.status,
                ", ".join(job.crew),
                f"{job.quarter_hours / 4:.2f}",
                _money(job.rate),
                _money(cost),
                "yes" if job.urgent else "no",
                job.remark,
            )
        )
    return rows


def _part_rows(yard: World) -> list[Sequence[object]]:
    """The parts of a job run sideways: Part 1, Qty 1, Price 1, Part 2, …"""
    header = ["Job No"]
    for group in range(1, PART_GROUPS + 1):
        header += [f"Part {group}", f"Qty {group}", f"Price {group}"]
    rows: list[Sequence[object]] = [header]
    for job in yard.jobs:
        if job.parts:
            cells: list[object] = [job.number]
            for code, quantity, price in job.parts:
                cells += [code, quantity, _money(price)]
            rows.append(cells + [""] * (len(header) - len(cells)))
    return rows


def _write_roster(path: Path, yard: World) -> None:
    book = xlsxwriter.Workbook(path)
    book.set_properties({"created": datetime(2026, 3, 1)})  # else the moment of writing, and no two files alike
    sheet = book.add_worksheet("Crew")
    day = book.add_format({"num_format": "dd/mm/yyyy"})
    sheet.write_row(0, 0, ("Name", "Trade", "Since", "Phone", "Supervisor"), book.add_format({"bold": True}))
    for row, worker in enumerate(yard.workers, 1):
        sheet.write_row(row, 0, (worker.name, worker.trade))
        sheet.write_datetime(row, 2, datetime.combine(worker.since, datetime.min.time()), day)
        sheet.write_row(row, 3, (worker.phone, worker.supervisor))
    sheet.set_column(0, 4, 18)
    book.close()


def _haul_out_sheets(yard: World, random: Random) -> list[tuple[str, list[Sequence[object]]]]:
    """A sheet per dock and month; only the file name says which. Each has a title, a total, and a few slips."""
    sheets = []
    docks = sorted({boat.dock for boat in yard.boats})
    for dock in docks:
        for month, month_name in MONTHS.items():
            outs = [out for out in yard.haul_outs if out.boat.dock == dock and out.day.month == month]
            rows: list[Sequence[object]] = [
                (f"Haul-outs {dock}, {month_name} 2026", "", "", ""),
                ("", "", "", ""),
                ("Day", "Boat Reg", "Boat", "Weight kg"),
            ]
            for out in outs:
                day = out.day.isoformat() if random.random() < 0.7 else f"{out.day:%d/%m/%Y}"
                rows.append((day, out.boat.registration, _slip(out.boat.name, random), out.weight))
            rows.append(("Total", "", "", sum(out.weight for out in outs)))
            sheets.append((f"2026-{month:02} {dock}.csv", rows))
    return sheets


def _slip(name: str, random: Random) -> str:
    """Now and then two letters change places."""
    if random.random() > 0.05:
        return name
    at = random.randrange(1, len(name) - 2)
    return name[:at] + name[at + 1] + name[at] + name[at + 2 :]
