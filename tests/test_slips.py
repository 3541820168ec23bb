"""An odd text is corrected only where the odds say that it is a slip and no other real one."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import hemplit
from hemplit.core.model.grid import EMPTY
from hemplit.core.proof.compare import check_cells
from hemplit.core.shape import shape
from hemplit.core.texts.twins import TwinsOf, are_twins
from hemplit.dataclasses import replace
from hemplit.files import read

BIRDS = "Kittiwake Heron Gannet Petrel Curlew Whimbrel".split()
OF = "Tarnby Marlow Saltby Quayford Ebbing Rowhedge Anstey".split()
BOATS = {f"{bird[0]}{place}": f"{bird} of {port}" for bird in BIRDS for place, port in enumerate(OF)}
HEADS = "Bal Cor Dun Fen Gar Hol Kel Lor Mar Nor Pel Ras Sel Tor".split()
REAL = "Dale Hale Gale Wale Marin Marion Barren Warren Norton Morton Houston Houlton Payne Wayne".split()


def sheet(odd: list[tuple[str, str]], header: str = "Reg,Boat") -> str:
    rows = [(reg, boat) for reg, boat in BOATS.items() for _ in range(12)] + odd
    return f"Job,{header}\n" + "".join(f"{job},{reg},{boat}\n" for job, (reg, boat) in enumerate(rows, 1))


def judged(text: str, folder: Path) -> tuple[list[str], list[str]]:
    """The texts that a draft changes by itself, and those that it proposes to change."""
    (folder / "jobs.csv").write_text(text, encoding="utf-8")
    told = json.loads(hemplit("look", "jobs.csv", "--json", folder=folder).out)["sheets"][0]
    proposed = [cell["before"] for one in told["proposals"] for cell in one["cells"]]
    return [one["before"] for one in told["changes"]], proposed


def test_a_slip_that_the_row_gives_away_is_corrected(tmp_path: Path) -> None:
    done, _ = judged(sheet([("K1", "Kittwiake of Marlow"), ("H1", "HERON OF MARLOW")]), tmp_path)
    assert done == ["Kittwiake of Marlow", "HERON OF MARLOW"]


def test_the_code_that_is_seldom_wrong_is_believed_over_the_dock(tmp_path: Path) -> None:
    """Two slips in one group do not silence each other, and boats at another boat's dock do not speak against them."""
    names = [head + tail for head in HEADS for tail in ("by", "to", "wick")]
    lines = [f"R{place}{part},{name},D{place}" for place, name in enumerate(names) for part in "abc" for _ in range(10)]
    lines[30:36] = [line.replace("D1", "D0") for line in lines[30:36]]
    lines += ["R0a,Blby,D0", "R0a,Baalby,D0"]
    numbered = "".join(f"{job},{line}\n" for job, line in enumerate(lines, 1))
    done, _ = judged("Job,Boat Code,Name,Dock\n" + numbered, tmp_path)
    assert done == ["Blby", "Baalby"]


@pytest.mark.parametrize(
    ("reg", "boat"),
    [
        ("Z9", "Kittiwaka of Marlow"),
        ("K1", "Kittiwakë of Marlow"),
        ("K1", "Kittiwake of Marlow II"),
        ("K1", "KittiWake of Marlow"),
    ],
    ids=["another reg", "accents", "a number", "capitals that somebody chose"],
)
def test_what_may_be_another_is_left_as_it_is(reg: str, boat: str, tmp_path: Path) -> None:
    done, _ = judged(sheet([(reg, boat)]), tmp_path)
    assert done == []


def test_a_persons_name_needs_another_column_to_bear_it_out(tmp_path: Path) -> None:
    names = "Martin Bernard Gertrude Wilhelmina Cornelius Anastasia".split()
    lines = [f"{job},{names[job % 6]},{job % 7}" for job in range(1, 241)] + ["241,Wilhelmnia,3"]
    done, proposed = judged("Job,First Name,Hours\n" + "\n".join(lines) + "\n", tmp_path)
    assert (done, proposed) == ([], ["Wilhelmnia"])


def test_another_initial_is_another_person(tmp_path: Path) -> None:
    names = "B. Auk,C. Stint,D.E. Ruff,E. Godwit,F. Dunlin,A. Curlew".split(",")
    lines = [f"{job},P{job % 6},{names[job % 6]}" for job in range(1, 61)] + ["61,P7,A. Auk", "62,P8,D.F. Ruff"]
    done, _ = judged("Job,Reg,Owner\n" + "\n".join(lines) + "\n", tmp_path)
    assert done == []


def test_a_letter_of_a_code_in_a_text_is_only_proposed(tmp_path: Path) -> None:
    gears = ["winch (l4)", "capstan", "windlass", "tackle"]
    lines = [f"{job},{gears[job % 4]},{job % 7}" for job in range(1, 161)] + ["161,winch (s4),3", "162,wnich (l4),4"]
    done, proposed = judged("Job,Gear,Hours\n" + "\n".join(lines) + "\n", tmp_path)
    assert (done, proposed) == (["wnich (l4)"], ["winch (s4)"])


def test_where_real_texts_are_alike_none_is_changed(tmp_path: Path) -> None:
    lines = [f"{job},{REAL[job % len(REAL)]} County,{job % 5}" for job in range(1, 141)] + ["141,Bale County,2"]
    done, proposed = judged("Job,County,Hours\n" + "\n".join(lines) + "\n", tmp_path)
    assert (done, proposed) == ([], [])


def test_slips_of_one_text_are_proposed_together_and_each_can_be_struck(tmp_path: Path) -> None:
    """A code is never corrected unasked; taking the # off the line corrects the spellings that are left in it."""
    codes = ["TERN", "GULL", "KNOT", "RUFF"]
    lines = [f"{job},{codes[job % 4]},{job % 7}" for job in range(1, 161)] + ["161,TERNN,3", "162,TREN,4", "163,ETRN,1"]
    text = "Job,Code,Hours\n" + "\n".join(lines) + "\n"
    done, proposed = judged(text, tmp_path)
    assert (done, sorted(proposed)) == ([], ["ETRN", "TERNN", "TREN"])
    assert hemplit("draft", "jobs.csv", folder=tmp_path).code == 0
    design = tmp_path / "jobs.design.toml"
    (line,) = [one for one in design.read_text().splitlines() if "correct typos" in one]
    asked = line.replace("# {", "{").replace(', "ETRN"', "").replace('"ETRN", ', "")
    design.write_text(design.read_text().replace(line, asked))
    assert hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=tmp_path).code == 0
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        found = database.execute("SELECT DISTINCT Code FROM jobs_sheet ORDER BY Code").fetchall()
    assert [code for (code,) in found] == ["ETRN", "GULL", "KNOT", "RUFF", "TERN"]


LIFTS = [("MQ-1", "Anemone"), ("MQ-2", "Brisling"), ("MQ-3", "Curlew"), ("MQ-4", "Dunlin"), ("MQ-5", "Eider")]


def lifts(reg: str, odd: str, folder: Path) -> list[str]:
    """The names that a sheet of lifts says, of which one is another one; each boat is lifted twice."""
    names = [name for _, name in LIFTS] * 2
    names[next(at for at, (own, _) in enumerate(LIFTS) if own == reg)] = odd
    rows = [f"{at},{LIFTS[at % 5][0]},{name},{at % 3}" for at, name in enumerate(names)]
    (folder / "lifts.csv").write_text("\n".join(["Lift,Boat Reg,Boat,Hours", *rows]), encoding="utf-8")
    return names


@pytest.mark.parametrize("odd", ["Curlw", "Culrew", "CURLEW", "Curlews"])
def test_a_slip_is_kept_beside_where_nobody_knows_which_of_two_is_right(odd: str, tmp_path: Path) -> None:
    names = lifts("MQ-3", odd, tmp_path)
    told = json.loads(hemplit("look", "lifts.csv", "--json", folder=tmp_path).out)["sheets"][0]
    assert not told["changes"]
    assert [cell["column"] for one in told["proposals"] for cell in one["cells"]] == ["Boat"]
    ran = hemplit("load", "lifts.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert "Nothing was lost" in ran.out
    proven = hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    for one in (ran, proven):
        assert one.code == 0 and "Verified" in one.out, one.err
        assert f"'{odd}'" in one.out and "the cell is kept beside" in one.out
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert len(database.execute("SELECT boat_reg, name FROM boats").fetchall()) == len(LIFTS)
        said = 'SELECT coalesce("Boat as written", "Boat") FROM lifts_sheet ORDER BY "Lift"'
        assert [text for (text,) in database.execute(said)] == names
    # Who does without the column is told what goes with it.
    path = tmp_path / "yard.design.toml"
    lines = [one for one in path.read_text(encoding="utf-8").splitlines() if "columns.boat_as_written" not in one]
    lines.insert(lines.index('file = "lifts.csv"'), 'leave_out = ["Boat as written"]')
    path.write_text("\n".join(lines), encoding="utf-8")
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path)
    assert "1 cell left out by the design" in ran.out, ran.err or ran.out


def test_who_corrects_a_slip_needs_no_column_beside(tmp_path: Path) -> None:
    lifts("MQ-3", "Curlw", tmp_path)
    assert hemplit("draft", "lifts.csv", folder=tmp_path).code == 0
    path = tmp_path / "lifts.design.toml"
    path.write_text(path.read_text(encoding="utf-8").replace("# { do = ", "  { do = "), encoding="utf-8")
    assert "give other tables" in hemplit("draft", "lifts.csv", "--update", folder=tmp_path).out
    assert "as written" not in path.read_text(encoding="utf-8")
    assert "nothing differently" in hemplit("draft", "lifts.csv", folder=tmp_path).out
    assert "1 correct from other rows" in hemplit("load", path, "--into", "yard.sqlite", folder=tmp_path).out


@pytest.mark.parametrize(
    ("reg", "odd"),
    [("MQ-3", "Heron"), ("MQ-3", "Curlew B"), ("MQ-1", "Anemon3"), ("MQ-3", "Eider")],
    ids=["another", "a further word", "a number", "another boat's"],
)
def test_another_name_is_no_slip(reg: str, odd: str, tmp_path: Path) -> None:
    lifts(reg, odd, tmp_path)
    assert "keep beside" not in hemplit("look", "lifts.csv", folder=tmp_path).out


def test_what_was_kept_beside_is_compared_with_the_sheet(tmp_path: Path) -> None:
    lifts("MQ-3", "Curlw", tmp_path)
    grid = read(str(tmp_path / "lifts.csv"))[0]
    relation = shape(grid)[0].relation
    assert not check_cells(grid, relation).different
    beside = relation.by_name["Boat as written"]
    for codes in (np.full_like(beside.codes, EMPTY), np.roll(beside.codes, 1)):
        other = (*(one for one in relation.columns if one is not beside), replace(beside, codes=codes))
        assert check_cells(grid, replace(relation, columns=other)).different == 1


@pytest.mark.parametrize(
    "names",
    ["Anemone Brisling Curlew Dunlin Curlews Anemone Brisling Curlews Dunlin Curlews", "Anemone Brisling Curlew Curlw"],
    ids=["a name that another boat has", "hardly a row that bears it out"],
)
def test_two_names_of_a_boat_are_both_real(names: str, tmp_path: Path) -> None:
    regs = [1, 2, 3, 4, 5] * 2 if len(names.split()) > 5 else [1, 2, 3, 3]
    rows = [f"{at},MQ-{reg},{name},{at % 3}" for at, (reg, name) in enumerate(zip(regs, names.split(), strict=True))]
    (tmp_path / "lifts.csv").write_text("\n".join(["Lift,Boat Reg,Boat,Hours", *rows]), encoding="utf-8")
    assert "keep beside" not in hemplit("look", "lifts.csv", folder=tmp_path).out


def test_what_is_kept_beside_says_nothing_again(tmp_path: Path) -> None:
    lifts("MQ-3", "Culrew", tmp_path)
    header, *rows = (tmp_path / "lifts.csv").read_text(encoding="utf-8").splitlines()
    rows.sort(key=lambda row: (row.split(",")[1], -int(row.split(",")[0])))
    (tmp_path / "lifts.csv").write_text("\n".join([header, *rows]), encoding="utf-8")
    hemplit("draft", "lifts.csv", folder=tmp_path)
    assert hemplit("why", "lifts.design.toml", "--page", "why.html", folder=tmp_path).code == 0
    page = (tmp_path / "why.html").read_text(encoding="utf-8")
    assert "<td>Culrew</td>" in page and '<td class="again">Brisling</td>' in page


def test_words_of_which_several_are_alike_are_no_slips_of_each_other(tmp_path: Path) -> None:
    days = [("MQ-1", "Sunday"), ("MQ-2", "Monday"), ("MQ-3", "Friday"), ("MQ-4", "Thursday"), ("MQ-5", "Saturday")]
    rows = [
        f"{at},{reg},{day},{at % 3}" for at, (reg, day) in enumerate([*days, *days[:3], ("MQ-4", "Tuesday"), days[4]])
    ]
    (tmp_path / "lifts.csv").write_text("\n".join(["Lift,Boat Reg,Day,Hours", *rows]), encoding="utf-8")
    assert "keep beside" not in hemplit("look", "lifts.csv", folder=tmp_path).out


FLEET = ("Avocet", "Brisling", "Curlew", "Guillemot", "Heronsway", "Kestrel", "Mornington", "Sandpiper", "Teal")


def write_jobs(path: Path, first: int, count: int, odd: dict[int, str]) -> None:
    """So many jobs with boats by chance, in some rows others."""
    boats = [odd.get(at, FLEET[Random(at).randrange(len(FLEET))]) for at in range(count)]
    jobs = [f"{first + at},{boat},{at * 7 % 9}" for at, boat in enumerate(boats)]
    path.write_text("\n".join(["Job,Boat,Hours", *jobs]) + "\n", encoding="utf-8")


def test_a_typo_that_comes_often_next_month_may_be_a_name_and_is_told(tmp_path: Path) -> None:
    write_jobs(tmp_path / "may.csv", 100, 300, {77: "Sandpipers"})
    write_jobs(tmp_path / "june.csv", 500, 40, dict.fromkeys(range(0, 24, 4), "Sandpipers"))
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    ran = hemplit("topup", "yard.design.toml", "june.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 1 and "'Sandpipers' is corrected to 'Sandpiper' in 6 cells" in ran.out, ran.out
    assert "Changed cells: 6 correct typos" in ran.out


def test_what_another_sheet_lists_is_no_typo(tmp_path: Path) -> None:
    """Sandpipers is a boat beside Sandpiper, says the list of boats, and Kestral none beside Kestrel."""
    write_jobs(tmp_path / "jobs.csv", 0, 300, {77: "Sandpipers", 78: "Sandpipper", 120: "Kestral"})
    berths = [f"{name},B{at * 3 % 7}" for at, name in enumerate([*FLEET, "Sandpipers"])]
    (tmp_path / "berths.csv").write_text("\n".join(["Boat,Berth", *berths]) + "\n", encoding="utf-8")

    def corrected(*sheets: str) -> set[str]:
        told = json.loads(hemplit("look", *sheets, "--json", folder=tmp_path).out)["sheets"]
        return {cell["before"] for sheet in told for cell in sheet["changes"]}

    assert corrected("jobs.csv") == {"Sandpipers", "Sandpipper", "Kestral"}
    assert corrected("jobs.csv", "berths.csv") == corrected("jobs.csv") - {"Sandpipers"}
    ran = hemplit("load", "jobs.csv", "berths.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.err
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert database.execute('SELECT count(DISTINCT "Boat") FROM jobs_sheet').fetchone() == (len(FLEET) + 1,)


#: Names of the same letters, so that some are a slip away from each other.
NAMES = st.text(alphabet="abA .-12", min_size=0, max_size=14)


@given(st.lists(NAMES, max_size=12), NAMES, st.data())
def test_the_first_twin_among_texts_is_that_of_a_look_at_each(held: list[str], text: str, data: st.DataObject) -> None:
    if held and data.draw(st.booleans()):  # one of them, with a letter left out or typed twice
        other = data.draw(st.sampled_from(held))
        at = data.draw(st.integers(0, len(other)))
        text = other[:at] + data.draw(st.sampled_from([other[at : at + 1] * 2, "", "b"])) + other[at + 1 :]
    assert TwinsOf(held).first(text) == next((other for other in held if are_twins(text, other)), None)
