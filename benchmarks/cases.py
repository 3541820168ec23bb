"""How good drafts are on sheets whose tables are known: the scorers that come with a folder of cases, and the bars.

The folder has ``measure/small.py`` and its like, each of which closes with a line of figures; they need what
``measure/requirements.txt`` names. See ``judgement.py``.
"""

from __future__ import annotations

import re
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

PROGRAM = Path(sys.executable).with_name("hemplit")


@dataclass(frozen=True)
class Bar:
    """A figure of a scorer's closing line: the words before or after it, and the bar that it has to reach."""

    measure: str
    what: str
    pattern: str
    least: float | None = None
    most: float | None = None

    def is_met(self, figure: float) -> bool:
        return (self.least is None or figure >= self.least) and (self.most is None or figure <= self.most)


BARS = (
    Bar("small", "points, on average", r"mean ([\d.]+) over", least=96),
    Bar("real", "points, on average", r"mean overall ([\d.]+)", least=92),
    Bar("real", "sheets that cannot be rebuilt", r"not rebuilt (\d+)", most=0),
    Bar("harm", "right cells changed", r"(\d+) cells wrongly changed", most=10),
    Bar("harm", "% of the changed cells right", r"precision ([\d.]+)% recall [\d.]+% by default", least=99.5),
    Bar("harm", "% of the proposed lines right", r"([\d.]+)% right", least=90),
)


def measured(folder: Path, measures: tuple[str, ...]) -> bool:
    """Runs these scorers and prints their figures beside the bars; whether all are met."""
    met = True
    print(f"{'measure':10}{'figure':>10}{'bar':>8}")
    for measure in measures:
        called = [sys.executable, str(folder / "measure" / f"{measure}.py"), "--hemplit", str(PROGRAM)]
        ran = subprocess.run(called, capture_output=True, text=True, check=True, encoding="utf-8")
        last = ran.stdout.strip().splitlines()[-1]
        for bar in (one for one in BARS if one.measure == measure):
            found = re.search(bar.pattern, last)
            if found is None:
                raise ValueError(f"{measure}.py closes with a line that has no {bar.what}: {last}")
            figure, limit = float(found[1]), bar.least if bar.least is not None else bar.most
            told = "" if bar.is_met(figure) else "  not met"
            print(f"{measure:10}{figure:>10.1f}{limit:>8}  {bar.what}{told}", flush=True)
            met = met and bar.is_met(figure)
    return met
