"""Hemplit from Python: the same way, from and to tables in memory."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pyarrow as pa
import pyarrow.csv
import pytest

import hemplit
from conftest import same_cells


@pytest.fixture
def frame(yard: Path) -> pa.Table:
    return pa.csv.read_csv(yard / "jobs.csv")


def test_the_whole_way(yard: Path, tmp_path: Path) -> None:
    sheets = hemplit.read(yard / "jobs.csv")
    assert hemplit.look(sheets)["jobs"].row_count == 400
    draft = hemplit.draft(sheets)
    tables = draft.arrow()
    assert [tables[name].num_rows for name in ("jobs", "boats", "owners")] == [400, 64, 37]
    assert pa.types.is_date(tables["jobs"].schema.field("opened").type)
    assert tables["jobs"].column("boat_reg").null_count == 6
    assert draft._repr_svg_().startswith("<svg") and "boats" in repr(draft)
    assert draft._repr_html_().count("<table>") == len(draft.design.tables) and ">Garganey<" in draft._repr_html_()
    design = draft.save(tmp_path / "yard.design.toml")
    assert "[tables.boats]" in design.read_text(encoding="utf-8") and "[tables.boats]" in draft.text
    target = tmp_path / "yard.sqlite"
    assert hemplit.load(draft, target).proof.holds and same_cells(yard / "jobs.csv", target, "jobs_sheet")
    kept = tmp_path / "yard.design.toml"
    assert hemplit.prove(kept, target).proof.holds
    assert hemplit.topup(kept, yard / "jobs.csv", into=target).proof.holds
    assert hemplit.draw(kept).save(tmp_path / "yard.svg").exists()
    with pytest.raises(hemplit.HemplitError, match="--replace"):
        hemplit.load(kept, target)


def test_tables_in_memory_give_what_their_file_gives(yard: Path, frame: pa.Table, tmp_path: Path) -> None:
    of_file = hemplit.draft(yard / "jobs.csv").arrow()
    in_memory = hemplit.draft({"jobs": frame})
    assert {name: table.num_rows for name, table in in_memory.arrow().items()} == {
        name: table.num_rows for name, table in of_file.items()
    }
    with pytest.raises(hemplit.HemplitError, match="call it NAME"):
        hemplit.load(in_memory, tmp_path / "yard.sqlite")
    written = hemplit.read({str(tmp_path / "jobs.parquet"): frame})
    assert hemplit.load(written, tmp_path / "yard.sqlite").proof.holds
    assert hemplit.prove(tmp_path / "yard.design.toml", tmp_path / "yard.sqlite").proof.holds
    with pytest.raises(hemplit.HemplitError, match="other sheets are"):
        hemplit.read({"jobs": frame}, yard / "jobs.csv")


def test_frames_come_and_go(frame: pa.Table) -> None:
    pandas = pytest.importorskip("pandas")
    boats = hemplit.draft({"jobs": frame.to_pandas()}).pandas()["boats"]
    assert isinstance(boats, pandas.DataFrame) and len(boats) == 64


def test_the_name_alone_imports_nothing_heavy() -> None:
    run = "import sys, hemplit; print({'pyarrow', 'numpy', 'sqlalchemy'} & set(sys.modules))"
    assert subprocess.run([sys.executable, "-c", run], capture_output=True, text=True, check=True).stdout == "set()\n"
    with pytest.raises(AttributeError):
        hemplit.nothing  # noqa: B018
