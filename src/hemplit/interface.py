"""Hemplit from Python: the way from sheets to tables in a few plain functions, for scripts and notebooks.

sheets = hemplit.read("demo/jobs.csv")          # or {"jobs": a pandas or Arrow table}
draft = hemplit.draft(sheets)                   # a notebook shows its diagram
draft.pandas()["boats"]                         # the tables, before anything is loaded
hemplit.load(draft, "yard.sqlite").proof.holds
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.parquet

from hemplit.core.design.outline import outlines
from hemplit.core.diagram import lay_out
from hemplit.core.diagram.described import diagram_of
from hemplit.core.draft.wishes import NO_WISHES, Wishes
from hemplit.core.explain.walk import Excerpt, excerpt
from hemplit.core.model.arrays import taken
from hemplit.core.model.tally import Ask
from hemplit.core.tables.split import split
from hemplit.dataclasses import dataclass
from hemplit.design_file.write import to_toml
from hemplit.errors import InputError
from hemplit.flow import designs, drawing, further, loading, opening, reading, studying, tallying, topping
from hemplit.views.page.parts import excerpt_table
from hemplit.views.pictures import picture_as
from hemplit.views.tallies import said, tally_as

if TYPE_CHECKING:
    from hemplit.core.model.design import Design
    from hemplit.core.model.diagram import Picture
    from hemplit.core.model.findings import Findings
    from hemplit.core.model.tables import Tables
    from hemplit.core.tally.answer import Tallied


@dataclass(frozen=True)
class Drawing:
    """A diagram; a notebook shows it."""

    picture: Picture

    def _repr_svg_(self) -> str:
        return picture_as(".svg", self.picture).decode()

    def save(self, path: str | Path, *, dark: bool = False) -> Path:
        """Writes it as .svg, .png or .pdf. Raises ``InputError`` for another ending."""
        path = Path(path)
        drawing.save_shown(path, picture_as(path.suffix.lower(), self.picture, dark=dark))
        return path


@dataclass(frozen=True)
class Draft:
    """A design with the sheets for which it was drafted; a notebook shows its diagram and the first rows of its tables.

    >>> sheet = pa.table({"Job": [1, 2, 3, 4], "Boat": ["Teal", "Knot"] * 2, "Rig": ["sloop", "ketch"] * 2})
    >>> [*draft({"jobs": sheet}).arrow()]
    ['jobs', 'boats']
    """

    design: Design
    sheets: reading.Sheets

    @property
    def text(self) -> str:
        """The design file."""
        return to_toml(self.design)

    @cached_property
    def tables(self) -> Tables:
        """The tables with their rows. Raises ``DesignError`` where the sheets contradict the design."""
        return split(self.design, self.sheets.relations)

    def arrow(self) -> dict[str, pa.Table]:
        """The tables as Arrow tables, by their names in the order of the design."""
        return {
            plan.name: pa.table(
                {column.name: taken(column.values, column.codes) for column in self.tables.by_name[plan.name].columns}
            )
            for plan in self.design.tables
        }

    def pandas(self) -> dict[str, Any]:
        """The tables as pandas data frames; needs pandas."""
        return {name: table.to_pandas() for name, table in self.arrow().items()}

    def save(self, path: str | Path, *, replace: bool = False) -> Path:
        """Writes the design file; one that somebody has edited only with ``replace``."""
        designs.check_place(Path(path), over_edited=replace)
        designs.save_design(self.design, Path(path), over_edited=replace)
        return Path(path)

    def _repr_svg_(self) -> str:
        return draw(self)._repr_svg_()

    def _repr_html_(self) -> str:
        named = (excerpt(self.tables.by_name[plan.name]) for plan in self.design.tables)
        return self._repr_svg_() + "".join(excerpt_table(one, one.name, "row") for one in named)

    def __repr__(self) -> str:
        return f"Draft of {len(self.design.tables)} tables: {', '.join(self.design.by_name)}"


def read(*sources: str | Path | Mapping[str, Any], area: str = "", skip_broken: bool = False) -> reading.Sheets:
    """Reads sheets: paths as on the command line, or pandas and Arrow tables by their names.

    A table whose name is a path that ends in .parquet is written there first, so that it can be loaded and checked
    later. Raises ``InputError`` if a sheet cannot be read.
    """
    paths: list[str] = []
    grids = {}
    for source in sources:
        if not isinstance(source, Mapping):
            paths.append(str(source))
            continue
        for name, given in source.items():
            table = given if isinstance(given, pa.Table) else pa.Table.from_pandas(given, preserve_index=False)
            if name.lower().endswith(".parquet"):
                pa.parquet.write_table(table, name)
                paths.append(name)
            else:
                grids[name] = reading.grid_of(table, name)
    if paths and grids:
        raise InputError(next(iter(grids)), "it is in no file, and other sheets are", "call it NAME.parquet")
    return reading.shape_grids(grids, area=area) if grids else reading.read(paths, skip_broken=skip_broken, area=area)


def look(sheets: Any) -> dict[str, Findings]:
    """What is in each sheet: columns, possible keys, dependencies, problems. ``sheets`` as for ``read``."""
    return dict(studying.findings(_sheets(sheets)))


def draft(sheets: Any, wishes: Wishes = NO_WISHES) -> Draft:
    """Proposes tables for sheets, which are given as for ``read``."""
    read_ = _sheets(sheets)
    return Draft(studying.draft(read_, wishes=wishes), read_)


def load(what: Any, into: str | Path, *, replace: bool = False) -> loading.Loaded:
    """Loads a draft, a design file, or sheets into a database, and checks that nothing was lost.

    Raises ``DesignError`` where the sheets contradict the design, ``TargetError`` if it cannot be written.
    """
    if isinstance(what, str | Path) and opening.is_design(str(what)):
        return loading.load_design(Path(what), str(into), replace_target=replace)
    drafted = what if isinstance(what, Draft) else draft(what)
    for grid in drafted.sheets.grids.values():
        if not reading.is_in_files(grid):
            what = "it is in no file, so nobody could check it later"
            raise InputError(grid.source.path, what, "call it NAME.parquet when it is read")
    return loading.load_sheets(drafted.sheets, str(into), design=drafted.design, replace_target=replace)


def prove(design: str | Path, target: str | Path) -> loading.Loaded:
    """Checks a database against its sheets."""
    return loading.prove_design(Path(design), str(target))


def topup(design: str | Path, *sheets: str | Path, into: str | Path, conflicts: str = "stop") -> topping.Topped:
    """Adds what is new in further sheets to what is loaded, and checks it."""
    how = further.How(further.Conflicts(conflicts))
    return topping.topup(Path(design), [str(sheet) for sheet in sheets], str(into), how)


def draw(what: Any) -> Drawing:
    """The diagram of a draft, of a design file, or of a database."""
    if isinstance(what, Draft):
        return Drawing(lay_out(diagram_of("", outlines(what.design))))
    return Drawing(drawing.picture_of(str(what)))


@dataclass(frozen=True)
class Totals:
    """What columns add up to, compared with the flat sheets; a notebook shows it as a table."""

    tallied: Tallied

    @property
    def holds(self) -> bool:
        """Whether the flat sheets, added up by themselves, say the same."""
        return not self.tallied.differences and not self.tallied.unchecked

    @property
    def sql(self) -> str:
        """The statements that give it."""
        return "\n".join(self.tallied.statements)

    def arrow(self) -> pa.Table:
        """A row for each group; without the totals of all groups."""
        answer = self.tallied.answer
        columns = [
            *(pa.array([names[place] for names, _ in answer.rows], pa.string()) for place in range(len(answer.names))),
            *(pa.array([numbers[place] for _, numbers in answer.rows]) for place in range(len(answer.numbers))),
        ]
        return pa.table(columns, names=[*answer.names, *answer.numbers])

    def pandas(self) -> Any:
        """The same as a pandas data frame; needs pandas."""
        return self.arrow().to_pandas()

    def save(self, path: str | Path) -> Path:
        """Writes it as .csv, .xlsx or .json, or draws it as .png, .svg or .pdf."""
        drawing.save_shown(Path(path), tally_as(Path(path).suffix.lower(), self.tallied))
        return Path(path)

    def _repr_html_(self) -> str:
        answer = self.tallied.answer
        rows = tuple((*names, *map(said, numbers)) for names, numbers in answer.rows)
        columns = (*answer.names, *answer.numbers)
        return excerpt_table(Excerpt("", columns, rows, len(rows)), ", ".join(answer.numbers), "row")


def tally(
    design: str | Path,
    target: str | Path,
    of: str | Sequence[str],
    by: str | Sequence[str] = (),
    *,
    across: str = "",
    where: str | Sequence[str] = (),
) -> Totals:
    """Adds up columns across the tables of a database. Raises ``InputError`` where there is no honest answer."""
    of, by, where = ((one,) if isinstance(one, str) else tuple(one) for one in (of, by, where))
    return Totals(tallying.tally(Path(design), str(target), Ask(of, by, across, where)))


def _sheets(given: Any) -> reading.Sheets:
    if isinstance(given, reading.Sheets):
        return given
    return read(*given) if isinstance(given, list | tuple) else read(given)
