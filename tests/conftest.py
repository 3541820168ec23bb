"""What the tests share: the program as a person runs it, and the demo sheets."""

from __future__ import annotations

import contextlib
import csv
import io
import os
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest
from hypothesis import settings

from hemplit.cli.main import main
from hemplit.core import kinds
from hemplit.core.model.grid import Grid, Source
from hemplit.core.model.relation import Relation
from hemplit.demo.sheets import write_sheets
from hemplit.files.cells import from_texts
from places import PLACES, SERVERS, Place, placed
from worlds import World

#: A quick run, between two edits: few examples of each law, and no servers.
QUICK = bool(os.environ.get("HEMPLIT_QUICK"))
#: A build should fail for what changed, not for what was never tried before: it tries the same examples each time, and
#: many of them, once. Elsewhere each run tries others, so that some of them are enough.
EXAMPLES = os.environ.get("HEMPLIT_EXAMPLES") or ("few" if QUICK else "many" if os.environ.get("CI") else "some")
#: One in so many, which is what twenty minutes with all else in a build, four, and in a quick run forty seconds, leave
#: time for on two cores. All of them are for who changes the core.
ONE_IN = {"all": 1, "many": 3, "some": 7, "few": 14}[EXAMPLES]
#: So many cases of one test where few examples are wanted: as many as there are kinds of servers and files.
MOST_CASES = 3


def tries(count: int) -> int:
    """How many of the examples of a law are tried in this run."""
    return max(count // ONE_IN, min(count, 3))


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Of a test of many cases, few are taken where few examples are wanted, from all over its list. Spark comes first
    and in one go: it takes ten seconds to start, and then stays for the tests that follow."""
    if EXAMPLES == "few":
        cases: dict[str, list[pytest.Item]] = {}
        for item in items:
            cases.setdefault(item.nodeid.partition("[")[0], []).append(item)
        taken = {item for of_one in cases.values() for item in of_one[:: -(-len(of_one) // MOST_CASES)]}
        config.hook.pytest_deselected(items=[item for item in items if item not in taken])
        items[:] = [item for item in items if item in taken]
    items.sort(key=lambda item: "[spark" not in item.name)


# Machines differ in speed.
settings.register_profile("this run", deadline=None, derandomize=EXAMPLES != "some", max_examples=tries(100))
settings.load_profile("this run")
# What a terminal says of its width is nothing to tests.
os.environ.pop("COLUMNS", None)
# The program is started many times, and need not be compiled each time.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ.setdefault("PYTHONPYCACHEPREFIX", str(Path(tempfile.gettempdir()) / "hemplit-compiled"))
os.environ.setdefault("SPARK_CONF_DIR", str(Path(__file__).parent / "spark"))


@dataclass(frozen=True)
class Ran:
    """How a call of the program ended."""

    code: int
    out: str
    err: str


def hemplit(*arguments: object, folder: Path) -> Ran:
    """Runs the program in a folder: parser, command, exit code, all that is printed."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.chdir(folder):
        code = main([str(argument) for argument in arguments], out, err)
    return Ran(code, out.getvalue(), err.getvalue())


def cells(grid: Grid) -> list[list[str]]:
    """The texts of a grid, row by row."""
    return [[column.text(row) for column in grid.columns] for row in range(grid.row_count)]


def shown(relation: Relation) -> list[list[str]]:
    """The values of a relation as the sheet writes them, row by row."""
    columns = [
        [kinds.show(column.values[code].as_py(), column.kind) if code >= 0 else "" for code in column.codes.tolist()]
        for column in relation.columns
    ]
    return [list(row) for row in zip(*columns, strict=True)]


def flat(made: World) -> Grid:
    """The sheet of a world."""
    columns = tuple(from_texts([header, *cells]) for header, cells in zip(made.headers, made.columns, strict=True))
    return Grid(Source("yard.csv"), columns, len(made.columns[0]) + 1)


def same_cells(sheet: Path, target: Path | Place, view: str) -> bool:
    """Whether a view of the target gives every cell of a CSV back, by a reader that knows nothing of Hemplit."""
    with sheet.open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    names, given = (target if isinstance(target, Place) else Place(target.parent, target.name)).view(view)
    return names == header and sorted(map(_plain, rows)) == sorted(map(_plain, given))


def _plain(row: list[str]) -> list[str]:
    return ["; ".join(map(_as_number, text.split("; "))) for text in row]


def _as_number(text: str) -> str:
    try:
        return f"{float(text):.15g}" if "." in text else text
    except ValueError:
        return text


@pytest.fixture(scope="session")
def yard(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the demo sheets; tests leave it as it is."""
    folder = tmp_path_factory.mktemp("yard")
    write_sheets(folder)
    return folder


@pytest.fixture
def jobs(tmp_path: Path, yard: Path) -> Path:
    """The job sheet in a folder of the test's own."""
    copy = tmp_path / "jobs.csv"
    copy.write_bytes((yard / "jobs.csv").read_bytes())
    return copy


@pytest.fixture(params=["sqlite"] if QUICK else ["sqlite", *SERVERS])
def place(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Place]:
    """Each place where tables go, by turns."""
    yield from placed(request.param, tmp_path)


@pytest.fixture(params=["sqlite"] if QUICK else [*PLACES])
def anywhere(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Place]:
    """Each sort of target, by turns."""
    yield from placed(request.param, tmp_path)


@pytest.fixture(params=[*SERVERS])
def server(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Place]:
    """Each server, by turns."""
    yield from placed(request.param, tmp_path)
