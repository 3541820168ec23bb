"""Sheets that belong together give one design: they refer to each other, and what names nothing there is told."""

from __future__ import annotations

import json
import sqlite3
from itertools import pairwise
from pathlib import Path
from random import Random

import pytest
import xlsxwriter

from conftest import hemplit, same_cells

BOATS = [
    ("MQ-11", "Godwit of Tarnby", "Elske Visser"),
    ("MQ-12", "Razorbill", "Aldo Brandt"),
    ("MQ-23", "Grey Heron", "Elske Visser"),
    ("MQ-31", "Dunlin", "Ines Sund"),
    ("MQ-42", "Sanderling", "Gerrit Tamsin"),
    ("MQ-44", "Whimbrel", "Aldo Brandt"),
]
CREW = [("Ines", "Sund", "N"), ("Aldo", "Brandt", "E"), ("Gerrit", "Tamsin", "N"), ("Aldo", "Brandt", "S")]
DOCKS = [(dock, number, 4 + number) for dock in ("N", "S") for number in range(1, 7)]


def write(folder: Path, name: str, header: str, rows: list[tuple[object, ...]]) -> Path:
    path = folder / name
    path.write_text("\n".join([header, *(",".join(map(str, row)) for row in rows)]) + "\n", encoding="utf-8")
    return path


def boats(folder: Path) -> Path:
    return write(folder, "boats.csv", "Reg,Boat,Owner,Built", [(*boat, 1990 + at) for at, boat in enumerate(BOATS)])


def companies(folder: Path) -> Path:
    listed = [
        ("C1", "Alder Ltd", "Leeds"),
        ("C2", "Birch & Co", "York"),
        ("C3", "Cedar plc", "Hull"),
        ("C4", "Elm", "Bath"),
    ]
    return write(folder, "owners.csv", "Owner No,Company,Town", listed)


def of_owners(folder: Path, said: list[str]) -> Path:
    """Jobs of these owners, one after the other."""
    jobs = [(at, f"2026-01-0{at}", owner, at * 7 % 5) for at, owner in enumerate(said, 1)]
    return write(folder, "jobs.csv", "Job,Day,Owner,Hours", jobs)


def loaded(folder: Path, *sheets: Path, code: int = 0) -> tuple[dict[str, list[tuple[str, ...]]], str]:
    """The references of each table as (table, column, …), and what was printed; all cells are in the views."""
    ran = hemplit("load", *sheets, "--into", "yard.sqlite", folder=folder)
    assert ran.code == code, ran.err
    assert "Verified" in ran.out
    for sheet in sheets:
        assert same_cells(sheet, folder / "yard.sqlite", f"{sheet.stem}_sheet")
    again = hemplit("load", "yard.design.toml", "--into", "again.sqlite", folder=folder)
    assert again.code == code, again.err
    return references(folder / "yard.sqlite"), " ".join(ran.out.split())


def references(target: Path) -> dict[str, list[tuple[str, ...]]]:
    database = sqlite3.connect(target)
    tables = [row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    found: dict[str, list[tuple[str, ...]]] = {}
    for table in tables:
        keys: dict[int, list[str]] = {}
        for row in database.execute(f'PRAGMA foreign_key_list("{table}")'):
            keys.setdefault(row[0], [row[2]]).append(row[3])
        found[table] = sorted(tuple(one) for one in keys.values())
    database.close()
    return found


def rows(folder: Path, query: str) -> list[tuple[object, ...]]:
    database = sqlite3.connect(folder / "yard.sqlite")
    given = database.execute(query).fetchall()
    database.close()
    return given


def test_codes_and_names_that_another_sheet_writes_otherwise_are_found_or_told(tmp_path: Path) -> None:
    parts = [
        ("A-101", "shackle", "Corvik"),
        ("A-102", "cleat", "Norden"),
        ("B-200", "fender", "Corvik"),
        ("B-201", "buoy", "Svea"),
    ]
    write(tmp_path, "parts.csv", "Part No,Description,Supplier", parts)
    write(
        tmp_path,
        "stock.csv",
        "Part,Bin,On Hand",
        [(part.replace("-", ""), "K1", at) for at, (part, _, _) in enumerate(parts)],
    )
    write(
        tmp_path,
        "suppliers.csv",
        "Supplier,Phone,Town",
        [("Corvik AS", "555-1", "Tarn"), ("Norden", "555-2", "Holm"), ("Svea", "555-3", "Ebbing")],
    )
    ran = hemplit("load", "parts.csv", "stock.csv", "suppliers.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 1 and "'Corvik', which suppliers does not list: C2, C4" in ran.out, ran.out + ran.err
    assert "the nearest there is 'Corvik AS'" in ran.out
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert database.execute("SELECT count(*) FROM stock JOIN parts USING (part_no)").fetchone() == (4,)
        assert database.execute("SELECT count(*) FROM parts JOIN suppliers USING (supplier_id)").fetchone() == (2,)


def test_one_berth_of_three_that_no_list_has_is_told_and_the_others_are_found(tmp_path: Path) -> None:
    berths = write(tmp_path, "berths.csv", "Berth,Dock,Depth m", [(f"U{at}", at % 2, 2 + at / 4) for at in range(1, 6)])
    repairs = [("J1", "U2", "leak", 80), ("J2", "U5", "lock", 45), ("J3", "U2", "lamp", 210), ("J4", "U6", "post", 120)]
    crew = [("JO", "Jo", "Oakes"), ("KM", "Kim", "Marsh"), ("LB", "Lou", "Bell")]
    listed = write(tmp_path, "crew.csv", "Initials,First name,Last name", crew)
    sheet = write(tmp_path, "repairs.csv", "Job,Berth,Fault,Cost", repairs)
    _, out = loaded(tmp_path, berths, listed, sheet, code=1)
    assert "'Berth' says 'U6', which berths does not list: B5" in " ".join(out.split()), out
    assert rows(tmp_path, "SELECT job FROM jobs JOIN berths USING (berth) ORDER BY 1") == [("J1",), ("J2",), ("J3",)]
    assert rows(tmp_path, "SELECT job, berth_unmatched FROM jobs WHERE berth IS NULL") == [("J4", "U6")]
    assert rows(tmp_path, "SELECT last_name FROM crews WHERE initials = 'KM'") == [("Marsh",)]


def test_of_two_lists_that_other_sheets_bear_out_each_entry_has_both(tmp_path: Path) -> None:
    crew, kits = [f"{chr(65 + at)}nn" for at in range(11)], [f"kit {at:02}" for at in range(11)]
    lines: list[tuple[object, ...]] = []
    for first, last in pairwise([0, 2, 3, 6, 7, 9, 11]):
        lines.append((first, *(f'"{", ".join(some[first:last])}"' for some in (crew, kits))))
    people = write(tmp_path, "people.csv", "Name,Phone", [(name, f"0556 {at}71") for at, name in enumerate(crew)])
    listed = write(tmp_path, "kits.csv", "Kit,Weight kg", [(name, at + 1) for at, name in enumerate(kits)])
    loaded(tmp_path, people, listed, write(tmp_path, "jobs.csv", "Job,Fitter,Kit", lines))
    joined = "FROM job_fitters f JOIN people p ON p.person_id = f.fitter_id JOIN kits k USING (kit_id)"
    assert rows(tmp_path, f"SELECT p.name, k.name {joined} ORDER BY 1") == [*zip(crew, kits, strict=True)]


def test_lists_of_which_one_cell_has_several_or_all_are_numbers_refer_to_what_is_listed(tmp_path: Path) -> None:
    """What boats were given is no list of boats, though there is one row of each."""
    owners = write(
        tmp_path,
        "owners.csv",
        "Owner Name,Phone,Craft",
        [("Ann Frost", 111, '"Teal, Knot"'), ("Bo Crane", 222, "Smew"), ("Cy Moe", 333, "Gull"), ("Di Lie", 444, "")],
    )
    listed = write(
        tmp_path,
        "boats.csv",
        "Name,Rig,Built",
        [("Teal", "sloop", 2019), ("Knot", "ketch", 2020), ("Smew", "sloop", 2021), ("Gull", "yawl", 2022)],
    )
    awards = write(
        tmp_path, "awards.csv", "Boat,Speed,Looks", [("Teal", 7, 8), ("Smew", 5, 6), ("Knot", 8, 9), ("Gull", 4, 5)]
    )
    berths = write(tmp_path, "berths.csv", "Berth,Pier", [(101, "N"), (102, "N"), (201, "S"), (202, "S")])
    crews = write(
        tmp_path,
        "crews.csv",
        "Hand,Sweeps Berths,Spare",
        [("Zed", '"101, 102"', '"101, 201"'), ("Xia", '"201, 202"', '"102, 202"')],
    )
    stays = write(
        tmp_path,
        "stays.csv",
        "Guest Email,Berth No,Arrival,Paid By",
        [
            ("ann@x.example", 101, "2026-03-01", "card"),
            ("bo@x.example", 201, "2026-03-01", "cash"),
            ("ann@x.example", 202, "2026-04-01", "card"),
            ("eve@x.example", 101, "2026-04-02", "card"),
        ],
    )
    mails = [("ann@x.example", "Ann"), ("bo@x.example", "Bo"), ("eve@x.example", "Eve"), ("fay@x.example", "Fay")]
    guests = write(tmp_path, "guests.csv", "Email,First Name", mails)
    found, _ = loaded(tmp_path, owners, listed, awards, berths, crews, stays, guests)
    assert found["owner_crafts"] == [("boats", "craft_id"), ("owners", "owner_name")]
    assert found["awards"] == [("boats", "boat_id")]
    assert found["hand_sweeps_berths"] == [("berths", "sweeps_berth"), ("hands", "hand")]
    assert found["stays"] == [("berths", "berth_no"), ("guests", "guest_id"), ("paid_by", "paid_by_id")]
    design = (tmp_path / "yard.design.toml").read_text(encoding="utf-8")
    assert 'key = ["stay_id"]' in design
    assert 'key = ["owner_name", "craft_id"]' in design
    assert rows(tmp_path, "SELECT spare FROM hands ORDER BY hand") == [("102, 202",), ("101, 201",)]


def test_doctors_of_which_another_sheet_says_whole_names_keep_them(tmp_path: Path) -> None:
    names = ["Dr. A. Holm", "Dr. B. Lund", "Dr. C. Tan"]
    write(tmp_path, "doctors.csv", "Doctor ID,Name,Field", [(f"D{at}", name, at) for at, name in enumerate(names)])
    visits = [(at, f"2026-02-{at + 1:02}", names[at % 3], 40 + at) for at in range(12)]
    write(tmp_path, "visits.csv", "Visit,Date,Doctor,Fee", visits)
    ran = hemplit("load", "doctors.csv", "visits.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert database.execute("SELECT count(*) FROM visits JOIN doctors USING (doctor_id)").fetchone() == (12,)


def test_a_column_refers_to_the_sheet_that_lists_its_values(tmp_path: Path) -> None:
    random = Random(1)
    jobs = [(700 + job, BOATS[random.randrange(6)][0], random.randrange(1, 9)) for job in range(40)]
    found, _ = loaded(tmp_path, boats(tmp_path), write(tmp_path, "jobs.csv", "Job,Boat Reg,Hours", jobs))
    assert found["jobs"] == [("boats", "boat_reg")]
    assert rows(tmp_path, "SELECT count(*) FROM jobs JOIN boats ON boats.reg = jobs.boat_reg") == [(40,)]


def test_what_the_list_says_already_is_stored_once(tmp_path: Path) -> None:
    random = Random(2)
    jobs = [(700 + job, *BOATS[random.randrange(6)], random.randrange(1, 9)) for job in range(60)]
    path = write(tmp_path, "jobs.csv", "Job,Boat Reg,Boat,Boat Owner,Hours", jobs)
    loaded(tmp_path, boats(tmp_path), path)
    assert rows(tmp_path, "SELECT name FROM pragma_table_info('jobs')") == [("job",), ("boat_reg",), ("hours",)]


def test_what_is_not_listed_is_kept_and_told_with_what_is_nearest(tmp_path: Path) -> None:
    random = Random(3)
    jobs = [(700 + job, BOATS[random.randrange(6)][1], random.randrange(1, 9)) for job in range(40)]
    jobs[7] = (707, "Kittiwake", 3)
    jobs[9] = (709, "Dunlln", 4)
    path = write(tmp_path, "jobs.csv", "Job,Boat,Hours", jobs)
    found, out = loaded(tmp_path, boats(tmp_path), path, code=1)
    assert found["jobs"] == [("boats", "boat_reg")]
    assert rows(tmp_path, "SELECT job, boat_unmatched FROM jobs WHERE boat_reg IS NULL") == [
        (707, "Kittiwake"),
        (709, "Dunlln"),
    ]
    assert rows(tmp_path, "SELECT count(*) FROM jobs WHERE boat_unmatched IS NOT NULL") == [(2,)]
    assert "'Boat' says 'Kittiwake', which boats does not list: B9" in out
    assert "B11 the nearest there is 'Dunlin'" in out


@pytest.mark.parametrize("written", ["{0} {1}", "{1}, {0}"])
def test_a_name_in_one_cell_finds_the_person_that_is_listed_in_two(written: str, tmp_path: Path) -> None:
    crew = write(tmp_path, "crew.csv", "First Name,Last Name,Dock,Since", [(*one, 2019) for one in CREW])
    random = Random(4)
    shifts = [(at, *CREW[random.randrange(4)]) for at in range(30)]
    lines = [(at, f'"{written.format(first, last)}"', dock) for at, first, last, dock in shifts]
    ran = hemplit(
        "load", crew, write(tmp_path, "shifts.csv", "Shift,Crew,Dock", lines), "--into", "yard.sqlite", folder=tmp_path
    )
    assert (ran.code, "Verified" in ran.out) == (0, True)
    joined = rows(
        tmp_path, "SELECT shift, first_name, last_name, crews.dock FROM shifts JOIN crews USING (crew_id) ORDER BY 1"
    )
    assert joined == shifts


def test_a_name_is_enough_where_the_rest_is_blank_unless_two_have_it(tmp_path: Path) -> None:
    listed = [("Ann Lowe", "N"), ("Ben Hale", "E"), ("Ann Lowe", "S"), ("Cora Finn", "E"), ("Dirk Moss", "N")]
    crew = write(tmp_path, "crew.csv", "Name,Dock,Phone", [(*one, f"0556 {at}71") for at, one in enumerate(listed)])
    shifts: list[tuple[object, ...]] = [(at, *listed[at % 5]) for at in range(40)]
    shifts[11], shifts[12] = (11, "Ben Hale", ""), (12, "Ann Lowe", "")
    _, out = loaded(tmp_path, crew, write(tmp_path, "shifts.csv", "Shift,Crew,Dock", shifts), code=1)
    assert rows(tmp_path, "SELECT shift FROM shifts WHERE crew_id IS NULL") == [(12,)]
    assert "says 'Ann Lowe', and 2 rows of crews are called so: B14 they are Ann Lowe, N; Ann Lowe, S" in out


def test_zeros_in_front_do_not_part_what_belongs_together(tmp_path: Path) -> None:
    berths = [(f"{number:04}", f"berth at {number}") for number in range(7, 900, 43)]
    lines = [(at, int(berths[at % 20][0])) for at in range(60)]
    listed = write(tmp_path, "berths.csv", "Berth No,Where", list(berths))
    loaded(tmp_path, listed, write(tmp_path, "stays.csv", "Stay,Berth", lines))
    assert rows(tmp_path, "SELECT count(*) FROM stays JOIN berths USING (berth_no)") == [(60,)]


def test_two_columns_together_refer_to_a_key_of_two(tmp_path: Path) -> None:
    random = Random(5)
    visits = [(at, *random.choice(DOCKS)[:2], random.randrange(40, 90)) for at in range(80)]
    visits[3] = (3, "S", 9, 50)
    places = write(tmp_path, "places.csv", "Dock,Place,Length m", list(DOCKS))
    found, out = loaded(tmp_path, places, write(tmp_path, "visits.csv", "Visit,Dock,No,Fee", visits), code=1)
    assert found["visits"] == [("places", "dock", "no")]
    assert "'Dock' + 'No' says 'S, 9', which places does not list" in out


def test_rows_name_others_of_the_same_sheet_and_one_that_is_not_there(tmp_path: Path) -> None:
    hulls = [(1040 + at, 1040 + at // 3 if at > 4 else "", 20 + at) for at in range(40)]
    hulls[20] = (1060, 977, 40)
    path = write(tmp_path, "hulls.csv", "Hull,Parent Hull,Weight kg", hulls)
    found, out = loaded(tmp_path, path, code=1)
    assert found["hulls"] == [("hulls", "parent_hull")]
    assert "'Parent Hull' says '977', which hulls does not list: B22" in out


def test_lists_of_rows_that_another_sheet_names_refer_to_these_rows(tmp_path: Path) -> None:
    """Races of the boats that are listed elsewhere, each with a crew; the year in which members joined is no key."""
    more = [("Nuala", "Keel"), ("Sile", "Marsh"), ("Hanne", "Visser")]
    members = [(first, last, 2015 + at) for at, (first, last, *_) in enumerate([*CREW[:3], *more])]
    random, names = Random(2), [last for _, last, _ in CREW[:3]]
    races = [
        (
            f"R{race}",
            f"2026-06-0{race}",
            boat[1],
            f'"{", ".join(random.sample(names, random.randrange(1, 4)))}"',
            at + 1,
        )
        for race in (1, 2, 3, 4)
        for at, boat in enumerate(random.sample(BOATS, 4))
    ]
    sheets = [
        boats(tmp_path),
        write(tmp_path, "members.csv", "First Name,Last Name,Joined", members),
        write(tmp_path, "races.csv", "Race,Date,Boat,Crew,Place", races),
    ]
    told, _ = loaded(tmp_path, *sheets)
    assert told["members"] == []
    rows_of_races = next(name for name, to in told.items() if ("boats", "reg") in to or ("boats", "boat_reg") in to)
    crews = next(to for name, to in told.items() if name.endswith("crews"))
    assert any(one[0] == rows_of_races and len(one) == 3 for one in crews), told
    assert {one[0] for one in crews} == {rows_of_races, "members"}
    held = "SELECT name FROM pragma_table_info('members') WHERE pk"
    assert rows(tmp_path, held) == [("member_id",)]


MEMBERS = [
    ("Sund", "Ines"),
    ("Brandt", "Aldo"),
    ("Tamsin", "Gerrit"),
    ("Keel", "Nuala"),
    ("Marsh", "Sile"),
    ("Foss", "Elske"),
]
PARTS = [
    (f"P-{100 + at}", name, ("Deck", "Rigging", "Electrics")[at % 3], "m" if at % 4 == 3 else "pc")
    for at, name in enumerate("Cleat Shackle Pump Halyard Fairlead Panel Hatch Block Cable".split())
]


@pytest.mark.parametrize("first", ["parts", "orders"])
@pytest.mark.parametrize("unlisted", [0, 1])
def test_what_a_list_says_is_not_said_again(first: str, unlisted: int, tmp_path: Path) -> None:
    """Orders repeat the name and the sort of a part and where its maker sits; of one that is not listed all is kept."""
    makers = [("M1", "Tarn & Co", "Keel"), ("M2", "Marlow", "Tarnby"), ("M3", "Visser", "Keel")]
    made_by = [makers[at % 2 + (at > 5)] for at in range(len(PARTS))]
    parts = [(*part, maker[0]) for part, maker in zip(PARTS, made_by, strict=True)]
    told_of = {part[0]: (*part[:3], *maker[1:]) for part, maker in zip(PARTS, made_by, strict=True)}
    orders = [(f"O{at}", *told_of[PARTS[Random(at).randrange(9)][0]], 1 + at % 7) for at in range(24)]
    orders[5:5] = [("O99", "P-999", "Winch", "Deck", "Marlow", "Tarnby", 1)][:unlisted]
    sheets = [
        write(tmp_path, "makers.csv", "Maker No,Name,Town", [*makers]),
        write(tmp_path, "parts.csv", "Part No,Part,Sort,Unit,Maker No", [*parts]),
        write(tmp_path, "orders.csv", "Order No,Part No,Part,Sort,Maker,Maker Town,Qty", [*orders]),
    ]
    told, out = loaded(tmp_path, *sheets[:: 1 if first == "parts" else -1], code=unlisted)
    assert told.keys() - {"hemplit_objects", "hemplit_loads"} == {"orders", "parts", "sorts", "units", "makers"}
    assert told["orders"] == [("parts", "part_no")]
    assert out.count("which parts does not list") == unlisted
    held = [name for (name,) in rows(tmp_path, "SELECT name FROM pragma_table_info('orders')")]
    kept = [name for name in held if name.endswith("_unmatched")]
    assert kept == [f"{of}_unmatched" for of in "part_no part sort maker maker_town".split()][: 5 * unlisted]
    assert [name for name in held if name not in kept] == ["order_no", "part_no", "qty"]
    ran = hemplit("why", "yard.design.toml", folder=tmp_path)
    assert "Part, Sort, Maker, Maker Town: the view takes them from parts, by 'Part No'" in " ".join(ran.out.split())
    ran = hemplit("why", "yard.design.toml", "orders.maker_town", folder=tmp_path)
    assert "which the view takes from parts.maker_no.town along part_no" in " ".join(ran.out.split())
    assert hemplit("draw", "yard.design.toml", "--out", "yard.svg", folder=tmp_path).code == 0
    assert (tmp_path / "yard.svg").read_text(encoding="utf-8").count(">calc<") == 4
    # Next month one part is ordered twice, one order says otherwise, and, if that can be kept, another names no part.
    told_of |= {
        "P-998": ("P-998", "Cowl", "Deck", "Visser", "Keel"),
        "P-100": ("P-100", "Cleat", "Hull", "Marlow", "Keel"),
    }
    named = ["P-103", "P-100", "P-103", "P-104", "P-102", "P-998"][: 5 + unlisted]
    more = [(f"O8{at}", *told_of[part], 1) for at, part in enumerate(named)]
    path = write(tmp_path, "june.csv", "Order No,Part No,Part,Sort,Maker,Maker Town,Qty", [*more])
    ran = hemplit("topup", "yard.design.toml", path, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 1 and "june.csv D3: 'Sort' is 'Hull'" in ran.out and "stands in 2 rows" not in ran.out, ran.out
    assert ran.out.count("which parts does not list") == unlisted
    assert len(rows(tmp_path, "SELECT * FROM orders_sheet")) == len(orders) + len(more) - 1


def test_where_a_list_says_otherwise_of_one_part_what_orders_say_stays_with_them(tmp_path: Path) -> None:
    orders = [(f"O{at}", *PARTS[Random(at).randrange(9)][:3], 1 + at % 7) for at in range(24)]
    listed = [(*PARTS[0][:2], "Rigging", PARTS[0][3]), *PARTS[1:]]
    told, out = loaded(
        tmp_path,
        write(tmp_path, "orders.csv", "Order No,Part No,Part,Sort,Qty", [*orders]),
        write(tmp_path, "parts.csv", "Part No,Part,Sort,Unit", [*listed]),
        code=1,
    )
    rows_of = [f"D{at + 2}" for at, order in enumerate(orders) if order[1] == "P-100"]
    assert f"'Sort' of P-100 is 'Deck', and 'Rigging' in parts: {', '.join(rows_of[:5])}" in out
    assert told["orders"] == [("parts", "part_no"), ("sorts", "sort_id")], told


def test_a_class_of_ranges_names_nothing_in_another_sheet(tmp_path: Path) -> None:
    """Its table has the limits and the names, and no more."""
    lengths = [6.5, 7.2, 7.9, 8.4, 9.1, 9.8, 10.4, 11.3, 12.2, 13.0, 8.8, 12.6]
    rigs = ["Ketch" if length > 10 else "Sloop" for length in lengths]
    sheets = [
        write(
            tmp_path,
            "boats.csv",
            "Reg,Boat,Length,Rig",
            [(f"MQ-{at}", f"Boat {at}", lengths[at], rigs[at]) for at in range(12)],
        ),
        write(
            tmp_path,
            "jobs.csv",
            "Job,Boat Reg,Rig,Hours",
            [(7000 + at, f"MQ-{at * 5 % 12}", rigs[at * 5 % 12], at % 4) for at in range(24)],
        ),
    ]
    loaded(tmp_path, *sheets)
    ran = hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0 and 'purpose = "range"' in (tmp_path / "yard.design.toml").read_text(encoding="utf-8"), ran.err


@pytest.mark.parametrize(
    ("odd", "stored"),
    [
        ("", ["order_no", "owner_no", "hours"]),
        ("phone", ["order_no", "owner_no", "phone", "hours"]),
        ("blank", ["order_no", "owner_no", "address", "town_id", "phone", "hours"]),
    ],
)
def test_how_an_owner_is_reached_is_no_second_name_in_a_list(odd: str, stored: list[str], tmp_path: Path) -> None:
    """Another number is told and makes no second owner; what some orders leave blank stays with them."""
    owners = [
        (
            f"OW{at}",
            name,
            f"{at + 3} Quay Street",
            ("Keel", "Tarnby", "Keel", "Marlow", "Tarnby")[at],
            f"0559 {at}{at}0",
        )
        for at, name in enumerate(("Harbour Watch", "Mill Boats", "Castle Lines", "Gate Sails", "Bay Ferries"))
    ]
    orders = [[f"O{at}", *owners[Random(at + 5).randrange(5)][1:], 1 + at % 7] for at in range(25)]
    if odd == "phone":
        orders[7][4] = "0559 999"
    for order in orders[:: 3 if odd == "blank" else 99]:
        order[2:5] = ["", "", ""] if odd == "blank" else order[2:5]
    sheets = [
        write(tmp_path, "orders.csv", "Order No,Owner,Address,Town,Phone,Hours", [tuple(order) for order in orders]),
        write(tmp_path, "owners.csv", "Owner No,Name,Address,Town,Phone", [*owners]),
    ]
    told, out = loaded(tmp_path, *sheets, code=1 if odd == "phone" else 0)
    assert [name for (name,) in rows(tmp_path, "SELECT name FROM pragma_table_info('orders')")] == stored
    assert ("owners", "owner_no") in told["orders"]
    assert ("is '0559 999', and" in out) == (odd == "phone")
    assert len(rows(tmp_path, "SELECT * FROM owners")) == 5


def test_who_leads_a_few_jobs_is_a_name_of_the_list_though_no_header_says_so(tmp_path: Path) -> None:
    workers = [(20 + at, " ".join(name)) for at, name in enumerate(MEMBERS)]
    jobs = [(f"J{at}", f"Job {at}", " ".join(MEMBERS[2 * at])) for at in range(3)]
    sheets = [
        write(tmp_path, "workers.csv", "Worker No,Name", [*workers]),
        write(tmp_path, "jobs.csv", "Job,Title,Lead", [*jobs]),
    ]
    told, _ = loaded(tmp_path, *sheets)
    assert told["jobs"] == [("workers", "lead_worker_no")]


def test_what_an_order_says_otherwise_stays_with_it(tmp_path: Path) -> None:
    orders = [(f"O{at}", *PARTS[Random(at).randrange(9)][:3], 1 + at % 7) for at in range(24)]
    orders[-1] = (*orders[-1][:3], "Spares", 3)
    told, out = loaded(
        tmp_path,
        write(tmp_path, "parts.csv", "Part No,Part,Sort,Unit", [*PARTS]),
        write(tmp_path, "orders.csv", "Order No,Part No,Part,Sort,Qty", [*orders]),
        code=1,
    )
    sort = next(part[2] for part in PARTS if part[0] == orders[-1][1])
    assert f"'Sort' of {orders[-1][1]} is 'Spares', and '{sort}' in parts: D25" in out
    assert told["orders"] == [("parts", "part_no"), ("sorts", "sort_id")]


#: The numbers of riggers, each with that of the boss.
BOSSES = [(1, ""), (2, "R-01"), (3, "R-01"), (4, "R-02"), (5, "R-02"), (6, "R-03"), (7, "R-03"), (8, "R-02")]


@pytest.mark.parametrize(
    ("with_numbers", "columns", "told_of"),
    [
        (True, ["staff_no", "name", "boss_no", "boss_no_unmatched", "boss_unmatched"], "'Boss No' says 'R-03'"),
        (False, ["staff_no", "name", "boss_staff_no", "boss_unmatched"], "'Boss' says 'Cora Falk'"),
    ],
)
def test_a_boss_who_is_not_listed_is_kept_beside(
    with_numbers: bool, columns: list[str], told_of: str, tmp_path: Path
) -> None:
    """The view takes the name of the others along the reference by their number."""
    names = {"R-01": "Ada Keel", "R-02": "Bram Lund", "R-03": "Cora Falk", "R-04": "Dov Marsh"}
    bosses = [("R-01", ""), ("R-02", "R-01"), ("R-04", "R-01"), ("R-05", "R-03"), ("R-06", "R-02"), ("R-08", "R-03")]
    bosses += [("R-10", "R-02"), ("R-12", "R-04"), ("R-13", "R-02")]
    staff = [
        (no, names.get(no, f"Rigger {no[2:]}"), *([boss] if with_numbers else []), names.get(boss, ""))
        for no, boss in bosses
    ]
    header = "Staff No,Name,Boss No,Boss" if with_numbers else "Staff No,Name,Boss"
    told, out = loaded(tmp_path, write(tmp_path, "riggers.csv", header, staff), code=1)
    assert [table for table, _ in told["staff"]] == ["staff"]
    assert [name for (name,) in rows(tmp_path, "SELECT name FROM pragma_table_info('staff')")] == columns
    assert told_of in out


def test_what_nobody_says_of_a_boss_who_is_not_listed_needs_no_column(tmp_path: Path) -> None:
    staff = [(f"R-0{at}", f"0556 10{at}", boss, f"0556 10{boss[-1]}" if boss else "") for at, boss in BOSSES]
    staff.append(("R-09", "0556 109", "R-77", ""))
    told, _ = loaded(tmp_path, write(tmp_path, "riggers.csv", "Staff No,Phone,Boss No,Boss No Phone", staff), code=1)
    assert [table for table, _ in told["staff"]] == ["staff"]
    columns = [name for (name,) in rows(tmp_path, "SELECT name FROM pragma_table_info('staff')")]
    assert columns == ["staff_no", "phone", "boss_no", "boss_no_unmatched"]


def test_a_worker_with_a_number_is_named_as_the_boss_of_others_by_name(tmp_path: Path) -> None:
    """Also in the next sheet, where bosses are named who were loaded before."""
    bosses = (None, "Ines Sund", "Ines Sund", "Aldo Brandt", "Aldo Brandt", "Ines Sund", "Lotte Maas")
    names = ("Ines Sund", "Aldo Brandt", "Lotte Maas", "Gerrit Tamsin", "Karin Tolk", "Sile Marsh", "Nuala Keel")
    workers = [(20 + at, name, boss or "") for at, (name, boss) in enumerate(zip(names, bosses, strict=True))]
    told, _ = loaded(tmp_path, write(tmp_path, "workers.csv", "Worker No,Name,Boss", [*workers]))
    assert told["workers"] == [("workers", "boss_worker_no")]
    more = write(
        tmp_path, "more.csv", "Worker No,Name,Boss", [(40, "Elske Foss", "Lotte Maas"), (41, "Bo Berg", "Elske Foss")]
    )
    ran = hemplit("topup", "yard.design.toml", more, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err or ran.out
    held = rows(tmp_path, "SELECT worker_no, boss_worker_no FROM workers WHERE worker_no > 24")
    assert held == [(25, 20), (26, 22), (40, 22), (41, 40)]
    wrong = write(tmp_path, "wrong.csv", "Worker No,Name,Boss", [(42, "Cato Dahl", "Nobody")])
    ran = hemplit("topup", "yard.design.toml", wrong, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code > 0 and "Nobody" in ran.err + ran.out
    assert len(rows(tmp_path, "SELECT * FROM workers")) == 9


@pytest.mark.parametrize("unlisted", [0, 1])
def test_full_names_are_taken_apart_where_a_sheet_lists_all_by_their_parts(unlisted: int, tmp_path: Path) -> None:
    """Each paid the same each time so far, which is not said of the member; the fee is said of the plan."""
    members = [
        (501 + at, *name, f"{name[1]}@example.org" if at else "", *(("Gold", 45) if at % 2 else ("Silver", 20)))
        for at, name in enumerate(MEMBERS)
    ]
    paid = [(f"Y{at}", " ".join(MEMBERS[at % 6][::-1]), 20 + at % 2 * 25) for at in range(22)]
    sheets = [
        write(tmp_path, "members.csv", "Member No,Last Name,First Name,Email,Plan,Fee", members[unlisted:]),
        write(tmp_path, "payments.csv", "Payment Ref,Member,Amount", [*paid]),
    ]
    ran = hemplit("load", *sheets, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == unlisted and "Verified" in ran.out, ran.err
    columns = {
        of: [name for (name,) in rows(tmp_path, f"SELECT name FROM pragma_table_info('{of}')")]
        for of in ("plans", "payments", "payments_sheet")
    }
    assert columns["plans"] == ["plan_id", "name", "fee"]
    assert columns["payments_sheet"] == (
        ["Payment Ref", "Member", "Amount"]
        if unlisted
        else ["Payment Ref", "Member First Name", "Member Last Name", "Amount"]
    )
    assert unlisted or columns["payments"] == ["payment_ref", "member_no", "amount"]


def test_a_price_list_by_two_columns_is_referred_to_by_both(tmp_path: Path) -> None:
    trips = [("T1", "Island round", 8), ("T2", "Seal bank", 12), ("T3", "Old fort", 10)]
    prices = [
        (trip[0], season, 15 + 5 * at + 3 * dear)
        for at, trip in enumerate(trips)
        for dear, season in enumerate(("low", "high"))
    ]
    random = Random(1)
    sailings = [
        (f"S{at}", random.choice(trips)[0], f"2026-06-{at + 1:02}", random.choice(["low", "high"])) for at in range(14)
    ]
    told, _ = loaded(
        tmp_path,
        write(tmp_path, "trips.csv", "Trip,Title,Seats", trips),
        write(tmp_path, "prices.csv", "Trip,Season,Price", prices),
        write(tmp_path, "sailings.csv", "Sailing,Trip,Date,Season", sailings),
    )
    assert told["prices"] == [("trips", "trip")]
    assert told["sailings"] == [("prices", "trip", "season")]


def test_what_all_rows_of_a_listed_thing_say_so_far_is_not_said_of_it(tmp_path: Path) -> None:
    """Of each supplier all orders are open, or all are done: three suppliers, eight orders."""
    suppliers = [("S1", "Tarn Chandlery", "55-1"), ("S2", "Halden Rope", "55-2"), ("S3", "Os Marine", "55-3")]
    orders = [
        (f"PO-{at}", f"2026-02-0{at + 1}", suppliers[at % 3][1], ("open", "done", "open")[at % 3]) for at in range(8)
    ]
    told, _ = loaded(
        tmp_path,
        write(tmp_path, "suppliers.csv", "Supplier No,Supplier,Phone", suppliers),
        write(tmp_path, "orders.csv", "Order No,Date,Supplier,Status", orders),
    )
    assert ("suppliers", "supplier_no") in told["orders"] and told["suppliers"] == []
    ran = hemplit("why", "yard.design.toml", folder=tmp_path)
    assert "another sheet lists 'Supplier' without 'Status', and it may be a coincidence" in " ".join(ran.out.split())


def test_what_the_list_says_of_a_thing_is_taken_from_there_though_it_would_name_it_too(tmp_path: Path) -> None:
    """Each of three suppliers is of another town, so that a town names one as well."""
    suppliers = [("S1", "Tarn Chandlery", "Tarn"), ("S2", "Halden Rope", "Halden"), ("S3", "Os Marine", "Os")]
    orders = [(f"PO-{at}", f"2026-02-0{at + 1}", *suppliers[at % 3][1:], ("open", "done")[at // 4]) for at in range(7)]
    told, _ = loaded(
        tmp_path,
        write(tmp_path, "suppliers.csv", "Supplier No,Supplier,Town", suppliers),
        write(tmp_path, "orders.csv", "Order No,Date,Supplier,Town,Status", orders),
    )
    assert [one for one in told["orders"] if one[0] == "suppliers"] == [("suppliers", "supplier_no")]
    assert {name for name in told if not name.startswith("hemplit")} == {"orders", "statuses", "suppliers"}


def test_of_two_lists_the_whole_one_is_referred_to_and_what_happened_is_none(tmp_path: Path) -> None:
    """Calibrations of three of four gauges, on a day; a budget for some of the accounts, of which two have parts."""
    gauges = [("A-1", "T100", "North"), ("A-2", "T100", "South"), ("B-7", "P20", "North"), ("B-8", "P20", "East")]
    times = [
        (gauge, f"2026-01-01 0{hour}:00", hour * 3 % 7 + 0.5) for gauge in ("A-1", "A-2", "B-7") for hour in range(5)
    ]
    tested = [("A-1", "2025-10-05", 0.2), ("B-7", "2025-11-05", -0.1), ("A-2", "2025-12-05", 0.3)]
    told, _ = loaded(
        tmp_path,
        write(tmp_path, "instruments.csv", "Serial,Model,Station", gauges),
        write(tmp_path, "readings.csv", "Serial,Time,Level", times),
        write(tmp_path, "calibrations.csv", "Serial,Date,Offset", tested),
    )
    assert told["readings"] == told["calibrations"] == [("instruments", "serial")]
    assert rows(tmp_path, "SELECT name FROM pragma_table_info('calibrations') WHERE pk") == [("calibration_id",)]
    accounts = [
        (1000, "Income", ""),
        (1100, "Fees", 1000),
        (1200, "Hoist", 1000),
        (2000, "Costs", ""),
        (2100, "Wages", 2000),
    ]
    budget = [(account, 10 * at, 20 * at) for at, account in enumerate((1100, 1200, 2100), 1)]
    entries = [(at + 1, f"2026-03-{at + 10}", (1100, 1200, 2100)[at * 5 % 3], 4 * at + 0.25) for at in range(12)]
    (books := tmp_path / "books").mkdir()
    told, _ = loaded(
        books,
        write(books, "accounts.csv", "Account,Title,Belongs To", accounts),
        write(books, "budget.csv", "Account,Spring,Autumn", budget),
        write(books, "entries.csv", "Entry,Date,Account,Amount", entries),
    )
    assert told["entries"] == [("accounts", "account")] and told["accounts"] == [("accounts", "belongs_to")]
    with sqlite3.connect(books / "yard.sqlite") as database:
        assert database.execute("SELECT name FROM pragma_table_info('budgets') WHERE pk").fetchall() == [("account",)]


def test_a_list_by_two_columns_of_which_one_is_an_id_leaves_each_its_own_reference(tmp_path: Path) -> None:
    """Players are known by team and shirt, and teams have ids: goals refer to the team, and keep the shirt."""
    teams = [("Tarn", "Red"), ("Halden", "Blue"), ("Os", "Green")]
    players = [
        (team, shirt, f"{name} {team}") for team, _ in teams for shirt, name in enumerate(("Ada", "Bo", "Cy"), 1)
    ]
    random = Random(4)
    goals = [
        (minute, f"2026-05-0{at % 4 + 1}", *random.choice(players)[:2])
        for at, minute in enumerate(random.sample(range(90), 20))
    ]
    told, _ = loaded(
        tmp_path,
        write(tmp_path, "teams.csv", "Team,Colour", teams),
        write(tmp_path, "players.csv", "Team,Shirt No,Player", players),
        write(tmp_path, "goals.csv", "Minute,Date,Team,Shirt No", goals),
    )
    assert told["players"] == [("teams", "team_id")]
    assert ("teams", "team_id") in told["goals"]


def test_a_list_of_which_records_say_more_gives_the_table_its_name(tmp_path: Path) -> None:
    races = [
        (f"R{race}", f"2026-06-0{race}", boat[1], f"Skipper of {boat[0]}", place)
        for race in (1, 2, 3, 4)
        for place, boat in enumerate(Random(race).sample(BOATS, 5), 1)
    ]
    sheets = boats(tmp_path), write(tmp_path, "races.csv", "Race,Date,Boat,Skipper,Place", races)
    told, _ = loaded(tmp_path, *sheets)
    assert "boats" in told and rows(tmp_path, "SELECT count(*), count(skipper), count(built) FROM boats") == [(6, 6, 6)]


def test_numbers_that_only_count_belong_to_nothing(tmp_path: Path) -> None:
    poles = write(tmp_path, "poles.csv", "Pole,Depth cm", [(at, 40 + at) for at in range(1, 40)])
    tins = write(tmp_path, "tins.csv", "Tin,Litres,Shelf", [(at, at % 7 + 1, at % 5 + 1) for at in range(1, 31)])
    found, _ = loaded(tmp_path, poles, tins)
    assert not any(found.values())


def test_the_order_of_the_sheets_changes_no_table(tmp_path: Path) -> None:
    random = Random(6)
    jobs = [(700 + job, BOATS[random.randrange(6)][0], random.choice("NES")) for job in range(40)]
    sheets = [boats(tmp_path), write(tmp_path, "jobs.csv", "Job,Boat Reg,Dock", jobs)]
    made = []
    for order in (sheets, sheets[::-1]):
        ran = hemplit("draft", *order, "--json", "--out", "x.toml", "--replace", folder=tmp_path)
        tables = json.loads(ran.out)["tables"]
        made.append(
            sorted((table["name"], table["key"], [column["name"] for column in table["columns"]]) for table in tables)
        )
    assert made[0] == made[1]


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (('to = "boats"', 'to = "boats", named_by = ["bote"]'), "'boats' has no column 'bote'"),
        (('to = "boats"', 'to = "boats", named_by = ["name", "owner"]'), "rows of 'boats' are known by name + owner"),
        (('unmatched = "boat_reg"', 'unmatched = "hours"'), "'hours' refers to no table of another sheet"),
        (('unmatched = "boat_reg"', 'along = "boat_reg"'), "along and gives go together"),
        (('unmatched = "boat_reg"', 'along = "boat_reg", gives = "x"'), "'boats' has no column 'x'"),
        (("columns.boat_reg_unmatched", "# columns.x"), "which 'boats' has not"),
        (('from = "Boat Reg", to = "boats", type = "text"', 'to = "boats"'), "refers to no table of another sheet"),
    ],
)  # fmt: skip
def test_what_is_edited_wrongly_is_said(edit: tuple[str, str], said: str, tmp_path: Path) -> None:
    jobs = [(700 + job, BOATS[job % 6][0], job % 5) for job in range(40)]
    jobs[5] = (705, "MQ-99", 2)
    hemplit(
        "draft",
        boats(tmp_path),
        write(tmp_path, "jobs.csv", "Job,Boat Reg,Hours", jobs),
        "--out",
        "yard.design.toml",
        folder=tmp_path,
    )
    design = tmp_path / "yard.design.toml"
    text = design.read_text(encoding="utf-8")
    assert edit[0] in text
    design.write_text(text.replace(*edit), encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, said in ran.err, ran.err.count("\n")) == (2, True, 1), ran.err
    assert not (tmp_path / "yard.sqlite").exists()


def book(path: Path, sheets: dict[str, list[list[object]]]) -> Path:
    with xlsxwriter.Workbook(path) as made:
        for name, lines in sheets.items():
            sheet = made.add_worksheet(name)
            for at, cells in enumerate(lines):
                sheet.write_row(at, 0, cells)
    return path


def month(start: int) -> list[list[object]]:
    lines: list[list[object]] = [[start + at, BOATS[(start + at) % 6][0], at % 5 + 1] for at in range(14)]
    return [["Lift", "Boat Reg", "Hours"], *lines]


def test_worksheets_of_one_layout_are_one_table_with_their_month(tmp_path: Path) -> None:
    listed: list[list[object]] = [["Reg", "Boat", "Owner"], *map(list, BOATS)]
    sheets = {"Boats": listed, "April": month(500), "May": month(514)}
    path = book(tmp_path / "lifts.xlsx", sheets)
    ran = hemplit("load", path, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "Verified: all 34 rows" in " ".join(ran.out.split())) == (0, True)
    assert rows(tmp_path, 'SELECT "Month", count(*) FROM lifts_sheet GROUP BY 1') == [("April", 14), ("May", 14)]
    book(path, sheets | {"June": month(528)})
    again = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path)
    assert "Verified: all 48 rows" in " ".join(again.out.split()), again.err
    assert rows(tmp_path, "SELECT count(*) FROM lifts_sheet WHERE \"Month\" = 'June'") == [(14,)]


def test_worksheets_that_are_forms_are_one_sheet_whatever_they_are_called(tmp_path: Path) -> None:
    told = {
        "Teal": ("J-11", "Keel", [("cleat", 4), ("rope", 9), ("mast", 1)]),
        "Smew": ("J-12", "Lund", [("rope", 5), ("oar", 2)]),
        "Teal again": ("J-15", "Keel", [("oar", 4), ("cleat", 6)]),
    }
    sheets: dict[str, list[list[object]]] = {
        name: [["Mole Quay"], [], ["Job No", number, "", "Owner", owner], [], ["Part", "Qty", "Seen"]]
        + [[part, count, "yes"] for part, count in lines]
        + [["Total", sum(count for _, count in lines)]]
        for name, (number, owner, lines) in told.items()
    }
    ran = hemplit("load", book(tmp_path / "forms.xlsx", sheets), "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    lines = [(number, owner, *line) for number, owner, lines in told.values() for line in lines]
    assert rows(tmp_path, 'SELECT "Job No", "Owner", "Part", "Qty" FROM forms_sheet') == lines


@pytest.mark.parametrize(
    ("told", "expected"),
    [
        # Each file is a form, and says by its labels what it says.
        (
            ("Boat,Teal\nReg,M-1\nLength,7.5\n", "Boat,Smew\nReg,M-2\nLength,8.2\n"),
            [("Teal", "M-1", 7.5), ("Smew", "M-2", 8.2)],
        ),
        # The same header stands in both, whatever stands below it.
        (
            ("Boat,Known\nTeal,7.5\nSmew,sloop\n", "Boat,Known\nTeal,7.9\nSmew,ketch\n"),
            [("Teal", "7.5"), ("Smew", "sloop"), ("Teal", "7.9"), ("Smew", "ketch")],
        ),
    ],
)
def test_files_of_a_folder_that_are_forms_are_rows(
    told: tuple[str, str], expected: list[tuple[object, ...]], tmp_path: Path
) -> None:
    (tmp_path / "cards").mkdir()
    for name, text in zip(("north", "south"), told, strict=True):
        (tmp_path / "cards" / f"{name}.csv").write_text(text, encoding="utf-8")
    ran = hemplit("load", "cards", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    width = len(expected[0])
    assert [row[:width] for row in rows(tmp_path, "SELECT * FROM cards_sheet")] == expected


@pytest.mark.parametrize(("first", "sheets"), [(("Teal", "Smew"), 1), (("Known", "Known"), 2)])
def test_worksheets_without_lines_are_forms_if_they_begin_with_something_else(
    first: tuple[str, str], sheets: int, tmp_path: Path
) -> None:
    told: dict[str, list[list[object]]] = {
        "Old": [["Boat", first[0]], ["Rig", "sloop"], ["Length", 7.5]],
        "New": [["Boat", first[1]], ["Rig", "ketch"], ["Length", 8.2]],
    }
    ran = hemplit("look", book(tmp_path / "cards.xlsx", told), "--json", folder=tmp_path)
    found = json.loads(ran.out)["sheets"]
    assert [sheet["rows"] for sheet in found] == [2] * sheets


def test_two_lists_under_the_same_headers_stay_two(tmp_path: Path) -> None:
    units = [["Code", "Name"], ["KG", "kilogram"], ["PC", "piece"], ["LT", "litre"]]
    docks = [["Code", "Name"], ["ND", "north"], ["SD", "south"], ["HW", "wall"]]
    path = book(tmp_path / "lists.xlsx", {"Units": units, "Docks": docks})
    assert hemplit("load", path, "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert sorted(references(tmp_path / "yard.sqlite")) == ["docks", "hemplit_loads", "hemplit_objects", "units"]


def test_what_a_list_says_twice_is_told(tmp_path: Path) -> None:
    listed = [(f"MQ-{at:03}", f"slip {at % 9}", at % 4) for at in range(40)] + [("MQ-007", "slip 1", 3)]
    jobs = [(900 + at, f"MQ-{at % 40:03}", at % 6) for at in range(120)]
    hulls = write(tmp_path, "hulls.csv", "Hull Reg,Slip,Masts", listed)
    ran = hemplit(
        "load", hulls, write(tmp_path, "jobs.csv", "Job,Hull Reg,Hours", jobs), "--into", "yard.sqlite", folder=tmp_path
    )
    assert (ran.code, "Hull Reg 'MQ-007' stands in 2 rows: slip 7, 3; slip 1, 3" in " ".join(ran.out.split())) == (
        1,
        True,
    )


def test_a_sheet_of_records_may_speak_of_a_thing_twice(tmp_path: Path) -> None:
    """Of a list of boats that would be a fault, and would be told for each column that refers to it, but only once."""
    jobs = [(900 + at, f"MQ-{at % 38:03}", f"boat {at % 38}", at % 6) for at in range(40)]
    random = Random(7)
    lifts = [(70 + at, *(f"MQ-{random.randrange(38):03}" for _ in "ab")) for at in range(60)]
    path = write(tmp_path, "jobs.csv", "Job No,Boat Reg,Boat,Hours", jobs)
    found, out = loaded(tmp_path, path, write(tmp_path, "lifts.csv", "Lift,Boat Reg,Next Boat Reg", lifts))
    assert [one[0] for one in found["lifts"]] == ["boats", "boats"]
    assert "stands in" not in out


def months(folder: Path, **further: tuple[str, list[tuple[object, ...]]]) -> Path:
    """A folder of lifts by month, of which May has a column more, and further files."""
    lifts = folder / "lifts"
    lifts.mkdir(exist_ok=True)
    write(lifts, "2026-04.csv", "Lift,Boat Reg,Hours", [(at, BOATS[at % 6][0], at % 4 + 0.5) for at in range(1, 9)])
    crane = [(at, at % 4 + 0.5, BOATS[at % 6][0], "AB"[at % 2]) for at in range(9, 17)]
    write(lifts, "2026-05.csv", "Lift,Hours,Boat Reg,Crane", crane)
    write(lifts, "2026-06.csv", "Lift,Boat Reg,Hours", [(at, BOATS[at % 6][0], at % 4 + 0.5) for at in range(17, 25)])
    for name, (header, cells) in further.items():
        write(lifts, f"{name}.csv", header, cells)
    return lifts


def test_months_of_which_one_has_a_column_more_are_one_table(tmp_path: Path) -> None:
    ran = hemplit("load", months(tmp_path), "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "all 24 rows" in ran.out) == (0, True), ran.err
    assert rows(tmp_path, 'SELECT count(*), count("Crane") FROM lifts_sheet') == [(24, 8)]


def test_an_odd_file_is_told_and_the_rest_stays_together(tmp_path: Path) -> None:
    folder = months(tmp_path, ropes=("Rope,Metres", [("hemp", 20), ("nylon", 40), ("wire", 60)]))
    ran = hemplit("load", folder, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "ropes.csv: it has other columns than the 3 files beside it" in ran.err) == (0, True)
    assert {*references(tmp_path / "yard.sqlite")} == {"lifts", "ropes", "hemplit_loads", "hemplit_objects"}
    months(tmp_path, sails=("Sail,Area", [("jib", 20), ("main", 40)]))
    write(folder, "2027-01.csv", "Lift,Boat Reg,Hours", [(90, "MQ-11", 2.5)])
    again = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path)
    assert (again.code, "sails.csv has other columns than the files beside it" in again.out) == (1, True)
    assert rows(tmp_path, "SELECT count(*) FROM lifts") == [(25,)]


def test_a_broken_file_of_a_folder_is_left_out_only_when_asked(tmp_path: Path) -> None:
    folder = months(tmp_path)
    (folder / "2026-07.xlsx").write_bytes(b"no workbook at all")
    ran = hemplit("load", folder, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "2026-07.xlsx" in ran.err, "--skip-broken" in ran.err) == (2, True, True)
    asked = hemplit("load", folder, "--into", "yard.sqlite", "--skip-broken", folder=tmp_path)
    assert (asked.code, "Nothing was lost" in asked.out) == (1, False)
    assert "On purpose: 2026-07.xlsx (this is not a workbook) not read" in " ".join(asked.out.split())
    again = ["yard.design.toml", "--into", "yard.sqlite"]
    for more in ((), ("--skip-broken",)):
        ran = hemplit("prove", *again, *more, folder=tmp_path)
        assert (ran.code, "2026-07.xlsx not read, as it is not loaded yet" in " ".join(ran.out.split())) == (1, True)


@pytest.mark.parametrize(
    ("given", "pattern", "count"),
    [
        (["2026-04", "2026-05", "2026-06"], "lifts/*.csv", 24),
        (["2026-05", "2026-04"], "lifts/2026-0[45]*.csv", 16),
    ],
)
def test_months_that_are_named_one_by_one_are_one_table(
    given: list[str], pattern: str, count: int, tmp_path: Path
) -> None:
    """As a shell names them that puts the files in the place of a pattern."""
    folder = months(tmp_path)
    named = [folder / f"{name}.csv" for name in given]
    ran = hemplit("load", boats(tmp_path), *named, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert f'file = "{pattern}"' in (tmp_path / "yard.design.toml").read_text(encoding="utf-8")
    assert rows(tmp_path, "SELECT count(*) FROM lifts JOIN boats ON boat_reg = reg") == [(count,)]


def test_files_that_no_pattern_tells_from_others_are_told_and_stay_apart(tmp_path: Path) -> None:
    lifts = [(at, BOATS[at % 6][0], at % 4 + 0.5) for at in range(30)]
    for place, month in enumerate(("april", "may", "june")):
        write(tmp_path, f"lifts-{month}.csv", "Lift,Boat Reg,Hours", lifts[place * 10 : place * 10 + 10])
    ran = hemplit("look", "lifts-april.csv", "lifts-may.csv", folder=tmp_path)
    assert "lifts-april.csv: the same columns are in lifts-may.csv" in ran.err
    assert "2 sheets" in ran.out


def test_lists_of_several_years_are_one_sheet_and_what_changes_stands_by_year(tmp_path: Path) -> None:
    sold = [boat if boat[0] != "MQ-23" else (*boat[:2], "Ines Sund") for boat in BOATS]
    for year, listed in (("2025", BOATS), ("2026", sold)):
        write(
            tmp_path,
            f"boats-{year}.csv",
            "Boat Reg,Boat,Owner,Built",
            [(*one, 1990 + int(one[0][3:])) for one in listed],
        )
    ran = hemplit("load", "boats-2025.csv", "boats-2026.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert rows(tmp_path, "SELECT count(*), count(DISTINCT built) FROM boats") == [(6, 6)]
    held = 'SELECT "Owner" FROM boats_sheet WHERE "Boat Reg" = \'MQ-23\' ORDER BY "Year"'
    assert rows(tmp_path, held) == [("Elske Visser",), ("Ines Sund",)]


def test_a_month_of_a_file_says_nothing_of_the_things_that_its_rows_speak_of(tmp_path: Path) -> None:
    """Each boat was towed in one month so far, and lies in one berth: in May it is towed again."""
    berths = [(boat[0], boat[1], f"D{at}") for at, boat in enumerate(BOATS)]
    berths = write(tmp_path, "berths.csv", "Boat No,Boat,Berth", berths)
    tows = [(f"T{at}", *BOATS[at % 5 % 3 * 2 + at // 5 % 2][:2], 3 * at) for at in range(15)]
    for place, month in enumerate(("april", "may", "june")):
        write(tmp_path, f"tows-{month}.csv", "Tow,Boat No,Boat,Distance", tows[place * 5 : place * 5 + 5])
    (tmp_path / "tows-june.csv").rename(tmp_path / "june.csv")
    ran = hemplit("load", berths, "tows-*.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    told = {table: [one[0] for one in to] for table, to in references(tmp_path / "yard.sqlite").items() if to}
    assert told == {"berths": ["boats"], "tows": ["boats", "months"]}
    (tmp_path / "june.csv").rename(tmp_path / "tows-june.csv")
    ran = hemplit("topup", "yard.design.toml", "tows-june.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "5 new rows added" in ran.out) == (0, True), ran.out + ran.err


@pytest.mark.parametrize("paths", [("yard-boats.csv", "insured-boats.csv"), ("both.xlsx",)])
def test_two_lists_of_the_same_boats_are_no_parts_of_one(paths: tuple[str, ...], tmp_path: Path) -> None:
    """One says another owner: that is told, as of two sheets that contradict each other."""
    header = "Boat Reg,Boat,Owner,Length"
    listed = [(*boat, 7 + at) for at, boat in enumerate(BOATS)]
    other = [row if row[0] != "MQ-23" else (*row[:2], "Ines Sund", row[3]) for row in listed]
    write(tmp_path, "yard-boats.csv", header, listed)
    write(tmp_path, "insured-boats.csv", header, other)
    names = header.split(",")
    book(
        tmp_path / "both.xlsx", {"Yard Boats": [names, *map(list, listed)], "Insured Boats": [names, *map(list, other)]}
    )
    ran = hemplit("load", *paths, "--into", "yard.sqlite", folder=tmp_path)
    assert "'Owner' of MQ-23 is" in ran.out
    assert rows(tmp_path, "SELECT count(*) FROM boats") == [(6,)]


def test_what_the_view_of_another_sheet_takes_along_stays_under_its_name(tmp_path: Path) -> None:
    header = "Boat Reg,Job No,Boat,Owner"
    boats = "Teal", '"tired keel, check"'
    yard = write(tmp_path, "yard.csv", header, [(boat, "A1", "A1", "Teal") for boat in boats])
    dock = write(tmp_path, "dock.csv", header, [(boat, "A1", "Teal", "A1") for boat in boats])
    found, _ = loaded(tmp_path, yard, dock)
    assert found["yards"] == [("yards", "owner_id")] and found["docks"] == [("yards", "boat_reg_id")]


def test_a_name_in_parts_bears_out_those_of_another_sheet(tmp_path: Path) -> None:
    people = [("Ben", "Falk"), ("Ada", "Keel"), ("Cara", "Lund"), ("Dirk", "Sund"), ("Eva", "Rask")]
    skippers = [(f"{first} {last}", f"L-{at}") for at, (first, last) in enumerate(people)]
    listed = write(tmp_path, "skippers.csv", "Skipper,Licence", skippers)
    slips = [(f"S{at}", '"{1}, {0}"'.format(*people[at % 4]), at % 3 + 1) for at in range(9)]
    lent = write(tmp_path, "slips.csv", "Slip No,Skipper,Nights", slips)
    assert hemplit("load", listed, lent, "--into", "yard.sqlite", folder=tmp_path).code == 0
    found = references(tmp_path / "yard.sqlite")
    assert found["slips"] == [("skippers", "licence")]
    assert rows(tmp_path, "SELECT count(DISTINCT licence) FROM slips") == [(4,)]
    # Other people bear out nothing.
    others = [(f"S{at}", f'"Moe, {name}"', 1) for at, name in enumerate("Ann Bea Cleo Dora Edda Finn Gus".split())]
    other = write(tmp_path, "slips.csv", "Slip No,Skipper,Nights", others)
    ran = hemplit("draft", listed, other, "--out", "apart.design.toml", folder=tmp_path)
    assert ran.code < 2 and '# { do = "split into columns"' in (tmp_path / "apart.design.toml").read_text("utf-8")


def test_slips_hide_no_list(tmp_path: Path) -> None:
    """Three of five owners stand in the list as they are written there; one is a letter off, and one a dot."""
    owners = companies(tmp_path)
    jobs = of_owners(tmp_path, ["Alder Ltd", "Birch & Co", "Alder Ltd", "Ceder plc", "Elm", "Birch & Co."])
    found, out = loaded(tmp_path, owners, jobs, code=1)
    assert found["jobs"] == [("owners", "owner_no")]
    assert "says 'Ceder plc', which owners does not list: C5 the nearest there is 'Cedar plc'" in out
    other = of_owners(tmp_path, ["Alder Ltd", "Elm", "Moe", "Roe", "Poe"])
    ran = hemplit("draft", owners, other, "--json", "--out", "other.design.toml", folder=tmp_path)
    tables = {table["name"]: table["columns"] for table in json.loads(ran.out)["tables"]}
    assert "owner" in [column["name"] for column in tables["jobs"]], "two of five are known, and none is near"


def test_a_list_is_the_sheet_that_is_called_so(tmp_path: Path) -> None:
    """Each part has another maker so far, two of them in other writing, and each came once."""
    makers = [("Marlow", "020 11", 7), ("Harken", "020 22", 14), ("Ronstan", "020 33", 5)]
    parts = ["Marlow Ltd", "Marlow", "Harken", "HARKEN", "Ronstan"]
    came = [(f"2026-02-0{at + 1}", parts[at if at != 3 else 2], 100 + at, at * 7 % 5 + 1) for at in (1, 2, 3, 4, 0)]
    came[-1] = ("2026-02-09", "Marlow", 100, 3)
    stock = [(100 + at, f"part {at}", maker, f"B{at}", at * 11) for at, maker in enumerate(parts)]
    sheets = (
        write(tmp_path, "makers.csv", "Maker,Phone,Days", makers),
        write(tmp_path, "stock.csv", "Item,Text,Maker,Bin,Number", stock),
        write(tmp_path, "deliveries.csv", "Date,Maker,Item,Qty,Note", [(*one, "") for one in came]),
    )
    found, out = loaded(tmp_path, *sheets, code=1)
    assert {name: to for name, to in found.items() if not name.startswith("hemplit_")} == {
        "makers": [],
        "items": [("makers", "maker_id")],
        "deliveries": [("items", "item"), ("makers", "maker_id")],
    }
    assert "'Maker' says 'Marlow Ltd', which makers does not list: C2" in out


def test_other_writing_counts_for_more_than_a_slip(tmp_path: Path) -> None:
    jobs = of_owners(tmp_path, ["ALDER LTD", "Birch and Co.", "Alder Limited", "Ceder plc", "elm", "Elm", "Elm"])
    found, out = loaded(tmp_path, companies(tmp_path), jobs, code=1)
    assert found["jobs"] == [("owners", "owner_no")]
    assert rows(tmp_path, "SELECT owner_no FROM jobs ORDER BY job")[:3] == [("C1",), ("C2",), ("C1",)], out


def test_rows_that_pair_what_other_sheets_list_have_no_number_of_their_own(tmp_path: Path) -> None:
    jobs = [(7000 + at, f"2026-01-{at + 10}", "Teal Knot Smew Ruff".split()[at]) for at in range(4)]
    parts = [("rope", 2.5), ("cleat", 10), ("block", 4), ("lamp", 12)]
    used = [(7000 + at % 4, parts[(at + at // 4) % 4][0], at % 3 + 1) for at in range(8)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "jobs.csv", "Job,Day,Boat", jobs),
        write(tmp_path, "parts.csv", "Part,Price", parts),
        write(tmp_path, "uses.csv", "Job,Part,Qty", used),
    )
    assert found["uses"] == [("jobs", "job"), ("parts", "part_id")]
    keys = rows(tmp_path, "SELECT name FROM pragma_table_info('uses') WHERE pk ORDER BY pk")
    assert keys == [("job",), ("part_id",)]


def test_a_list_of_some_refers_to_that_of_all(tmp_path: Path) -> None:
    names = ["Ann Keel", "Bob Tanner", "Cy Rooke", "Dee Marsh", "Eli Sund"]
    members = [(f"M{at}", name, 2010 + at) for at, name in enumerate(names)]
    skippers = [(name, 100 * at) for at, name in enumerate(names[1:4], 1)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "members.csv", "Member No,Name,Joined", members),
        write(tmp_path, "skippers.csv", "Skipper,Bonus", skippers),
    )
    assert [one[0] for one in found["skippers"]] == ["members"]


def test_what_never_varies_is_of_no_thing_that_a_row_does_not_name(tmp_path: Path) -> None:
    jobs = write(tmp_path, "yard.csv", "Job No", [("A1",)])
    cells = "A1,A1,A1,A1"
    said = [("", "A1", "", cells), ("A1", "A1", 1, cells), ("A1", "A1", 1, cells), ("A2", "A1", 1, cells)]
    loaded(tmp_path, jobs, write(tmp_path, "dock.csv", "Job No,Boat Reg,Boat,Owner,Hours,Rate,Cost", said))


def test_a_list_by_a_code_is_a_list_though_the_name_beside_is_called_after_it(tmp_path: Path) -> None:
    """Trips go from one yard to another, of which another sheet has the code first and then the name."""
    listed = [("NTH", "North", "Looe"), ("STH", "South", "Hythe"), ("EST", "East", "Deal")]
    yards = write(tmp_path, "yards.csv", "Sign,Yard,Town", listed)
    said = ["T1,2026-04-01,NTH,STH,132", "T2,2026-04-01,STH,NTH,120", "T3,2026-04-02,NTH,EST,98"]
    said += ["T4,2026-04-02,EST,NTH,101", "T1,2026-04-03,NTH,STH,140"]
    trips = write(tmp_path, "trips.csv", "Trip,Day,From,To,Load", [(one,) for one in said])
    found, _ = loaded(tmp_path, trips, yards)
    assert found["trips"] == [("yards", "from"), ("yards", "to")]


def test_sheets_whose_headers_programs_wrote_refer_by_codes_and_are_called_in_full(tmp_path: Path) -> None:
    """A branch is known as a BR, and whom a loan names by his whole name another sheet has in parts."""
    members = [("M1", "Ada", "Keel", "B1"), ("M2", "Bo", "Tan", "B2"), ("M3", "Cy", "Roo", "B1")]
    loans = [(1, "Ada Keel", "T1"), (2, "Bo Tan", "T2"), (3, "Ada Keel", "T2"), (4, "Cy Roo", "T1")]
    sheets = (
        write(tmp_path, "members.csv", "MEMNO,FNAME,LNAME,BRANCHNO", members),
        write(tmp_path, "branches.csv", "BRNO,BRNAME", [("B1", "Mole"), ("B2", "Quay")]),
        write(tmp_path, "tools.csv", "TOOLNO,TOOLNM", [("T1", "Saw"), ("T2", "Plane")]),
        write(tmp_path, "loans.csv", "LOANNO,MEMBER,TOOLNO", loans),
    )
    ran = hemplit("load", *sheets, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0 and "Verified" in ran.out, ran.err
    found = references(tmp_path / "yard.sqlite")
    assert found["members"] == [("branches", "branch_no")]
    assert sorted(found["loans"]) == [("members", "mem_no"), ("tools", "tool_no")]


def test_who_started_on_a_day_is_listed_with_it(tmp_path: Path) -> None:
    """A sheet of the crew with the day on which each started lists them, and those who were away are some of these."""
    crew = [(f"C{at}", f"{first} {last}", f"201{at}-03-0{at + 1}") for at, (first, last, _) in enumerate(CREW[:3])]
    away = [(*crew[at % 2][:2], f"2026-0{at + 1}-05", at + 1) for at in range(4)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "staff.csv", "Emp,Name,Start Date", crew),
        write(tmp_path, "absence.csv", "Emp,Name,From,Days", away),
    )
    assert found["absences"] == [("employees", "emp")] and "staff_employees" not in found


def test_one_name_of_several_that_nobody_lists_does_not_hide_the_others(tmp_path: Path) -> None:
    names = ["Ann Pell", "Bo Tamm", "Cy Vane", "Di Ames", "Ed Roy"]
    members = [(100 + at, *name.split()) for at, name in enumerate(names)]
    helms = [*names, "E. Roy"]
    results = [(f"R{at // 4}", f"K{at % 4}", helms[at * 5 % 6], (at + at // 4) % 4 + 1) for at in range(12)]
    found, said = loaded(
        tmp_path,
        write(tmp_path, "members.csv", "Member No,First Name,Surname", members),
        write(tmp_path, "results.csv", "Race,Sail No,Helm,Place", results),
        code=1,
    )
    assert [one[0] for one in found["results"]] == ["members"]
    assert "'Helm' says 'E. Roy', which is taken for 'Ed Roy' of members: C" in said, said


def test_lists_from_which_other_sheets_choose_are_one_each(tmp_path: Path) -> None:
    """Side by side on a sheet that is called so, where they end in different rows."""
    lines = ["Fuel,State,,Berth,Dock", "Diesel,open,,A1,East", "Petrol,paid,,A2,East", "Wood,,,B1,West", ",,,B2,West"]
    lists = tmp_path / "lists.csv"
    lists.write_text("\n".join(lines) + "\n", encoding="utf-8")
    said = [("A1", "Petrol", "open"), ("B2", "Diesel", "paid"), ("A1", "Diesel", "paid"), ("B1", "Petrol", "open")]
    tickets = [(f"F{at}", f"2026-01-{at + 10}", *said[at % 4]) for at in range(7)]
    ran = hemplit(
        *("load", write(tmp_path, "tickets.csv", "Ticket,Day,Berth,Fuel,State", tickets), lists),
        *("--into", "yard.sqlite"),
        folder=tmp_path,
    )
    assert ran.code == 0 and "Verified" in ran.out, ran.err
    found = references(tmp_path / "yard.sqlite")
    assert [one[0] for one in found["tickets"]] == ["berths", "fuels", "states"]
    assert found["berths"] == [("docks", "dock_id")]
    assert rows(tmp_path, "SELECT name FROM fuels ORDER BY name") == [("Diesel",), ("Petrol",), ("Wood",)]


def test_faults_of_one_machine_each_refer_to_it_though_one_is_not_listed(tmp_path: Path) -> None:
    assets = [(f"YD-{at:04}", what) for at, what in enumerate("Saw Saw Washer Winch Crane".split(), 1)]
    faults = [(f"F{at}", f"2026-02-1{at}", f"YD-{tag:04}", "noise") for at, tag in enumerate((3, 1, 4, 6), 1)]
    found, said = loaded(
        tmp_path,
        write(tmp_path, "assets.csv", "Asset Tag,Description", assets),
        write(tmp_path, "faults.csv", "Fault,Reported,Tag,Problem", faults),
        code=1,
    )
    assert found["faults"] == [("assets", "tag")] and "'YD-0006', which assets does not list" in said, said


def test_of_entries_and_what_became_of_each_both_name_what_other_sheets_list(tmp_path: Path) -> None:
    """A list of who takes part and a register of who came refer to the courses, where they cannot to each other."""
    courses = [("RY1", "Ropes", 60), ("RY2", "Ropes", 75), ("NV1", "Charts", 80), ("SG1", "Flags", 50)]
    takes = [("Ann", 0), ("Ann", 2), ("Bo", 0), ("Cy", 3), ("Di", 1), ("Bo", 3)]
    entries = [(at, name, f"{name}@saltby.example", *courses[of][::2]) for at, (name, of) in enumerate(takes, 1)]
    came = [(courses[of][0], name, "P") for name, of in sorted(takes, key=lambda one: one[1])]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "courses.csv", "Course Code,Course,Fee", courses),
        write(tmp_path, "entries.csv", "Entry No,Crew,Mail,Course,Paid", entries),
        write(tmp_path, "register.csv", "Course,Crew,Came", came),
    )
    assert all("courses" in [one[0] for one in found[table]] for table in ("entries", "registers")), found


def test_what_came_once_in_a_list_so_far_may_come_again(tmp_path: Path) -> None:
    """Neither a town beside the customer whom an order names nor what looks like a code has to be another each time."""
    customers = [
        ("C1", "Pell Boats", "Saltby", "T-16"),
        ("C2", "Tamm Rigging", "Ness", "T-32"),
        ("C3", "Vane", "Brest", "T-63"),
    ]
    orders = [(2000 + at, f"2026-03-0{at + 1}", *customers[at % 3][1:3]) for at in range(5)]
    loaded(
        tmp_path,
        write(tmp_path, "customers.csv", "Cust ID,Company,City,Tariff", customers),
        write(tmp_path, "orders.csv", "Order,Date,Customer,Ship City", orders),
    )
    later = write(tmp_path, "new.csv", "Cust ID,Company,City,Tariff", [("C4", "Orr", "Ness", "T-16")])
    ran = hemplit("topup", "yard.design.toml", later, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "1 new" in ran.out) == (0, True), ran.out + ran.err


def test_months_named_in_short_are_one_sheet_beside_another(tmp_path: Path) -> None:
    months = [
        write(
            tmp_path,
            f"{month}.csv",
            "Date,Berth,kWh",
            [(f"2026-0{at}-28", f"A{berth}", at * berth) for berth in (1, 2)],
        )
        for at, month in enumerate(("jan", "feb"), 1)
    ]
    berths = write(tmp_path, "berths.csv", "Berth,Dock", [("A1", "East"), ("A2", "East"), ("B1", "West")])
    ran = hemplit("load", *months, berths, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert 'file = "???.csv"' in (tmp_path / "yard.design.toml").read_text(encoding="utf-8")
    assert [one for found in references(tmp_path / "yard.sqlite").values() for one in found if one[0] == "berths"]


def test_teams_that_meet_once_each_so_far_are_those_of_the_list(tmp_path: Path) -> None:
    """Matches have a number of their own, so that who played at home tells them apart by accident."""
    teams = ["Saltby Town", "Ness United", "Marwick Rovers", "Quay Dock"]
    matches = [(at + 1, f"2026-09-0{at + 1}", teams[at], teams[(at + 1) % 4]) for at in range(4)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "teams.csv", "Team,Ground", [(team, f"Ground {at}") for at, team in enumerate(teams)]),
        write(tmp_path, "matches.csv", "Match,Date,Home,Away", matches),
    )
    assert [one[0] for one in found["matches"]] == ["teams", "teams"]


def test_a_title_before_a_name_is_none_of_it(tmp_path: Path) -> None:
    donors = [("D1", "Mrs", "Ann", "Pell"), ("D2", "Mr", "Bo", "Tamm"), ("D3", "Dr", "Cy", "Vane")]
    gifts = [(f"2026-01-0{at + 1}", " ".join(donors[at % 3][1:]), at * 7 + 5) for at in range(5)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "donors.csv", "Donor ID,Title,First,Last", donors),
        write(tmp_path, "gifts.csv", "Date,Donor,Amount", gifts),
    )
    assert found["gifts"] == [("donors", "donor_id")]


def test_what_was_ordered_at_a_time_may_be_ordered_again_the_next_day(tmp_path: Path) -> None:
    dishes = [("Stew", 9), ("Soup", 5), ("Tart", 4)]
    said = "4 12:30 Stew|4 12:30 Soup|7 12:45 Soup|7 12:45 Tart|4 13:00 Stew"
    orders: list[tuple[object, ...]] = [tuple(one.split()) for one in said.split("|")]
    loaded(
        tmp_path,
        write(tmp_path, "dishes.csv", "Dish,Price", dishes),
        write(tmp_path, "orders.csv", "Table,Time,Dish", orders),
    )
    assert rows(tmp_path, "SELECT name FROM pragma_table_info('orders') WHERE pk") == [("order_id",)]


SHEDS, SKILLS = [("Loft", "Ann"), ("Quay", "Ben"), ("Long", "Cas")], [("Rigging", 3), ("Painting", 5), ("Welding", 2)]
DONE = [("Ann", "x", "", "x"), ("Ben", "", "x", ""), ("Cas", "x", "x", "")]
STOCK = [("Rope", 40, 25, 0, 65), ("Cleat", 12, 0, 6, 18), ("Varnish", 3, 5, 2, 10)]


@pytest.mark.parametrize(
    ("headers", "given", "list_headers", "listed", "table"),
    [
        ("Part,Loft,Quay,Long,Total", STOCK, "Shed,Foreman", SHEDS, "sheds"),
        ("Part,Loft,Quay,Long,Total", STOCK, "Name,Foreman", SHEDS, "sheds"),
        ("Part,Loft,Quay,Total", [(*row[:3], row[4]) for row in STOCK], "Shed,Foreman", SHEDS[:2], "sheds"),
        # A mark under each is proposed only, as long as nobody lists them.
        ("Fitter,Rigging,Painting,Welding", DONE, "Skill,Years", SKILLS, "skills"),
        ("Fitter,Rigging,Painting,Welding", DONE, "Kind,Years", SKILLS, "skills"),
        ("Visitor,Q1,Q2,Q3", [(1, "A", "C", "B"), (2, "B", "C", "B"), (3, "A", "A", "C")], "Question,Text",
         [("Q1", "How often?"), ("Q2", "How?"), ("Q3", "How well?")], "questions"),
        # A list of columns with what each means is none of things.
        ("Part,Loft,Quay,Long,Total", STOCK, "Column,Meaning", SHEDS, None),
        ("Part,Loft,Quay,Long,Total", STOCK, "Term,Explanation", SHEDS, None),
        ("Loft,Quay,Long", [row[1:4] for row in STOCK], "Shed,Foreman", SHEDS, None),
        # Two of three may be so called by accident, and what stands apart, or is said in words, is said of the row.
        ("Part,Loft,Quay,Total", [(*row[:3], row[4]) for row in STOCK], "Shed,Foreman", SHEDS, None),
        ("Part,Loft,Quay,Total,Long", [(*row[:3], row[4], row[3]) for row in STOCK], "Shed,Foreman", SHEDS, None),
        ("Part,Loft,Quay,Long", [("Rope", 4, "m", 3), ("Cleat", 2, "pc", 5)], "Shed,Foreman", SHEDS, None),
    ],
)  # fmt: skip
def test_headers_that_another_sheet_lists_become_rows(
    headers: str, given: list[tuple[object, ...]], list_headers: str, listed: list[tuple[object, ...]],
    table: str | None, tmp_path: Path,
) -> None:  # fmt: skip
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "yard.csv", headers, given),
        write(tmp_path, f"{table or 'sheds'}.csv", list_headers, listed),
    )
    sets = ({one[0] for one in found[name]} for name in found)
    entries = [named for named in sets if (table or "sheds") in named]
    assert entries == ([{*{"parts", "fitters", "visitors"}.intersection(found), table}] if table else [])


@pytest.mark.parametrize(
    ("leads", "refers"),
    [
        (("R. Payne", "T. Oduya", "S. Brandt", "R Payne"), [("staff", "ticket")]),
        # One of them could be either of two, and is left alone; the others are too few to show whom the column names.
        (("R. Payne", "T. Oduya", "A. Brandt", "A. Brandt"), []),
        (("Payne R.", "Oduya T.", "Brandt S.", "Payne R."), [("staff", "ticket")]),
        (("R. Pane", "T. Odua", "S. Brand", "R. Pane"), []),
    ],
)
def test_who_is_named_with_initials_is_on_the_list(
    leads: tuple[str, ...], refers: list[tuple[str, ...]], tmp_path: Path
) -> None:
    people = [("Roger Payne", "T-1"), ("Tunde Oduya", "T-2"), ("Sofie Brandt", "T-3"), ("Arne Brandt", "T-4")]
    people += [("Anna Brandt", "T-5")]
    jobs = [(f"J-{at}", lead, at * 7 % 5) for at, lead in enumerate(leads, 1)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "staff.csv", "Name,Ticket", people),
        write(tmp_path, "jobs.csv", "Job,Lead,Days", jobs),
    )
    assert [one for one in found["jobs"] if one[0] == "staff"] == refers


def test_signs_of_vehicles_are_the_same_with_a_space_and_without(tmp_path: Path) -> None:
    """No header says that vehicles are meant by both, and of one the list has another writing."""
    vans = [("AB12 CDE", "Kest"), ("AB12 CDF", "Kest"), ("FG34 HJK", "Roe"), ("FG34 HJL", "Roe")]
    fuel = [
        (f"2026-01-0{at}", sign, at * 11) for at, sign in enumerate("AB12 CDE,FG34 HJK,ab12cdf,FG34 HJL".split(","), 1)
    ]
    fuel += [("2026-01-07", "AB12 CDE", 60)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "vans.csv", "Reg,Yard", vans),
        write(tmp_path, "fuel.csv", "Date,Filled,Litres", fuel),
    )
    assert found["fuels"] == [("vans", "reg")]


def test_whose_a_berth_is_now_is_told_of_the_berth_and_not_named_by_it(tmp_path: Path) -> None:
    berths = [(f"A{at}", name, 20 + at) for at, name in enumerate(["Pat Grady", "Ivor Penn", "Sam Okoro", "Lena Roth"])]
    paid = [
        (f"R{at}", name, f"A{at}", 30) for at, name in enumerate(["Pat Grady", "Ivor Pen", "Sam Okoro", "Lena Roth"])
    ]
    found, said = loaded(
        tmp_path,
        write(tmp_path, "berths.csv", "Berth,Tenant,Fee", berths),
        write(tmp_path, "receipts.csv", "Receipt,Tenant,Berth,Amount", paid),
        code=1,
    )
    assert found["receipts"] == [("berths", "berth")]
    assert "'Tenant' of A1 is 'Ivor Pen', and 'Ivor Penn' in berths" in said


def test_what_stands_in_a_room_is_not_named_by_it(tmp_path: Path) -> None:
    riggers = [("Ms Orr", "orr@y.org", "R12"), ("Mr Lane", "lane@y.org", "R14"), ("Dr Voss", "voss@y.org", "L1")]
    said = "Mon 1 Hull 0 R12|Mon 2 Sails 1 R14|Tue 1 Hull 0 R12|Tue 2 Paint 2 L1|Wed 1 Sails 1 R14|Wed 2 Hull 0 R12"
    lessons = [
        (day, at, what, riggers[int(who)][0], room) for day, at, what, who, room in map(str.split, said.split("|"))
    ]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "riggers.csv", "Rigger,Email,Room", riggers),
        write(tmp_path, "lessons.csv", "Day,Hour,Topic,Rigger,Room", lessons),
    )
    assert rows(tmp_path, "SELECT name FROM pragma_table_info('riggers') WHERE pk") == [("rigger_id",)]
    assert [one for some in found.values() for one in some if one[0] == "riggers"] == [("riggers", "rigger_id")]


def test_a_number_without_the_word_is_of_the_list_though_one_of_three_is_not_there(tmp_path: Path) -> None:
    jobs = [(f"PL-{at}", f"Hull {at}", at * 13) for at in (11, 12, 13, 14)]
    claims = [("C1", "PL-11", 1200), ("C2", "PL-13", 90), ("C3", "PL-11", 450), ("C4", "PL-15", 70)]
    found, said = loaded(
        tmp_path,
        write(tmp_path, "jobs.csv", "Job No,What,Days", jobs),
        write(tmp_path, "claims.csv", "Claim,Job,Paid", claims),
        code=1,
    )
    assert found["claims"] == [("jobs", "job")] and "'Job' says 'PL-15', which jobs does not list" in said


def test_a_list_keeps_its_name_beside_rows_that_pair_two_things(tmp_path: Path) -> None:
    said = "K01 40 J1 25 Otter East 28 02|K02 40 J1 25 Stoat East 28 |K03 80 J2 30 Otter East 31 03"
    said += "|K01 40 J3 12 Puffin Mole 15 |K04 40 J4 13 Stoat East 15 |K03 80 J5 20 Puffin Mole 22 "
    split = [row.split(" ") for row in said.split("|")]
    sent: list[tuple[object, ...]] = [
        (*row[:3], f"2026-01-{row[3]}", *row[4:6], f"2026-01-{row[6]}", row[7] and f"2026-02-{row[7]}") for row in split
    ]
    boats = [("Otter", "Gil Rae", "555 61", "East"), ("Stoat", "Nan Orr", "555 62", "East")]
    boats += [("Puffin", "Hew Mor", "555 63", "Mole"), ("Heron", "Ida Pow", "555 64", "Mole")]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "crates.csv", "Crate,Size L,Job,Filled,Boat,Dock,Sent,Returned", sent),
        write(tmp_path, "boats.csv", "Boat,Owner,Phone,Dock", boats),
    )
    assert {*found} >= {"crate_boats", "crates", "boats"}


def test_sizes_that_a_sheet_lists_stay_whole_and_name_its_rows(tmp_path: Path) -> None:
    """And what each costs is no number by which it is known."""
    cranes = [("4t", 180, 2.5), ("6t", 220, 4.0), ("8t", 260, 6.0), ("12t", 340, 8.0)]
    hires = [("H1", "Hale", "8t", 260), ("H2", "Dunn", "4t", 180), ("H3", "Roe", "8t", 260), ("H4", "Hale", "12t", 340)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "rates.csv", "Size,Hire Charge,Reach", cranes),
        write(tmp_path, "hires.csv", "Hire,Yard,Crane Size,Charge", hires),
    )
    assert [one for one in found["hires"] if one[0] == "sizes"] == [("sizes", "crane_size")]
    assert rows(tmp_path, "SELECT size FROM sizes ORDER BY hire_charge") == [("4t",), ("6t",), ("8t",), ("12t",)]
    twice = write(tmp_path, "weights.csv", "Size,Hire Charge,Reach", [*cranes, ("8t", 265, 6.5)])
    ran = hemplit("load", twice, tmp_path / "hires.csv", "--into", "weights.sqlite", "--json", folder=tmp_path)
    assert "size_unit" in ran.out  # what comes again there is measured


@pytest.mark.parametrize(
    ("headers", "last", "further", "refers"),
    [
        ("Code,Shift", "O", [], True),
        ("Shift,Code", "O", [], False),
        ("Code,Shift", "ill", [], True),
        ("Code,Shift", "ill", [("N", "Night")], False),
    ],
)
def test_what_stands_under_the_days_of_a_rota_are_codes_of_the_list(
    headers: str, last: str, further: list[tuple[str, str]], refers: bool, tmp_path: Path
) -> None:
    """The list begins with the codes, and nearly all that stands there is one, or all of them stand there."""
    codes = [("E", "Early"), ("L", "Late"), ("O", "Off"), *further]
    if headers == "Shift,Code":
        codes = [(shift, code) for code, shift in codes]
    rota = [("Ann", *"ELO"), ("Ben", *"LEE"), ("Cas", "O", "E", last)]
    found, _ = loaded(
        tmp_path,
        write(tmp_path, "codes.csv", headers, codes),
        write(tmp_path, "rota.csv", "Fitter,Mon,Tue,Wed", rota),
        code=int(refers and last != "O"),
    )
    assert (("codes", "value") in [one for some in found.values() for one in some]) is refers
