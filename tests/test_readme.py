"""What the README tells an analyst to type works, and what it shows is what comes."""

from __future__ import annotations

import re
import shlex
from pathlib import Path

from conftest import hemplit

ROOT = Path(__file__).parent.parent
README = (ROOT / "README.md").read_text(encoding="utf-8")


def test_every_command_runs_in_the_order_given(tmp_path: Path) -> None:
    assert hemplit("demo", "demo", folder=tmp_path).code == 0
    blocks = re.findall(r"```console\n(.*?)```", README, re.DOTALL)
    commands = [line for block in blocks for line in block.splitlines() if re.match(r"hemplit [a-z]+ ", line)]
    assert len(commands) == 13
    for command in commands:
        ran = hemplit(*shlex.split(command)[1:], folder=tmp_path)
        assert ran.code == 0, (command, ran.err)


def test_the_design_shown_is_the_design_drafted(tmp_path: Path) -> None:
    hemplit("demo", "demo", folder=tmp_path)
    hemplit("draft", "demo/jobs.csv", "--out", "demo/yard.design.toml", folder=tmp_path)
    drafted = (tmp_path / "demo" / "yard.design.toml").read_text(encoding="utf-8")
    shown = re.findall(r"```toml\n(.*?)```", README, re.DOTALL)
    assert shown
    assert all(block.strip() in drafted for block in shown)


def test_the_refusal_shown_is_the_refusal_given(tmp_path: Path) -> None:
    hemplit("demo", "demo", folder=tmp_path)
    hemplit("draft", "demo/jobs.csv", "--out", "demo/yard.design.toml", folder=tmp_path)
    design = tmp_path / "demo" / "yard.design.toml"
    text = design.read_text(encoding="utf-8")
    moved = re.search(r"^columns\.urgent .*\n", text, re.MULTILINE)[0]  # type: ignore[index]
    kept = re.search(r"^columns\.name .*\"Work\".*\n", text, re.MULTILINE)[0]  # type: ignore[index]
    design.write_text(text.replace(moved, "").replace(kept, kept + moved), encoding="utf-8")
    ran = hemplit("load", "demo/yard.design.toml", "--into", "demo/yard.sqlite", folder=tmp_path)
    shown = re.search(r"```console\n(hemplit: .*?)```", README, re.DOTALL)[1]  # type: ignore[index]
    assert ran.err.split() == shown.split()


def test_every_picture_is_there_and_every_key_of_the_json_is_described() -> None:
    linked = set(re.findall(r"docs/screenshots/([a-z]+\.png)", README))
    assert linked == {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    described = (ROOT / "docs" / "json.md").read_text(encoding="utf-8")
    written = (ROOT / "src" / "hemplit" / "views" / "document.py").read_text(encoding="utf-8")
    for key in re.findall(r'^\s+"([a-z_]+)":', written, re.MULTILINE):
        assert f"`{key}`" in described, key
