"""What targets share that are files of tables: written whole, compared as they stand there, never added to."""

from __future__ import annotations

import os
from abc import ABC, abstractmethod
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import numpy as np

from hemplit.core.model.loads import Ability
from hemplit.core.model.progress import silent
from hemplit.core.model.tables import Tables
from hemplit.core.proof.stored import check_stored
from hemplit.disk import put_new, unfinished
from hemplit.errors import TargetError
from hemplit.targets.rows import Written, as_stored

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt
    import pyarrow as pa

    from hemplit.core.model.loads import Load
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.proof import Difference
    from hemplit.core.model.tables import Outline, Peek, Table, View
    from hemplit.core.model.tally import Groups, Part

AGAIN = "load all sheets into it again, with --replace"


class FileTarget(ABC):
    """A file, or a folder of files; what stands behind a # says how it is written."""

    endings: ClassVar[tuple[str, ...]]
    lacks: Mapping[Ability, str]
    holds_views = False
    #: What such a file is called.
    called: ClassVar[str]

    def __init__(self, text: str) -> None:
        name, _, self.how = text.partition("#")
        self.text = name
        self.path = Path(name)
        self.folder: Path | None = self.path.absolute().parent

    @classmethod
    def takes(cls, text: str) -> bool:
        return "://" not in text and text.partition("#")[0].lower().endswith(cls.endings)

    @abstractmethod
    def _is_ours(self) -> bool:
        """Whether Hemplit made what is there."""

    @abstractmethod
    def _make(self, path: Path, tables: Tables, written: Written) -> None:
        """Writes the tables to a path. Raises ``OSError``, or ``TargetError`` for what it cannot hold."""

    @abstractmethod
    def _read(self, path: Path, tables: Tables) -> dict[str, pa.Table]:
        """The rows of each table that were written to a path."""

    @abstractmethod
    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """Where what it says of the tables is not as it was written."""

    def beside(self, ending: str) -> Path:
        return self.path.with_name(self.path.stem + ending)

    def check(self) -> None:
        if not self.path.absolute().parent.is_dir():
            raise TargetError(self.text, "its folder does not exist", f"make the folder {self.path.parent} first")
        if not os.access(self.path.absolute().parent, os.W_OK):
            raise TargetError(self.text, "nothing may be written to its folder", "choose another folder")
        if self.exists() and not self._is_ours():
            raise TargetError(self.text, f"Hemplit did not make this {self.called}", "name another")

    def check_held(self) -> None:
        if not self.exists():
            raise TargetError(self.text, "there is nothing of this name", "load the design into it first")
        if not self._is_ours():
            raise TargetError(self.text, f"Hemplit did not make this {self.called}", "name another")

    def exists(self) -> bool:
        return self.path.exists()

    def ours(self) -> tuple[str, ...]:
        return (f"this {self.called}",) if self.exists() else ()

    def write(self, tables: Tables, loads: Sequence[Load] = (), *, over: bool, progress: Progress = silent) -> None:
        try:
            self._put(tables, Written(tables, progress), over=over)
        except FileExistsError as error:
            what = "another program made this in the meantime"
            raise TargetError(self.text, what, "nothing was written; load with --replace, or name another") from error
        except OSError as error:
            what = f"it cannot be written ({error.strerror})"
            raise TargetError(self.text, what, "close it in other programs, and look at the disk") from error

    def _put(self, tables: Tables, written: Written, *, over: bool) -> None:
        with unfinished(self.path) as made:
            self._make(made, tables, written)
            if Ability.ROWS not in self.lacks:
                self._check_made(made, tables)
            if over:
                made.replace(os.path.realpath(self.path))
            else:
                put_new(made, self.path)

    def _check_made(self, made: Path, tables: Tables) -> None:
        """Raises ``TargetError`` if what was written would not be read as what it is; nothing is in its place yet."""
        held = self._read(made, tables)
        check = check_stored(tables, self.expected, lambda table: [held[table.name]])
        if check.different:
            first = check.differences[0]
            what = f"a {self.called} cannot hold '{first.expected}' of {first.place}"
            raise TargetError(self.text, what, "correct it in the sheet, or load into a database")

    def read(self, tables: Tables) -> dict[str, pa.Table]:
        return self._read(self.path, tables)

    def rows(self, table: Table) -> Iterator[pa.Table]:
        yield self.read(Tables((table,), ()))[table.name]

    def peek(self, rows: int) -> tuple[Peek, ...]:
        raise TargetError(self.text, f"a {self.called} is looked at with the programs that read it", "")

    def outlines(self) -> tuple[Outline, ...]:
        raise TargetError(self.text, f"a {self.called} has no catalogue of its tables", "draw the design instead")

    def expected(self, table: Table) -> pa.Table:
        return as_stored(table)

    def held(self, tables: Tables) -> dict[str, pa.Table]:
        return self.read(tables)

    def counts(self, tables: Tables) -> dict[str, int]:
        return {name: rows.num_rows for name, rows in self.read(tables).items()}

    def loads(self) -> tuple[Load, ...]:
        return ()

    def matching(self, table: Table, keys: pa.Table) -> pa.Table:
        raise TargetError(self.text, self.lacks[Ability.GROW], AGAIN)

    def append(self, added: Sequence[Table], changed: Sequence[Table], loads: Sequence[Load]) -> None:
        raise TargetError(self.text, self.lacks[Ability.GROW], AGAIN)

    def order(self, base: Table) -> npt.NDArray[np.int64]:
        return np.arange(base.row_count)

    def some_of_view(self, view: View, tables: Tables, picked: npt.NDArray[np.bool_]) -> Iterator[pa.Table] | None:
        return None

    def view(self, view: View, tables: Tables) -> Iterator[pa.Table]:
        raise TargetError(self.text, self.lacks[Ability.VIEWS], AGAIN)

    def tally(self, part: Part, tables: Tables, places: Mapping[str, int]) -> Groups:
        raise TargetError(self.text, self.lacks[Ability.VIEWS], "ask a database into which it is loaded")

    def tally_text(self, part: Part, tables: Tables) -> str:
        raise TargetError(self.text, self.lacks[Ability.VIEWS], "ask a database into which it is loaded")
