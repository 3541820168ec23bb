"""The direction of imports, and that light commands stay light."""

from __future__ import annotations

import ast
import subprocess
import sys
from functools import cache
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
    "tally": {"model", "kinds", "columns", "texts", "design", "tables"},
    "explain": {"model", "kinds", "columns", "texts", "design", "study", "tables", "draft"},
}
NOT_IN_CORE = {"argparse", "rich", "sqlite3", "sqlalchemy", "pathlib", "os", "sys", "io", "random", "time"}
MODULES = sorted(ROOT.rglob("*.py"))


@cache
def imports(path: Path) -> frozenset[str]:
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found.update(alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.update(f"{node.module}.{alias.name}" for alias in node.names)
    return frozenset(found)


def room(path: Path) -> str:
    return path.relative_to(ROOT).with_suffix("").parts[0]


def is_allowed(own: str, name: str) -> bool:
    """Whether a module of a room may import what has this name."""
    library, _, inner = name.partition(".")
    if library == "hemplit":
        other = inner.partition(".")[0].replace("__version__", "__init__")
        return other in {own, "dataclasses", "at_once", *MAY_IMPORT[own]}
    # The module of the standard library starts slowly.
    is_slow = library == "dataclasses" and own != "dataclasses"
    return not is_slow and not (own == "core" and library in NOT_IN_CORE)


def test_imports_run_one_way() -> None:
    modules = [path for path in MODULES if room(path) not in ("__init__", "__main__")]
    wrong = [(str(path), name) for path in modules for name in imports(path) if not is_allowed(room(path), name)]
    assert len(modules) > 200 and not wrong, wrong


def test_imports_run_one_way_inside_the_core() -> None:
    modules = {path: path.relative_to(ROOT / "core").parts[0] for path in (ROOT / "core").glob("*/**/*.py")}
    wrong = [
        (str(path), name)
        for path, own in modules.items()
        for name in imports(path)
        if name.startswith("hemplit.core.") and name.split(".")[2] not in {own, *INSIDE_CORE[own]}
    ]
    assert len(modules) > 100 and not wrong, wrong


@pytest.mark.parametrize("part", ["study", "shape"])
def test_detectors_do_not_import_each_other(part: str) -> None:
    shared = set(
        "working looks tops names children alongside deciding agreed headed series slips values said_with".split()
    )
    detectors = {path.stem for path in (ROOT / "core" / part).glob("*.py")} - {*shared, "__init__"}
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
