"""What libraries do when they start and no command needs: left out before any of them is imported."""

from __future__ import annotations

import gc
import os
import sys
from collections import defaultdict
from types import ModuleType

#: After so many new objects Python looks for those that only refer to one another.
NEW_OBJECTS = 200_000


def start_quickly() -> None:
    """Leaves it out, for this process."""
    sys.meta_path.insert(0, _WithoutPandas())
    sys.modules["pyarrow.vendored.docscrape"] = _Undescribed("docscrape")
    # A thread for each core, for the linear algebra that we do not do: a tenth of a second of the processor.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # Looking for circles of objects each 700 new ones, while modules are read, takes a tenth of the time of a draft.
    gc.set_threshold(NEW_OBJECTS)


class _WithoutPandas:
    """Lets nothing find pandas, which Arrow imports to ask whether a list is one of its: a third of a second."""

    def find_spec(self, name: str, path: object = None, target: object = None) -> None:
        if name == "pandas":
            raise ModuleNotFoundError("the command line does without pandas", name=name)


class _Undescribed(ModuleType):
    """Stands for what takes descriptions apart, as Arrow does for each of its 280 functions: a fiftieth of a second."""

    @staticmethod
    def NumpyDocString(_text: str) -> dict[str, list[str]]:  # noqa: N802
        """No section says anything."""
        return defaultdict(list)
