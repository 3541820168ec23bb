"""The contract of targets: each holds every kind of value, hostile names and blanks, and gives them back."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import hemplit, same_cells, tries
from hemplit.core.model.design import Purpose
from hemplit.core.model.relation import Kind
from hemplit.core.model.tables import Reference, Table, TableColumn, Tables
from hemplit.core.proof.stored import check_stored
from hemplit.errors import TargetError
from hemplit.files.cells import from_encoded
from hemplit.targets import target_for
from places import Place, WorkbookPlace

KINDS: dict[Kind, tuple[pa.DataType, st.SearchStrategy[object]]] = {
    Kind("whole number"): (pa.int64(), st.integers(-(10**15), 10**15)),
    Kind("decimal"): (
        pa.float64(),
        st.floats(-1e12, 1e12, allow_nan=False).map(lambda number: float(f"{number:.15g}") + 0.0),
    ),
    Kind("date", "YYYY-MM-DD"): (pa.date32(), st.dates(date(1000, 1, 1))),
    Kind("time", "hh:mm:ss"): (pa.time32("s"), st.times().map(lambda moment: moment.replace(microsecond=0))),
    Kind("date and time", "YYYY-MM-DD hh:mm:ss"): (
        pa.timestamp("s"),
        st.datetimes(datetime(1000, 1, 1)).map(lambda moment: moment.replace(microsecond=0)),
    ),
    Kind("yes/no", "Yes/No"): (pa.bool_(), st.booleans()),
    Kind("text"): (pa.string(), st.text(st.characters(codec="utf-8", exclude_characters="\x00"), min_size=1)),
}
NAMES = [
    *("select", "a b", 'say "x"', "semi;colon", "per%cent", "Größe ⛵", "it's", "x--y", "[z]", "back`tick", "Mixed"),
    *(
        "a:b",
        "back\\slash",
        "🚤 hull",
        "x" * 70,
        "x" * 69 + "y",
        "длинное имя столбца, в котором больше шестидесяти трёх букв",
    ),
]
#: Texts that are something else to a database, a spreadsheet or a terminal.
WEAPONS = [
    *(
        "'; DROP TABLE boats; --",
        '"',
        "''",
        "`",
        "\\",
        "\\'",
        "\\N",
        "\\.",
        "NULL",
        "null",
        "=cmd()",
        "%s",
        ":x",
        "$1",
        "a\tb",
    ),
    *("a\nb", "a\r\nb", "\r", ",", '","', "\u202eTeal", "\u200b", " Teal ", "🚤", "\x1a", "\x1b[31m", "x" * 10_000_000),
]


def column(name: str, kind: Kind, values: list[object], required: bool = False) -> TableColumn:
    cells = from_encoded(pa.array(values, KINDS[kind][0]).dictionary_encode())
    return TableColumn(name, kind, cells.codes, cells.texts, required)


def table(name: str, columns: tuple[TableColumn, ...], rows: int) -> Table:
    key = column("id", Kind("whole number"), list(range(1, rows + 1)), required=True)
    return Table(name, Purpose.MAIN, (key, *columns), ("id",), (), (), rows)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=tries(40))
@given(st.data())
def test_every_kind_of_value_comes_back(anywhere: Place, data: st.DataObject) -> None:
    rows = data.draw(st.integers(1, 6))
    columns = tuple(
        column(f"c{index}", one, data.draw(st.lists(st.none() | values, min_size=rows, max_size=rows)))
        for index, (one, (_, values)) in enumerate(KINDS.items())
    )
    tables = Tables((table("all kinds", columns, rows),), ())
    target = target_for(anywhere.text)
    target.write(tables, over=True)
    held = target.read(tables)
    assert not check_stored(tables, target.expected, lambda one: [held[one.name]]).different
    assert not check_stored(tables, target.expected, target.rows).different


def test_midnight_is_a_moment(anywhere: Place) -> None:
    kind = next(one for one in KINDS if one.word == "date and time")
    values = [datetime(2026, 3, 1), datetime(2026, 3, 1, 5, 30), None]
    tables = Tables((table("moments", (column("opened", kind, values),), 3),), ())
    target = target_for(anywhere.text)
    target.write(tables, over=True)
    assert not check_stored(tables, target.expected, target.rows).different


def test_names_are_only_names(anywhere: Place) -> None:
    text = Kind("text")
    columns = tuple(column(name, text, ["x", None]) for name in NAMES)
    tables = Tables(tuple(table(name, columns, 2) for name in NAMES), ())
    target = target_for(anywhere.text)
    target.write(tables, over=False)
    assert {name: rows.num_rows for name, rows in target.read(tables).items()} == dict.fromkeys(NAMES, 2)


def test_values_are_only_values(anywhere: Place) -> None:
    target, texts = target_for(anywhere.text), WEAPONS
    if isinstance(anywhere, WorkbookPlace):
        with pytest.raises(TargetError, match="a cell of a workbook holds 32,767"):
            target.write(only(WEAPONS), over=False)
        assert anywhere.listed() == []
        texts = WEAPONS[:-1]
    target.write(only(texts), over=False)
    assert target.read(only(texts))["t"].column("c").to_pylist() == texts


def test_what_a_place_would_give_back_otherwise_is_refused(tmp_path: Path) -> None:
    """A workbook holds sixteen digits, one less than some doubles have."""
    place = WorkbookPlace(tmp_path)
    odd = Tables((table("t", (column("c", Kind("decimal"), [100000000000.84375]),), 1),), ())
    with pytest.raises(TargetError, match=r"a workbook cannot hold '100000000000\.84375'"):
        target_for(place.text).write(odd, over=False)
    assert place.listed() == []


def only(texts: list[str]) -> Tables:
    """A table of one column of texts."""
    return Tables((table("t", (column("c", Kind("text"), [*texts]),), len(texts)),), ())


def test_a_sign_that_a_database_cannot_hold_is_refused(anywhere: Place) -> None:
    tables = only(["a\x00b"])
    target = target_for(anywhere.text)
    try:
        target.write(tables, over=False)
    except TargetError as error:
        assert "holds the sign" in str(error) or "cannot hold" in str(error)
        assert anywhere.listed() == []
    else:
        assert target.read(tables)["t"].column("c").to_pylist() == ["a\x00b"]


def test_values_that_begin_late_keep_their_type(anywhere: Place) -> None:
    rows = 3000
    late = column("late", Kind("decimal"), [None] * (rows - 1) + [2.5])
    tables = Tables((table("t", (late,), rows),), ())
    target = target_for(anywhere.text)
    target.write(tables, over=False)
    assert target.read(tables)["t"].column("late").to_pylist()[-1] == 2.5


def test_a_reference_to_nobody_is_refused(place: Place) -> None:
    boats = table("boats", (), 2)
    number = column("boat_id", Kind("whole number"), [1, None, 3])
    jobs = replace(table("jobs", (number,), 3), references=(Reference(("boat_id",), "boats", ("id",)),))
    with pytest.raises(TargetError):
        target_for(place.text).write(Tables((boats, jobs), ()), over=False)
    assert place.listed() == []


def test_what_is_written_is_whole_or_not_there(place: Place) -> None:
    target = target_for(place.text)
    good = Tables((table("t", (column("c", Kind("text"), ["x"]),), 1),), ())
    target.write(good, over=False)
    doubled = column("id", Kind("whole number"), [1, 1], required=True)
    bad = Tables((Table("t", Purpose.MAIN, (doubled,), ("id",), (), (), 2),), ())
    with pytest.raises(TargetError):
        target.write(bad, over=True)
    assert target.read(good)["t"].column("c").to_pylist() == ["x"]
    assert {name for name, _ in place.listed()} == {"t", "hemplit_objects", "hemplit_loads"}
    assert type(place) is not Place or [path.name for path in Path(place.text).parent.iterdir()] == ["yard.sqlite"]


def test_writing_tells_how_far_it_is(anywhere: Place) -> None:
    hulls = [f"hull {number % 7}" for number in range(5_000)]
    tables = Tables((table("hulls", (column("hull", Kind("text"), [*hulls]),), 5_000), *only(["x"]).tables), ())
    told: list[tuple[str, int, int]] = []
    target_for(anywhere.text).write(tables, over=False, progress=lambda *one: told.append(one))
    written = [done for what, done, of in told if what == "writing" and of == 5_001]
    assert written == sorted(written)
    assert len(set(written)) > 1
    assert written[-1] == 5_001


def test_numbers_of_a_list_stand_in_one_cell_again(place: Place, tmp_path: Path) -> None:
    sheet = tmp_path / "soundings.csv"
    sheet.write_text("Pile,Depths\n1,1.5; 2; 3.25\n2,2; 3.25\n3,1.5\n4,20\n5,3.25; 20; 1.5\n", encoding="utf-8")
    ran = hemplit("load", "soundings.csv", "--into", place.text, folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    assert same_cells(sheet, place, "soundings_sheet")
