"""Sheets with known truth: a clean relation, dirtied in the ways of offices; and clean sheets full of traps. Seeded."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date, timedelta
from random import Random

Row = dict[str, str]

BIRDS = ["Kittiwake", "Dunlin", "Teal", "Smew", "Gannet", "Fulmar", "Petrel", "Curlew", "Godwit", "Whimbrel", "Osprey"]
DOCKS = ["North Dock", "South Dock", "Harbour Wall", "Slipway"]
WORKS = ["antifouling", "rigging check", "engine service", "hull scrape", "electrics"]
STATUSES = ["open", "in progress", "done", "invoiced"]
CREW = ["Ines Tamsin", "Gerrit Marlow", "Wenna Pell", "Aldo Brandt", "Lotte Keel", "Ruan Anker"]
OWNERS = ["Oskar Keel", "Elske Visser", "Marten Lund", "Karin Haddock", "Pia Roscarne", "Joost Sund", "Tilde Holm"]
REMARKS = [
    "",
    "",
    "keel bolts looked tired, check again in autumn",
    "owner collects on Friday",
    "mast out and wrapped; sails in the loft",
    "see photo",
]
PARTS = {
    "AN-03": "Anode, hull",
    "IM-22": "Impeller",
    "RP-10": "Braided rope",
    "CL-07": "Brass cleat",
    "SH-11": "Shackle",
}


@dataclass
class Sheet:
    """The lines of a sheet, and the relations that they stand for: by name (blank for the sheet's own) its rows."""

    lines: list[list[str]]
    truth: dict[str, list[Row]]
    done: list[str] = field(default_factory=list)
    header: int = 0

    @property
    def width(self) -> int:
        return max(map(len, self.lines))


def jobs(random: Random) -> list[Row]:
    """One row per job; a boat always comes with its owner and dock."""
    boats = [
        {
            "Boat Reg": f"MQ-{1000 + 37 * index}",
            "Boat": bird,
            "Length m": f"{random.randint(45, 160) / 10:.1f}",
            "Owner": random.choice(OWNERS),
            "Dock": random.choice(DOCKS),
        }
        for index, bird in enumerate(random.sample(BIRDS, random.randint(5, 9)))
    ]
    day = date(2026, 3, 2)
    rows = []
    for number in range(random.randint(30, 120)):
        day += timedelta(days=random.randint(0, 3))
        rows.append(
            {
                "Job No": str(4001 + number),
                "Opened": day.isoformat(),
                **random.choice(boats),
                "Work": random.choice(WORKS),
                "Status": random.choice(STATUSES),
                "Hours": f"{random.randint(1, 60) / 4:.2f}",
                "Cost": f"{random.randint(2000, 400000) / 100:.2f}",
                "Remarks": random.choice(REMARKS),
            }
        )
    dropped = random.sample(["Opened", "Length m", "Owner", "Work", "Status", "Remarks"], random.randint(0, 3))
    return [{name: value for name, value in row.items() if name not in dropped} for row in rows]


def plain(random: Random) -> Sheet:
    rows = jobs(random)
    return Sheet([list(rows[0]), *(list(row.values()) for row in rows)], {"": rows})


def down(random: Random) -> Sheet:
    """A repeating group running down: the head on the first line of each job only."""
    rows: list[Row] = []
    lines = []
    for number in range(random.randint(12, 40)):
        head = {
            "Job No": str(4001 + number),
            "Boat": random.choice(BIRDS),
            "Dock": random.choice([*DOCKS, "", ""]) if random.random() < 0.3 else random.choice(DOCKS),
        }
        for place in range(random.randint(1, 4)):
            line = {
                "Part": random.choice(list(PARTS)),
                "Qty": str(random.randint(1, 9)),
                "Price": f"{random.randint(100, 9000) / 100:.2f}",
            }
            rows.append({**head, **line})
            lines.append([*(head.values() if place == 0 else [""] * len(head)), *line.values()])
    return Sheet([list(rows[0]), *lines], {"": rows}, ["group running down"])


def sideways(random: Random) -> Sheet:
    """A repeating group running sideways, in one of the numbering styles."""
    rows = jobs(random)
    names = random.choice([["Part", "Qty"], ["Part", "Qty", "Price"], ["Part"]])
    count = random.randint(2, 4)
    style = random.choice(
        ["{name} {n}", "{name}{n}", "{name}_{n}", "{name} ({n})", "{name} #{n}", "{n}. {name}", "first bare"]
    )

    def header(name: str, place: int) -> str:
        if style == "first bare":
            return name if place == 1 else f"{name} {place}"
        return style.format(name=name, n=place)

    headers = [header(name, place) for place in range(1, count + 1) for name in names]
    if random.random() < 0.3:
        headers = [header(name, place) for name in names for place in range(1, count + 1)]
    child: list[Row] = []
    lines = []
    for row in rows:
        cells = dict.fromkeys(headers, "")
        for place in range(1, random.randint(1, count) + 1):
            block = {
                "Part": random.choice(list(PARTS)),
                "Qty": str(random.randint(1, 9)),
                "Price": f"{random.randint(100, 9000) / 100:.2f}",
            }
            cells.update({header(name, place): block[name] for name in names})
            child.append({"Job No": row["Job No"], **{name: block[name] for name in names}, "Position": str(place)})
        lines.append([*row.values(), *cells.values()])
    return Sheet([[*rows[0], *headers], *lines], {"": rows, names[0]: child}, [f"group running sideways {style}"])


def lists(random: Random) -> Sheet:
    """Several names in one cell."""
    rows = jobs(random)
    between = random.choice([", ", "; ", " / ", "\n", " | ", ",", " and "])
    child, lines = [], []
    for row in rows:
        crew = random.sample(CREW, random.randint(1, 2 if between == " and " else 3))
        child += [{"Job No": row["Job No"], "Crew": name, "Position": str(place)} for place, name in enumerate(crew, 1)]
        lines.append([*row.values(), between.join(crew)])
    return Sheet([[*rows[0], "Crew"], *lines], {"": rows, "Crew": child}, [f"list by {between!r}"])


BASES = (plain, plain, down, sideways, lists)

# Dirt that leaves the truth as it is -------------------------------------------------------------------------------


def title_above(sheet: Sheet, random: Random) -> None:
    above = [["Jobs of the yard, spring 2026"]]
    if random.random() < 0.5:
        above.append(["Printed by the office", "2026-06-01"])
    if random.random() < 0.6:
        above.append([""])
    sheet.lines[:0] = above
    sheet.header += len(above)


def notes_below(sheet: Sheet, random: Random) -> None:
    sheet.lines += [
        [""],
        [random.choice(["* prices without tax", "Source: yard office", "Checked and signed by Wenna in the office"])],
    ]


def total_below(sheet: Sheet, random: Random) -> None:
    names = sheet.lines[sheet.header]
    summed = [index for index, name in enumerate(names) if name in ("Hours", "Cost", "Price")]
    if not summed:
        return
    line = [""] * len(names)
    line[0] = random.choice(["Total", "TOTAL", "Sum", "Grand total", "Total:"])
    for index in summed:
        cents = sum(
            round(float(one[index]) * 100) for one in sheet.lines[sheet.header + 1 :] if len(one) > index and one[index]
        )
        line[index] = f"{cents / 100:.2f}"
    sheet.lines.append(line)


def blank_rows(sheet: Sheet, random: Random) -> None:
    for _ in range(random.randint(1, 4)):
        sheet.lines.insert(random.randint(sheet.header + 2, len(sheet.lines)), [""])


def header_again(sheet: Sheet, random: Random) -> None:
    for _ in range(random.randint(1, 2)):
        sheet.lines.insert(random.randint(sheet.header + 5, len(sheet.lines)), list(sheet.lines[sheet.header]))


def columns_before(sheet: Sheet, random: Random) -> None:
    sheet.lines = [["", *line] for line in sheet.lines]


def stray_blanks(sheet: Sheet, random: Random) -> None:
    for _ in range(random.randint(3, 25)):
        line = random.choice(sheet.lines[sheet.header + 1 :])
        at = random.randrange(len(line))
        if line[at] and not line[at][0].isdigit():
            line[at] = random.choice([" {}", "{}  ", "\u00a0{}", "{}\u200b"]).format(line[at])


def untidy_header(sheet: Sheet, random: Random) -> None:
    line = sheet.lines[sheet.header]
    sheet.lines[sheet.header] = [f" {name.replace(' ', '  ')} " if random.random() < 0.4 else name for name in line]


def _cells(sheet: Sheet, names: tuple[str, ...]) -> list[tuple[list[str], int]]:
    header = [" ".join(name.split()) for name in sheet.lines[sheet.header]]
    places = [header.index(name) for name in names if name in header]
    below = sheet.lines[sheet.header + 1 :]
    return [(line, at) for line in below for at in places if len(line) > at and line[at] and line[at] != header[at]]


def capitals(sheet: Sheet, random: Random) -> None:
    cells = _cells(sheet, ("Dock", "Status", "Work"))
    for line, at in random.sample(cells, min(len(cells), random.randint(1, 4))):
        line[at] = line[at].upper()


def blank_words(sheet: Sheet, random: Random) -> None:
    """Some numbers are not known: the truth has blanks there."""
    word = random.choice(["n/a", "-", "N/A", "--", "none", "?"])
    name = "Hours"
    rows = {row["Job No"]: row for row in sheet.truth[""] if "Hours" in row and "Job No" in row}
    if not rows:
        return
    header = [" ".join(text.split()) for text in sheet.lines[sheet.header]]
    for line, at in random.sample(_cells(sheet, (name,)), 4):
        key = line[header.index("Job No")]
        if key in rows and len(line) >= len(header):
            line[at] = word
            rows[key][name] = ""


def money(sheet: Sheet, random: Random) -> None:
    style = random.choice(
        [lambda v: f"{v:,.2f}", lambda v: f"€ {v:,.2f}", lambda v: f"${v:,.2f}", lambda v: f"{v:,.2f} EUR"]
    )
    if random.random() < 0.3:
        style = lambda v: f"{v:,.2f}".replace(",", "_").replace(".", ",").replace("_", ".")  # noqa: E731
    for line, at in _cells(sheet, ("Cost",)):
        line[at] = style(float(line[at]))


def dates(sheet: Sheet, random: Random) -> None:
    forms = random.choice(
        [["%d/%m/%Y", "%Y-%m-%d"], ["%d.%m.%Y", "%d.%m.%y"], ["%d %b %Y", "%Y-%m-%d"], ["%m/%d/%Y", "%B %d, %Y"]]
    )
    for line, at in _cells(sheet, ("Opened",)):
        line[at] = date.fromisoformat(line[at]).strftime(random.choice(forms))


def pasted_twice(sheet: Sheet, random: Random) -> None:
    first = sheet.header + 1 + random.randrange(10)
    sheet.lines += [list(line) for line in sheet.lines[first : first + random.randint(2, 6)]]


def slip(sheet: Sheet, random: Random) -> None:
    """Two letters of a boat's name change places; its number tells which boat it is."""
    if "Boat Reg" not in sheet.truth[""][0]:
        return
    counts: dict[str, int] = {}
    for row in sheet.truth[""]:
        counts[row["Boat"]] = counts.get(row["Boat"], 0) + 1
    line, at = random.choice(
        [(line, at) for line, at in _cells(sheet, ("Boat",)) if counts.get(line[at], 0) > 5] or [([""], 0)]
    )
    if line[at]:
        name = line[at]
        line[at] = name[:2] + name[3] + name[2] + name[4:]


def described_codes(sheet: Sheet, random: Random) -> None:
    """A code and what it means in one cell."""
    if not any("Part" in row for row in sheet.truth[""]):
        return
    for line, at in _cells(sheet, ("Part",)):
        line[at] = f"{line[at]} - {PARTS[line[at]]}"
    sheet.truth[""] = [
        {
            new: (value if new != "Part" else PARTS[row["Part"]])
            for name, value in row.items()
            for new, value in ([("Part Code", value), ("Part", value)] if name == "Part" else [(name, value)])
        }
        for row in sheet.truth[""]
    ]


CELLS: tuple[Callable[[Sheet, Random], None], ...] = (
    capitals, blank_words, money, dates, slip, described_codes, stray_blanks,
)  # fmt: skip
ROWS: tuple[Callable[[Sheet, Random], None], ...] = (
    total_below, header_again, blank_rows, notes_below, title_above, columns_before, untidy_header,
)  # fmt: skip


def dirty(seed: int) -> Sheet:
    """One sheet: a base, and one to four kinds of dirt."""
    random = Random(seed)
    sheet = random.choice(BASES)(random)
    chosen = random.sample([*CELLS, *ROWS, pasted_twice], random.randint(1, 4))
    if sheet.done and sheet.done[0] != "group running down" and pasted_twice in chosen:
        chosen.remove(pasted_twice)  # the child's rows would have to be told apart, too
    if sheet.done == ["group running down"] and pasted_twice in chosen:
        chosen.remove(pasted_twice)  # nothing numbers the lines, so equal ones stay
    # Sums are made before money is dressed up, pages are put together last.
    for step in (
        total_below,
        *CELLS,
        pasted_twice,
        header_again,
        notes_below,
        blank_rows,
        title_above,
        untidy_header,
        columns_before,
    ):
        if step in chosen:
            if step is pasted_twice and total_below in chosen:
                continue
            step(sheet, random)
            sheet.done.append(step.__name__)
    return sheet


# Clean sheets full of traps ----------------------------------------------------------------------------------------


def _column(random: Random, rows: int) -> dict[str, Callable[[int], str]]:
    """Columns that look like trouble and are none; each gives the value of a row."""
    pick = random.choice
    towns = ["Ostend, Belgium", "Harlingen, Netherlands", "Skagen, Denmark", "Kiel, Germany"]
    return {
        "Country": lambda _: pick(["NA", "NL", "DE", "DK", "BE"]),
        "Damage": lambda _: pick(["None", "scratch", "dent", "osmosis"]),
        "Home Port": lambda _: pick(towns),
        "Agreed": lambda _: pick(["Yes", "No"]),
        "Phone": lambda _: f"0{random.randint(500, 599)} {random.randint(1000, 9999)}",
        "Berth Code": lambda _: f"{random.randint(1, 400):04}",
        "Grade": lambda _: pick(["A", "B", "C", "+", "-"]),
        "Paint": lambda _: pick(["RAL 9010", "RAL 5002", "ral-free"]),
        "Weight kg": lambda _: str(random.randint(300, 9000)),
        "Latitude": lambda _: f"{random.uniform(50, 58):.4f}",
        "Draught": lambda _: pick(["", f"{random.randint(4, 30) / 10:.1f}"]),
        "Fuel": lambda _: pick(["", "", "", "diesel", "petrol"]),
        "Total": lambda _: f"{random.randint(100, 90000) / 100:.2f}",
        "Seen": lambda _: (date(2026, 1, 1) + timedelta(days=random.randint(0, 300))).isoformat(),
        "Due": lambda _: (date(2026, 1, 1) + timedelta(days=random.randint(0, 300))).strftime("%d/%m/%Y"),
        "At": lambda _: f"{random.randint(6, 19):02}:{pick(['00', '15', '30', '45'])}",
        "Remarks": lambda row: pick(["", f"line {row}: hull, keel and rudder; fine", f"call {row} and ask"]),
        "Serial": lambda _: str(random.randint(10**17, 10**18)),
        "Address Line 1": lambda _: f"{random.randint(1, 99)} Quay Street",
        "Address Line 2": lambda _: pick(["", "Unit 4", "c/o the yard"]),
        "Reading 1": lambda _: f"{random.uniform(0, 10):.3f}",
        "Reading 2": lambda _: f"{random.uniform(100, 110):.3f}",
        "Size": lambda _: pick(["S", "M", "L", "XL"]),
        "Ratio": lambda _: pick(["1/2", "3/4", "1/1"]),
        "Version": lambda _: pick(["1.2.3", "1.2.4", "2.0.0"]),
        "Name": lambda _: pick(OWNERS),
        "Kind": lambda _: pick(["Total", "Partial"]),
        "Sail No": lambda row: f"GBR {row}R",
    }  # fmt: skip


def clean(seed: int) -> list[list[str]]:
    """One clean sheet: a header and rows, nothing to be done to them."""
    random = Random(seed)
    rows = random.randint(8, 120)
    made = _column(random, rows)
    names = random.sample(list(made), random.randint(2, 9))
    if random.random() < 0.6:
        names.insert(0, "Job No")
        made["Job No"] = lambda row: str(4000 + row)
    lines = [[made[name](row) for name in names] for row in range(rows)]
    lines[0] = [cell or made[name](0) or made[name](1) for cell, name in zip(lines[0], names, strict=True)]
    return [names, *(line for line in lines if any(line))]
