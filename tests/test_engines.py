"""Files split inside an engine become the same tables as in memory, and what only late rows say is found."""

from __future__ import annotations

import csv
import json
import re
import shutil
from collections.abc import Iterator, Sequence
from datetime import date, time, timedelta
from decimal import Decimal
from pathlib import Path
from random import Random

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from conftest import Ran, hemplit, tries
from hemplit.core.model import tables
from hemplit.core.model.design import Purpose
from hemplit.core.model.relation import TEXT
from hemplit.demo.sheets import write_sheets
from hemplit.engines import engine_of
from hemplit.engines.contract import EngineDialect
from hemplit.engines.fill import Fill
from hemplit.engines.proven import hangs_together, measured
from hemplit.errors import TargetError
from hemplit.files import pieces, table_rows
from hemplit.flow import engine_rows, in_engine
from hemplit.servers import mariadb, postgresql
from places import Place, placed
from together import yard
from worlds import world

duckdb = pytest.importorskip("duckdb")
ROWS = 1_200
LATE = 170  # no run of the sample has this row
BACKSLASH = "\\"
HEADER = ("Job No", "Boat Reg", "Boat", "Owner", "Opened", "Hours", "Rate", "Cost", "Part 1", "Part 2", "Status")


def line(at: int) -> list[object]:
    """A row of a sheet of jobs in which a boat decides its name and owner."""
    random = Random(at)
    boat, hours, rate = random.randrange(40), random.randint(1, 6), 40 + random.randrange(5) * 2.5
    parts = [f"part {random.randrange(9)}", f"part {random.randrange(9)}" if random.random() < 0.7 else None]
    opened = f"2026-0{random.randint(1, 9)}-1{random.randint(1, 9)}"
    told = [f"MQ-{boat}", f"Boat {boat}", f"Owner {boat % 13}", opened, hours, rate, hours * rate]
    return [4000 + at, *told, *parts, random.choice(["open", "done", "paid"])]


def written(
    folder: Path, rows: Sequence[Sequence[object]], name: str = "jobs.parquet", headers: Sequence[str] = HEADER
) -> Path:
    """A Parquet file of small groups of rows."""
    columns = zip(*rows, strict=True)
    table = pa.table({header: pa.array(list(values)) for header, values in zip(headers, columns, strict=True)})
    parquet.write_table(table, folder / name, row_group_size=100)
    return folder / name


def held(folder: Path) -> dict[str, list[str]]:
    """The rows of each table in a folder, whatever the order."""
    return {file.stem: sorted(map(str, parquet.read_table(file).to_pylist())) for file in folder.glob("*.parquet")}


class Files:
    """An engine that splits a file into a folder of files."""

    def __init__(self, engine: str, folder: Path) -> None:
        self.engine, self.folder = engine, folder
        self.into, self.design = "lake/", "lake.design.toml"
        self.in_memory: tuple[str, ...] = ("--parquet",)

    def put(self, rows: Sequence[Sequence[object]], headers: Sequence[str] = HEADER, name: str = "jobs") -> None:
        """Writes a sheet."""
        written(self.folder, rows, f"{name}.parquet", headers)

    def source(self, name: str) -> str:
        """Where a sheet lies."""
        return f"{name}.parquet"

    def load(self, *more: str, design: str = "", sheets: Sequence[str] = ("jobs",)) -> Ran:
        """Loads sheets, or a design."""
        given = [design] if design else map(self.source, sheets)
        return hemplit("load", *given, "--into", self.into, "--engine", self.engine, *more, folder=self.folder)

    def load_in_memory(self, design: str = "") -> Ran:
        """Loads the sheet, or a design, into the same place without an engine."""
        call = ("load", design or self.source("jobs"), "--into", self.into, "--replace")
        return hemplit(*call, *self.in_memory, folder=self.folder)

    def held(self) -> dict[str, list[str]]:
        """The rows of each table, whatever the order."""
        return held(self.folder / "lake")


class Table(Files):
    """A server, which splits a table of another schema, or of another database of it."""

    def __init__(self, engine: str, place: Place, folder: Path) -> None:
        super().__init__(engine, folder)
        address, _, schema = place.text.partition("#")
        database = address.rpartition("/")[2]
        self.place, self.flat = place, f"{schema or database}_flat"
        self.backslash = BACKSLASH if schema else 2 * BACKSLASH
        self.into, self.address = place.text, address
        self.design, self.in_memory = f"{database}.design.toml", ()
        place.run(self.gone(), f"CREATE SCHEMA {self.flat}")

    def source(self, name: str) -> str:
        return f"{self.address}#{self.flat}.{name}"

    def gone(self) -> str:
        """The statement that takes away the flat table and where it lies."""
        schema = "SCHEMA IF EXISTS {} CASCADE" if self.engine == "postgresql" else "DATABASE IF EXISTS {}"
        return f"DROP {schema.format(self.flat)}"

    def put(self, rows: Sequence[Sequence[object]], headers: Sequence[str] = HEADER, name: str = "jobs") -> None:
        sorts = {int: "bigint", float: "double precision", str: "text", bool: "boolean"}
        columns = []
        for header, cells in zip(headers, zip(*rows, strict=True), strict=True):
            kind = next(sorts[type(cell)] for cell in cells if cell is not None)
            columns.append(f"{self.place.quote(header)} {kind}")
        values = ", ".join(f"({', '.join(map(literal, row))})" for row in rows)
        self.place.run(
            f"DROP TABLE IF EXISTS {self.flat}.{name}",
            f"CREATE TABLE {self.flat}.{name} ({', '.join(columns)})",
            f"INSERT INTO {self.flat}.{name} VALUES {values.replace(BACKSLASH, self.backslash)}",
        )

    def held(self) -> dict[str, list[str]]:
        found = {}
        for name in self.place.counts():
            headers = self.place.view(name)[0]
            rows = self.place.rows(f"SELECT * FROM {self.place.quote(name)}")
            plain = ([float(cell) if isinstance(cell, Decimal) else cell for cell in row] for row in rows)
            found[name] = sorted(str(dict(zip(headers, row, strict=True))) for row in plain)
        return found


def literal(cell: object) -> str:
    """A cell as a statement writes it."""
    if isinstance(cell, str):
        doubled = cell.replace("'", "''")
        return f"'{doubled}'"
    return "NULL" if cell is None else str(cell)


#: Spark takes a second for what others do in a moment: it is asked little.
SERVERS = ("postgresql", "mariadb")
QUICK = ("duckdb", *SERVERS)


@pytest.fixture(params=[*QUICK, pytest.param("spark", marks=pytest.mark.slow)])
def inside(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Files]:
    """Each engine, by turns, as far as it is there."""
    if request.param in SERVERS:
        for place in placed(request.param, tmp_path):
            table = Table(request.param, place, tmp_path)
            yield table
            place.run(table.gone())
        return
    if request.param == "spark":
        pytest.importorskip("pyspark")
        if shutil.which("java") is None:
            pytest.skip("no Java is here")
    yield Files(request.param, tmp_path)


@pytest.fixture
def in_small_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(engine_rows, "SAMPLE", 200)
    monkeypatch.setattr(engine_rows, "COLUMNS", 1)
    monkeypatch.setattr(pieces, "ROWS", 170)
    monkeypatch.setattr(pieces, "RUNS", 4)
    monkeypatch.setattr(table_rows, "ROWS", 170)
    monkeypatch.setattr(mariadb, "PIECE", 90)
    monkeypatch.setattr(postgresql, "PIECE", 1 << 13)


def as_in_memory(folder: Path, files: Sequence[str]) -> None:
    """An engine makes the same tables as memory; of a sheet that is taken as a whole it says the same of it, too."""
    inside = hemplit("load", *files, "--into", "one/", "--engine", "duckdb", folder=folder)
    beside = hemplit("load", *files, "--into", "two/", "--parquet", folder=folder)
    assert inside.code <= beside.code <= 1 and "Verified" in inside.out, inside.err or inside.out
    is_whole = engine_rows.SAMPLE > 0
    if is_whole or "Changed cells" not in beside.out:  # in pieces an engine corrects nothing
        assert held(folder / "one") == held(folder / "two")
        described = [json.loads((folder / name / "tables.json").read_text(encoding="utf-8")) for name in ("one", "two")]
        assert described[0] == described[1]
    if is_whole:
        said = [
            re.sub(r"\(\d+\s+checks?\s+passed\)", "", ran.out).replace("two", "one").split() for ran in (inside, beside)
        ]
        assert said[0] == said[1] and inside.code == beside.code


@pytest.fixture(params=["whole", "in pieces"])
def taken(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """How small sheets are taken: as a whole, as ever, or as if they were larger than memory."""
    if request.param == "in pieces":
        monkeypatch.setattr(engine_rows, "SAMPLE", 0)
        monkeypatch.setattr(in_engine, "most_of", lambda rows: rows.row_count)


RANDOM = settings(max_examples=tries(12), suppress_health_check=[HealthCheck.function_scoped_fixture])


@pytest.mark.usefixtures("taken")
@RANDOM
@given(seed=st.integers(0, 10_000))
def test_sheets_that_belong_together_are_the_same_tables_as_in_memory(
    seed: int, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("yard")
    sheets = yard(seed).sheets
    for name, columns in sheets.items():
        with (folder / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows([columns, *zip(*columns.values(), strict=True)])
    as_in_memory(folder, [f"{name}.csv" for name in sheets])


@pytest.mark.usefixtures("taken")
@RANDOM
@given(seed=st.integers(0, 10_000), rows=st.sampled_from([12, 60, 400]))
def test_an_engine_makes_the_same_tables_as_memory(
    seed: int, rows: int, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("lake")
    made = world(seed, rows)
    with (folder / "yard.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([made.headers, *zip(*made.columns, strict=True)])
    as_in_memory(folder, ["yard.csv"])


@pytest.mark.usefixtures("taken")
def test_what_names_no_row_of_its_own_table_is_kept_as_in_memory(tmp_path: Path) -> None:
    rows = [(f"C-{at:02}", f"{name} {at}", f"C-{at % 5:02}" if at > 4 else None) for at, name in enumerate("AB" * 20)]
    rows[30] = (*rows[30][:2], "C-77")
    written(tmp_path, rows, "crew.parquet", ("Badge", "Name", "Boss"))
    as_in_memory(tmp_path, ["crew.parquet"])
    assert sum("'boss_unmatched': 'C-77'" in row for row in held(tmp_path / "one")["crews"]) == 1


@pytest.mark.parametrize("inside", QUICK, indirect=True)
def test_boats_that_name_boats_are_one_table_as_in_memory(inside: Files) -> None:
    pairs = [(Random(at).randrange(40), Random(-at).randrange(30)) for at in range(600)]
    rows = [(at + 1, f"Boat {boat}", f"Boat {boat % 7}", tonnes) for at, (boat, tonnes) in enumerate(pairs)]
    inside.put(rows, ("Lift No", "Boat", "Fleet Ship", "Tonnes"))
    ran = inside.load()
    assert ran.code == 0, ran.err
    made = inside.held()
    assert len(made["boats"]) == 40 and "'fleet_ship_id': 1" in "".join(made["boats"])
    assert inside.load_in_memory().code == 0 and inside.held() == made


def test_spark_says_that_it_has_no_type_for_a_time_of_day(tmp_path: Path) -> None:
    spark = pytest.importorskip("hemplit.engines.spark", reason="pyspark is not here", exc_type=ImportError)
    staging = spark._Staging(None, "trips", tmp_path / "staged")
    with pytest.raises(TargetError, match="no type for a time of day, which 'Starts' holds"):
        staging.add(pa.table({"Trip": [1], "Starts": pa.array([time(7, 5)], pa.time32("s"))}))


def test_all_rows_of_a_small_sheet_that_contradict_a_design_are_told_at_once(tmp_path: Path) -> None:
    rows = [(at, f"MQ-{at % 4}", f"Boat {at % 4}", at % 4 + 0.5) for at in range(40)]
    headers = ("Lift", "Boat Reg", "Boat", "Tonnes")
    written(tmp_path, rows, "lifts.parquet", headers)
    assert hemplit("load", "lifts.parquet", "--into", "one/", "--engine", "duckdb", folder=tmp_path).code == 0
    rows[20], rows[31] = (20, "MQ-0", "Another", 0.5), (31, "MQ-3", "Boat 3", 9.5)
    written(tmp_path, rows, "lifts.parquet", headers)
    ran = hemplit("load", "one.design.toml", "--into", "one/", "--engine", "duckdb", "--replace", folder=tmp_path)
    assert ran.code == 2 and "row 22" in ran.err and "row 33" in ran.err, ran.err


@pytest.mark.parametrize(
    "sheet",
    [
        "Boat,Teal,Smew,Knot\nReg,M-1,M-2,M-3\nRig,sloop,ketch,sloop\nLength,7.5,8.2,9.1\nBuilt,1999,2004,2011\n",
        "Job No,J-1,\nOwner,Keel,\nPart,Qty,Fee\nrope,2,5\nmast,1,2\nJob No,J-2,\nOwner,Lund,\nPart,Qty,Fee\noar,2,9\n",
        'Order,Parts\n1,"2x rope, 1x mast"\n2,1x oar\n3,"3x rope, 1x oar"\n',
    ],
    ids=["on its side", "forms", "counted"],
)
def test_sheets_of_other_shapes_are_the_same_tables_as_in_memory(sheet: str, tmp_path: Path) -> None:
    (tmp_path / "yard.csv").write_text(sheet, encoding="utf-8")
    as_in_memory(tmp_path, ["yard.csv"])
    tables = held(tmp_path / "one")
    again = hemplit("load", "one.design.toml", "--into", "one/", "--engine", "duckdb", "--replace", folder=tmp_path)
    assert "Verified" in again.out and held(tmp_path / "one") == tables, again.err or again.out


def test_the_sheets_of_the_demo_are_the_same_tables_as_in_memory(tmp_path: Path) -> None:
    write_sheets(tmp_path)
    months = [f"haul-outs/{one.name}" for one in sorted((tmp_path / "haul-outs").iterdir())]
    as_in_memory(tmp_path, ["jobs.csv", "parts-used.csv", "crew-roster.xlsx", *months])
    files = ("jobs.csv", "parts-used.csv", "crew-roster.xlsx", *months, "--replace", "--json")
    inside = json.loads(hemplit("load", *files, "--into", "one/", "--engine", "duckdb", folder=tmp_path).out)
    beside = json.loads(hemplit("load", *files, "--into", "two/", "--parquet", folder=tmp_path).out)
    assert inside["sheets"] == beside["sheets"] and sum(len(one["changes"]) for one in inside["sheets"]) > 10
    tables = held(tmp_path / "one")
    again = hemplit("load", "one.design.toml", "--into", "one/", "--engine", "duckdb", "--replace", folder=tmp_path)
    assert "Verified" in again.out and held(tmp_path / "one") == tables, again.err or again.out


@pytest.mark.usefixtures("in_small_pieces")
def test_a_sample_and_pieces_make_the_same_tables_as_all_rows_at_once(inside: Files, tmp_path: Path) -> None:
    inside.put([line(at) for at in range(ROWS)])
    ran = inside.load()
    assert ran.code == 0, ran.err
    assert "Drafted from 200 of 1,200 rows, and verified on all of them." in ran.err
    written(tmp_path, [line(at) for at in range(ROWS)])
    hemplit("load", "jobs.parquet", "--into", "memory/", "--parquet", folder=tmp_path)
    assert inside.held() == held(tmp_path / "memory")


#: Orders of boats, of which each has a dock, two phones, one of them at times, and marks.
ORDERS = ("Order", "Boat", "Dock", "Phone 1", "Phone 2", "Marks", "Hours")


def order(at: int, boats: int) -> list[object]:
    boat = at * 7 % boats
    phones = [f"55-{boat:03}", f"56-{boat:03}" if boat % 3 else None]
    marks = ("keel", "keel, mast", "rudder, keel", "mast, rudder, sail")[boat * 3 % 4]
    return [5000 + at, f"Boat {boat:02}", f"Dock {boat % 7}", *phones, marks, at * 13 % 9 + 1]


#: A late row says other phones of a boat than a piece before, and another fewer.
LATES = ((805, "77"), (930, "77"), (997, None))
OF_ALL_SIZES = [*((engine, 40, 66, LATES) for engine in QUICK), (QUICK[0], 200, 333, LATES)]


@pytest.mark.usefixtures("in_small_pieces")
@pytest.mark.parametrize(
    ("inside", "boats", "phones", "lates"),
    [*OF_ALL_SIZES, pytest.param("spark", 40, 66, (), marks=pytest.mark.slow)],
    indirect=["inside"],
)
def test_what_things_have_in_all_their_rows_is_told_once_over_all_pieces(
    inside: Files, boats: int, phones: int, lates: Sequence[tuple[int, str | None]], tmp_path: Path
) -> None:
    rows = [order(at, boats) for at in range(1000)]
    inside.put(rows, ORDERS)
    ran = inside.load()
    assert ran.code == 0, ran.err
    written(tmp_path, rows, headers=ORDERS)
    hemplit("load", "jobs.parquet", "--into", "memory/", "--parquet", folder=tmp_path)
    made = inside.held()
    assert len(made["boat_phones"]) == phones and made == held(tmp_path / "memory")
    path = inside.folder / inside.design
    design = path.read_text(encoding="utf-8")
    assert design.count("once = true") == 2
    for at, phone in lates:
        late = [*rows]
        late[at] = [*late[at][:4], phone, *late[at][5:]]
        inside.put(late, ORDERS)
        path.write_text(design, encoding="utf-8")
        ran = inside.load("--replace", design=inside.design)
        assert ran.code == 2 and f"row {at + 2}" in ran.err and "Phone" in ran.err, ran.err
        ran = inside.load("--replace")
        assert ran.code <= 1 and "order_phones" in inside.held(), ran.err


#: Sheets of a yard, which tell of one another: boats are listed twice, skippers are named in another writing, and two
#: riggers have one name.
NAMES = ("Ada Aas", "Bo Berg", "Cato Dahl", "Dina Eide", "Elske Foss", "Finn Grav", "Gerd Haug", "Hanno Lie")
PEOPLE = [(*name.split(), f"0559 {at:04}") for at, name in enumerate(NAMES)]
BOATS = [(f"MQ-{at}", f"Boat {at}", f"Dock {at % 5}") for at in range(40)]
LENGTHS = [(f"MQ-{at}", "Seven" if at == 7 else f"Boat {at}", 6.5 + at % 9) for at in range(5, 45)]
RIGGERS = [(f"R-{at}", f"{NAMES[at % 8].split()[0]} {'Moe' if at in (0, 8) else f'Ru{at}'}") for at in range(12)]
LIFTS = [
    (
        at + 1,
        f"MQ-{at % 45}",
        NAMES[at % 8].upper(),
        f"Dock {Random(at).randrange(6)}",
        *PEOPLE[Random(-at).randrange(8)][:2],
        RIGGERS[Random(at / 7).randrange(12)][1],
    )
    for at in range(600)
]
SHEETS: dict[str, tuple[tuple[str, ...], Sequence[tuple[object, ...]]]] = {
    "people": (("First Name", "Last Name", "Phone"), PEOPLE),
    "boats": (("Boat Reg", "Boat", "Dock"), BOATS),
    "lengths": (("Reg", "Boat", "Length"), LENGTHS),
    "riggers": (("Badge", "Name"), RIGGERS),
    "lifts": (("Lift No", "Boat Reg", "Skipper", "Dock", "Helper First Name", "Helper Last Name", "Rigger"), LIFTS),
}


def put_lifts(inside: Files, at: int = LATE, **cells: object) -> None:
    """Writes the sheets, of the lifts with other cells in a row."""
    for name, (headers, rows) in SHEETS.items():
        lifts = [list(row) for row in rows]
        if name == "lifts":
            lifts[LATE][headers.index("Boat Reg")] = "ZX-7"  # no list has this boat
            lifts[LATE + 3][headers.index("Helper Last Name")] = None  # the first name says it
            for header, cell in cells.items():
                lifts[at][headers.index(header)] = cell
        inside.put(lifts, headers, name)


@pytest.mark.usefixtures("in_small_pieces")
def test_what_sheets_say_of_one_another_is_as_in_memory(inside: Files) -> None:
    put_lifts(inside)
    drafting = inside if isinstance(inside, Table) else Files("duckdb", inside.folder)
    assert drafting.load(sheets=[*SHEETS]).code == 1
    # Somebody adds a reference by a name that two have: it leads to neither.
    badge = 'columns.badge = { from = "Rigger", to = "riggers", named_by = ["name"] }\n'
    path = inside.folder / inside.design
    design = re.sub(r"(?=columns.rigger_id *= { to)", badge, path.read_text(encoding="utf-8"))
    assert all(word in design for word in ("unites", "unmatched", "unlike", "alike", "badge =")), design
    path.write_text(design, encoding="utf-8")
    ran = inside.load("--replace", design=inside.design)
    said = " ".join(ran.out.split())
    assert ran.code == 1 and "what stands under 'Rigger' names no row of 'riggers', or several" in said, ran.err or said
    made = inside.held()
    assert len(made["boats"]) == 45 and sum("ZX-7" in row for row in made["lifts"]) == 1
    assert sum("'badge': None" in row for row in made["lifts"]) > 50
    assert inside.load_in_memory(inside.design).code == 1
    assert inside.held() == made


@pytest.mark.usefixtures("in_small_pieces")
@pytest.mark.parametrize("inside", QUICK, indirect=True)
def test_what_a_list_says_and_whom_a_row_names_is_as_in_memory(inside: Files) -> None:
    """Of a part that is not listed all is kept beside; a rigger has a badge, and names the one above by name."""
    makers = [(f"M-{at}", f"Maker {at}", f"Town {at}") for at in range(6)]
    sorts = [(f"P-{at}", f"Part {at}", f"Sort {at % 4}", f"M-{at % 6}") for at in range(30)]
    ordered = [(*sorts[at][:3], *makers[at % 6][1:]) for at in (Random(at).randrange(30) for at in range(600))]
    ordered[LATE] = ("P-99", "Winch", "Sort 3", "Maker 0", "Town 0")
    riggers = [(f"R-{at}", f"Rigger {at}", f"Rigger {at // 3}" if at else None) for at in range(40)]
    headers = ("Order No", "Part No", "Part", "Sort", "Maker", "Maker Town", "Qty")
    inside.put(makers, ("Maker No", "Name", "Town"), "makers")
    inside.put(sorts, ("Part No", "Part", "Sort", "Maker No"), "parts")
    inside.put([(at + 1, *part, at % 9) for at, part in enumerate(ordered)], headers)
    inside.put(riggers, ("Badge", "Name", "Boss"), "riggers")
    drafting = inside if isinstance(inside, Table) else Files("duckdb", inside.folder)
    ran = drafting.load(sheets=["makers", "parts", "jobs", "riggers"])
    assert ran.code == 1 and "names no row of 'parts'" in " ".join(ran.out.split()), ran.err or ran.out
    design = (inside.folder / inside.design).read_text(encoding="utf-8")
    expected = ('gives = "sort_id"', 'gives = "maker_no.town"', 'named_by = ["name"]', "sort_unmatched")
    assert all(word in design for word in expected), design
    made = inside.held()
    assert inside.load_in_memory(inside.design).code == 1
    assert inside.held() == made and sum("Winch" in row for row in made["orders"]) == 1
    # Where an order says otherwise of a part that is listed, nothing is written.
    ordered[LATE + 1] = (*ordered[LATE + 1][:4], "Elsewhere")
    inside.put([(at + 1, *part, at % 9) for at, part in enumerate(ordered)], headers)
    ran = inside.load("--replace", design=inside.design)
    assert ran.code == 2 and f"row {LATE + 3}" in ran.err and inside.held() == made, ran.err


@pytest.mark.usefixtures("in_small_pieces")
@pytest.mark.parametrize("inside", QUICK, indirect=True)
def test_names_that_no_other_sheet_lists_are_told_with_their_rows_or_refused(inside: Files) -> None:
    put_lifts(inside)
    ran = inside.load(sheets=[*SHEETS])
    said = " ".join(ran.out.split())
    assert f"what stands under 'Boat Reg' names no row of 'boats', or several: row {LATE + 2}" in said, ran.err or said
    assert f"only some of 'Helper First Name' and 'Helper Last Name' are filled: row {LATE + 5}" in said, said
    # Next month's sheets, with a column that keeps the name, and then without one.
    put_lifts(inside, LATE - 1, Skipper="Nobody")
    ran = inside.load("--replace", design=inside.design)
    said = " ".join(ran.out.split())
    assert ran.code == 1 and f"under 'Skipper' names no row of 'people', or several: row {LATE + 1}" in said, said
    path = inside.folder / inside.design
    lines = path.read_text(encoding="utf-8").splitlines()
    path.write_text("\n".join(line for line in lines if "unmatched" not in line), encoding="utf-8")
    ran = inside.load("--replace", design=inside.design)
    assert ran.code == 2 and f"row {LATE + 2}" in ran.err and "names no row of 'boats'" in ran.err, ran.err


@pytest.mark.usefixtures("in_small_pieces")
def test_late_rows_of_sheets_that_tell_of_the_same_things_are_found_in_their_sheets(tmp_path: Path) -> None:
    boats = [[f"MQ-{at}", f"Boat {at}", NAMES[at * 3 % 8], f"0559 {at * 3 % 8}"] for at in range(600)]
    lengths = [[f"MQ-{at}", f"Boat {at}", 6.5 + Random(at).randrange(30)] for at in range(600)]
    boats[LATE][3], lengths[LATE + 1][1] = "0559 9", "Another"
    written(tmp_path, boats, "boats.parquet", ("Boat Reg", "Boat", "Owner", "Phone"))
    written(tmp_path, lengths, "lengths.parquet", ("Reg", "Boat", "Length"))
    files = ("load", "boats.parquet", "lengths.parquet", "--into", "lake/", "--engine", "duckdb", "--json")
    told = {
        (one["sheet"], one["what"]): one["places"] for one in json.loads(hemplit(*files, folder=tmp_path).out)["told"]
    }
    assert told["lengths.parquet", "'Boat' is not what another sheet says of the same thing"] == [
        f"row {LATE + 3}",
        f"boats.parquet row {LATE + 3}",
    ]
    odd = told["boats.parquet", "rows of one 'Owner' do not all say the same under 'Phone'"]
    assert odd[0] == f"row {LATE + 2}", odd
    assert any("'Another'" in row for row in held(tmp_path / "lake")["lengths_rows"])


@pytest.mark.usefixtures("in_small_pieces")
def test_a_list_that_is_narrow_is_known_as_a_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    boats = [(f"MQ-{at}", f"Boat {at}", f"Insurer {Random(at).randrange(9)}") for at in range(700)]
    lifts = [(at + 1, f"MQ-{Random(at).randrange(700)}", 500 + Random(at).randrange(90)) for at in range(700)]
    written(tmp_path, boats, "boats.parquet", ("Boat Reg", "Boat", "Insurer"))
    written(tmp_path, lifts, "lifts.parquet", ("Lift No", "Boat Reg", "Weight"))
    monkeypatch.setattr(engine_rows, "COLUMNS", 12)
    ran = hemplit("load", "boats.parquet", "lifts.parquet", "--into", "lake/", "--engine", "duckdb", folder=tmp_path)
    assert ran.code == 0 and 'to = "boats"' in (tmp_path / "lake.design.toml").read_text(encoding="utf-8"), ran.err


@pytest.mark.usefixtures("in_small_pieces")
def test_a_design_holds_where_two_samples_do_not_show_what_names_what(tmp_path: Path) -> None:
    works = [(at + 1, f"L-{Random(at).randrange(700)}", 1 + at % 9) for at in range(700)]
    lifts = [(f"L-{at}", 500 + Random(at).randrange(90)) for at in range(700)]
    written(tmp_path, lifts, "lifts.parquet", ("Lift No", "Weight"))
    written(tmp_path, works, "works.parquet", ("Work No", "Lift No", "Hours"))
    hemplit("load", "lifts.parquet", "works.parquet", "--into", "memory/", "--parquet", folder=tmp_path)
    assert 'to = "lifts"' in (tmp_path / "memory.design.toml").read_text(encoding="utf-8")
    ran = hemplit("load", "memory.design.toml", "--into", "lake/", "--engine", "duckdb", folder=tmp_path)
    assert ran.code == 0 and "all 1,400 rows can be rebuilt" in ran.out, ran.err or ran.out
    assert held(tmp_path / "lake") == held(tmp_path / "memory")


def test_the_statements_that_are_shown_make_the_same_tables_by_hand(tmp_path: Path) -> None:
    parts = ("Part 1", "Part 2")
    headers = [header for header in HEADER if header not in parts]
    rows = [[cell for header, cell in zip(HEADER, line(at), strict=True) if header in headers] for at in range(200)]
    written(tmp_path, rows, headers=headers)
    call = ("load", "jobs.parquet", "--into", "lake/", "--engine", "duckdb", "--replace")
    shown = hemplit(*call, "--sql", folder=tmp_path).out
    statements = json.loads(hemplit(*call, "--json", folder=tmp_path).out)["sql"]
    assert "\n\n".join(statements) in shown
    with duckdb.connect() as connection:
        numbered = "row_number() OVER () - 1 AS hemplit_row, row_number() OVER () AS hemplit_at, *"
        connection.execute(f"CREATE TABLE hemplit_staged_jobs AS SELECT {numbered} FROM '{tmp_path}/jobs.parquet'")
        for statement in statements:
            connection.execute(statement)
        made = {}
        for name in held(tmp_path / "lake"):
            table = connection.sql(f"SELECT * EXCLUDE (hemplit_row) FROM hemplit_made_{name}").to_arrow_table()
            kept = parquet.read_schema(tmp_path / "lake" / f"{name}.parquet")
            made[name] = sorted(map(str, table.cast(kept).to_pylist()))
    assert made == held(tmp_path / "lake")


@pytest.mark.usefixtures("in_small_pieces")
def test_files_of_a_folder_are_one_sheet(tmp_path: Path) -> None:
    parts = tmp_path / "months"
    parts.mkdir()
    written(parts, [line(at) for at in range(500)], "april.parquet")
    rows = [line(at) for at in range(500, ROWS)]
    rows[333][HEADER.index("Hours")] = 77
    written(parts, rows, "may.parquet")
    for sheets in (("months",), ("months/april.parquet", "months/may.parquet")):
        ran = hemplit("load", *sheets, "--into", "lake/", "--engine", "duckdb", "--replace", folder=tmp_path)
        assert ran.code == 1 and "may.parquet row 335" in " ".join(ran.out.split()), ran.out
        assert len(held(tmp_path / "lake")["jobs"]) == ROWS
        (tmp_path / "lake.design.toml").unlink()


@pytest.mark.usefixtures("in_small_pieces")
def test_next_months_file_comes_in_with_the_design_of_this_one(tmp_path: Path) -> None:
    parts = tmp_path / "months"
    parts.mkdir()
    written(parts, [line(at) for at in range(500)], "april.parquet")
    call = ("--into", "lake/", "--engine", "duckdb")
    assert hemplit("load", "months", *call, folder=tmp_path).code == 0
    ran = hemplit("load", "lake.design.toml", *call, folder=tmp_path)
    assert ran.code == 2 and "lake/: it exists already; --replace replaces what Hemplit made" in ran.err
    written(parts, [line(at) for at in range(500, ROWS)], "may.parquet")
    ran = hemplit("load", "lake.design.toml", *call, "--replace", folder=tmp_path)
    assert ran.code == 0 and "Replacing what Hemplit made in lake/: this folder." in ran.err, ran.err
    written(tmp_path, [line(at) for at in range(ROWS)])
    hemplit("load", "jobs.parquet", "--into", "memory/", "--parquet", folder=tmp_path)
    assert held(tmp_path / "lake") == held(tmp_path / "memory")
    assert not [path for path in tmp_path.iterdir() if path.name.startswith(".")]


@pytest.mark.parametrize("inside", QUICK, indirect=True)
def test_ten_rows_and_odd_signs_are_as_in_memory(inside: Files) -> None:
    headers = ['Job "No"', "by", "Naïve", "order", "Depth", "Ok", "Told"]
    odd = [
        [f"J'{at}", None if at == 3 else f"MQ-{at % 3}", 'Bø\\t "x"', "a\nb", -0.5 if at % 2 else 1e-9, at % 2 == 0]
        for at in range(10)
    ]
    # Texts that are alike in their beginning, in capitals and at their end are others.
    told = ["ö" * 700 + end for end in ("a", "A", "a ", "b")]
    rows = [[*row, told[at % 4]] for at, row in enumerate(odd)]
    inside.put(rows, headers)
    ran = inside.load()
    assert ran.code == 0, ran.err or ran.out
    made = inside.held()
    assert inside.load_in_memory().code == 0
    assert made == inside.held()


@pytest.mark.parametrize("inside", QUICK, indirect=True)
def test_a_table_of_dates_is_as_in_memory(inside: Files) -> None:
    rows = [line(at) for at in range(300)]
    for at, row in enumerate(rows):  # over the ends of years, whose weeks belong to the next or to the last
        row[HEADER.index("Opened")] = str(date(2020, 12, 20) + timedelta(days=at * 7 % 800))
    inside.put(rows)
    assert hemplit("draft", inside.source("jobs"), "--dates", "--out", inside.design, folder=inside.folder).code == 0
    ran = inside.load("--replace", design=inside.design)
    assert ran.code == 0, ran.err or ran.out
    made = inside.held()
    assert len(made["dates"]) > 200 and "Sunday" in str(made["dates"])
    assert inside.load_in_memory(inside.design).code == 0
    assert made == inside.held()


CHANGES: dict[str, tuple[dict[str, object], str]] = {
    "a boat that has another owner": ({"Owner": "Somebody Else"}, "do not all say the same under 'Owner'"),
    "a text among numbers": ({"Hours": "about 5"}, "'about 5' under 'Hours' is no whole number"),
    "a number that is there twice": ({"Job No": 4000 + LATE - 1}, "rows have the same 'Job No'"),
    "a blank key": ({"Job No": None}, "'Job No' is blank"),
    "a sum that does not agree": ({"Cost": 1.5}, "'Cost' is not what its formula gives"),
    "a blank where none was": ({"Status": None}, "'Status' is blank"),
}
#: What each engine asks in an SQL of its own.
OF_SQL = ("a boat that has another owner", "a number that is there twice", "a sum that does not agree")


@pytest.mark.usefixtures("in_small_pieces")
@pytest.mark.parametrize(
    ("inside", "change"),
    [*(("duckdb", change) for change in CHANGES), *((name, change) for name in SERVERS for change in OF_SQL)],
    indirect=["inside"],
)
def test_what_one_late_row_says_against_the_draft_is_told_with_the_row_and_nothing_is_lost(
    inside: Files, change: str
) -> None:
    cells, said = CHANGES[change]
    rows = [line(at) for at in range(ROWS)]
    for header, value in cells.items():
        rows[LATE][HEADER.index(header)] = value
    if change == "a text among numbers":
        rows = [[str(cell) if at == HEADER.index("Hours") else cell for at, cell in enumerate(row)] for row in rows]
    inside.put(rows)
    ran = inside.load("--json")
    assert ran.code == 1, ran.err
    told = json.loads(ran.out)["told"]
    assert any(said in one["what"] and f"row {LATE + 2}" in one["places"] for one in told), told
    for value in cells.values():
        assert any(repr(value) in row or f"'{value}'" in row for table in inside.held().values() for row in table)


@pytest.mark.usefixtures("in_small_pieces")
@pytest.mark.parametrize("inside", QUICK, indirect=True)
def test_a_design_that_somebody_edited_is_kept_and_late_rows_that_contradict_it_are_refused(inside: Files) -> None:
    rows = [line(at) for at in range(ROWS)]
    inside.put(rows)
    inside.load()
    design = inside.folder / inside.design
    # Names that are too long for a server are cut in it.
    hulls, text = f"hulls{'_of_the_yard' * 6}", design.read_text(encoding="utf-8")
    text = text.replace("[tables.boats]", f"[tables.{hulls}]").replace('"boats"', f'"{hulls}"')
    text = re.sub(r"\bowner_id\b", f"owner{'_of_the_boat' * 6}", text)
    # More things than ids of a style have digits for.
    for name, ids in ((r"owner\w*", "W'095"), ("part_id", "5")):
        text = re.sub(rf'({name} *= {{ ids = )"number"', rf'\1"{ids}"', text)
    design.write_text(text, encoding="utf-8")
    assert inside.load("--replace", design=inside.design).code == 0
    before = inside.held()
    assert any("W'107" in row for row in before["owners"])
    assert any(name.startswith("hulls_of_the_yard") for name in before) and design.read_text(encoding="utf-8") == text
    assert inside.load_in_memory(inside.design).code == 0
    assert inside.held() == before
    rows[LATE][HEADER.index("Owner")] = "Somebody Else"
    inside.put(rows)
    ran = inside.load("--replace", design=inside.design)
    assert ran.code == 2 and "line " in ran.err and f"(tables.{hulls}.columns." in ran.err, ran.err
    assert f"row {LATE + 2} and row " in ran.err and "do not all say the same under 'Owner'" in ran.err
    step = '  { do = "skip duplicate rows", key = ["Job No"] },\n]\n'
    design.write_text(text.replace("\n]\n", f"\n{step}", 1), encoding="utf-8")
    ran = inside.load("--replace", design=inside.design)
    assert ran.code == 2 and "an engine cannot do the step 'skip duplicate rows'" in ran.err, ran.err
    assert inside.held() == before


@pytest.mark.usefixtures("in_small_pieces")
def test_rows_that_get_lost_on_the_way_are_found_and_nothing_is_written(
    inside: Files, monkeypatch: pytest.MonkeyPatch
) -> None:
    inside.put([line(at) for at in range(ROWS)])
    whole = Fill.rows
    monkeypatch.setattr(Fill, "rows", lambda fill, plan: f"SELECT * FROM ({whole(fill, plan)}) AS found LIMIT 30")
    before = inside.held(), sorted(inside.folder.iterdir())
    ran = inside.load()
    assert ran.code == 2 and "NOT verified: the tables joined again give all rows of jobs" in ran.err, ran.err
    assert (inside.held(), sorted(inside.folder.iterdir())) == before


@pytest.mark.parametrize("at_once", [False, True])
def test_keys_and_references_that_do_not_hold_are_named(
    at_once: bool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(EngineDialect, "is_asked_at_once", at_once)
    names = ("reg", "boat")
    none = np.zeros(0, np.int32), pa.array([], pa.string())
    columns = tuple(tables.TableColumn(name, TEXT, *none, required=True) for name in names)
    to_fleet = tables.Reference(("boat",), "fleet", ("name",))
    boats = tables.Table("boats", Purpose.MAIN, columns, ("reg",), (), (to_fleet,), 4)
    with engine_of("duckdb", tmp_path, "") as engine:
        engine.create("fleet", "SELECT unnest(['Teal', 'Knot']) AS name", ["name"])
        rows = "('MQ-1', 'Teal'), ('MQ-1', 'Knot'), ('MQ-2', 'Smew'), (NULL, 'Teal')"
        engine.create("boats", f"SELECT * FROM (VALUES {rows}) AS told(reg, boat)", ["reg"])
        check = hangs_together(engine, boats, measured(engine, boats))
    found = [(one.place, one.expected, one.found) for one in check.differences]
    assert found == [
        ("boats.reg", "filled", "1 blank"),
        ("boats", "one row", "MQ-1"),
        ("boats → fleet", "a row", "MQ-2, Smew"),
    ]


@pytest.mark.parametrize(
    ("call", "said"),
    [
        ("jobs.parquet --into lake/ --engine duck", "there is no such engine; did you mean 'duckdb'?"),
        ("jobs.parquet --into lake/ --engine postgresql", "splits tables of a database into others of the same"),
        ("jobs.parquet --into lake.sqlite --engine duckdb", "duckdb writes a folder of Parquet files"),
        ("jobs.parquet ./jobs.parquet --into lake/ --engine duckdb", "it is given twice"),
        ("jobs.parquet --into lake/ --engine duckdb --area A1:B2", "--area: an engine does not take it"),
        ("jobs.parquet --into lake/ --engine duckdb --memory much", "--memory much: this is no amount"),
        ("jobs.parquet --into lake/ --memory 4GB", "only an engine keeps to it"),
        ("jobs.parquet --into lake/ --sql", "only an engine splits a sheet by statements"),
        ("none.parquet --into lake/ --engine duckdb", "there is no such file"),
        ("mixed --into lake/ --engine duckdb", "people.ods: a folder that is larger than memory holds .parquet, .csv,"),
        ("torn.csv --into lake/ --engine duckdb", "torn.csv: it cannot be read"),
        ("twice.csv --into lake/ --engine duckdb", "two columns are called 'Boat'"),
        ("capitals.csv --into lake/ --engine duckdb", "two columns are called 'Boat' and 'BOAT'"),
        ("old.csv --into lake/ --engine duckdb", "it cannot be read (it is no UTF-8)"),
        ("two --into lake/ --engine duckdb", "it has other columns than"),
    ],
)
def test_what_an_engine_cannot_do_is_said_in_a_line(
    call: str, said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(engine_rows, "SAMPLE", 0)  # no file is small
    written(tmp_path, [line(at) for at in range(30)])
    (tmp_path / "mixed").mkdir()
    for name in ("a.csv", "people.ods"):
        (tmp_path / "mixed" / name).write_text("Job No,Boat\n1,Teal\n", encoding="utf-8")
    (tmp_path / "torn.csv").write_text("Job No,Boat\n1,Teal\n2\n", encoding="utf-8")
    (tmp_path / "twice.csv").write_text("Boat;Boat\nTeal;Knot\n", encoding="utf-8")
    (tmp_path / "capitals.csv").write_text("Boat,BOAT\nTeal,Knot\n", encoding="utf-8")
    (tmp_path / "old.csv").write_text("B\u00e4t,Hours\nTeal,3\n", encoding="latin-1")
    (tmp_path / "two").mkdir()
    for name, header in (("a", "Job No"), ("b", "Boat")):
        (tmp_path / "two" / f"{name}.csv").write_text(f"{header},Hours\n1,2\n", encoding="utf-8")
    before = sorted(tmp_path.rglob("*"))
    ran = hemplit("load", *call.split(), folder=tmp_path)
    assert ran.code == 2 and said in ran.err and ran.err.count("\n") == 1, ran.err
    assert sorted(tmp_path.rglob("*")) == before
