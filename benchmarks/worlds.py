"""Small believable worlds of a boatyard, flattened into one sheet, with the truth beside it: seeded, always the same.

A world is a star or a snowflake: the sheet's rows in the middle, things around them, things of things further out; with
or without ids, with codes or numbers, measures, dates, contact details, free text, two roles for one thing, lines of a
document, readings of each thing at each hour. Some things say nothing of some columns, some have the same name, and
some codes are a letter apart. Headers are written in several styles, down to abbreviations, another language and plain
letters. What the sheet's designer knew is the truth that a draft is scored against.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from random import Random

import numpy as np

from hemplit.core.model.grid import column_letters

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
#: Things of which a row can name two, and for what.
ROLES = {
    "Charter": ("Berth", "From", "To"), "Haul-out": ("Dock", "Old", "New"), "Delivery": ("Supplier", "Main", "Spare"),
}  # fmt: skip
GERMAN = dict(
    pair.split("=")
    for pair in (
        "Boat=Boot Owner=Eigner Berth=Liegeplatz Part=Teil Maker=Hersteller Shipwright=Bootsbauer Workshop=Werkstatt"
        " Insurer=Versicherer Surveyor=Gutachter Engine=Motor Supplier=Lieferant Job=Auftrag Survey=Gutachten"
        " Delivery=Lieferung Line=Zeile Date=Datum Remarks=Bemerkung Quantity=Menge Hours=Stunden Phone=Telefon"
        " Town=Ort Price=Preis Rate=Satz Length=Laenge Year=Jahr Colour=Farbe Weight=Gewicht Number=Nummer Since=Seit"
        " Grade=Grad Fuel=Kraftstoff Country=Land Side=Seite Area=Flaeche Depth=Tiefe Hull=Rumpf"
        " Rig=Takelung Hired=Eingestellt"
        " Description=Beschreibung Power=Leistung Reading=Messung Hour=Stunde Value=Wert"
        " From=Von To=Nach Old=Alt New=Neu"
    ).split()
)
STYLES = ("as they are", "as they are", "with strokes", "abbreviated", "German", "letters")
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
    roles: list[list[str]] = field(default_factory=list)
    """Where it stands in several roles, the columns of each; the first of them names it."""


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
        self.named_by_code = self.random.random() < 0.2
        self.twins = self.random.random() < 0.2
        self.blanks = self.random.random() < 0.3
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
                values = np.array([self.code(name, one) for one in self.numbers.permutation(count).tolist()])
                called = "" if self.named_by_code else self.random.choice(["Code", "Ref", "ID"])
            made.key = (self.put(made, self.header(label, called), values[row_of]),)
            made.coded = True
        if name != "Berth":
            if count <= len(words):
                names = np.array(words[:count])
            else:
                names = np.array(
                    [f"{words[one % len(words)]} {_roman(one // len(words))}".strip() for one in range(count)]
                )
            called = "Name" if coded and self.named_by_code else self.random.choice(["", "Name"])
            if coded and count > 5 and self.random.random() < 0.2:
                names[1] = names[0]  # two of one name
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
        values = self.values(sort, called, count)
        if self.blanks and count > 3 and made.columns[0] in self.cells and self.random.random() < 0.4:
            values[self.numbers.random(count) < 0.3] = ""
        self.put(made, header, values[row_of])

    def code(self, name: str, number: int) -> str:
        """A code; where they are twins, one letter tells them apart."""
        if self.twins:
            return name[0].upper() + "".join(chr(ord("A") + number // 26**place % 26) for place in (2, 1, 0))
        return f"{name[:2].upper()}{number + 11:03}"

    def roles(self, base: Thing, name: str, roles: tuple[str, str], count: int) -> None:
        """Two roles of one thing, each with its name and what is said of it."""
        several = max(3, min(THINGS[name][1], count // self.random.randint(4, 10)))
        words = THINGS[name][0]
        names = np.array([f"{words[one % len(words)]} {_roman(one // len(words))}".strip() for one in range(several)])
        made = Thing(name)
        self.tables.append(made)
        base.refers.append(name)
        attributes = self.random.sample(ATTRIBUTES[name], min(2, len(ATTRIBUTES[name])))
        said = [(kind.partition(":")[2] or kind, self.values(*_sort(kind), several)) for kind in attributes]
        for role in roles:
            row_of = self.spread(self.rows, several)
            headers = [self.put(made, self.header(role, name), names[row_of])]
            for called, values in said:
                headers.append(self.put(made, self.header(role, name, called.capitalize()), values[row_of]))
            made.roles.append(headers)

    def readings(self) -> World:
        """What was read of each thing at each hour or on each day."""
        name, when = self.random.choice(["Engine", "Berth", "Dock"]), self.random.choice(["Hour", "Date"])
        count = max(2, min(THINGS[name][1], self.rows // self.random.choice([3, 6, 12])))
        times = self.rows // count
        self.rows = count * times
        base = Thing("Reading")
        self.tables.append(base)
        row_of = np.repeat(np.arange(count), times)
        self.around(name, row_of, count, base, 0, {name})
        moments = np.tile(np.arange(times), count)
        said = np.datetime64("2025-03-01") + moments if when == "Date" else moments
        header = self.put(base, self.header(when), said.astype(str))
        thing = self.tables[1]
        base.key, base.coded = (*(thing.key or thing.names), header), True
        for called in self.random.sample(["Value", "Hours", "Level", "Wind"], 2):
            self.put(base, self.header(called), self.values("length", "", self.rows))
        return self.whole()

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

    def whole(self) -> World:
        """All of it as one sheet."""
        headers = list(self.cells)
        if self.random.random() < 0.2:
            self.random.shuffle(headers)
        made = World(tuple(headers), tuple(self.cells[header].tolist() for header in headers), tuple(self.tables))
        return styled(made, self.random.choice(STYLES))

    def world(self) -> World:
        random = self.random
        if random.random() < 0.15:
            return self.readings()
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
        if middle in ROLES and not of_document and random.random() < 0.5:
            name, *roles = ROLES[middle]
            used.add(name)
            self.roles(base, name, (roles[0], roles[1]), self.rows)
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
        return self.whole()


def _sort(kind: str) -> tuple[str, str]:
    sort, _, called = kind.partition(":")
    return sort, called or sort.capitalize()


def styled(made: World, style: str) -> World:
    """The world with its headers written in another way."""
    names: dict[str, str] = {}
    for place, header in enumerate(made.headers):
        parts = re.findall(r"[A-Z]?[a-z-]+|[A-Z]+(?![a-z])", header)
        match style:
            case "with strokes":
                name = "_".join(parts).lower()
            case "abbreviated":
                name = " ".join(part[0] + re.sub("[aeiou]", "", part[1:])[:3] for part in parts)
            case "German":
                name = " ".join(GERMAN.get(part, part) for part in parts)
            case "letters":
                name = column_letters(place)
            case _:
                name = header
        names[header] = name if name not in names.values() else f"{name} {place}"
    tables = tuple(
        replace(
            thing,
            key=tuple(names[one] for one in thing.key),
            names=tuple(names[one] for one in thing.names),
            columns=[names[one] for one in thing.columns],
            roles=[[names[one] for one in role] for role in thing.roles],
        )
        for thing in made.tables
    )
    return World(tuple(names[one] for one in made.headers), made.columns, tables)


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
