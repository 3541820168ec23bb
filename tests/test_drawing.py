"""The diagram: what is on the picture stands where it should, says what the tables are, and is the same every time."""

from __future__ import annotations

import random
import re
import xml.etree.ElementTree as ET
from itertools import combinations, pairwise
from pathlib import Path

import igraph
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from conftest import hemplit, tries
from hemplit import interface
from hemplit.core.diagram import lay_out
from hemplit.core.diagram.letters import width_of
from hemplit.core.model.diagram import Diagram, DrawnColumn, DrawnTable, Mark, Picture, Point, Tie
from hemplit.views.pictures.shapes import Block, Words, drawing_of
from hemplit.views.pictures.theme import DAY, NIGHT, STYLES, Theme
from places import Place

Part = tuple[Point, Point]


def diagram(tables: int, seed: int) -> Diagram:
    """Tables that refer to others, most to near ones, some to themselves, twice to one, or in a circle."""
    chance = random.Random(seed)
    names = [f"table_{number}" for number in range(tables)]
    columns = {name: [DrawnColumn("id", "whole number", Mark.KEY, required=True)] for name in names}
    ties = []
    pairs = [(chance.choice(names[max(0, at - 6) : at]), name) for at, name in enumerate(names) if at]
    pairs += [(chance.choice(names), chance.choice(names)) for _ in range(tables * (seed % 4) // 8)]
    for one, two in pairs:
        to, by = (one, two) if chance.random() < 0.3 else (two, one)
        required = chance.random() < 0.7
        columns[by].append(DrawnColumn(f"{to}_id", "whole number", Mark.REFERENCE, required))
        role = "its_other" if to == by else ""
        ties.append(Tie(by, (len(columns[by]) - 1,), to, optional=not required, role=role))
    for name in names:
        columns[name] += [
            DrawnColumn(f"text_{at}", "text", Mark.PLAIN, required=True) for at in range(chance.randrange(6))
        ]
    return Diagram("yard", tuple(DrawnTable(name, "entity", tuple(columns[name])) for name in names), tuple(ties))


@pytest.mark.slow
@settings(max_examples=tries(25), deadline=None)
@given(st.integers(1, 30), st.integers(0, 10**6))
@example(16, 8223)  # two lines that seem one in any order of tracks
def test_nothing_lies_on_anything_else(tables: int, seed: int) -> None:
    what = diagram(tables, seed)
    picture = lay_out(what)
    assert picture == lay_out(what)
    assert {box.table for box in picture.boxes} == set(what.tables)
    assert sorted(map(repr, (route.tie for route in picture.routes))) == sorted(map(repr, what.ties))
    for one, two in combinations(picture.boxes, 2):
        apart_x = one.x + one.width < two.x or two.x + two.width < one.x
        assert apart_x or one.y + one.height < two.y or two.y + two.height < one.y
    for route in picture.routes:
        boxes = {box.table.name: box for box in picture.boxes}
        for (x, y), name in ((route.points[0], route.tie.table), (route.points[-1], route.tie.to)):
            box = boxes[name]
            assert min(abs(x - box.x), abs(x - box.x - box.width)) < 1e-6 and box.y < y < box.y + box.height
        for part in route.parts:
            assert not any(_passes(part, box.x, box.y, box.x + box.width, box.y + box.height) for box in picture.boxes)
            assert all(0 < x < picture.width and 0 < y < picture.height for x, y in part)
    for one, two in combinations(picture.routes, 2):
        assert not any(_lie_on(a, b) for a in one.parts for b in two.parts), (one.tie, two.tie)


def _passes(part: Part, left: float, top: float, right: float, bottom: float) -> bool:
    (x1, x2), (y1, y2) = (sorted(both) for both in zip(*part, strict=True))
    return x1 < right - 0.6 and x2 > left + 0.6 and y1 < bottom - 0.6 and y2 > top + 0.6


def _lie_on(one: Part, two: Part) -> bool:
    """Whether two parts would seem one for more than a corner."""
    for way in (0, 1):
        level = [
            abs(part[0][way] - part[1][way]) < 0.6 and abs(part[0][1 - way] - part[1][1 - way]) > 2
            for part in (one, two)
        ]
        if all(level) and abs(one[0][way] - two[0][way]) < 1.5:
            (low, high), (low2, high2) = (sorted(point[1 - way] for point in part) for part in (one, two))
            return min(high, high2) - max(low, low2) > 1.5
    return False


def crossings(picture: Picture) -> int:
    found = 0
    for one, two in combinations(picture.routes, 2):
        for a in one.parts:
            for b in two.parts:
                for (x, y1), (x2, y2), (x3, y), (x4, y4) in ((*a, *b), (*b, *a)):
                    if abs(x - x2) < 0.6 and abs(y - y4) < 0.6:
                        found += min(x3, x4) < x < max(x3, x4) and min(y1, y2) < y < max(y1, y2)
    return found


def crossings_elsewhere(what: Diagram) -> int:
    """How many lines cross in the layered layout of a library for graphs."""
    numbers = {table.name: number for number, table in enumerate(what.tables)}
    pairs = [(numbers[tie.table], numbers[tie.to]) for tie in what.ties if tie.table != tie.to]
    graph = igraph.Graph(n=len(numbers), edges=pairs, directed=True)
    layout = graph.layout_sugiyama(maxiter=200)
    hops: dict[tuple[float, float], list[Point]] = {}
    for (one, two), bends in zip(pairs, layout.edge_routing, strict=True):
        points = [layout.coords[one], *bends, layout.coords[two]]
        for a, b in pairwise(points):
            (x1, y1), (x2, y2) = sorted((tuple(a), tuple(b)), key=lambda point: point[1])
            hops.setdefault((y1, y2), []).append((x1, x2))
    return sum(
        (one[0] - two[0]) * (one[1] - two[1]) < 0 for some in hops.values() for one, two in combinations(some, 2)
    )


@pytest.mark.slow
def test_lines_cross_less_than_in_the_layout_of_a_library() -> None:
    """In all far less, and in none of these much more, though pages are to be no wider than windows."""
    own = elsewhere = 0
    for seed in range(20):
        what = diagram((4, 8, 12, 20, 30)[seed % 5], seed)
        here, there = crossings(lay_out(what)), crossings_elsewhere(what)
        assert here <= there + 3, seed
        own, elsewhere = own + here, elsewhere + there
    assert 2 * own <= elsewhere, (own, elsewhere)


def test_a_dozen_tables_are_readable_in_a_window(yard: Path) -> None:
    assert hemplit("draft", "jobs.csv", "--out", "one.design.toml", folder=yard).code < 2
    assert hemplit("draw", "one.design.toml", "--out", "one.svg", folder=yard).code == 0
    width, height = map(float, ET.fromstring((yard / "one.svg").read_bytes()).attrib["viewBox"].split()[2:])
    assert width <= 1280 * 1.1 and height <= 800 * 1.1, (width, height)


def test_all_is_said_in_words_and_form(yard: Path) -> None:
    """Without colours, too: a purpose in each head, marks beside columns, and a legend of all that occurs."""
    assert hemplit("draft", "jobs.csv", "crew-roster.xlsx", "--out", "two.design.toml", folder=yard).code < 2
    ran = hemplit("draw", "two.design.toml", "--out", "two.svg", folder=yard)
    assert (ran.code, re.search(r"two.svg shows \d+ tables and \d+ references", ran.err) is not None) == (0, True)
    drawn = ET.fromstring((yard / "two.svg").read_bytes())
    texts = [element.text or "" for element in drawn.iter("{http://www.w3.org/2000/svg}text")]
    for said in (
        "jobs", "main", "entity", "lookup", "range", "detail", "key, ref", "labour_cost", "calc", "supervisor_id",
        "whole number ?", "none or many rows", "one row or blank", "a number lies in a range",
    ):  # fmt: skip
        assert said in texts, said
    told = next(drawn.iter("{http://www.w3.org/2000/svg}desc")).text or ""
    assert "jobs → boats" in told and "crew_rosters → crew_rosters as supervisor_id" in told


def test_texts_stay_in_their_boxes() -> None:
    long = tuple(
        DrawnColumn(f"{'w' * at}_{at}", "date and time", Mark.UNIQUE, required=False) for at in (1, 20, 39, 90)
    )
    drawing = drawing_of(lay_out(Diagram("船の台帳", (DrawnTable("w" * 60, "junction", long),), ())))
    (box,) = (shape for shape in drawing.shapes if isinstance(shape, Block) and shape.style.startswith("box"))
    rows: dict[float, list[tuple[float, float]]] = {}
    for words in (shape for shape in drawing.shapes if isinstance(shape, Words) and shape.y < box.y + box.height):
        if words.style != "title":
            wide = width_of(words.text, words.size, bold=STYLES[words.style].bold)
            span = (words.x - wide, words.x) if words.ends else (words.x, words.x + wide)
            rows.setdefault(round(words.y / 10), []).append(span)
            assert box.x < span[0] and span[1] < box.x + box.width, words
    for spans in rows.values():
        assert all(one[1] < two[0] for one, two in combinations(sorted(spans), 2)), spans


@pytest.mark.parametrize("theme", [DAY, NIGHT])
def test_texts_stand_out_from_what_is_behind_them(theme: Theme) -> None:
    grounds = [name for name in theme.colours if name in ("page", "paper", "key") or name.endswith("head")]
    for ink in ("ink", "quiet"):
        for ground in grounds:
            assert contrast(theme.colours[ink], theme.colours[ground]) >= 4.5, (ink, ground)
    assert contrast(theme.colours["role"], theme.colours["page"]) >= 4.5


def contrast(one: str, two: str) -> float:
    """The contrast of two colours, as WCAG 2 has it."""

    def light(colour: str) -> float:
        parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
        bent = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
        return 0.2126 * bent[0] + 0.7152 * bent[1] + 0.0722 * bent[2]

    dark, bright = sorted((light(one), light(two)))
    return (bright + 0.05) / (dark + 0.05)


def test_what_a_database_holds_is_drawn_as_its_design(place: Place, yard: Path) -> None:
    assert hemplit("draft", "jobs.csv", "--out", "three.design.toml", folder=yard).code < 2
    assert hemplit("load", "three.design.toml", "--into", place.text, folder=yard).code < 2
    address, _, schema = place.text.partition("#")
    where = ["--schema", schema] if schema else []
    assert hemplit("draw", "three.design.toml", "--out", "design.svg", folder=yard).code == 0
    ran = hemplit("draw", address, *where, "--out", "held.svg", folder=yard)
    assert ran.code == 0, ran.err
    told = [
        re.search(r"References: (.*?)\.<", (yard / name).read_text(encoding="utf-8"))
        for name in ("design.svg", "held.svg")
    ]
    ties = [set(one.group(1).split("; ")) if one else set() for one in told]
    assert ties[0] - {"boats → hull_classes"} == ties[1] and ties[1], ties
    both = [interface.draw(what).picture for what in (yard / "three.design.toml", place.text)]
    for picture in both:
        ends = {(one.tie.table, one.tie.to): one.tie.optional for one in picture.routes if not one.tie.is_range}
        assert {pair for pair, optional in ends.items() if optional} == {("jobs", "boats")}
        blank = {(box.table.name, one.name) for box in picture.boxes for one in box.table.columns if not one.required}
        assert blank == {("jobs", "boat_reg"), ("jobs", "remarks")}


def test_of_a_single_row_that_goes_on_no_two_refer_to_one(yard: Path) -> None:
    call = ("jobs.csv", "parts-used.csv", "--out", "six.design.toml")
    assert hemplit("draft", *call, folder=yard).code < 2
    routes = interface.draw(yard / "six.design.toml").picture.routes
    assert {(one.tie.table, one.tie.to) for one in routes if one.tie.single} == {("parts_used", "jobs")}


@pytest.mark.slow
@pytest.mark.parametrize("ending", ["svg", "png", "pdf"])
def test_the_same_tables_give_the_same_file(ending: str, yard: Path) -> None:
    assert hemplit("draft", "jobs.csv", "--out", "four.design.toml", folder=yard).code < 2
    for name in ("one", "two"):
        assert hemplit("draw", "four.design.toml", "--out", f"{name}.{ending}", "--dark", folder=yard).code == 0
    assert (yard / f"one.{ending}").read_bytes() == (yard / f"two.{ending}").read_bytes()


def test_what_cannot_be_drawn_is_said(yard: Path) -> None:
    assert hemplit("draft", "jobs.csv", "--replace", "--out", "five.design.toml", folder=yard).code < 2
    assert hemplit("load", "five.design.toml", "--into", "five.sql", folder=yard).code < 2
    for call, said in (
        (["yard.design.toml", "--out", "yard.bmp"], "end it in .svg, .png, .pdf"),
        (["jobs.csv", "--out", "yard.svg"], "hemplit draft jobs.csv"),
        (["gone.sqlite", "--out", "yard.svg"], "there is no such file"),
        (["crew-roster.xlsx", "--out", "yard.svg"], "Hemplit did not make this workbook"),
        (["five.sql", "--out", "yard.svg"], "draw the design instead"),
        (["five.design.toml", "--out", "gone/yard.svg"], "make the folder gone first"),
    ):
        ran = hemplit("draw", *call, folder=yard)
        assert (ran.code, said in ran.err) == (2, True), ran.err
