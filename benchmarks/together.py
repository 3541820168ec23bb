"""How well sheets that belong together become one design: made-up boatyards written as 2 to 8 sheets, scored.

    python benchmarks/together.py                     200 boatyards, of the seeds to work with
    python benchmarks/together.py --judge             the seeds that nobody looks at
    python benchmarks/together.py --seed 17           one of them, with all that it got wrong

Known are the columns that refer to another sheet, the sheets that tell of the same things, the names that find nothing,
and the cells that contradict each other. Printed are precision and recall of the references, the share of sheets that
were united, what of the planted was told, how many were told of that are right, and whether all cells come back.
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import dataclass, field
from random import Random
from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.grid import Grid, Source
from hemplit.core.proof.at_odds import at_odds
from hemplit.core.proof.strangers import is_list, strangers
from hemplit.core.tables.same import contradictions, with_united
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying
from worlds import THINGS, WORDS

if TYPE_CHECKING:
    from hemplit.core.model.design import Design

FIRST = "Ada Bo Cato Dina Elske Finn Gerd Hanno Ines Jonas Kaja Lone Mats Nora Odd Pia Rolf Siri Tove Ulf".split()
LAST = "Aas Berg Dahl Eide Foss Grav Haug Iversen Juul Kvam Lie Moen Nygaard Olsen Pram Rud Sund Tangen".split()
#: Of so many cells that refer one names nothing, where a boatyard has such cells at all.
ORPHANS = 40
#: In so large a share of the references the sheet says something of the thing that the list does not.
FURTHER = 0.15


@dataclass
class Listed:
    """A sheet that lists things: its name, its rows by header, and how its rows are known."""

    sheet: str
    label: str
    rows: dict[str, list[str]]
    key: str = ""
    name: tuple[str, ...] = ()


@dataclass
class Yard:
    """Sheets by name as columns of texts, and what is known of them."""

    sheets: dict[str, dict[str, list[str]]] = field(default_factory=dict)
    links: set[tuple[str, tuple[str, ...], str]] = field(default_factory=set)
    same: list[tuple[str, str]] = field(default_factory=list)
    lost: set[str] = field(default_factory=set)
    contradicting: set[str] = field(default_factory=set)


class _Maker:
    def __init__(self, seed: int) -> None:
        self.seed, self.random = seed, Random(seed)
        self.yard = Yard()

    def make(self) -> Yard:
        random = self.random
        things = random.sample(["Boat", "Part", "Engine", "Workshop", "Insurer", "Supplier"], random.randint(1, 4))
        lists = [self.things(name) for name in things]
        if random.random() < 0.5:
            lists.append(self.people())
        if random.random() < 0.3:
            self.twice(lists[0])
        for name in random.sample(["jobs", "surveys", "charters", "deliveries"], random.randint(1, 3)):
            chosen = random.sample(lists, random.randint(1, min(3, len(lists))))
            self.records(name, [*chosen, *(chosen[:1] if random.random() < 0.2 else [])])
        return self.yard

    def things(self, name: str) -> Listed:
        """A sheet that lists things under a code, with what is said of them."""
        random = self.random
        count = random.randint(8, 60)
        words = THINGS[name][0]
        called = [f"{words[at % len(words)]} {'ABCDEFGHIJKLMNOP'[at // len(words)]}" for at in range(count)]
        codes = self.codes(name, count)
        label = random.choice([f"{name} {random.choice(['No', 'Code', 'ID', 'Ref'])}", random.choice(["No", "Code"])])
        rows = {label: codes, random.choice([name, "Name", f"{name} Name"]): called}
        for word in random.sample(["Rig", "Material", "Country", "Town", "Colour", "Grade"], random.randint(1, 3)):
            rows[word] = [random.choice(WORDS[word]) for _ in range(count)]
        if random.random() < 0.5:
            rows["Weight"] = [str(random.randint(3, 900)) for _ in range(count)]
        sheet = f"{name.lower()}s"
        self.yard.sheets[sheet] = rows
        return Listed(sheet, name, rows, label)

    def codes(self, name: str, count: int) -> list[str]:
        random = self.random
        match random.choice(["letters", "zeros", "from one", "far"]):
            case "letters":
                made = [f"{name[:2].upper()}-{at * 7 + 103}" for at in range(count)]
            case "zeros":
                made = [f"{at * 3 + 11:05}" for at in range(count)]
            case "from one":
                made = [str(at + 1) for at in range(count)]
            case _:
                made = [str(40210 + at * 3) for at in range(count)]
        random.shuffle(made)
        return made

    def people(self) -> Listed:
        """A roster in which first and last name tell people apart."""
        random = self.random
        pairs = [(first, last) for first in FIRST for last in LAST]
        chosen = random.sample(pairs, random.randint(8, 40))
        rows = {
            "First Name": [first for first, _ in chosen],
            "Last Name": [last for _, last in chosen],
            "Trade": [random.choice(["rigger", "joiner", "painter", "fitter"]) for _ in chosen],
            "Since": [str(random.randint(1990, 2025)) for _ in chosen],
        }
        self.yard.sheets["roster"] = rows
        return Listed("roster", "Shipwright", rows, name=("First Name", "Last Name"))

    def twice(self, listed: Listed) -> None:
        """Another sheet that tells of the same things, under other headers, with a contradiction."""
        random = self.random
        count = len(listed.rows[listed.key])
        kept = random.sample(range(count), max(count - random.randint(0, 3), 6))
        words = next(header for header in listed.rows if header in WORDS)
        said = [listed.rows[words][at] for at in kept]
        rows = {
            f"{listed.label} Number": [listed.rows[listed.key][at] for at in kept],
            f"{words} Noted": said,
            "Insured": [str(random.randint(11, 99) * 100) for _ in kept],
        }
        names = next(header for header in listed.rows if header not in (listed.key, words, "Weight"))
        rows["Called"] = [listed.rows[names][at] for at in kept]
        if random.random() < 0.6:
            at = random.randrange(len(kept))
            said[at] = random.choice([word for word in WORDS[words] if word != said[at]])
            self.yard.contradicting.add(listed.rows[listed.key][kept[at]])
        self.yard.sheets["policies"] = rows
        self.yard.same.append((listed.sheet, "policies"))

    def records(self, sheet: str, lists: list[Listed]) -> None:
        """What happened, with references to what other sheets list."""
        random = self.random
        count = random.randint(20, 150)
        first = random.randint(2000, 9000)
        rows = {f"{sheet[:-1].capitalize()} No": [str(first + at) for at in range(count)]}
        rows["Day"] = [f"2026-{random.randint(1, 12):02}-{random.randint(1, 28):02}" for _ in range(count)]
        for listed in lists:
            self.refer(sheet, rows, listed, count)
        rows["Hours"] = [f"{random.randint(1, 60) / 4:.2f}" for _ in range(count)]
        if random.random() < 0.3:
            rows["Line"] = [str(at % 9 + 1) for at in range(count)]
        if random.random() < 0.3:
            rows["Done"] = [random.choice(["yes", "no"]) for _ in range(count)]
        if random.random() < 0.3:
            rows["Share %"] = [str(random.randint(1, 20) * 5) for _ in range(count)]
        if random.random() < 0.5:
            rows["Crates"] = [str(random.randint(1, 12)) for _ in range(count)]
        self.yard.sheets[sheet] = rows

    def refer(self, sheet: str, rows: dict[str, list[str]], listed: Listed, count: int) -> None:
        random = self.random
        size = len(next(iter(listed.rows.values())))
        at = [random.randrange(size) for _ in range(count)]
        lost = {random.randrange(count)} if random.random() < 0.3 and count > ORPHANS else set()
        if listed.name:
            first, last = (listed.rows[name] for name in listed.name)
            turned = random.random() < 0.5
            cells = [f"{last[one]}, {first[one]}" if turned else f"{first[one]} {last[one]}" for one in at]
            header = random.choice([listed.label, "Done By"])
        else:
            cells = [listed.rows[listed.key][one] for one in at]
            header = f"{listed.label} {random.choice(['No', 'Code', 'Ref'])}"
            header = random.choice([header, listed.label]) if not cells[0].isdecimal() else header
            if cells[0].startswith("0") and random.random() < 0.3:
                cells = [cell.lstrip("0") for cell in cells]
        names = next((one for one in listed.rows if not listed.name and one not in (listed.key, "Weight", *WORDS)), "")
        if names and random.random() < 0.25:
            # By its name instead, of which there are no two.
            cells, header = [listed.rows[names][one] for one in at], f"{listed.label} Called"
        elif names and header not in rows and random.random() < 0.3:
            rows[f"{listed.label} Name"] = [listed.rows[names][one] for one in at]
            lost = set()
        header = header if header not in rows else f"Former {header}"
        for row in lost:
            cells[row] = f"Nobody {sheet[:3].capitalize()}ing" if listed.name else self.stranger(cells[row])
            self.yard.lost.add(cells[row])
        rows[header] = cells
        self.yard.links.add((sheet, (header,), listed.sheet))
        further = Random(f"{self.seed} {sheet} {header}")
        if listed.key and not lost and further.random() < FURTHER:
            # What the list does not say, and what is said of a thing in one sheet only.
            keeper = [f"{further.choice(FIRST)} {further.choice(LAST)}" for _ in range(size)]
            rows[f"{header} Keeper"] = [keeper[one] for one in at]

    def stranger(self, cell: str) -> str:
        """A code or name like the others that no list has."""
        if " " in cell:
            return f"Ghost {self.random.randint(11, 99)}"
        return str(int(cell) + 90001) if cell.isdecimal() else f"{cell[:2]}-{self.random.randint(7000, 7999)}"


def yard(seed: int) -> Yard:
    """The boatyard of that seed."""
    return _Maker(seed).make()


@dataclass(frozen=True)
class Result:
    """What came of a boatyard: references found, wrong and missed, and so on."""

    right: int
    wrong: tuple[str, ...]
    missed: tuple[str, ...]
    united: int
    told: int
    invented: tuple[str, ...]
    lossless: bool


def result(made: Yard) -> Result:
    """Drafts and splits the sheets of a boatmade."""
    grids = {
        name: Grid(
            Source(f"{name}.csv"),
            tuple(from_texts([header, *cells]) for header, cells in rows.items()),
            len(next(iter(rows.values()))) + 1,
        )
        for name, rows in made.sheets.items()
    }
    sheets = reading.shape_grids(grids)
    design = studying.draft(sheets)
    tables = split(design, sheets.relations)
    whole = with_united(design, sheets.relations)
    otherwise = (*at_odds(design, tables, whole), *contradictions(design, whole))
    said = [one for _, one in (*strangers(design, tables, whole), *otherwise)]
    planted = {*made.lost, *made.contradicting}
    found = references(design)
    wanted = {(child, headers): parent for child, headers, parent in made.links}
    right = {one for one in found if one[2] in _names(design, wanted.get(one[:2], ""))}
    united = sum(any({*pair} <= {*sheet.unites} for sheet in design.sheets) for pair in made.same)
    return Result(
        len(right),
        tuple(f"{child} {headers} → {parent}" for child, headers, parent in sorted(found - right)),
        tuple(f"{one}" for one in sorted(made.links) if one[:2] not in {given[:2] for given in right}),
        united,
        sum(any(f"'{one}'" in doubt.what or f" {one} " in doubt.what for doubt in said) for one in planted),
        tuple(doubt.what for doubt in said if not any(one in doubt.what for one in planted)),
        proving.prove_tables(design, sheets, tables).holds,
    )


def references(design: Design) -> set[tuple[str, tuple[str, ...], str]]:
    """The references between sheets: sheet, headers, sheet; but not those of sheets to what they tell of together."""
    found = set()
    for table in design.tables:
        for column in table.columns:
            pointed = resolve.target(design, table, column)
            if pointed is None:
                continue
            name = pointed.table.by_name[resolve.identity(pointed.table)[0]]
            told = pointed.table.headers_in(table.sheet, name)[:1] or resolve.naming(design, table, column)[0]
            lists = [sheet for sheet in pointed.table.sheets if is_list(design, pointed.table, sheet)]
            if lists:
                found.update((table.sheet, told, sheet) for sheet in lists if sheet != table.sheet)
                continue
            if not resolve.is_across(table, column, pointed):
                continue
            if pointed.table.purpose == "lookup":
                continue  # a list of words that several sheets have
            united = design.united(table.sheet)
            if united is None or united.name != pointed.table.sheet:
                found.add((table.sheet, resolve.naming(design, table, column)[0], pointed.table.sheet))
    return found


def _names(design: Design, sheet: str) -> set[str]:
    """The sheet and the one that unites it with others."""
    united = design.united(sheet)
    return {sheet} if united is None else {sheet, united.name}


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--judge", action="store_true")
    parser.add_argument("--seed", type=int)
    parser.add_argument("--show", type=int, default=0, metavar="N", help="what went wrong with the first N")
    given = parser.parse_args()
    start = 5000 if given.judge else 0
    seeds = [given.seed] if given.seed is not None else range(start, start + given.count)
    results = []
    for seed in seeds:
        made = yard(seed)
        one = result(made)
        results.append((made, one))
        faults = [
            *(f"wrong: {line}" for line in one.wrong),
            *(f"missed: {line}" for line in one.missed),
            *(f"not united: {pair}" for pair in made.same[one.united :]),
            *(f"invented: {line}" for line in one.invented),
            *([] if one.told == len(made.lost) + len(made.contradicting) else ["not all was told"]),
            *([] if one.lossless else ["not lossless"]),
        ]
        if faults and (given.seed is not None or given.show > 0):
            given.show -= 1
            print(f"seed {seed}: {', '.join(made.sheets)}")
            print("\n".join(f"  {fault}" for fault in faults))
    right = sum(one.right for _, one in results)
    wrong = sum(len(one.wrong) for _, one in results)
    wanted = sum(len(made.links) for made, _ in results)
    planted = sum(len(made.lost) + len(made.contradicting) for made, _ in results)
    same = sum(len(made.same) for made, _ in results)
    told = sum(one.told for _, one in results)
    invented = sum(len(one.invented) for _, one in results)
    lossless = sum(one.lossless for _, one in results)
    sheets = sum(len(made.sheets) for made, _ in results)
    united = sum(one.united for _, one in results)
    precision, recall = right / max(right + wrong, 1), right / max(wanted, 1)
    print(f"{len(results)} boatyards of {sheets} sheets: references precision {precision:.3f}, recall {recall:.3f};")
    print(f"united {united} of {same}; told {told} of {planted}, and {invented} more; lossless {lossless}")
    bars = (
        right >= 0.95 * (right + wrong),
        right >= 0.95 * wanted,
        told == planted,
        not invented,
        lossless == len(results),
    )
    return 0 if all(bars) else 1


if __name__ == "__main__":
    sys.exit(main())
