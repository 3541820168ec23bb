"""``hemplit look``: what it counts, what it finds troubling, and how it behaves on a terminal and in a pipe."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import hemplit
from hemplit.flow import loading, proving

SHEET = """Job No,Boat,Length,Opened,Note
1,Teal,5.2,2026-03-01,
2, Smew,7.5,2026-03-02,
3,Knot,about 6,2026-03-02,
4,Teal,5.2,2026-03-05,
5,Teal,8.1,2026-03-06,
6,Gull,9.0,2026-03-07,
7,Tern,4.4,2026-03-08,
8,Skua,4.8,2026-03-09,
9,Coot,5.9,2026-03-09,
10,Rail,6.6,soon,
11,Loon,7.7,2026-03-11,
12,Ibis,3.9,2026-03-12,
"""


def looked(tmp_path: Path, text: str) -> dict[str, object]:
    (tmp_path / "jobs.csv").write_text(text, encoding="utf-8")
    ran = hemplit("look", "jobs.csv", "--json", folder=tmp_path)
    assert (ran.code, ran.err) == (0, "")
    return dict(json.loads(ran.out)["sheets"][0])


def test_trouble_names_its_cells(tmp_path: Path) -> None:
    said = {one["what"]: one["places"] for one in looked(tmp_path, SHEET)["trouble"]}  # type: ignore[attr-defined]
    assert said == {
        "'Length' is a decimal except in some cells, so it stays text": ["C4 'about 6'"],
        "'Opened' is a date except in some cells, so it stays text": ["D11 'soon'"],
        "'Note' has a header and no content": [],
    }


def test_what_was_too_little_to_measure_is_proposed_and_kept(tmp_path: Path) -> None:
    lines = "S1,<0.5,12\nS2,0.7,n.d.\nS3,0.9,15\nS4,< 0.5,11\nS5,1.2,13\n"
    found = looked(tmp_path, "Sample,Tin,Copper\n" + lines)
    cells = [cell for one in found["proposals"] for cell in one["cells"]]  # type: ignore[attr-defined]
    said = {(one["column"], one["before"], one["after"]) for one in cells}
    assert {("Copper", "n.d.", ""), ("Tin", "<0.5", "< 0.5")} <= said
    assert found["changes"] == []


def test_doubled_rows_are_counted_and_kept(tmp_path: Path) -> None:
    found = looked(tmp_path, "Boat,Event\nTeal,wash\nSmew,fuel\nTeal,wash\n")
    assert [(one["count"], one["places"]) for one in found["trouble"]] == [(1, ["row 4"])]  # type: ignore[attr-defined]
    assert found["rows"] == 3


def test_a_clean_sheet_has_no_trouble(yard: Path) -> None:
    assert json.loads(hemplit("look", yard / "jobs.csv", "--json", folder=yard).out)["sheets"][0]["trouble"] == []


def test_columns_are_counted(tmp_path: Path) -> None:
    facts = {one["name"]: one for one in looked(tmp_path, SHEET)["column_facts"]}  # type: ignore[attr-defined]
    assert (facts["Boat"]["filled"], facts["Boat"]["distinct"], facts["Boat"]["kind"]) == (12, 10, "text")
    assert (facts["Note"]["blanks"], facts["Note"]["distinct"]) == (12, 0)
    assert facts["Job No"]["kind"] == "whole number"


@pytest.mark.parametrize("command", ["look", "dependencies"])
def test_brackets_in_cells_are_shown_as_they_are(command: str, tmp_path: Path) -> None:
    (tmp_path / "odd.csv").write_text("Boat [m],Note\n[red]Teal[/],[/]\n[bold]x,[/]\n", encoding="utf-8")
    ran = hemplit(command, "odd.csv", folder=tmp_path)
    assert ran.code == 0
    assert "Boat [m]" in ran.out


def test_a_pipe_that_closes_early_is_no_fault(yard: Path) -> None:
    command = f'"{sys.executable}" -m hemplit look jobs.csv parts-used.csv crew-roster.xlsx jobs.csv 2>&1 | head -2'
    done = subprocess.run(command, shell=True, cwd=yard, capture_output=True, encoding="utf-8", check=False)
    assert (
        done.stdout == "jobs.csv was given twice and is read once\n3 sheets  2 more split from their lists and groups\n"
    )
    assert done.stderr == ""


def test_an_interrupt_leaves_nothing_behind(jobs: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def interrupted(*_: object, **__: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr(proving, "check_rejoin", interrupted)
    monkeypatch.setattr(loading, "split", interrupted)
    ran = hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, ran.out) == (130, "")
    assert ran.err == "hemplit: stopped; nothing was written\n"
    assert [path.name for path in jobs.parent.iterdir()] == ["jobs.csv"]


@pytest.mark.parametrize("style", ["{part} ({count})", "{part} x{count}", "{count} {part}s", "{part}: {count}"])
def test_several_values_with_a_number_each_are_rows(style: str, tmp_path: Path) -> None:
    parts = [("cleat", 2), ("rope", 5)], [("rope", 3)], [("bolt", 4), ("rope", 1), ("cleat", 2)], [("bolt", 9)]
    told = [", ".join(style.format(part=part, count=count) for part, count in some) for some in parts]
    rows = [f'{at},"{cell}","Quay {at}, Wick"' for at, cell in enumerate(told)]
    (tmp_path / "jobs.csv").write_text("\n".join(["Job,Parts,Place", *rows]) + "\n", encoding="utf-8")
    sheets = json.loads(hemplit("look", "jobs.csv", "--json", folder=tmp_path).out)["sheets"]
    headers = [[facts["name"] for facts in sheet["column_facts"]] for sheet in sheets]
    assert headers == [["Job", "Place"], ["Job", "Parts", "Quantity", "Position"]]
    assert [sheet["rows"] for sheet in sheets] == [4, 7]


def test_no_measure_is_shown_as_the_key_though_no_two_are_the_same(tmp_path: Path) -> None:
    trips = ["132,T1,2026-04-01", "120,T2,2026-04-01", "98,T1,2026-04-02", "101,T2,2026-04-03", "140,T1,2026-04-03"]
    (tmp_path / "trips.csv").write_text("\n".join(["Load,Trip,Day", *trips]) + "\n", encoding="utf-8")
    first, *rest = hemplit("look", "trips.csv", folder=tmp_path).out.splitlines()
    assert "key: Trip + Day" in first and any("possible keys Load, Trip + Day" in line for line in rest), first


def test_no_boat_is_shown_as_the_key_of_what_was_done_on_a_day(tmp_path: Path) -> None:
    """Each boat came once so far, and the draft takes none of them for the key either."""
    lifts = [f"2026-04-{day // 2 + 1:02},MQ-{day * 7 % 10},Tern {day * 7 % 10},{day % 3 + 1}" for day in range(1, 9)]
    (tmp_path / "lifts.csv").write_text("\n".join(["Date,Boat Reg,Boat,Hours", *lifts]) + "\n", encoding="utf-8")
    first, *rest = hemplit("look", "lifts.csv", folder=tmp_path).out.splitlines()
    assert "Boat Reg" not in first and any("possible keys Boat Reg" in line for line in rest), first
