"""Near dependencies, independent lists, bands and formulas: what is hidden is found, and look-alikes stay silent."""

from __future__ import annotations

import csv
import json
from collections import Counter
from datetime import date, timedelta
from pathlib import Path
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import hemplit
from hemplit.core.model.findings import Findings
from hemplit.core.model.grid import Grid, Source
from hemplit.core.shape import CORRECTIONS, shape
from hemplit.core.study import study_ties
from hemplit.files.cells import from_texts


def ties(header: list[str], rows: list[list[str]], share: float = 0.02) -> Findings:
    columns = tuple(from_texts([row[index] for row in [header, *rows]]) for index in range(len(header)))
    grid = Grid(Source("yard.csv"), columns, len(rows) + 1)
    return study_ties(shape(grid, CORRECTIONS)[0].relation, 2, share)


def lines(count: int = 300) -> list[dict[str, str]]:
    """Lines of a job sheet in which much follows from other things."""
    random = Random(5)
    berths = {"North Dock": "N1", "South Dock": "S1", "Harbour Wall": "H1"}
    made = []
    for number in range(count):
        dock = random.choice(list(berths))
        opened = date(2024, 1, 3) + timedelta(days=random.randrange(800))
        first, last = random.choice(["Ines", "Tom", "Karin"]), random.choice(["Falk", "Keel", "Lund", "Pell"])
        length, net, parts = random.randrange(30, 150) / 10, random.randrange(100, 90000), random.randrange(50, 9000)
        vat = (net * 19 + 50) // 100
        made.append(
            {
                "No": str(number), "Berth": berths[dock], "Dock": dock, "First": first, "Last": last,
                "Name": f"{last}, {first}", "Opened": str(opened), "Year": str(opened.year),
                "Due": str(opened + timedelta(days=30)), "Length": f"{length:.1f}",
                "Class": "small" if length < 6 else "medium" if length < 10 else "large",
                "Net": f"{net / 100:.2f}", "Parts": f"{parts / 100:.2f}", "VAT": f"{vat / 100:.2f}",
                "Gross": f"{(net + parts + vat) / 100:.2f}", "Rest": f"{(net - parts) / 100:.2f}",
            }
        )  # fmt: skip
    return made


def table(made: list[dict[str, str]]) -> tuple[list[str], list[list[str]]]:
    return list(made[0]), [list(line.values()) for line in made]


def test_formulas_are_found() -> None:
    found = {one.name: one.formula for one in ties(*table(lines())).computed}
    assert (found["Gross"].operation, set(found["Gross"].operands)) == ("sum", {"Net", "Parts", "VAT"})
    assert (found["Rest"].operation, found["Rest"].operands) == ("difference", ("Net", "Parts"))
    assert (found["Name"].operands, found["Name"].detail) == (("Last", "First"), ", ")
    assert (found["Year"].operands, found["Year"].detail) == (("Opened",), "year")
    assert (found["Due"].operands, found["Due"].detail) == (("Opened",), "30")
    assert set(found) == {"Gross", "Rest", "Name", "Year", "Due"}


def test_more_places_than_an_office_calculates_with_are_no_bar_to_a_formula() -> None:
    made = [line | {name: f"{line[name]}0000" for name in ("Net", "Parts", "Rest")} for line in lines()]
    rest = next(one for one in ties(*table(made)).computed if one.name == "Rest")
    assert (rest.formula.operation, rest.formula.operands) == ("difference", ("Net", "Parts"))


def test_a_formula_that_a_row_breaks_names_the_cell() -> None:
    made = lines()
    made[7]["Rest"] = "0.17"
    rest = next(one for one in ties(*table(made)).computed if one.name == "Rest")
    assert rest.breaking == 1
    assert [(one.place, one.value) for one in rest.breaches] == [("P9", "0.17")]


def test_bands_are_found_with_their_limits() -> None:
    made = lines()
    band = next(one for one in ties(*table(made)).bands if one.name == "Class")
    assert band.by == "Length"
    assert [name for _, name in band.limits] == ["small", "medium", "large"]
    assert float(band.limits[1][0]) == min(float(line["Length"]) for line in made if line["Class"] == "medium")
    made[3]["Class"] = "large" if made[3]["Class"] != "large" else "small"
    assert not [one for one in ties(*table(made)).bands if one.name == "Class"]


def test_slips_come_first_and_name_their_cells() -> None:
    made = lines()
    made[10]["Dock"] = made[10]["Dock"][:-2] + made[10]["Dock"][-1] + made[10]["Dock"][-2]
    made[20]["Dock"] = "Elsewhere"
    first = ties(*table(made)).near[0]
    assert (first.left, first.right, first.rows, first.twins) == (("Berth",), "Dock", 2, 1)
    assert [(one.place, one.twin) for one in first.breaches] == [("C12", True), ("C22", False)]


@given(st.lists(st.tuples(st.sampled_from("abc"), st.sampled_from("xyz")), min_size=30, max_size=60))
def test_near_dependencies_count_the_fewest_rows_to_remove(pairs: list[tuple[str, str]]) -> None:
    rows = [[str(number), one, other] for number, (one, other) in enumerate(pairs)]
    share = 0.2
    fewest = len(rows) - sum(
        max(Counter(said for left, said in pairs if left == one).values()) for one in {left for left, _ in pairs}
    )
    near = {(one.left, one.right): one for one in ties(["No", "One", "Other"], rows, share).near}
    constant = len(rows) - max(Counter(other for _, other in pairs).values()) <= share * len(rows)
    repeats = len(rows) - len({one for one, _ in pairs})
    if fewest and not constant and len({left for left, _ in pairs}) > 1 and fewest <= 0.2 * repeats:
        assert near[("One",), "Other"].rows == fewest
    else:
        assert (("One",), "Other") not in near


def test_independent_lists_are_found_and_dependent_ones_are_not() -> None:
    random = Random(2)
    rows = []
    for person in range(12):
        skills = random.sample(["rig", "weld", "sail", "paint"], random.choice((1, 2, 3)))
        tongues = random.sample(["en", "de", "fr"], random.choice((1, 2, 3)))
        rows += [[f"P{person}", skill, tongue, f"0{person}"] for skill in skills for tongue in tongues]
    header = ["Person", "Skill", "Tongue", "Phone"]
    found = next(one for one in ties(header, rows).multivalued if one.left == ("Person",))
    assert found.parts == (("Skill",), ("Tongue",))
    several = Counter(row[0] for row in rows)
    del rows[next(index for index, row in enumerate(rows) if several[row[0]] >= 4)]
    assert not ties(header, rows).multivalued


@pytest.mark.parametrize("seed", range(3))
def test_random_columns_have_no_ties(seed: int) -> None:
    random = np.random.default_rng(seed)
    rows = random.integers(10, 60, size=(200, 5)).astype(str).tolist()
    found = ties(["A", "B", "C", "D", "E"], rows)
    assert not (found.near or found.bands or found.multivalued or found.computed)


def test_the_command_shows_and_streams_them(tmp_path: Path) -> None:
    made = lines()
    made[10]["Dock"] = "Nroth Dock" if made[10]["Dock"] == "North Dock" else "Suoth Dock"
    made[10]["Berth"] = {"Nroth Dock": "N1", "Suoth Dock": "S1"}[made[10]["Dock"]]
    with (tmp_path / "jobs.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([list(made[0]), *(line.values() for line in made)])
    shown = hemplit("dependencies", "jobs.csv", folder=tmp_path)
    assert shown.code == 0
    assert "typo? C12" in shown.out
    assert "ranges Class depends on ranges of Length" in shown.out
    assert 'Name = Last + ", " + First' in shown.out
    found = json.loads(hemplit("dependencies", "jobs.csv", "--json", "--near", "0", folder=tmp_path).out)
    assert found["near"] == []
    assert {"left": ["Length"], "right": "Class"}.items() <= next(
        one.items() for one in found["dependencies"] if one["right"] == "Class" and one["left"] == ["Length"]
    )


@pytest.mark.slow
def test_all_left_sides_of_many_columns_are_streamed(tmp_path: Path) -> None:
    random = np.random.default_rng(4)
    rows = random.integers(0, 5, size=(40, 24)).astype(str).tolist()
    with (tmp_path / "wide.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([[f"C{number}" for number in range(24)], *rows])
    ran = hemplit("dependencies", "wide.csv", "--depth", "all", "--json", folder=tmp_path)
    whole = json.loads(ran.out)
    shallow = json.loads(hemplit("dependencies", "wide.csv", "--depth", "2", "--json", folder=tmp_path).out)
    assert (ran.code, whole["unfinished"], "may be millions" in ran.err) == (0, "", True)
    given = {(tuple(one["left"]), one["right"]) for one in whole["dependencies"] if len(one["left"]) <= 2}
    assert given == {(tuple(one["left"]), one["right"]) for one in shallow["dependencies"]}
    assert sorted(key for key in whole["keys"] if len(key) <= 2) == sorted(shallow["keys"])
    stopped = hemplit("dependencies", "wide.csv", "--depth", "all", "--json", "--seconds", "0.001", folder=tmp_path)
    assert stopped.code == 1
    assert json.loads(stopped.out)["unfinished"].startswith("stopped after 0.001 s")


def test_rows_with_a_blank_on_the_left_can_be_passed_over(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Boat,Berth\n,N1\n,S1\nTeal,N2\nTeal,N2\nSmew,S1\n", encoding="utf-8")
    counted = json.loads(hemplit("dependencies", "a.csv", "--json", folder=tmp_path).out)
    passed = json.loads(hemplit("dependencies", "a.csv", "--json", "--ignore-blanks", folder=tmp_path).out)
    assert [one["left"] for one in counted["dependencies"]] == []
    assert [(one["left"], one["right"]) for one in passed["dependencies"]] == [(["Boat"], "Berth")]


def test_on_a_small_sheet_one_row_may_break_what_a_code_decides(tmp_path: Path) -> None:
    names = {1: "Anemone", 2: "Brisling", 3: "Curlew", 4: "Dunlin"}
    rows = [f"{at},MQ-{at % 4 + 1},{'Heron' if at == 2 else names[at % 4 + 1]},{at % 3}" for at in range(12)]
    (tmp_path / "lifts.csv").write_text("\n".join(["Lift,Boat Reg,Boat,Hours", *rows]), encoding="utf-8")
    out = hemplit("dependencies", "lifts.csv", folder=tmp_path).out
    assert "exceptions Boat Reg → Boat holds except in 1 row" in out and "C4 says 'Heron'" in out, out
    assert "Hours →" not in out and "Boat → Hours" not in out
