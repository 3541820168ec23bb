"""Files → grids → relations: the sheets that are given, and those that a design names."""

from __future__ import annotations

import re
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit import files
from hemplit.at_once import at_once
from hemplit.core import shape, study
from hemplit.core.model.progress import silent
from hemplit.core.model.relation import Doubt
from hemplit.core.shape import CORRECTIONS
from hemplit.core.shape.area import is_area, is_of_lists
from hemplit.core.shape.atoms import borne_out, named_whole, sizes_listed
from hemplit.core.shape.headed_apart import headed_apart
from hemplit.core.shape.listed_apart import listed_apart
from hemplit.core.shape.looks import MONTHS
from hemplit.core.shape.spelling import not_listed
from hemplit.core.shape.turned import laid, upright
from hemplit.core.study.owned import may_belong
from hemplit.core.tables.same import kinds_united
from hemplit.core.texts.nouns import plural, singular
from hemplit.core.texts.words import snake, unused, words
from hemplit.dataclasses import dataclass, field, replace
from hemplit.errors import TAKE_UP, CellError, DesignError, InputError, nearest

if TYPE_CHECKING:
    from collections.abc import Collection, Container, Iterable, Mapping

    import pyarrow as pa

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid, Source
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Kind, Relation, Step
    from hemplit.core.shape import Shaped
#: What worksheets are called that nobody has named.
NO_NAMES = frozenset("sheet tabelle feuille hoja blatt table".split())


@dataclass(frozen=True)
class Sheets:
    """Sheets that were read and shaped, each under the name by which a design speaks of it.

    ``parents`` names, for each relation that was taken out of another, that other; it has no grid of its own.
    ``notes`` are worth saying before anything else, such as which sheets hold no table.
    """

    grids: Mapping[str, Grid]
    relations: Mapping[str, Relation]
    parents: Mapping[str, str] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    def family(self, sheet: str) -> tuple[str, ...]:
        """A sheet that has a grid, and the relations that were taken out of it."""
        return (sheet, *(child for child, parent in self.parents.items() if parent == sheet))


def read(
    paths: Iterable[str],
    progress: Progress = silent,
    *,
    uncorrected: bool = False,
    skip_broken: bool = False,
    area: str = "",
) -> Sheets:
    """Reads and shapes all sheets of the files.

    ``uncorrected`` leaves every spelling as it is, ``skip_broken`` leaves out the files of a folder that cannot be
    read, and ``area`` is the range of cells that is the table. Raises ``InputError`` for the first that cannot be read.
    """
    if area and not is_area(area):
        raise InputError(f"--area {area}", "this is no range of cells", "write for example --area A4:M177")
    taken: set[tuple[Path, str | None]] = set()
    twice: list[str] = []
    once: list[tuple[Grid, ...]] = []
    paths = list(paths)
    progress(f"reading {paths[0] if paths else ''}", 0, len(paths))
    for number, read_now in enumerate(at_once(partial(files.read, skip_broken=skip_broken), paths), 1):
        progress("reading sheets", number, len(paths))
        new: dict[tuple[Path, str | None], Grid] = {}
        for grid in read_now:
            place = Path(grid.source.path).absolute(), grid.source.sheet
            if place in taken:
                twice.append(f"{grid.source.title} was given twice and is read once")
            else:
                new[place] = grid
        taken |= new.keys()
        once.append((*new.values(),))
    found = [*files.in_series(paths, once)]
    names = names_of(tuple(grid.source for grid in some) for some in found)
    given = (grid for some in found for grid in some)
    grids = dict(zip(names, given if area else map(upright, given), strict=True))
    without = dict.fromkeys(grids, CORRECTIONS) if uncorrected else {}
    sheets = shape_grids(grids, progress, without=without, area=area)
    return replace(sheets, notes=(*twice, *sheets.notes))


def names_of(found: Iterable[tuple[Source, ...]]) -> tuple[str, ...]:
    """The names that designs have for sheets, given file by file.

    >>> from hemplit.core.model.grid import Source
    >>> names_of([(Source("jobs 2026-05.xlsx", "Jobs"), Source("jobs 2026-05.xlsx", "Crew")), (Source("crew.csv"),)])
    ('jobs', 'crew', 'crew_2')
    """
    names: dict[str, None] = {}
    for together in found:
        for source in together:
            path = source.path
            of_many = files.is_database(path) or sum(one.path == path for one in together) > 1
            own = words((source.sheet or "").rpartition(".")[2]) if of_many else ()
            # A worksheet has its own name, unless that is none or another has it.
            alone = own and own[0].rstrip("0123456789") not in NO_NAMES and snake(own) not in names
            names[unused(snake(own if alone else (*_stem(Path(path)), *own)), names, "sheet")] = None
    return (*names,)


def grid_of(table: pa.Table, name: str) -> Grid:
    """The grid of an Arrow table under a name of its own. Raises ``InputError`` for cells that hold several values."""
    return files.of_table(table, name)


def is_in_files(grid: Grid) -> bool:
    """Whether a grid can be read again from where it came."""
    path = grid.source.path
    return files.is_address(path) or files.is_pattern(path) or Path(path.partition("#")[0]).is_file()


def _stem(path: Path) -> tuple[str, ...]:
    """The words for a sheet: from the file name, of a pattern from its whole words, else from the folder.

    The month of a file is none of them, as next month's comes to the same tables.

    >>> _stem(Path("yard/jobs-2026-0*.csv")), _stem(Path("haul-outs/2026-0*.csv")), _stem(Path("jobs 2026-05.xlsx"))
    (('jobs',), ('haul', 'outs'), ('jobs',))
    """
    name = path.name.split(".")[0]
    before = re.split(r"[*?[]", name, maxsplit=1)[0]
    if before == name:
        said = words(before)
        lasting = words(re.sub(r"(?:19|20)[0-9]{2}(?:[-_ .]?[0-9]{2}){0,2}", " ", before))
        return tuple(word for word in lasting if word not in MONTHS) or said or words(path.parent.name)
    return tuple(word for word in words(re.sub(r"[^\W_]+$", "", before)) if word.isalpha()) or words(path.parent.name)


def shape_grids(
    grids: Mapping[str, Grid],
    progress: Progress = silent,
    *,
    without: Mapping[str, Container[str]] | None = None,
    area: str = "",
) -> Sheets:
    """The relations of the grids, which come by the names of their sheets; a sheet without a table is left out.

    The acts that ``without`` names for a sheet are not looked for in it. Raises ``InputError`` if there is only one.
    """
    shaped: dict[str, tuple[Grid, Shaped]] = {}
    notes: list[str] = []

    def made(name: str) -> tuple[Shaped, ...] | InputError:
        try:
            return shape.shape(grids[name], (without or {}).get(name, ()), area)
        except InputError as error:
            return error

    progress("cleaning", 0, len(grids))
    for number, ((name, grid), tables) in enumerate(zip(grids.items(), at_once(made, [*grids]), strict=True), 1):
        progress("cleaning", number, len(grids))
        notes += notes_of(grid)
        if isinstance(tables, InputError):
            if len(grids) == 1:
                raise tables
            notes.append(f"{tables.where}: {tables.what}; this sheet is left out")
            continue
        for one in tables:
            title = one.relation.source.title
            notes += [f"{title}: {cut}" for cut in study.limits(len(one.relation.columns))]
            listed = _name_of_list(one) if len(tables) > 1 and is_of_lists(grid.source) else ""
            shaped[unused(listed or name, {*grids, *shaped} if listed else shaped, "sheet")] = (grid, one)
    if not shaped:
        raise InputError(next(iter(grids.values())).source.path, "no sheet of it holds a table", "; ".join(notes))
    for of_others in (not_listed, borne_out, named_whole, sizes_listed, headed_apart, listed_apart):
        for name, steps in of_others({name: one.relation for name, (_, one) in shaped.items()}).items():
            shaped[name] = _shaped_by(steps, *shaped[name])
    for name, (grid, one) in shaped.items():
        shaped[name] = _shaped_by(_with_owners(grid, one), grid, one)
    return replace(_sheets(shaped), notes=tuple(notes))


def _name_of_list(one: Shaped) -> str:
    """What one of the lists on a sheet is called after: what it has."""
    *first, last = words(one.relation.columns[0].name) or ("list",)
    return snake((*first, plural(singular(last))))


def _shaped_by(steps: tuple[Step, ...], grid: Grid, one: Shaped) -> tuple[Grid, Shaped]:
    """A sheet shaped by other steps; what was in doubt of it still is."""
    if steps == one.relation.steps:
        return grid, one
    again = shape.replay(grid, steps, {})
    return grid, replace(again, relation=replace(again.relation, doubts=one.relation.doubts))


def _with_owners(grid: Grid, one: Shaped) -> tuple[Step, ...]:
    """The steps of a sheet by which what belongs to things is taken out once for each of them."""
    steps = one.relation.steps
    if not any(may_belong(one.relation, child) for _, child in one.children):
        return steps
    from hemplit.core.draft.belonging import whole, with_owners  # few sheets ask, and drafting need not be there

    return with_owners(steps, shape.replay(grid, whole(steps), {}).relation)


def shape_by(steps: Mapping[str, tuple[Step, ...]], sheets: Sheets) -> Sheets:
    """The same sheets shaped by other steps; those for which there are none stay as they are."""
    shaped = {
        name: (grid, shape.replay(grid, steps.get(name, sheets.relations[name].steps), {}))
        for name, grid in sheets.grids.items()
    }
    return replace(_sheets(shaped), notes=sheets.notes)


def _sheets(shaped: Mapping[str, tuple[Grid, Shaped]], names: Mapping[tuple[str, str], str] | None = None) -> Sheets:
    """All relations under names of their own; ``names`` has those that a design gives to parts of a sheet."""
    relations: dict[str, Relation] = {}
    parents: dict[str, str] = {}
    taken = {*shaped, *(names or {}).values()}
    for name, (_, one) in shaped.items():
        relations[name] = one.relation
        for part, child in one.children:
            given = (names or {}).get((name, part)) or unused(f"{name}_{snake(words(part))}", taken, "part")
            taken.add(given)
            relations[given] = child
            parents[given] = name
    return Sheets({name: grid for name, (grid, _) in shaped.items()}, relations, parents)


def read_as_it_is(path: str) -> Relation:
    """The relation of the one sheet of a file with every text unchanged; the first row is the header."""
    grids = files.read(path)
    if len(grids) > 1:
        names = ", ".join(str(grid.source.sheet) for grid in grids)
        raise InputError(path, f"it has {len(grids)} sheets ({names})", "save the one that is meant by itself")
    return shape.take_as_it_is(grids[0])


def read_for(
    design: Design,
    folder: Path,
    progress: Progress = silent,
    *,
    skip_broken: bool = False,
    without: Collection[str] = (),
    misfits: list[CellError] | None = None,
) -> Sheets:
    """Reads the sheets that a design names, and shapes them by its steps and kinds.

    ``without`` are files in folders that are no part of them. Cells that do not fit are gathered in ``misfits``, and
    their rows left out, if it is given; otherwise they raise ``CellError``.
    """
    shaped: dict[str, tuple[Grid, Shaped]] = {}
    known: dict[str, dict[str | None, Grid]] = {}
    beside: dict[str, list[Grid]] = {}
    notes = [*design.told]
    parts = _parts(design)
    for sheet in design.sheets:
        if not sheet.is_read:
            continue
        path = sheet.file if files.is_address(sheet.file) else str(folder / sheet.file)
        of_database = files.is_database(path)
        if of_database:
            known.setdefault(path, {})
        if path not in known:
            progress(f"reading {path}", 0, 1)
            # Where a pattern stands for several layouts, the one of most files has its name and goes last.
            found = sorted(
                files.read(path, skip_broken=skip_broken, without=without),
                key=lambda grid: grid.source.path == path,
            )
            known[path] = {grid.source.sheet: grid for grid in found}
            beside[path] = [grid for grid in found if files.is_pattern(path) and grid.source.path != path]
        if sheet.sheet not in known[path]:
            table = f"#{sheet.sheet}" if of_database else ""
            known[path] |= {grid.source.sheet: grid for grid in files.read(path + table, apart=True)}
        if sheet.sheet not in known[path]:
            raise InputError(path, f"it has no sheet '{sheet.sheet}' with content", "correct 'sheet' in the design")
        grid = laid(known[path][sheet.sheet], sheet.steps)
        notes += notes_of(grid)
        made = _shaped(grid, design, sheet, misfits)
        told = tuple(_not_taken(one) for one in beside.get(path, ()) if not _takes(design, folder, one))
        made = replace(made, relation=replace(made.relation, told=(*made.relation.told, *told)))
        shaped[sheet.name] = (grid, made)
    sheets = replace(_sheets(shaped, parts), notes=tuple(dict.fromkeys(notes)))
    for sheet in design.sheets:
        if sheet.unites:
            continue
        if sheet.name not in sheets.relations:
            raise DesignError(
                f"sheets.{sheet.name}",
                f"the step of '{sheet.of}' that splits '{sheet.part}' is not there",
                "delete it, too",
            )
        names = sheets.relations[sheet.name].names
        unknown = next((header for header in sheet.leave_out if header not in names), None)
        if unknown is not None:
            what = f"{sheets.relations[sheet.name].source.title} has no column '{unknown}'"
            raise DesignError(f"sheets.{sheet.name}.leave_out", what, nearest(unknown, names))
    for name, parent in sheets.parents.items():
        if not design.tables_of(name):
            raise DesignError(f"sheets.{parent}", f"a step takes '{name}' out, and no table holds it", TAKE_UP)
    return sheets


def _shaped(grid: Grid, design: Design, sheet: SheetPlan, misfits: list[CellError] | None) -> Shaped:
    try:
        return shape.replay(grid, sheet.steps, decided_kinds(design, sheet))
    except CellError as error:
        if misfits is None:
            raise
        misfits += [one for one in (error, *error.further) if isinstance(one, CellError)]
        return replayed_but(grid, design, sheet, grid.row_count)[0]


def replayed_but(grid: Grid, design: Design, plan: SheetPlan, most: int) -> tuple[Shaped, list[tuple[int, str]]]:
    """A sheet by the steps and kinds of a design, without the rows that do not fit these, and why each does not.

    Raises ``CellError`` if there are more than ``most`` of them, or no other rows.
    """
    left: list[tuple[int, str]] = []
    misfit: CellError | None = None
    while True:
        try:
            return shape.replay(grid, plan.steps, decided_kinds(design, plan), left), left
        except CellError as error:
            odd = [one for one in (error, *error.further) if isinstance(one, CellError)]
            rows = {row: f"{one.where}: {one.what}" for one in reversed(odd) for row in one.rows}
            if not rows or len(left) + len(rows) > most:
                raise
            left, misfit = [*left, *sorted(rows.items())], error
        except InputError as error:
            raise misfit or error from error


def take_apart(design: Design, shaped: Mapping[str, tuple[Grid, Shaped]]) -> Sheets:
    """Sheets of a design with the relations that were taken out of them, under the names that it has for these."""
    return _sheets(shaped, _parts(design))


def _parts(design: Design) -> dict[tuple[str, str], str]:
    return {(str(sheet.of), sheet.part): sheet.name for sheet in design.sheets if sheet.of is not None}


def notes_of(grid: Grid) -> list[str]:
    """What is worth saying of a grid."""
    skipped = [f"not read: {one}" for one in grid.skipped]
    return [f"{grid.source.title}: {note}" for note in (*skipped, *grid.notes)]


def _takes(design: Design, folder: Path, grid: Grid) -> bool:
    """Whether a sheet of the design is that file."""
    return any(str(folder / sheet.file) == grid.source.path for sheet in design.sheets if sheet.is_read)


def _not_taken(grid: Grid) -> Doubt:
    what = f"{grid.source.title} has other columns than the files beside it, and no sheet of the design takes it"
    return Doubt(what, (), "draft it, or put it into another folder")


def decided_kinds(design: Design, sheet: SheetPlan) -> dict[tuple[str, str], Kind]:
    """The kinds that a design decides for the columns of a sheet and of its parts."""
    names = {"": sheet.name} | {one.part: one.name for one in design.sheets if one.of == sheet.name}
    united = {("", header): kind for header, kind in kinds_united(design, sheet.name)}
    told = [
        (table.sheet == name, (part, header), column.kind)
        for part, name in names.items()
        for table, column, header in design.headers_of(name)
        if column.kind is not None
    ]
    # Its own table knows better in which form a sheet writes what others say, too.
    return united | {header: kind for _, header, kind in sorted(told, key=lambda one: one[0])}
