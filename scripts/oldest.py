"""Prints the oldest version of all that pyproject.toml lets people run with, for pip to be held to them."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path


def oldest(requirements: list[str]) -> list[str]:
    """The lower bounds as exact versions; what has none is left out.

    >>> oldest(["rich>=13", "psycopg[binary]>=3.1.4", "hemplit[pictures]"])
    ['rich==13', 'psycopg==3.1.4']
    """
    found = (re.match(r"([\w-]+)(?:\[[^\]]*\])?>=([\w.]+)$", one) for one in requirements)
    return [f"{one[1]}=={one[2]}" for one in found if one is not None]


if __name__ == "__main__":
    project = tomllib.loads((Path(__file__).parents[1] / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    used = (some for name, some in project["optional-dependencies"].items() if name != "development")
    extras = (one for some in used for one in some)
    print("\n".join(oldest([*project["dependencies"], *extras])))
