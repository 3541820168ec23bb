"""Fits the weights by which a draft judges dependencies, on sheets whose tables are known.

    python benchmarks/fit_judge.py --cases FOLDER            the figures, with each source left out in turn
    python benchmarks/fit_judge.py --cases FOLDER --write    and the weights, into the program

FOLDER holds ``real`` and ``small`` sheets with the truth beside each; worlds of the boatyard come to them. Every sheet
is judged under four styles of headers: as it is, shortened to three letters a word, without the thing's name, and as A,
B, C. The fit is a logistic regression with a ridge, by Newton's method; a source counts as much as any other.
"""

from __future__ import annotations

import argparse
import csv
import json
import re
from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from hemplit.core.draft import judge, weights
from hemplit.core.draft.weighing import Candidates
from hemplit.core.model.grid import Grid, Source, column_letters
from hemplit.files.cells import from_texts
from hemplit.flow import reading, studying
from worlds import world

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.findings import Findings

#: Of longer sheets the first rows are enough.
MOST_ROWS = 12_000
#: The worlds: so many of each height, with the seeds that may be looked at.
WORLDS = {12: 40, 30: 40, 60: 20, 200: 20, 800: 14}
#: A source has no more weight than so many candidates, and another style of headers than its own less.
MOST_OF_ONE = 400
OTHER_STYLE = 0.35
RIDGE = 1.0
#: Weights below this say nothing.
LEAST = 0.05


@dataclass(frozen=True)
class Known:
    """A table of the truth; ``optional`` says that its columns may as well stay where they are referred to."""

    columns: frozenset[str]
    keys: tuple[frozenset[str], ...]
    refers: tuple[int, ...]
    optional: bool = False


@dataclass(frozen=True)
class Truth:
    """All designs that are right; ``free`` columns may live elsewhere, any part of a set of ``split`` by itself."""

    designs: tuple[tuple[Known, ...], ...]
    free: frozenset[str] = frozenset()
    split: tuple[frozenset[str], ...] = ()


@dataclass(frozen=True)
class Example:
    """A candidate with what is true of it."""

    source: str
    style: str
    features: Mapping[str, float]
    meant: bool


def styles(headers: Sequence[str]) -> dict[str, list[str]]:
    """The headers in each style, all different."""

    def different(names: Sequence[str]) -> list[str]:
        often = Counter(names)
        return [name if often[name] == 1 else header for name, header in zip(names, headers, strict=True)]

    short = ["".join(word[:3].lower() for word in re.findall(r"\w+", header)) for header in headers]
    bare = [re.sub(r"^.*\s(?!(?i:id|no|number|code|name)$)(\S+)$", r"\1", header) for header in headers]
    letters = [column_letters(place) for place in range(len(headers))]
    return {"as it is": [*headers], "short": different(short), "bare": different(bare), "letters": letters}


def of_case(text: Mapping[str, Any]) -> Truth:
    """The truth of a sheet, from its file."""
    designs = []
    for design in text["designs"]:
        parts: dict[str, dict[str, Any]] = {}
        for table in design["tables"]:
            roles = table["roles"] or {"": table["columns"]}
            first = next(iter(roles.values()))
            for role, columns in roles.items():
                keys = [[columns[first.index(name)] for name in key] for key in table["keys"] if {*key} <= {*first}]
                keys = keys if role else table["keys"]
                parts[f"{table['name']}/{role}"] = {"columns": columns, "keys": keys, "optional": table["may_stay_in"]}
        place = {name: index for index, name in enumerate(parts)}
        refers: dict[str, set[int]] = {name: set() for name in parts}
        for edge in design["fks"]:
            for one in parts:
                for other in parts:
                    (of, role), (to, into) = one.split("/"), other.split("/")
                    into_it = not into or edge["role"] in (None, "*", into)
                    alike = not (role and into) or role == into
                    if (of, to) == (edge["from"], edge["to"]) and alike and into_it:
                        refers[one].add(place[other])
        designs.append(
            tuple(
                Known(
                    frozenset(part["columns"]),
                    tuple(frozenset(key) for key in part["keys"]),
                    tuple(sorted(refers[name])),
                    bool(part["optional"]),
                )
                for name, part in parts.items()
            )
        )
    free = {name for design in text["designs"] for name in design.get("floats") or {}}
    split = tuple(frozenset(group) for group in text.get("may_split") or ())
    return Truth(tuple(designs), frozenset(free), split)


def of_world(seed: int, rows: int) -> tuple[list[str], list[list[str]], Truth]:
    made = world(seed, rows)
    parts = [
        (thing, columns, [[columns[0]]] if thing.roles else [[*thing.key], [*thing.names]])
        for thing in made.tables
        for columns in thing.roles or [thing.columns]
    ]
    tables = tuple(
        Known(
            frozenset(columns),
            tuple(frozenset(key) for key in keys if key),
            tuple(place for place, (other, _, _) in enumerate(parts) if other.name in thing.refers),
        )
        for thing, columns, keys in parts
    )
    return [*made.headers], [*made.columns], Truth((tables,))


def sheets(cases: Path | None) -> Iterator[tuple[str, list[str], list[list[str]], Truth]]:
    """Source, headers, columns and truth of every sheet."""
    for path in sorted((cases / "real").glob("*.truth.json")) if cases else ():
        truth = json.loads(path.read_text(encoding="utf-8"))
        if truth["dirty"]:
            continue
        with (path.parent / truth["source"]).open(encoding="utf-8", newline="") as file:
            headers, *rows = list(csv.reader(file))[: MOST_ROWS + 1]
        yield "real " + truth["name"].split("_")[0], headers, _columns(headers, rows), of_case(truth)
    for path in sorted((cases / "small").glob("*.truth.json")) if cases else ():
        case = json.loads(path.read_text(encoding="utf-8"))
        reading = case["readings"][0]
        headers, rows = reading["df"]["columns"], reading["df"]["rows"]
        yield "small " + case["structure"], headers, _columns(headers, rows), of_case(reading["truth"])
    for height, count in WORLDS.items():
        for seed in range(count):
            yield f"worlds of {height}", *of_world(2 * seed, height)


def _columns(headers: Sequence[str], rows: Sequence[Sequence[str]]) -> list[list[str]]:
    return [[row[place] for row in rows] for place in range(len(headers))]


def studied(headers: Sequence[str], columns: Sequence[Sequence[str]]) -> Findings:
    cells = tuple(from_texts([header, *column]) for header, column in zip(headers, columns, strict=True))
    grid = Grid(Source("rows.csv"), cells, len(columns[0]) + 1)
    found = studying.findings(reading.shape_grids({"rows": grid}), depth=2)
    return next(iter(found.values()))


def examples(source: str, headers: list[str], columns: list[list[str]], truth: Truth) -> Iterator[tuple[str, Example]]:
    """The candidates of a sheet in each style, as things and as pairs; the truth speaks of the headers as they are."""
    for style, names in styles(headers).items():
        found = studied(names, columns)
        aside = {one.name for one in found.computed if not one.breaking}
        said = dict(zip(names, headers, strict=True))
        candidates = Candidates(found, judge.candidates(found, (), aside))
        for left in candidates.by_left:
            meant, hangs = _meant({said.get(name, name) for name in left}, truth, candidates, left, said)
            if meant is None or len(left) > 1:
                continue
            yield "thing", Example(source, style, candidates.of_thing(left), meant)
            for right in candidates.by_left[left] if meant else ():
                if said.get(right) not in truth.free and right not in candidates.constant:
                    features = candidates.of_pair(left, right)
                    yield "pair", Example(source, style, features, said.get(right) in hangs)


def _meant(
    names: set[str], truth: Truth, candidates: Candidates, left: tuple[str, ...], said: Mapping[str, str]
) -> tuple[bool | None, set[str]]:
    """Whether columns stand for a thing, None if both are right, and what depends on it."""
    called = {header: name for name, header in said.items()}
    hangs: set[str] = set()
    as_good = False
    for design in truth.designs:
        for place, table in enumerate(design):
            if names in table.keys and not (table.optional and table.columns <= names):
                hangs |= _reached(design, place)
            elif table.keys and names <= table.columns:
                keys = [[called.get(name, name) for name in key] for key in table.keys]
                as_good |= any(all(candidates.decides(left, name) for name in key) for key in keys)
    if hangs:
        return True, hangs
    either = as_good or any(names <= group for group in truth.split)
    return (None if either else False), hangs


def _reached(design: Sequence[Known], place: int) -> set[str]:
    seen, todo = {place}, [place]
    while todo:
        for other in design[todo.pop()].refers:
            if other not in seen:
                seen.add(other)
                todo.append(other)
    return {name for one in seen for name in design[one].columns}


def fitted(x: npt.NDArray[np.float64], y: npt.NDArray[np.bool_], w: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The weights in bits of a logistic regression with a ridge."""
    found = np.zeros(x.shape[1])
    for _ in range(60):
        chance = 1 / (1 + np.exp(-np.clip(x @ found, -30, 30)))
        slope = x.T @ (w * (chance - y)) + RIDGE * found
        bend = (x * (w * chance * (1 - chance))[:, None]).T @ x + RIDGE * np.eye(len(found))
        step = np.linalg.solve(bend, slope)
        found -= step
        if np.abs(step).max() < 1e-6:
            break
    return found / np.log(2)


def fit(some: Sequence[Example]) -> dict[str, float]:
    """The weights by name; prints how well those judge that are fitted without the source."""
    names = sorted({name for one in some for name in one.features})
    x = np.array([[one.features.get(name, 0.0) for name in names] for one in some])
    y = np.array([one.meant for one in some])
    source = np.array([one.source for one in some])
    often = Counter(source.tolist())
    style = np.array([one.style for one in some])
    w = np.array([min(1.0, MOST_OF_ONE / often[one.source]) for one in some])
    w *= np.where(style == "as it is", 1.0, OTHER_STYLE)
    unseen = np.zeros(len(some))
    for one in often:
        out = source == one
        unseen[out] = x[out] @ fitted(x[~out], y[~out], w[~out])
    print(f"{len(some)} candidates of {len(often)} sources, {y.mean():.0%} of them meant")
    for one in dict.fromkeys(style.tolist()):
        here = style == one
        right = int((here & y & (unseen > 0)).sum())
        wrong, missed = int((here & ~y & (unseen > 0)).sum()), int((here & y & (unseen <= 0)).sum())
        print(
            f"    source left out, headers {one}: {right / max(right + wrong, 1):.1%} of the believed are meant,"
            f" {right / max(right + missed, 1):.1%} of the meant are believed; {int((here & ~y).sum())} are not meant"
        )
    return dict(zip(names, fitted(x, y, w).tolist(), strict=True))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--cases", type=Path, help="folder of sheets with the truth beside each")
    parser.add_argument("--write", action="store_true", help="write the weights into the program")
    given = parser.parse_args()
    made: dict[str, list[Example]] = {"thing": [], "pair": []}
    for sheet in sheets(given.cases):
        for sort, example in examples(*sheet):
            made[sort].append(example)
    text = ['"""The weights of what speaks for and against a candidate, in bits; from benchmarks/fit_judge.py."""']
    text += ["", "from __future__ import annotations", ""]
    for sort, name, what in (("thing", "OF_THING", "a thing"), ("pair", "OF_PAIR", "what depends on a thing")):
        print(f"that a candidate is {what}:")
        bits = {feature: bit for feature, bit in fit(made[sort]).items() if abs(bit) >= LEAST}
        for feature, bit in sorted(bits.items(), key=lambda one: -abs(one[1])):
            print(f"    {bit:+6.2f}  {feature}")
        text += [f"#: That a candidate is {what}.", f"{name} = {{"]
        text += [f'    "{feature}": {bit:.2f},' for feature, bit in bits.items()]
        text += ["}"]
    if given.write:
        Path(str(weights.__file__)).write_text("\n".join(text) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
