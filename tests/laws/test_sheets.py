"""Generated sheets with known truth: dirty ones come back as the relations they were, clean ones are left alone."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

import pytest

import sheets
from conftest import shown, tries
from hemplit.core.model.grid import Grid, Source
from hemplit.core.shape import header, shape
from hemplit.files.cells import from_texts

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.model.relation import Relation
    from hemplit.core.shape import Shaped

COUNT = tries(300)
#: So large a share of the dirty sheets must come back.
SHARE = 0.95


def shaped(lines: list[list[str]]) -> tuple[Shaped, ...]:
    width = max(map(len, lines))
    texts = [[line[at] if at < len(line) else "" for line in lines] for at in range(width)]
    return shape(Grid(Source("yard.csv"), tuple(map(from_texts, texts)), len(lines)))


def plain(text: str) -> str:
    """Numbers as plainly as they can be, so that 12.50 is 12.5."""
    try:
        return f"{float(text):.10g}" if "." in text else text
    except ValueError:
        return text


def counted(rows: Iterable[dict[str, str]]) -> Counter[tuple[tuple[str, str], ...]]:
    return Counter(tuple(sorted((name, plain(value)) for name, value in row.items())) for row in rows)


def rows_of(relation: Relation) -> list[dict[str, str]]:
    return [dict(zip(relation.names, row, strict=True)) for row in shown(relation)]


def comes_back(sheet: sheets.Sheet) -> bool:
    found = shaped(sheet.lines)
    relations = {"": found[0].relation, **dict(found[0].children)}
    return len(found) == 1 and {part: counted(rows_of(one)) for part, one in relations.items()} == {
        part: counted(rows) for part, rows in sheet.truth.items()
    }


@pytest.mark.slow
def test_dirty_sheets_come_back_clean() -> None:
    made = [sheets.dirty(seed) for seed in range(COUNT)]
    lost = [(seed, sheet.done) for seed, sheet in enumerate(made) if not comes_back(sheet)]
    assert len({step for sheet in made for step in sheet.done}) > 20
    assert len(lost) <= (1 - SHARE) * COUNT, lost


@pytest.mark.slow
def test_clean_sheets_are_left_alone() -> None:
    for seed in range(COUNT):
        lines = sheets.clean(seed)
        (found,) = shaped(lines)
        assert not found.children, seed
        done = [step.act for step in found.relation.steps if not step.proposed]
        assert done == [header.ACT], (seed, done)
        assert found.relation.names == tuple(lines[0])
        texts = [list(row.values()) for row in rows_of(found.relation)]
        assert [list(map(plain, line)) for line in texts] == [list(map(plain, line)) for line in lines[1:]], seed
