"""Sheets whose rows are all combinations of lists: each list has its own table, and only such sheets are parted."""

from __future__ import annotations

import sqlite3
from collections import Counter
from itertools import product
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import hemplit, same_cells, tries
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import Grid, Source
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying

WORKERS = ["Nuala Visser", "Oskar Keel", "Berit Holm", "Jan Roo", "Ida Moss"]
SKILLS = ["welding", "rigging", "painting", "carpentry"]
LANGUAGES = ["Dutch", "Danish", "French", "English"]
Rows = list[list[str]]

skills = st.lists(st.sampled_from(SKILLS), max_size=4, unique=True)
languages = st.lists(st.sampled_from(LANGUAGES), max_size=4, unique=True)
#: Three workers with several of both show that the lists are independent; the others may have none.
several = st.tuples(skills.filter(lambda some: len(some) > 1), languages.filter(lambda some: len(some) > 1))
staff = st.tuples(several, several, several, st.tuples(skills, languages), st.tuples(skills, languages))


def rows_of(lists: tuple[tuple[list[str], list[str]], ...]) -> Rows:
    """The rows of the sheet; who has none of something has a blank there."""
    return [
        [worker, skill, language]
        for worker, (some, others) in zip(WORKERS, lists, strict=True)
        for skill, language in product(some or [""], others or [""])
    ]


def grid(rows: Rows) -> Grid:
    columns = zip(["Worker", "Skill", "Language"], *rows, strict=True)
    return Grid(Source("staff.csv"), tuple(from_texts(list(column)) for column in columns), len(rows) + 1)


@given(staff, st.randoms(use_true_random=False))
@settings(max_examples=tries(60))
def test_every_list_has_a_table_of_its_own(lists: object, random: object) -> None:
    rows = rows_of(lists)  # type: ignore[arg-type]
    random.shuffle(rows)  # type: ignore[attr-defined]
    sheets = reading.shape_grids({"staff": grid(rows)})
    design = studying.draft(sheets)
    tables = split(design, sheets.relations)
    entries = [len({(row[0], row[place]) for row in rows if row[place]}) for place in (1, 2)]
    assert [tables.by_name[plan.name].row_count for plan in design.lists_of("staff")] == entries
    assert not any(plan.grain is Grain.ROW for plan in design.tables)
    assert proving.prove_tables(design, sheets, tables).holds


@given(staff, st.data())
@settings(max_examples=tries(40))
def test_a_sheet_that_lacks_a_combination_or_says_one_twice_keeps_its_rows(lists: object, data: st.DataObject) -> None:
    rows = rows_of(lists)  # type: ignore[arg-type]
    inner = [place for place, row in enumerate(rows) if row[0] in WORKERS[:3]]
    place = data.draw(st.sampled_from(inner))
    changed = data.draw(st.sampled_from([[*rows, rows[place]], [*rows[:place], *rows[place + 1 :]]]))
    sheets = reading.shape_grids({"staff": grid(changed)})
    design = studying.draft(sheets)
    proof = proving.prove_tables(design, sheets, split(design, sheets.relations))
    assert proof.holds
    given_rows = Counter(map(tuple, changed))
    whole = all(
        len({row[1] for row in own}) * len({row[2] for row in own}) == len(own)
        for worker in WORKERS
        for own in [[row for row in given_rows if row[0] == worker]]
    )
    # Without one row, what is left may still be all combinations of fewer entries.
    if max(given_rows.values()) > 1 or not whole:
        assert not design.lists_of("staff")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder with a sheet of four workers, whose skills have levels."""
    lists = [(SKILLS[:3], LANGUAGES[:2]), (SKILLS[1:], LANGUAGES), (SKILLS[:2], LANGUAGES[2:]), (SKILLS[:1], [])]
    lines = ["Badge,Worker,Skill,Level,Language"]
    for number, (some, others) in enumerate(lists):
        for skill, language in product(some, others or [""]):
            lines.append(f"W{number + 1},{WORKERS[number]},{skill},{(number + SKILLS.index(skill)) % 3},{language}")
    (tmp_path / "staff.csv").write_text("\n".join(lines) + "\n")
    return tmp_path


def test_lists_are_loaded_joined_and_explained(folder: Path) -> None:
    ran = hemplit("load", "staff.csv", "--into", "yard.sqlite", folder=folder)
    assert ran.code == 0 and "Verified:" in ran.out
    assert same_cells(folder / "staff.csv", folder / "yard.sqlite", "staff_sheet")
    database = sqlite3.connect(folder / "yard.sqlite")
    found = {name: [row[1] for row in database.execute(f"PRAGMA table_info({name})")] for name in LISTS}
    database.close()
    assert found == LISTS
    assert hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=folder).code == 0
    told = hemplit("why", "yard.design.toml", folder=folder).out
    assert "To correct the Skill of Badge + Skill W2 + rigging you now edit 4 cells" in told


LISTS = {"badge_skills": ["badge", "skill_id", "level"], "badge_languages": ["badge", "language_id"]}


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("W1,Nuala Visser,rigging,1,Dutch\n", "", "row 2 is one of 5 rows of Badge 'W1', and each 'Skill"),
        ("W4,Jan Roo,welding,0,\n", "W4,Jan Roo,welding,0,\n" * 2, "row 25 says again what an earlier row says"),
        ("W4,Jan Roo,welding", ",Jan Roo,welding", "row 24: Badge is blank, and Worker 'Jan Roo' depends on it"),
    ],
)
def test_a_later_sheet_that_is_no_combination_is_refused(folder: Path, old: str, new: str, said: str) -> None:
    hemplit("draft", "staff.csv", folder=folder)
    sheet = folder / "staff.csv"
    assert old in sheet.read_text()
    sheet.write_text(sheet.read_text().replace(old, new))
    ran = hemplit("load", "staff.design.toml", "--into", "yard.sqlite", folder=folder)
    assert ran.code == 2 and said in ran.err and ran.err.count("\n") == 1
    assert not (folder / "yard.sqlite").exists()


def test_a_person_can_keep_lists_together(folder: Path) -> None:
    hemplit("draft", "staff.csv", "--together", "Skill,Language", folder=folder)
    assert "list_of" not in (folder / "staff.design.toml").read_text()
    assert hemplit("load", "staff.design.toml", "--into", "yard.sqlite", folder=folder).code == 0


@pytest.mark.parametrize(
    ("of", "said"),
    [
        ("skills", "'badge_skills' is a list of 'skills'"),
        ("nothing", "no such table 'nothing'"),
        ("badge_languages", "no such table 'badge_languages'"),
    ],
)
def test_lists_of_another_table_are_refused(folder: Path, of: str, said: str) -> None:
    hemplit("draft", "staff.csv", folder=folder)
    design = folder / "staff.design.toml"
    design.write_text(design.read_text().replace('list_of = "badges"', f'list_of = "{of}"', 1))
    ran = hemplit("load", "staff.design.toml", "--into", "yard.sqlite", folder=folder)
    assert ran.code == 2 and said in ran.err and "line " in ran.err
