"""The reference of the design file names every word that the program knows, and no other."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

import pytest

from conftest import hemplit
from hemplit.core import kinds
from hemplit.core.design.calendar import CALENDAR
from hemplit.core.model.design import PURPOSES
from hemplit.core.shape import BY_ACT, atoms, lists
from hemplit.design_file.read import RULES
from hemplit.design_file.words import COLUMN_KEYS, SHEET_KEYS, TABLE_KEYS, TALLY_KEYS

ROOT = Path(__file__).parent.parent


@pytest.fixture(scope="module")
def sections(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    ran = hemplit("help", "design", folder=tmp_path_factory.mktemp("help"))
    assert (ran.code, ran.err) == (0, "")
    assert ran.out == (ROOT / "docs" / "design-file.md").read_text(encoding="utf-8")
    parts = re.split(r"^## (.*)\n", ran.out, flags=re.MULTILINE)
    return dict(zip(parts[1::2], parts[2::2], strict=True))


def first_words(section: str) -> set[str]:
    """What stands first in the lines of a table, which explains it."""
    cells = re.findall(r"^\| (`.*?) \|", section, re.MULTILINE)
    return {word for cell in cells for word in re.findall(r"`([^`]+)`", cell)}


def test_every_word_is_explained_and_no_other(sections: dict[str, str]) -> None:
    sheet, steps, table, column, rules, tally, trail = sections
    assert first_words(sections[sheet]) == set(SHEET_KEYS)
    assert first_words(sections[table]) == set(TABLE_KEYS)
    assert first_words(sections[column]) == set(COLUMN_KEYS)
    assert first_words(sections[rules]) == set(RULES)
    assert first_words(sections[tally]) == set(TALLY_KEYS)
    assert first_words(sections[steps]) == {str(act) for act in BY_ACT} and trail == "[trail]"


def test_every_setting_and_choice_is_named(sections: dict[str, str]) -> None:
    steps, table, column = (sections[name] for name in [*sections][1:4])
    for act, detector in BY_ACT.items():
        line = next(line for line in steps.splitlines() if line.startswith(f"| `{act}` |"))
        assert set(re.findall(r"`([a-z_]+)`", line.split("|")[2])) == {*detector.SETTINGS}, act
    said = {*re.findall(r"`([^`\n]+)`", steps)}
    assert {*atoms.SHAPES, *lists.PLAIN} <= said
    assert {*PURPOSES} <= {*re.findall(r"`([^`\n]+)`", table)}
    assert {*kinds.BY_WORD, *CALENDAR} <= {*re.findall(r"`([^`\n]+)`", column)}


def test_the_examples_are_toml(sections: dict[str, str]) -> None:
    for section in sections.values():
        tomllib.loads("\n".join(line[4:] for line in section.splitlines() if line.startswith("    ")))
