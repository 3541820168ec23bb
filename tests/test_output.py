"""What is printed fits where it is printed, in words that stay whole."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from rich.cells import cell_len

from conftest import hemplit
from hemplit.core.model.acts import Act
from hemplit.design_file import older
from hemplit.design_file.read import from_toml

DEMO = ("jobs.csv", "parts-used.csv", "crew-roster.xlsx", "haul-outs")
COMMANDS = {
    "look": ["look", *DEMO],
    "dependencies": ["dependencies", "jobs.csv", "--depth", "2"],
    "draft": ["draft", *DEMO, "--out", "new.design.toml", "--reasons", "--replace"],
    "why": ["why", "out.design.toml"],
    "why of a table": ["why", "out.design.toml", "boats"],
    "load": ["load", "out.design.toml", "--into", "out.sqlite", "--replace", "--details"],
    "prove": ["prove", "out.design.toml", "--into", "out.sqlite"],
    "held": ["look", "out.sqlite"],
    "tally": [
        "tally",
        "out.design.toml",
        "--into",
        "out.sqlite",
        "--of",
        "Labour Cost",
        "--by",
        "Owner",
        "--across",
        "Status",
    ],
    "topup": ["topup", "out.design.toml", "jobs.csv", "--into", "out.sqlite", "--dry-run"],
}

#: What tells of the boats that somebody typed otherwise in the haul-outs, which have to be looked at.
TELLING = ("load", "prove")


@pytest.fixture(scope="module")
def loaded(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("output")
    assert hemplit("demo", "yard", folder=folder).code == 0
    yard = folder / "yard"
    assert hemplit("draft", *DEMO, "--out", "out.design.toml", folder=yard).code == 0
    assert hemplit("load", "out.design.toml", "--into", "out.sqlite", folder=yard).code == 1
    return yard


@pytest.mark.parametrize("name", COMMANDS)
def test_lines_are_as_wide_as_asked_and_words_stay_whole(name: str, loaded: Path) -> None:
    said, cut = {}, {}
    for width in (40, 80, 200):
        ran = hemplit(*COMMANDS[name], "--width", str(width), folder=loaded)
        assert ran.code == int(name in TELLING), ran.err
        assert max(map(cell_len, ran.out.splitlines())) <= width
        said[width] = {word for word in ran.out.split() if not set(word) & set("…─")}
        cut[width] = {word for word in ran.out.split() if "…" in word}
    assert cut[80] <= cut[200]
    for width in (40, 80):
        # At 40 a table may be blocks of lines, whose headers end in a colon.
        assert {word.removesuffix(":") for word in said[width]} <= {word.removesuffix(":") for word in said[200]}


def test_the_width_of_the_terminal_counts(loaded: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("COLUMNS", "50")
    assert max(map(cell_len, hemplit(*COMMANDS["load"], folder=loaded).out.splitlines())) <= 50
    for wrong in ("39", "201", "wide"):
        ran = hemplit("look", "jobs.csv", "--width", wrong, folder=loaded)
        assert (ran.code, "is not a number from 40 to 200" in ran.err) == (2, True)


def test_columns_that_differ_in_a_number_are_one_line(tmp_path: Path) -> None:
    header = ",".join(["Run", "Grade", *(f"Sensor {at:02} mV" for at in range(1, 31))])
    lines = [",".join([str(row), "A", *(str(row * at % 97) for at in range(1, 31))]) for row in range(1, 40)]
    (tmp_path / "wide.csv").write_text("\n".join([header, *lines]) + "\n", encoding="utf-8")
    shown = hemplit("look", "wide.csv", folder=tmp_path).out
    assert "Sensor 01–30 mV" in shown and "C–AF" in shown and "30 columns alike" in shown
    assert not any(line.startswith(" D ") for line in shown.splitlines())


def test_designs_in_the_words_of_before_are_still_read(loaded: Path) -> None:
    text = (loaded / "out.design.toml").read_text(encoding="utf-8")
    before = text.replace("{ do = ", "{ act = ").replace("rule = ", "keep = ")
    for old, new in older.STEPS.items():
        before = before.replace(f'"{new}"', f'"{old}"')
    for old, new in older.PURPOSES.items():
        before = before.replace(f'purpose = "{new}"', f'purpose = "{old}"')
    for old, new in older.RULES.items():
        before = before.replace(f'keep = "{new}"', f'keep = "{old}"')
    for old, new in older.COLUMN_KEYS.items():
        before = before.replace(f", {new} = ", f", {old} = ")
    assert before != text and "thing" in before and "set aside totals" in before and ', kind = "text"' in before
    assert from_toml(before, "before") == from_toml(text, "now")


def test_every_older_step_is_one_of_today() -> None:
    assert len({*older.STEPS.values()}) == len(older.STEPS) and {*older.STEPS.values()} <= {*Act}


def test_what_may_be_coincidence_is_hidden_until_it_is_asked_for(loaded: Path) -> None:
    hidden, shown = (hemplit("dependencies", "jobs.csv", *how, folder=loaded).out for how in ((), ("--all",)))
    assert "weaker ones hidden" in hidden and "\n weak " not in hidden
    assert "weaker ones hidden" not in shown and "\n weak " in shown


def test_a_draft_tells_rows_and_a_load_its_checks_when_asked(loaded: Path) -> None:
    drafted = hemplit(*COMMANDS["draft"], folder=loaded).out
    assert "jobs  400 rows  key job_no  main table" in drafted and "boats  64 rows" in drafted
    folded, told = (hemplit(*COMMANDS["prove"], *how, folder=loaded).out for how in ((), ("--details",)))
    assert "rebuilds jobs.csv exactly" in told and "rebuilds jobs.csv exactly" not in folded


def test_the_stops_of_a_command_are_told_with_their_seconds(loaded: Path) -> None:
    call = ("load", "out.design.toml", "--into", "out.sqlite", "--replace", "--json")
    assert "together" not in hemplit(*call, folder=loaded).err
    ran = hemplit(*call, "--timings", folder=loaded)
    assert json.loads(ran.out)["tables"]
    told = re.findall(r"^ *([\d.]+) s +\d+%  (.+)$", ran.err, re.MULTILINE)
    seconds, stops = [float(one) for one, _ in told], [stop for _, stop in told]
    assert stops[0] == "starting" and stops[-1] == "together" and {"writing", "checking"} <= {*stops}, ran.err
    assert sum(seconds[:-1]) == pytest.approx(seconds[-1], abs=0.01 * len(seconds))
    assert seconds[stops.index("writing")] > 0 < seconds[stops.index("checking")]
