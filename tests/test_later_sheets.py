"""What the steps of one sheet do on another: each takes what it is for, leaves the rest, and refuses a stranger."""

from __future__ import annotations

import csv
import io
import sqlite3
from collections.abc import Sequence
from pathlib import Path

import pytest

from conftest import Ran, hemplit, same_cells
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Relation
from hemplit.core.shape import replay, shape
from hemplit.errors import HemplitError
from test_shapes import grid

Rows = list[list[str]]


def rows_of(relation: Relation) -> Rows:
    """The cells of the rows as texts."""
    columns = [[str(value.as_py()) for value in column.values] for column in relation.columns]
    return [
        [
            "" if column.codes[row] == EMPTY else texts[column.codes[row]]
            for column, texts in zip(relation.columns, columns, strict=True)
        ]
        for row in range(relation.row_count)
    ]


def later(first: str, second: str, table: int = 0) -> Rows:
    """The rows of the second sheet by the steps of the first; of several tables on it, the one of that place."""
    steps = shape(grid(first, ()))[table].relation.steps
    return rows_of(replay(grid(second, ()), steps, {}).relation)


JOBS = "Job,Boat,Hours\n" + "".join(f"{job},{'Teal Smew Knot'.split()[job % 3]},{job % 5 + 1}\n" for job in range(1, 9))


def test_lines_that_say_total_and_add_up_to_nothing_are_rows() -> None:
    """A boat may be called so; a total in the midst must add up, one at the end need not."""
    named = JOBS.replace("2,Knot,3", "2,Total,3")
    assert len(later(JOBS + "Total,,24\n", named + "Total,,24\n")) == 8
    assert len(rows_of(shape(grid(named, ()))[0].relation)) == 8


WIDE = "Job,Boat,Dock,Part,Hours,Note\n" + "".join(f"{job},Teal,West,rope,{job},ok\n" for job in range(1, 9))


def test_a_sparse_line_that_says_total_and_does_not_add_up_is_a_row() -> None:
    lines = WIDE.splitlines(keepends=True)
    assert len(rows_of(shape(grid("".join([*lines[:4], "Total,,,,77,\n", *lines[4:]]), ()))[0].relation)) == 9
    assert len(rows_of(shape(grid("".join([*lines[:4], "Total,,,,6,\n", *lines[4:]]), ()))[0].relation)) == 8


def test_a_full_line_of_totals_is_one_if_few_stand_below_it() -> None:
    rows = rows_of(shape(grid(JOBS + "Total,all,24\nVAT,all,5\n", ()))[0].relation)
    assert [row[0] for row in rows] == [*map(str, range(1, 9)), "VAT"]


def test_what_stands_above_the_header_of_a_further_file_is_no_row(tmp_path: Path) -> None:
    folder = tmp_path / "visits"
    folder.mkdir()
    for month in ("April", "May", "June"):
        own = JOBS.replace("Teal", f"Teal {month}")
        (folder / f"{month}.csv").write_text(f"Visits in {month},,\n{own}", encoding="utf-8")
    ran = hemplit("load", "visits", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    connection = sqlite3.connect(tmp_path / "yard.sqlite")
    jobs = [row[0] for row in connection.execute("SELECT Job FROM visits_sheet")]
    connection.close()
    assert sorted(map(int, jobs)) == sorted([*range(1, 9)] * 3)


def test_a_total_that_is_no_longer_the_very_last_line_is_one() -> None:
    both = JOBS + "Total,,24\nPaid,,20\n"
    assert [row[0] for row in later(JOBS + "Total,,24\n", both)] == [*map(str, range(1, 9)), "Paid"]


def test_a_table_that_ends_in_a_sparse_row_has_no_note_there() -> None:
    fleet = "Boat,Berth,Owner,Since\n" + "".join(f"Teal {one},W{one},Marsh,201{one}\n" for one in range(8))
    assert [row[0] for row in rows_of(shape(grid(fleet + "Heron,,,\n", ()))[0].relation)][-1] == "Heron"
    noted = later(fleet + "* berths of 2024\n", fleet + "Heron,,,\n* berths of 2025\n")
    assert [row[0] for row in noted][-1] == "Heron"


DOUBLED = "Job,Boat,Hours\nJ1,Teal,2\nJ2,Smew,3\nJ2,Smew,3\nJ3,Knot,4\nJ4,Teal,1\n"


def test_rows_alike_without_a_key_may_be_two_and_stay() -> None:
    again = "Job,Boat,Hours\nJ5,Teal,2\nJ5,Teal,2\n,Smew,3\n,Smew,3\nJ6,Knot,4\n"
    assert [row[0] for row in later(DOUBLED, again)] == ["J5", "", "", "J6"]


HEADS = (
    "Yard,Boat,Part,Qty\nNorth Yard,Teal,rope,2\n,,cleat,4\n,,winch,1\nSouth Yard,Smew,rope,3\n,,anode,2\n"
    "East Yard,Knot,stay,6\n,,toggle,9\nWest Yard,Rail,block,5\n,,fender,7\n"
)


def test_a_cell_filled_under_a_head_stays_what_it_says() -> None:
    assert later(HEADS, HEADS)[1][:2] == ["North Yard", "Teal"]
    other = HEADS.replace(",,cleat,4", ",Whimbrel,cleat,4")
    assert [row[:2] for row in later(HEADS, other)[:3]] == [
        ["North Yard", "Teal"],
        ["North Yard", "Whimbrel"],
        ["North Yard", "Teal"],
    ]


TWO = "Boat,Berth\nTeal,W1\nSmew,W2\nKnot,W3\n\n\nBoat,Berth\nRail,E1\nGull,E2\nTern,E3\n"


@pytest.mark.parametrize(("table", "first"), [(0, "Teal"), (1, "Rail")])
def test_each_of_two_tables_alike_keeps_its_place(table: int, first: str) -> None:
    if len(shape(grid(TWO, ()))) == 2:
        assert later(TWO, TWO, table)[0][0] == first
    else:
        assert {row[0] for row in later(TWO, TWO)} >= {"Teal", "Rail"}


STRANGERS = {
    "another header": (JOBS, JOBS.replace("Job,Boat,Hours", "Fee,Payer,Sum"), "none of its first"),
    "one name of three": (JOBS, JOBS.replace("Job,Boat,Hours", "Job,Payer,Sum"), "none of its first"),
    "another table": (
        "Boats,,,Parts\nBoat,Berth,,Part,Price\nTeal,W1,,rope,2.50\nSmew,W2,,cleat,4.00\nKnot,W3,,winch,9.00\n",
        "Boats,,,Parts\nFee,Payer,,Sum,Day\n1,Ann,,2,3\n2,Ben,,4,5\n3,Cy,,6,7\n",
        "no table on it has the header",
    ),
}


@pytest.mark.parametrize("case", STRANGERS)
def test_a_sheet_of_something_else_is_refused_in_one_line(case: str) -> None:
    first, second, said = STRANGERS[case]
    with pytest.raises(HemplitError) as refused:
        later(first, second)
    assert said in str(refused.value)
    assert "\n" not in str(refused.value)


def test_a_step_whose_column_is_gone_is_named(tmp_path: Path) -> None:
    crews = 'Job,Crew,Hours\n1,"Ann, Ben",2\n2,Ben,3\n3,"Ben, Ann",4\n4,Ann,1\n'
    (tmp_path / "jobs.csv").write_text(crews, encoding="utf-8")
    assert hemplit("draft", "jobs.csv", folder=tmp_path).code == 0
    (tmp_path / "jobs.csv").write_text("Job,Hours\n1,2\n2,3\n3,4\n4,1\n", encoding="utf-8")
    ran = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 2
    assert "step 2" in ran.err
    assert "Crew" in ran.err


def test_a_total_that_the_design_has_no_step_for_is_told(tmp_path: Path) -> None:
    coded = DOUBLED.replace("J2,Smew,3\nJ2", "J2")
    (tmp_path / "jobs.csv").write_text(coded, encoding="utf-8")
    assert hemplit("draft", "jobs.csv", folder=tmp_path).code == 0
    (tmp_path / "jobs.csv").write_text(coded + "Total,all,10\n", encoding="utf-8")
    ran = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 1
    assert "skip total rows: none when drafted, 1 now" in " ".join(ran.out.split())


def test_the_part_of_a_file_name_is_said_without_the_word_of_all(tmp_path: Path) -> None:
    folder = tmp_path / "visits"
    folder.mkdir()
    for place, dock in enumerate(("North Dock", "South Dock", "Fish Dock"), 1):
        own = JOBS.replace("\n", f"\n{place}").removesuffix(str(place))
        (folder / f"2026-04 {dock}.csv").write_text(own, encoding="utf-8")
    ran = hemplit("load", "visits", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    connection = sqlite3.connect(tmp_path / "yard.sqlite")
    names = [row[0] for row in connection.execute("SELECT DISTINCT Dock FROM visits_sheet ORDER BY 1")]
    connection.close()
    assert names == ["Fish", "North", "South"]


def test_what_a_list_was_changed_by_before_stays_under_that_name(tmp_path: Path) -> None:
    """A cell that was tidied and then taken apart was changed by the tidying, and counts once."""
    lines = [
        ["Job", "Crew"],
        ["1", "Ann , Ben"],
        ["2", "Ben"],
        ["3", " Ben,Ann"],
        ["4", "Ann"],
        ["5", "Ann, Cy"],
        ["6", "Cy"],
    ]
    out = io.StringIO(newline="")
    csv.writer(out).writerows(lines)
    (tmp_path / "jobs.csv").write_text(out.getvalue(), encoding="utf-8")
    ran = hemplit("load", "jobs.csv", "--into", "yard.sqlite", "--details", folder=tmp_path)
    assert ran.code == 0, ran.err
    told = " ".join(ran.out.split())
    assert "1 changed: split lists into rows" in told
    assert "1 changed: trim spaces" in told


def test_a_load_over_an_earlier_one_says_what_is_new_and_what_is_nearly_known(tmp_path: Path) -> None:
    boats = ["Kittiwake", "Whimbrel", "Sanderling", "Gannet"]
    lines = [f"J{at:02},{boats[at % 4]},{at % 4 + 4}.5,{at}" for at in range(24)]

    def write(*more: str) -> None:
        text = "\n".join(["Job No,Boat,Boat Length,Hours", *lines, *more]) + "\n"
        (tmp_path / "jobs.csv").write_text(text, encoding="utf-8")

    def load() -> Ran:
        return hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path)

    write()
    assert hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    ran = load()
    assert (ran.code, "Since the load before: nothing is new" in ran.out) == (0, True)
    write("J30,Curlew,8.5,3", "J31,Kitiwake,4.5,2")
    ran = load()
    said = " ".join(ran.out.split())
    assert (ran.code, "Since the load before: jobs.csv has changed; jobs 24 → 26 rows" in said) == (1, True)
    assert "new in boats: Curlew, Kitiwake" in said and "which is like 'Kittiwake'" in said
    line = said[said.index("{ do") : said.index("}", said.index("{ do")) + 1]
    design = tmp_path / "yard.design.toml"
    design.write_text(design.read_text(encoding="utf-8").replace("\n]\n", f"\n  {line},\n]\n", 1), encoding="utf-8")
    ran = load()
    assert (ran.code, "Kitiwake" in ran.out.split("yard.sqlite")[0]) == (0, False), ran.out + ran.err


def test_a_load_over_an_earlier_one_says_which_files_were_added_since_and_are_gone(tmp_path: Path) -> None:
    def write(name: str, days: Sequence[int]) -> None:
        lines = (f"J{at:02},{['Kittiwake', 'Whimbrel'][at % 2]},{at % 2 + 4}.5,{at}" for at in days)
        (tmp_path / name).write_text("\n".join(["Job No,Boat,Boat Length,Hours", *lines]) + "\n", encoding="utf-8")

    write("january.csv", range(10, 22))
    write("february.csv", range(30, 36))
    assert hemplit("load", "january.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    topup = ("topup", "yard.design.toml", "february.csv", "--into", "yard.sqlite")
    again = ("load", "yard.design.toml", "--into", "yard.sqlite", "--replace")
    assert hemplit(*topup, folder=tmp_path).code == 0
    ran = hemplit(*again, folder=tmp_path)
    said = " ".join(ran.out.split())
    assert (ran.code, "jobs 18 → 12 rows" in said) == (1, True), said
    assert "gone: february.csv, added on 20" in said and "add it again with hemplit topup" in said
    assert hemplit(*topup, folder=tmp_path).code == 0
    write("january.csv", [*range(10, 22), *range(30, 36)])  # somebody put both months into one
    ran = hemplit(*again, folder=tmp_path)
    assert (ran.code, "gone" in ran.out) == (0, False), ran.out
    (tmp_path / "months").mkdir()
    for month in (1, 2):
        write(f"months/{month}.csv", range(month * 20, month * 20 + 12))
    assert hemplit("load", "months", "--into", "yard.sqlite", "--replace", folder=tmp_path).code == 0
    write("months/3.csv", range(60, 64))
    assert hemplit("topup", "yard.design.toml", "months/3.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    (tmp_path / "months" / "1.csv").unlink()
    ran = hemplit(*again, folder=tmp_path)
    assert "28 → 16 rows" in " ".join(ran.out.split()) and "gone" not in ran.out, ran.out + ran.err


def test_a_folder_of_one_file_takes_the_next_month_and_totals_of_its_own_words(tmp_path: Path) -> None:
    """The first month lies alone in its folder, under two titles, and its total is called after what it sums up."""
    (tmp_path / "kilns").mkdir()

    def month(number: int, label: str) -> list[str]:
        rows = [
            (number * 100 + at, f"K{at % 3 + 1}", ["Oak", "Larch", "Ash"][at % 3], 10 + at * 7 % 31) for at in range(18)
        ]
        lines = [",".join(map(str, row)) for row in rows]
        titles = ["Kiln log,,,", f"{['January', 'February'][number - 1]} 2026,,,"]
        total = f",{label},,{sum(row[3] for row in rows)}"
        text = "\n".join([*titles, "Firing,Kiln,Wood,Kg", *lines, *([",,,"] if number == 2 else []), total])
        (tmp_path / "kilns" / f"2026-0{number}.csv").write_text(text + "\n", encoding="utf-8")
        return lines

    first = month(1, "All kilns")
    assert hemplit("load", "kilns", "--into", "yard.sqlite", folder=tmp_path).code == 0
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert database.execute("SELECT count(*) FROM firings").fetchone() == (len(first),)
    second = month(2, "Kilns together")
    ran = hemplit("topup", "yard.design.toml", "kilns", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "18 new" in ran.out) == (0, True), ran.out + ran.err
    ran = hemplit("load", "yard.design.toml", "--into", "again.sqlite", folder=tmp_path)
    assert "all 36 rows can be rebuilt" in " ".join(ran.out.split()), ran.err
    plain = tmp_path / "plain.csv"
    plain.write_text("\n".join(["Firing,Kiln,Wood,Kg", *first, *second]) + "\n", encoding="utf-8")
    for target in ("yard.sqlite", "again.sqlite"):
        assert same_cells(plain, tmp_path / target, "kilns_sheet")


def test_of_many_names_that_are_nearly_known_a_few_are_shown(tmp_path: Path) -> None:
    def load(owners: list[str], *how: str) -> Ran:
        lines = [f"{at},{owners[at % len(owners)]},{at % 7}" for at in range(4 * len(owners))]
        (tmp_path / "jobs.csv").write_text("\n".join(["Job No,Owner,Hours", *lines]) + "\n", encoding="utf-8")
        design = "yard.design.toml" if (tmp_path / "yard.design.toml").exists() else "jobs.csv"
        return hemplit("load", design, "--into", "yard.sqlite", *how, folder=tmp_path)

    known = [one + two + three for one in ("Mar", "Whit", "Ols") for two in "aeiouy" for three in ("dal", "ken")]
    assert load(known).code == 0
    ran = load([*known, *(f"{name}h" for name in known)], "--replace")
    assert ran.out.count("which is like") == 20 and "and 16 more; --json lists them all" in ran.out, ran.out
    (tmp_path / "yard.design.toml").unlink()
    (tmp_path / "yard.sqlite").unlink()
    assert load([f"Berth Owner {4000 + at}" for at in range(30)]).code == 0
    ran = load([f"Berth Owner {number}" for number in [*range(4000, 4030), 4100, 4001, 402]], "--replace")
    assert "which is like" not in ran.out, ran.out
