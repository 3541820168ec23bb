"""Every draft of sheets that people have given loads and is proven, and so does its design once it is saved.

``HEMPLIT_SHEETS`` names a folder of such sheets; each file in it is one, and each folder with several files of which a
group of the name ``many`` is made belongs together. Without it there is nothing to try. As of other laws, one in so
many is tried in a build, and all with ``HEMPLIT_EXAMPLES=all``.
"""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import ONE_IN
from hemplit.files.endings import READERS
from hemplit.flow import loading, reading

GIVEN = os.environ.get("HEMPLIT_SHEETS")
TOGETHER = "many"


def given() -> list[list[Path]]:
    """The sheets, those that belong together in one list."""
    if GIVEN is None:
        return []
    found = [path for path in sorted(Path(GIVEN).rglob("*")) if path.suffix in READERS and path.is_file()]
    groups: dict[Path, list[Path]] = {}
    for path in found:
        above = path.relative_to(GIVEN).parts
        groups.setdefault(path.parent if TOGETHER in above[:-1] else path, []).append(path)
    return [sheets for sheets in groups.values() if sheets[0].suffix != ".txt"][::ONE_IN]


@pytest.mark.slow
@pytest.mark.parametrize("sheets", given() or [[]], ids=lambda sheets: sheets[0].stem if sheets else "none given")
def test_every_draft_loads_and_is_proven(sheets: list[Path], tmp_path: Path) -> None:
    if not sheets:
        pytest.skip("HEMPLIT_SHEETS names no folder of sheets")
    read = reading.read([str(path) for path in sheets])
    first = loading.load_sheets(read, str(tmp_path / "first.sqlite"), replace_target=False)
    assert first.proof.holds
    again = loading.load_design(tmp_path / "first.design.toml", str(tmp_path / "again.sqlite"), replace_target=False)
    assert again.proof.holds
    told = [one for relation in again.sheets.relations.values() for one in relation.told]
    assert not [one for one in told if not one.settled]
    assert again.told == first.told
    assert [one.row_count for one in again.tables.tables] == [one.row_count for one in first.tables.tables]
