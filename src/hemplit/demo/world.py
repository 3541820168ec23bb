"""Who and what there is at the boatyard, and what was done in one season: seeded, so always the same."""

from __future__ import annotations

from datetime import date, timedelta
from random import Random

from hemplit.dataclasses import dataclass

SEED = 1871
JOBS = 400
BOATS = 64
OWNERS = 37
SEASON_START = date(2026, 3, 2)
#: Upper limits in metres, exclusive, with the class of the hulls below; longer hulls are large.
HULL_CLASSES = ((6.0, "small craft"), (10.0, "medium craft"))
LARGEST_CLASS = "large craft"
DOCKS = {"N": "North Dock", "S": "South Dock", "H": "Harbour Wall"}
TOWNS = ("Saltwick", "Marrow Quay", "Eskmouth", "Tarnby", "Ferrigholm", "Lower Aldsea", "Port Vennel")
FIRST = "Ines Tom Karin Paavo Lotte Bram Sile Aldo Mirre Jory Wenna Oskar Thea Ruan Elske Piran Nuala Gerrit".split()
LAST = "Falk Brandt Ostrom Keel Marlow Teague Visser Lund Haddock Pell Roscarne Anker Tamsin Boyle Sund".split()
BOAT_NAMES = (
    "Kittiwake Dunlin Turnstone Sanderling Whimbrel Guillemot Razorbill Shearwater Petrel Fulmar Gannet Eider Merganser"
    " Pintail Wigeon Garganey Teal Smew Goosander Plover Knot Godwit Curlew Avocet Redshank Oystercatcher Skua Noddy"
    " Tern Phalarope"
).split()
BOAT_ENDINGS = ("", " II", " of Tarnby")
#: Work, its hourly rate in cents.
WORKS = {
    "hull scrape": 3850,
    "antifouling": 4200,
    "engine service": 6150,
    "rig check": 5400,
    "mast stepping": 5900,
    "sail repair": 4475,
    "rudder refit": 5650,
    "winter cover": 3200,
    "electrics": 6400,
    "varnishing": 3925,
}
YARD_WORK = "yard upkeep"
YARD_RATE = 2950
STATUSES = ("done", "done", "done", "invoiced", "invoiced", "open", "waiting for parts")
TRADES = ("shipwright", "rigger", "engineer", "sailmaker", "painter")
REMARKS = (
    "owner wants to be called before work starts",
    "keel bolts looked tired, check again in autumn",
    "came in late because of the tide",
    "paint batch from last year used up",
    "spare key hangs in the office",
)
PARTS = (
    ("BC-12", "brass cleat", 1450),
    ("BC-16", "brass cleat, long", 1975),
    ("SH-04", "shackle 4 mm", 320),
    ("SH-08", "shackle 8 mm", 615),
    ("RP-10", "braided rope, per metre", 285),
    ("AN-03", "zinc anode", 2240),
    ("FL-07", "fuel filter", 1890),
    ("IM-22", "water pump impeller", 3365),
    ("BT-90", "battery 90 Ah", 16400),
    ("VN-01", "varnish, 1 litre", 2780),
    ("AF-25", "antifouling, 2.5 litres", 8950),
    ("SC-40", "sail cloth, per metre", 2125),
)


@dataclass(frozen=True)
class Owner:
    name: str
    phone: str
    town: str


@dataclass(frozen=True)
class Boat:
    registration: str
    name: str
    length: float
    owner: Owner
    berth: str

    @property
    def hull_class(self) -> str:
        """The class that follows from the length.

        >>> Boat("MQ-1", "Teal", 6.0, Owner("", "", ""), "N01").hull_class
        'medium craft'
        """
        return next((name for limit, name in HULL_CLASSES if self.length < limit), LARGEST_CLASS)

    @property
    def dock(self) -> str:
        return DOCKS[self.berth[0]]


@dataclass(frozen=True)
class Worker:
    name: str
    trade: str
    since: date
    phone: str
    supervisor: str


@dataclass(frozen=True)
class Job:
    number: int
    opened: date
    boat: Boat | None
    work: str
    rate: int
    status: str
    crew: tuple[str, ...]
    quarter_hours: int
    urgent: bool
    remark: str
    parts: tuple[tuple[str, int, int], ...]


@dataclass(frozen=True)
class HaulOut:
    day: date
    boat: Boat
    weight: int


@dataclass(frozen=True)
class World:
    workers: tuple[Worker, ...]
    boats: tuple[Boat, ...]
    jobs: tuple[Job, ...]
    haul_outs: tuple[HaulOut, ...]


def world(seed: int = SEED) -> World:
    """The whole boatyard."""
    random = Random(seed)
    workers = _workers(random)
    boats = _boats(random, _owners(random))
    jobs = _jobs(random, boats, [worker.name for worker in workers])
    return World(workers, boats, jobs, _haul_outs(random, boats))


def _names(random: Random, count: int) -> list[str]:
    return random.sample([f"{first} {last}" for first in FIRST for last in LAST], count)


def _phones(random: Random, count: int) -> list[str]:
    return [f"0{number // 10000} {number % 10000:04}" for number in random.sample(range(5550000, 5599999), count)]


def _workers(random: Random) -> tuple[Worker, ...]:
    names, phones = _names(random, 14), _phones(random, 14)
    heads = dict(zip(TRADES, names, strict=False))
    workers = []
    for index, (name, phone) in enumerate(zip(names, phones, strict=True)):
        trade = TRADES[index % len(TRADES)]
        since = date(2009, 1, 5) + timedelta(days=7 * random.randrange(850))
        workers.append(Worker(name, trade, since, phone, "" if heads[trade] == name else heads[trade]))
    return tuple(workers)


def _owners(random: Random) -> list[Owner]:
    names = _names(random, OWNERS)
    return [
        Owner(name, phone, random.choice(TOWNS)) for name, phone in zip(names, _phones(random, OWNERS), strict=True)
    ]


def _boats(random: Random, owners: list[Owner]) -> tuple[Boat, ...]:
    names = random.sample([name + ending for name in BOAT_NAMES for ending in BOAT_ENDINGS], BOATS)
    numbers = random.sample(range(1000, 9999), BOATS)
    berths = [f"{dock}{number:02}" for dock in DOCKS for number in range(1, 18)]
    boats = []
    for index, (name, number) in enumerate(zip(names, numbers, strict=True)):
        owner = owners[index] if index < len(owners) else random.choice(owners)
        length = random.randrange(38, 152) / 10
        boats.append(Boat(f"MQ-{number}", name, length, owner, random.choice(berths)))
    return tuple(boats)


def _jobs(random: Random, boats: tuple[Boat, ...], workers: list[str]) -> tuple[Job, ...]:
    jobs = []
    opened = SEASON_START
    for index in range(JOBS):
        opened += timedelta(days=random.choice((0, 0, 1, 1)))
        boat = None if index % 67 == 40 else random.choice(boats)
        work = random.choice(list(WORKS)) if boat else YARD_WORK
        parts = random.sample(PARTS, random.choice((0, 1, 1, 2, 2, 3, 4)))
        jobs.append(
            Job(
                number=4001 + index,
                opened=opened,
                boat=boat,
                work=work,
                rate=WORKS.get(work, YARD_RATE),
                status=random.choice(STATUSES),
                crew=tuple(random.sample(workers, random.choice((1, 1, 2, 2, 3)))),
                quarter_hours=random.randrange(2, 60),
                urgent=random.random() < 0.12,
                remark=random.choice(REMARKS) if random.random() < 0.08 else "",
                parts=tuple((code, random.choice((1, 1, 2, 2, 3, 4, 6, 10)), price) for code, _, price in parts),
            )
        )
    return tuple(jobs)


def _haul_outs(random: Random, boats: tuple[Boat, ...]) -> tuple[HaulOut, ...]:
    outs = []
    for boat in boats:
        for _ in range(random.choice((1, 1, 2))):
            day = date(2026, 4, 1) + timedelta(days=random.randrange(91))
            weight = round(boat.length**2.4 * 11 * random.uniform(0.95, 1.05), -1)
            outs.append(HaulOut(day, boat, int(weight)))
    return tuple(sorted(outs, key=lambda out: (out.day, out.boat.registration)))
