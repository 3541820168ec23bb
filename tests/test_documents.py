"""What the documents tell an analyst to type works, what they show is what comes, and every link leads somewhere."""

from __future__ import annotations

import re
import shlex
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import hemplit

ROOT = Path(__file__).parent.parent
DOCUMENTS = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
#: How many commands each of the documents has that have some.
COMMANDS = {"README.md": 7, "tutorial.md": 13, "how-to.md": 13}


def commands_of(document: Path) -> list[str]:
    blocks = re.findall(r"```console\n(.*?)```", document.read_text(encoding="utf-8"), re.DOTALL)
    return [line for block in blocks for line in block.splitlines() if re.match(r"hemplit [a-z]+ ", line)]


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_every_command_runs_in_the_order_given(document: Path, tmp_path: Path) -> None:
    commands = commands_of(document)
    assert len(commands) == COMMANDS.get(document.name, 0)
    if commands:
        assert hemplit("demo", "demo", folder=tmp_path).code == 0
    for command in commands:
        ran = hemplit(*shlex.split(command)[1:], folder=tmp_path)
        # A boat that somebody typed otherwise in the haul-outs has to be looked at.
        assert ran.code == int("'Smew of Tarbny'" in ran.out), (command, ran.err)


def test_the_python_runs(tmp_path: Path) -> None:
    assert hemplit("demo", "demo", folder=tmp_path).code == 0
    blocks = re.findall(r"```python\n(.*?)```", (ROOT / "docs" / "python.md").read_text(encoding="utf-8"), re.DOTALL)
    run = [sys.executable, "-c", "\n".join(blocks)]
    ran = subprocess.run(run, cwd=tmp_path, capture_output=True, text=True, check=False)
    assert (len(blocks), ran.returncode) == (3, 0), ran.stderr
    said = re.search(r"# (Draft of .*), \.\.\.", blocks[0])
    assert said and ran.stdout.startswith(said[1])


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_every_link_leads_somewhere(document: Path) -> None:
    text = document.read_text(encoding="utf-8")
    for link in re.findall(r"\]\(([^)\s]+)\)", text):
        file, _, place = link.partition("#")
        linked = (document.parent / file) if file else document
        assert linked.exists(), link
        titles = re.findall(r"^#+ (.*)$", linked.read_text(encoding="utf-8"), re.MULTILINE) if place else []
        assert not place or place in {re.sub(r"[^\w -]", "", title.lower()).replace(" ", "-") for title in titles}, link


def test_the_design_shown_is_the_design_drafted(tmp_path: Path) -> None:
    hemplit("demo", "demo", folder=tmp_path)
    hemplit("draft", "demo/jobs.csv", "--out", "demo/yard.design.toml", folder=tmp_path)
    drafted = (tmp_path / "demo" / "yard.design.toml").read_text(encoding="utf-8")
    shown = re.findall(r"```toml\n(.*?)```", (ROOT / "docs" / "tutorial.md").read_text(encoding="utf-8"), re.DOTALL)
    assert shown
    assert all(block.strip() in drafted for block in shown)


def test_the_refusal_shown_is_the_refusal_given(tmp_path: Path) -> None:
    hemplit("demo", "demo", folder=tmp_path)
    hemplit("load", "demo/jobs.csv", "--into", "demo/months.sqlite", folder=tmp_path)
    design = tmp_path / "demo" / "months.design.toml"
    text = design.read_text(encoding="utf-8")
    moved = re.search(r"^columns\.urgent .*\n", text, re.MULTILINE)[0]  # type: ignore[index]
    kept = re.search(r"^columns\.name .*\"Work\".*\n", text, re.MULTILINE)[0]  # type: ignore[index]
    design.write_text(text.replace(moved, "").replace(kept, kept + moved), encoding="utf-8")
    ran = hemplit("load", "demo/months.design.toml", "--into", "demo/new.sqlite", folder=tmp_path)
    how_to = (ROOT / "docs" / "how-to.md").read_text(encoding="utf-8")
    shown = re.search(r"```console\n(hemplit: .*?)```", how_to, re.DOTALL)[1]  # type: ignore[index]
    assert ran.err.split() == shown.split()


def test_every_picture_is_linked_and_every_key_of_the_json_is_described() -> None:
    linked = set(re.findall(r"screenshots/([a-z]+\.png)", (ROOT / "README.md").read_text(encoding="utf-8")))
    assert linked == {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    described = (ROOT / "docs" / "json.md").read_text(encoding="utf-8")
    views = ROOT / "src" / "hemplit" / "views"
    modules = [*(views / "document").glob("*.py"), views / "tallies.py"]
    assert len(modules) > 3
    for written in (module.read_text(encoding="utf-8") for module in modules):
        for key in re.findall(r'^\s+"([a-z_]+)":', written, re.MULTILINE):
            assert f"`{key}`" in described, key
