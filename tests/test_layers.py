"""The direction of imports, and that light commands stay light."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import pytest

import hemplit

ROOT = Path(hemplit.__file__).parent
#: What each room may import, besides itself, our data classes, our threads and the libraries it is allowed.
MAY_IMPORT = {
    "dataclasses": set(),
    "at_once": set(),
    "errors": set(),
    "core": {"errors"},
    "servers": {"errors"},
    "files": {"core", "servers", "errors"},
    "disk": set(),
    "targets": {"core", "servers", "errors", "disk"},
    "engines": {"core", "targets", "errors"},
    "design_file": {"core", "errors"},
    "demo": set(),
    "flow": {"core", "files", "targets", "engines", "design_file", "disk", "errors"},
    "views": {"core", "errors"},
    "interface": {"flow", "views", "core", "design_file", "errors"},
    "cli": {"flow", "views", "demo", "core", "errors", "__init__"},
}
#: What each room of the core may import, besides itself.
INSIDE_CORE = {
    "model": set(),
    "theory": set(),
    "texts": set(),
    "columns": {"model"},
    "kinds": {"model"},
    "design": {"model", "kinds", "texts"},
    "shape": {"model", "kinds", "columns", "texts"},
    "study": {"model", "kinds", "columns", "texts", "design"},
    "tables": {"model", "kinds", "columns", "texts", "design", "shape"},
    "proof": {"model", "kinds", "columns", "design", "shape", "study", "texts", "tables"},
    "draft": {"model", "kinds", "columns", "texts", "theory", "design", "shape", "study", "tables"},
    "diagram": {"model"},
    "tally": {"model", "kinds", "columns", "design", "tables"},
    "explain": {"model", "kinds", "columns", "design", "study", "tables", "draft"},
}
NOT_IN_CORE = {"argparse", "rich", "sqlite3", "sqlalchemy", "pathlib", "os", "sys", "io", "random", "time"}
MODULES = sorted(ROOT.rglob("*.py"))


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found.update(alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.update(f"{node.module}.{alias.name}" for alias in node.names)
    return found


def room(path: Path) -> str:
    return path.relative_to(ROOT).with_suffix("").parts[0]


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(ROOT)))
def test_imports_run_one_way(path: Path) -> None:
    if room(path) in ("__init__", "__main__"):
        return
    for name in imports(path):
        if name.startswith("hemplit"):
            other = name.split(".")[1]
            other = "__init__" if other == "__version__" else other
            assert other in {room(path), "dataclasses", "at_once", *MAY_IMPORT[room(path)]}, name
            continue
        library = name.split(".")[0]
        assert room(path) == "dataclasses" or library != "dataclasses", "a class of the standard library starts slowly"
        assert room(path) != "core" or library not in NOT_IN_CORE, name


@pytest.mark.parametrize(
    "path", sorted((ROOT / "core").glob("*/**/*.py")), ids=lambda path: str(path.relative_to(ROOT))
)
def test_imports_run_one_way_inside_the_core(path: Path) -> None:
    own = path.relative_to(ROOT / "core").parts[0]
    rooms = {name.split(".")[2] for name in imports(path) if name.startswith("hemplit.core.")}
    assert rooms - {own} <= INSIDE_CORE[own]


@pytest.mark.parametrize("part", ["study", "shape"])
def test_detectors_do_not_import_each_other(part: str) -> None:
    shared = {"working", "looks", "children", "deciding", "agreed", "series", "slips", "__init__"}
    detectors = {path.stem for path in (ROOT / "core" / part).glob("*.py")} - shared
    for path in (ROOT / "core" / part).glob("*.py"):
        if path.stem != "__init__":
            taken = {name.split(".")[3] for name in imports(path) if name.startswith(f"hemplit.core.{part}.")}
            assert not taken & (detectors - {path.stem}), path


def test_help_imports_nothing_heavy() -> None:
    heavy = ["numpy", "pyarrow", "rich", "sqlalchemy"]
    code = (
        "import sys, io; from hemplit.cli.main import main; main(['load', '--help'], io.StringIO(), io.StringIO());"
        f"print([name for name in {heavy} if name in sys.modules], file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, encoding="utf-8", check=True)
    assert done.stderr.strip() == "[]"


def test_a_draft_of_a_text_file_imports_nothing_that_it_does_not_need(tmp_path: Path) -> None:
    sheet = tmp_path / "jobs.csv"
    sheet.write_text("Job,Boat,Berth,Hours\n" + "".join(f"{n},B{n % 4},W{n % 4},{n % 7}\n" for n in range(40)), "utf-8")
    spared = ["numpy.ma", "pandas", "sqlalchemy", "sqlite3", "zipfile", "xml.etree", "concurrent.futures", "json"]
    code = (
        "import sys, io; from hemplit.cli.quickly import start_quickly; start_quickly();"
        "from hemplit.cli.main import main; main(sys.argv[1:], io.StringIO(), io.StringIO());"
        f"print([name for name in {spared} if name in sys.modules])"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, "draft", str(sheet)], capture_output=True, encoding="utf-8", check=True
    )
    assert done.stdout.strip() == "[]"
    assert (tmp_path / "jobs.design.toml").exists()


def test_a_load_imports_nothing_that_only_pictures_of_databases_need() -> None:
    code = "import sys, hemplit.flow.loading, hemplit.targets.script; print('sqlalchemy' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, encoding="utf-8", check=True)
    assert done.stdout.strip() == "False"
