"""Loads designs that somebody has edited strangely: whatever comes in, a proven load or one clear line must come out.

    python scripts/fuzz_designs.py --seconds 60            designs of sheets of many shapes
    python scripts/fuzz_designs.py --seconds 600 --seed 7  another run of mutations

Each design starts as it was drafted. Values, keys, tables and steps are changed, taken away, doubled and exchanged, by
what they are, and sometimes the text itself. After a load every cell of the sheet must be in the account. The first
design that breaks something is kept, and its seed said.
"""

from __future__ import annotations

import argparse
import copy
import sys
import tempfile
import time
import tomllib
import traceback
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING, Any

import tomlkit

from fuzz import too_much
from hemplit.demo.sheets import HAUL_OUTS, JOBS, PARTS, ROSTER, write_sheets
from hemplit.errors import HemplitError
from hemplit.flow import designs, loading, reading, studying

if TYPE_CHECKING:
    from collections.abc import Iterator

TEXTS = [
    "", "id", "jobs", "boats", "Boat Reg", "number", "B-0001", "whole number", "date", "text", "A1:B2", "**", "*.csv",
    "x" * 300, "\x00", "Größe ⛵", "a.b", '"', "record", "yes/no", "0.00", "YYYY-MM-DD", "comma", "keep", "../jobs.csv",
]  # fmt: skip
VALUES: list[Any] = [True, False, 0, 1, 2, -1, 10**30, 1.5, [], [[]], ["x"], {}, *TEXTS]
#: What people write into designs, in the places where it could stand.
EDITS: list[dict[str, Any]] = [
    {"ids": "number"}, {"ids": "B-001"}, {"each_row": True}, {"required": True}, {"store": True}, {"store": False},
    {"kind": "text"}, {"kind": "decimal"}, {"kind": "date", "form": "DD/MM/YYYY"}, {"misfits": "keep"}, {"keep": True},
    {"seen": 7}, {"leave_out": ["Remarks"]}, {"key": ["id"]}, {"unique": [["name"]]}, {"purpose": "junction"},
]  # fmt: skip
LISTS = "Dive,Diver,Skill,Language\n" + "".join(
    f"{dive},{diver},{skill},{language}\n"
    for dive, diver, skills, languages in (
        (1, "Ann", "weld cut", "en de"), (2, "Ben", "cut", "en"), (3, "Cas", "weld sand", "fr nl en"),
    )
    for skill in skills.split()
    for language in languages.split()
)  # fmt: skip
BANDS = "Job,Boat,Length m,Class,Next Job\n" + "".join(
    f"{row},Boat {size},{5 + size / 2},{'small' if size < 8 else 'middle' if size < 15 else 'large'},{row % 90 + 1}\n"
    for row in range(1, 91)
    for size in [row % 23]
)


def drafted(folder: Path) -> Iterator[Path]:
    """Drafted designs of sheets of many shapes."""
    write_sheets(folder)
    (folder / "lists.csv").write_text(LISTS, encoding="utf-8")
    (folder / "bands.csv").write_text(BANDS, encoding="utf-8")
    for number, names in enumerate(([JOBS], [PARTS], [HAUL_OUTS], ["lists.csv"], ["bands.csv"], [PARTS, ROSTER])):
        path = folder / f"d{number}.design.toml"
        designs.save_design(
            studying.draft(reading.read([str(folder / name) for name in names])), path, over_edited=True
        )
        yield path


def places(value: Any) -> Iterator[tuple[Any, Any]]:
    """Every container with each of its keys."""
    keys = value if isinstance(value, dict) else range(len(value)) if isinstance(value, list) else ()
    for key in keys:
        yield value, key
        yield from places(value[key])


def edited(data: dict[str, Any], random: Random) -> dict[str, Any]:
    """The design with one to three edits."""
    changed = copy.deepcopy(data)
    for _ in range(random.randint(1, 3)):
        spots = list(places(changed))
        if not spots:
            break
        container, key = random.choice(spots)
        match random.randrange(8):
            case 0:
                del container[key]
            case 1:
                container[key] = copy.deepcopy(random.choice(VALUES))
            case 2:
                other, place = random.choice(spots)
                container[key] = copy.deepcopy(other[place])
            case 3 if isinstance(container, list):
                container.insert(key, copy.deepcopy(container[key]))
            case 4 if isinstance(container, dict):
                container[random.choice([*TEXTS, key])] = container.pop(key)
            case 5 if isinstance(container[key], list):
                random.shuffle(container[key])
            case _:
                tables = [one for one, _ in spots if isinstance(one, dict)]
                random.choice(tables).update(copy.deepcopy(random.choice(EDITS)))
    return changed


def attempt(seed: int, drafted: list[tuple[Path, str]]) -> str:
    """What came of one design: loaded, refused, or the traceback."""
    random = Random(seed)
    path, text = random.choice(drafted)
    if random.random() < 0.15:
        at = random.randrange(len(text))
        text = (
            text[:at]
            + random.choice(["[", "{", '"', "[" * 3000, "9" * 5000, ".a" * 9000, "\ufeff", "\x1b"])
            + text[at:]
        )
    else:
        try:
            text = tomlkit.dumps(edited(tomllib.loads(text), random))
        except Exception:  # noqa: BLE001 (what cannot be written is no design)
            return "refused"
    odd = path.with_name("odd.design.toml")
    odd.write_text(text, encoding="utf-8", errors="surrogatepass")
    target = path.with_name("odd.sqlite")
    target.unlink(missing_ok=True)
    try:
        loaded = loading.load_design(odd, str(target), replace_target=False)
    except HemplitError as refused:
        return "refused" if "\n" not in str(refused) else f"{refused!s} has more than one line"
    except Exception:  # noqa: BLE001 (whatever it is, it is what is looked for)
        return traceback.format_exc()
    return (
        "loaded"
        if loaded.proof.holds
        else f"not proven: {[one for one in loaded.proof.checks if one.different]}{loaded.proof.ledgers}"
    )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seconds", type=float, default=20)
    parser.add_argument("--seed", type=int, default=0)
    given = parser.parse_args()
    counts = {"loaded": 0, "refused": 0}
    seed = given.seed * 1_000_000
    with tempfile.TemporaryDirectory() as folder:
        made = [(path, path.read_text(encoding="utf-8")) for path in drafted(Path(folder))]
        end = time.monotonic() + given.seconds
        while time.monotonic() < end:
            start = time.monotonic()
            came = attempt(seed, made)
            came = too_much(time.monotonic() - start) or came
            if came not in counts:
                print(f"seed {seed}:\n{came}", file=sys.stderr)
                print((Path(folder) / "odd.design.toml").read_text(encoding="utf-8")[:200_000], file=sys.stdout)
                return 1
            counts[came] += 1
            seed += 1
    print(f"{counts['loaded']:,} designs loaded and proven, {counts['refused']:,} refused, none broke anything")
    return 0


if __name__ == "__main__":
    sys.exit(main())
