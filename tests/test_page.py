"""The page for a colleague: it stands alone, tells the truth, and anybody can read it."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
from html.parser import HTMLParser
from pathlib import Path

import pytest

from conftest import hemplit

DEMO = ("jobs.csv", "parts-used.csv", "crew-roster.xlsx", "haul-outs")
CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser") or shutil.which("google-chrome")
#: Elements of HTML that have no end.
ALONE = {"meta", "br"}


class Reader(HTMLParser):
    """What a browser makes of a page: its texts and elements, and whether each element ends where it should."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.open: list[str] = []
        self.seen: list[tuple[str, dict[str, str | None]]] = []
        self.texts: list[str] = []
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.seen.append((tag, dict(attrs)))
        if tag not in ALONE:
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        assert self.open.pop() == tag

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.seen.append((tag, dict(attrs)))

    def handle_data(self, data: str) -> None:
        self.texts.append(data)


@pytest.fixture(scope="module")
def page(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    assert hemplit("draft", *DEMO, "--out", "page.design.toml", folder=yard).code < 2
    ran = hemplit("why", "page.design.toml", "--page", "page.html", folder=yard)
    assert (ran.code, "page.html shows the way" in ran.err) == (0, True), ran.err
    return yard / "page.html"


def test_the_page_stands_alone(page: Path) -> None:
    text = page.read_text(encoding="utf-8")
    read = Reader(text)
    assert not read.open and len(text) < 1_000_000
    assert not {"script", "link", "img", "iframe", "object"} & {tag for tag, _ in read.seen}
    links = [value for _, given in read.seen for name, value in given.items() if name in ("href", "src")]
    assert links and all(str(value).startswith("#") for value in links)
    assert {str(value)[1:] for value in links} <= {given.get("id") for _, given in read.seen}
    assert not re.search(r"url\(|@import|https?://(?!www\.w3\.org/2000/svg)", text)


def test_the_page_tells_what_the_program_tells(page: Path) -> None:
    texts = Reader(page.read_text(encoding="utf-8")).texts
    ran = hemplit("load", "page.design.toml", "--into", "page.sqlite", "--json", folder=page.parent)
    proof = json.loads(ran.out)
    for ledger in proof["ledgers"]:
        for what in ("cells", "stored", "calculated"):
            assert f"{ledger[what]:,}" in texts, (ledger["sheet"], what)
    for said in (
        "→ boats, hull_classes",  # where a column goes
        "08/04/2026", "2026-04-08",  # what was changed, and into what
        "skip total rows",  # why a row is in no table
        "Owner Phone", "Update", "Insert", "Delete",
        "Labour Cost = Labour Hours × Hourly Rate",
    ):  # fmt: skip
        assert any(said in text for text in texts), said
    assert "Whoever deletes the 2 rows of Boat Reg MQ-2307 (row 12, …) deletes its Boat and Length m, too." in texts
    text = page.read_text(encoding="utf-8")
    assert '<td class="again">MQ-6012</td>' in text and '<td class="again">MQ-5119</td>' not in text
    assert any(text.startswith("To correct the Price of Part IM-22 you now edit 77 cells") for text in texts)


def test_what_a_sheet_says_is_only_text(tmp_path: Path) -> None:
    weapon = "</td><script>alert('x')</script>&amp;"
    lines = [f'{at},"{weapon} {at % 4}",{(at % 4) * 7},"{weapon}{at % 3}"' for at in range(24)]
    (tmp_path / "a.csv").write_text("\n".join([f'No,"{weapon}",Length,Note', *lines]) + "\n", encoding="utf-8")
    assert hemplit("draft", "a.csv", folder=tmp_path).code < 2
    assert hemplit("why", "a.design.toml", "--page", "a.html", folder=tmp_path).code < 2
    read = Reader((tmp_path / "a.html").read_text(encoding="utf-8"))
    assert not read.open and "script" not in {tag for tag, _ in read.seen}


def test_a_page_of_something_else_is_refused(page: Path) -> None:
    for call, said in (
        (["page.design.toml", "--page", "page.txt"], "end its name in .html"),
        (["page.design.toml", "boats", "--page", "p.html"], "tells of the whole design"),
        (["page.design.toml", "--page", "gone/p.html"], "make the folder gone first"),
    ):
        ran = hemplit("why", *call, folder=page.parent)
        assert (ran.code, said in ran.err) == (2, True), ran.err


def browser(page: Path, *how: str) -> tuple[str, str]:
    """What headless Chromium prints, as the page and as messages."""
    if CHROMIUM is None:
        pytest.skip("Chromium is not installed")
    call = [CHROMIUM, "--headless=new", "--no-sandbox", "--disable-gpu", "--virtual-time-budget=20000", *how]
    ran = subprocess.run([*call, page.absolute().as_uri()], capture_output=True, text=True, timeout=120, check=False)
    return ran.stdout, ran.stderr


@pytest.mark.slow
def test_a_browser_has_nothing_to_complain_of(page: Path, tmp_path: Path) -> None:
    log = tmp_path / "net.json"
    shown, said = browser(page, "--dump-dom", "--enable-logging=stderr", f"--log-net-log={log}")
    assert "How the tables hang together" in shown and "CONSOLE" not in said, said
    asked = set(re.findall(r'"url":"((?:https?|file):[^"]*)"', log.read_text(encoding="utf-8", errors="replace")))
    assert {one for one in asked if one.startswith("file:")} <= {page.absolute().as_uri()}


@pytest.mark.slow
def test_everybody_can_read_it(page: Path, tmp_path: Path) -> None:
    """A checker of the rules for accessible pages finds nothing, by day."""
    checker = os.environ.get("HEMPLIT_AXE", "")
    if not checker and shutil.which("npm"):
        got = subprocess.run(["npm", "pack", "axe-core"], cwd=tmp_path, capture_output=True, text=True, check=False)
        if not got.returncode:
            subprocess.run(["tar", "xzf", got.stdout.split()[-1]], cwd=tmp_path, check=True)
            checker = str(tmp_path / "package" / "axe.min.js")
    if not checker:
        pytest.skip("axe-core is not there")
    run = (
        "axe.run(document, {resultTypes: ['violations']}).then(found => { document.body.innerHTML = '<pre>'"
        " + JSON.stringify(found.violations.map(one => [one.id, one.nodes.map(node => node.html)]))"
        " + '</pre>END' })"
    )
    script = f"<script>{Path(checker).read_text(encoding='utf-8')}</script><script>{run}</script></body>"
    checked = tmp_path / "checked.html"
    checked.write_text(page.read_text(encoding="utf-8").replace("</body>", script), encoding="utf-8")
    shown, _ = browser(checked, "--dump-dom")
    assert "<pre>[]</pre>END" in shown, shown[:2000]
