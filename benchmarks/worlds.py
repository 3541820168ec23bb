"""Small believable worlds of a boatyard, flattened into one sheet, with the truth beside it: seeded, always the same.

A world is a star or a snowflake: the sheet's rows in the middle, things around them, things of things further out; with
or without ids, with codes or numbers, measures, dates, contact details, free text, two roles for one thing, lines of a
document. What the sheet's designer knew is the truth that a draft is scored against.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random

import numpy as np

#: A thing, what its columns may be called when they say nothing of it, and what its names are made of.
THINGS = {
    "Boat": ("Kittiwake Teal Dunlin Heron Smew Knot Gannet Petrel Curlew Avocet Plover Whimbrel".split(), 400),
    "Owner": ("Barlow Visser Okafor Lindqvist Marsh Tan Novak Ferro Quill Abara Holm Reyes".split(), 300),
    "Berth": ("West East North South Inner Outer Upper Lower".split(), 120),
    "Dock": ("Harbour Wall, North Dock, South Dock, Fish Quay, Old Basin, Lock Side".split(", "), 6),
    "Part": ("shackle cleat anode rudder winch block halyard fender gasket impeller stay toggle".split(), 500),
    "Maker": ("Brasswell Tidewright Loftus Saltmarsh Keelson Ironwood Pintle Gudgeon".split(), 40),
    "Shipwright": ("Mercer Doyle Ansah Petit Sorensen Ilves Okoro Castell".split(), 30),
    "Workshop": ("Rigging Loft, Engine Shed, Paint Hall, Sail Loft, Slipway".split(", "), 8),
    "Insurer": ("Seaguard Mutual Tideline Harbourlight Anchorage".split(), 12),
    "Surveyor": ("Falk Underhill Moran Yilmaz Beck Tremain".split(), 20),
    "Engine": ("Marlin Puffin Otter Badger Stoat".split(), 60),
    "Supplier": ("Chandler Ropery Timber Resin Canvas Metal".split(), 50),
}
PARENTS = {
    "Boat": ["Owner", "Berth", "Engine", "Insurer"], "Berth": ["Dock"], "Part": ["Maker", "Supplier"],
    "Shipwright": ["Workshop"], "Owner": [], "Engine": ["Maker"], "Surveyor": ["Insurer"],
}  # fmt: skip
MIDDLES = {
    "Job": ["Boat", "Shipwright", "Workshop", "Surveyor"],
    "Survey": ["Boat", "Surveyor", "Insurer"],
    "Haul-out": ["Boat", "Dock", "Shipwright"],
    "Delivery": ["Part", "Supplier", "Workshop"],
    "Charter": ["Boat", "Owner", "Shipwright"],
}
ATTRIBUTES = {
    "Boat": ["length", "year", "category:Rig", "category:Hull", "text:Colour", "measure:Draught"],
    "Owner": ["phone", "email", "place:Town", "date:Since"],
    "Berth": ["length", "measure:Depth", "flag:Power"],
    "Dock": ["place:Side", "phone"],
    "Part": ["price", "measure:Weight", "category:Material", "text:Description"],
    "Maker": ["place:Country", "email", "phone"],
    "Shipwright": ["rate", "phone", "category:Grade", "date:Hired"],
    "Workshop": ["phone", "measure:Area"],
    "Insurer": ["phone", "email", "place:Town"],
    "Surveyor": ["phone", "category:Grade", "rate"],
    "Engine": ["measure:Power", "year", "category:Fuel"],
    "Supplier": ["email", "place:Town", "measure:Days"],
}
WORDS = {
    "Rig": "sloop ketch cutter yawl".split(), "Hull": "steel oak larch glass".split(),
    "Fuel": "diesel petrol electric".split(),
    "Material": "brass bronze steel nylon rubber".split(), "Grade": "junior senior master".split(),
    "Colour": "white blue green red black cream grey".split(), "Side": "west east north south".split(),
    "Country": "Norland Estmark Vesterby Kaloria Arvenia".split(),
    "Town": "Marlow Saltby Quayford Tarn Ebbing Wick Rowhedge Anstey Brightsea Merrow".split(),
}  # fmt: skip
NOTES = (
    "checked painted replaced worn loose sound dry damp scraped greased tested fitted moved waiting left early".split()
)


@dataclass
class Thing:
    """One table of the truth: its headers, which identify it, what it refers to."""

    name: str
    key: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    columns: list[str] = field(default_factory=list)
    refers: list[str] = field(default_factory=list)
    coded: bool = False


@dataclass(frozen=True)
class World:
    """The sheet as headers and columns of texts, and its tables; the first is the one of the sheet's rows."""

    headers: tuple[str, ...]
    columns: tuple[list[str], ...]
    tables: tuple[Thing, ...]


class _Maker:
    def __init__(self, seed: int, rows: int) -> None:
        self.random = Random(seed)
        self.numbers = np.random.default_rng(seed)
        self.rows = rows
        self.ids = self.random.choice(["codes", "numbers", "none", "mixed"])
        self.prefixed = self.random.random() < 0.5
        self.spaced = self.random.random() < 0.7
        self.cells: dict[str, np.ndarray] = {}
        self.tables: list[Thing] = []

    def header(self, *parts: str) -> str:
        text = " ".join(part for part in parts if part)
        return text if self.spaced else "".join(part.capitalize() for part in text.replace("-", " ").split())

    def put(self, thing: Thing, header: str, values: np.ndarray) -> str:
        self.cells[header] = values
        thing.columns.append(header)
        return header

    def spread(self, groups: np.ndarray, of: int) -> np.ndarray:
        """A partner for each row of another thing, some more often than others."""
        weights = 1 / np.arange(1, of + 1) ** self.random.choice([0.0, 0.4, 0.8])
        return self.numbers.choice(of, size=groups, p=weights / weights.sum())

    def thing(self, name: str, row_of: np.ndarray, count: int, role: str = "") -> Thing:
        """A thing around: ``row_of`` tells for each row of the sheet which one it is."""
        made = Thing(f"{role} {name}".strip())
        self.tables.append(made)
        label = made.name
        words, _ = THINGS[name]
        coded = {"codes": True, "numbers": True, "none": False, "mixed": self.random.random() < 0.5}[self.ids]
        if name == "Berth" and not coded:
            coded = True
            values = np.array([f"{words[one % len(words)][0]}{one // len(words) + 1}" for one in range(count)])
            made.key = (self.put(made, self.header(label), values[row_of]),)
            made.coded = True
        elif coded:
            if self.ids == "numbers":
                values = np.array([str(one + 1) for one in self.numbers.permutation(count)])
                called = self.random.choice(["ID", "No", "Number"])
            else:
                values = np.array([f"{name[:2].upper()}{one + 11:03}" for one in self.numbers.permutation(count)])
                called = self.random.choice(["Code", "Ref", "ID"])
            made.key = (self.put(made, self.header(label, called), values[row_of]),)
            made.coded = True
        if name != "Berth":
            if count <= len(words):
                names = np.array(words[:count])
            else:
                names = np.array(
                    [f"{words[one % len(words)]} {_roman(one // len(words))}".strip() for one in range(count)]
                )
            called = self.random.choice(["", "Name"])
            made.names = (self.put(made, self.header(label, called), names[row_of]),)
        for kind in self.random.sample(ATTRIBUTES[name], self.random.randint(1, min(4, len(ATTRIBUTES[name])))):
            self.attribute(made, label, kind, row_of, count)
        return made

    def attribute(self, made: Thing, label: str, kind: str, row_of: np.ndarray, count: int) -> None:
        sort, _, called = kind.partition(":")
        called = called or sort.capitalize()
        prefix = label if self.prefixed or sort in ("phone", "email", "price", "rate") else ""
        header = self.header(prefix, called)
        header = self.header(label, called) if header in self.cells else header
        self.put(made, header, self.values(sort, called, count)[row_of])

    def values(self, sort: str, called: str, count: int) -> np.ndarray:
        pick = self.numbers
        match sort:
            case "phone":
                made = [
                    f"0{700 + a} {b:06}"
                    for a, b in zip(pick.integers(0, 90, count), pick.integers(0, 10**6, count), strict=True)
                ]
            case "email":
                made = [f"office{one}@{'abcdefgh'[one % 8]}yard.example" for one in pick.permutation(count)]
            case "length":
                made = [f"{one / 10:.1f}" for one in pick.integers(45, 240, count)]
            case "measure":
                made = [str(one) for one in pick.integers(1, pick.choice([20, 200, 4000]), count)]
            case "price" | "rate":
                made = [f"{one / 100:.2f}" for one in pick.integers(95, 90000, count)]
            case "year":
                made = [str(one) for one in pick.integers(1961, 2026, count)]
            case "date":
                made = [str(np.datetime64("2012-01-01") + int(one)) for one in pick.integers(0, 4800, count)]
            case "flag":
                made = [("yes", "no")[one] for one in pick.integers(0, 2, count)]
            case "text":
                made = [
                    " ".join(pick.choice(NOTES, 3)) if called == "Description" else str(pick.choice(WORDS[called]))
                    for _ in range(count)
                ]
            case "note":
                made = [
                    "" if pick.random() < 0.5 else " ".join(pick.choice(NOTES, pick.integers(3, 9)))
                    for _ in range(count)
                ]
            case "status":
                made = [("open", "done", "invoiced", "waiting")[one] for one in pick.integers(0, 4, count)]
            case _:
                made = [str(pick.choice(WORDS[called])) for _ in range(count)]
        return np.array(made)

    def around(self, name: str, row_of: np.ndarray, count: int, of: Thing, depth: int, used: set[str]) -> None:
        """The thing, and things that it refers to."""
        made = self.thing(name, row_of, count)
        of.refers.append(made.name)
        for parent in PARENTS.get(name, []):
            if depth and parent not in used and self.random.random() < 0.6:
                used.add(parent)
                several = max(2, min(THINGS[parent][1], count // self.random.randint(2, 4)))
                if several < count:
                    partner = self.spread(count, several)
                    self.around(parent, _dense(partner)[row_of], len(np.unique(partner)), made, depth - 1, used)

    def world(self) -> World:
        random = self.random
        middle = random.choice(list(MIDDLES))
        of_document = random.random() < 0.4
        rows = np.arange(self.rows)
        base = Thing(f"{middle} Line" if of_document else middle)
        self.tables.append(base)
        owner, row_of, count = base, rows, self.rows
        if of_document:
            document = Thing(middle)
            self.tables.append(document)
            count = max(self.rows // random.randint(3, 6), 3)
            row_of = np.sort(np.concatenate([np.arange(count), self.numbers.integers(0, count, self.rows - count)]))
            first = np.searchsorted(row_of, np.arange(count))
            document.key = (
                self.put(
                    document, self.header(middle, "No"), np.char.add("", (4000 + np.arange(count)).astype(str))[row_of]
                ),
            )
            document.coded = True
            base.key = (*document.key, self.header("Line"))
            self.put(base, self.header("Line"), (rows - first[row_of] + 1).astype(str))
            base.refers.append(middle)
            base.coded = True
            owner = document
        elif random.random() < 0.7:
            base.key = (self.put(base, self.header(middle, "No"), (4000 + rows).astype(str)),)
            base.coded = True
        date = np.datetime64("2024-01-08") + np.sort(self.numbers.integers(0, 700, count))
        self.put(owner, self.header(middle, "Date"), date.astype(str)[row_of])
        used = {"Job"}
        for name in random.sample(MIDDLES[middle], random.randint(1, min(3, len(MIDDLES[middle])))):
            if name in used:
                continue
            used.add(name)
            several = max(2, min(THINGS[name][1], count // random.randint(4, 12)))
            partner = self.spread(count, several)
            self.around(name, _dense(partner)[row_of], len(np.unique(partner)), owner, random.randint(0, 2), used)
        if of_document and "Part" not in used:
            used.add("Part")
            several = max(2, min(THINGS["Part"][1], self.rows // 6))
            partner = self.spread(self.rows, several)
            self.around("Part", _dense(partner), len(np.unique(partner)), base, 1, used)
        self.put(base, self.header("Quantity"), self.values("measure", "", self.rows))
        if random.random() < 0.7:
            self.put(
                base,
                self.header("Hours"),
                np.array([f"{one / 4:.2f}" for one in self.numbers.integers(1, 80, self.rows)]),
            )
        if random.random() < 0.6:
            self.put(owner, self.header("Status"), self.values("status", "", count)[row_of])
        if random.random() < 0.6:
            self.put(base, self.header("Remarks"), self.values("note", "", self.rows))
        headers = list(self.cells)
        if random.random() < 0.3:
            random.shuffle(headers)
        return World(tuple(headers), tuple(self.cells[header].tolist() for header in headers), tuple(self.tables))


def _dense(codes: np.ndarray) -> np.ndarray:
    return np.unique(codes, return_inverse=True)[1]


def _roman(number: int) -> str:
    signs = [(100, "C"), (90, "XC"), (50, "L"), (40, "XL"), (10, "X"), (9, "IX"), (5, "V"), (4, "IV"), (1, "I")]
    text = ""
    for value, sign in signs:
        while number >= value:
            text, number = text + sign, number - value
    return text


def world(seed: int, rows: int) -> World:
    """The world of that seed with so many rows on its sheet."""
    return _Maker(seed, rows).world()
