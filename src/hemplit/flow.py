"""The whole way in one place, and the Python interface: files, core and targets meet here and nowhere else.

files ─read→ Grid ─shape→ Relation ─study→ Findings ─draft→ Design ─split→ Tables ─write→ target ─prove→ Proof
"""

from __future__ import annotations

import csv
import io
import os
import re
import time
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit import files
from hemplit.core import shape, study
from hemplit.core.changes import changes, proposals
from hemplit.core.draft import draft as draft_design
from hemplit.core.draft import together as hang_together
from hemplit.core.draft.naming import unused
from hemplit.core.draft.redraft import Redrafted
from hemplit.core.draft.redraft import redraft as redraft_design
from hemplit.core.draft.wishes import NO_WISHES, Wishes
from hemplit.core.ledger import Member, ledger
from hemplit.core.model.acts import Act
from hemplit.core.model.proof import HANDFUL, Check, Difference, Proof
from hemplit.core.proof import check_cells, check_rejoin, check_stored, check_structure, check_view
from hemplit.core.same import contradictions, kinds_united, with_united
from hemplit.core.shape import CORRECTIONS
from hemplit.core.split import split
from hemplit.core.strangers import strangers
from hemplit.core.study.dependencies import TimeLimitError, silent, stream
from hemplit.core.words import snake, words
from hemplit.design_file.locate import line_of
from hemplit.design_file.read import at_line, from_toml, text_of
from hemplit.design_file.write import is_edited, to_toml, with_column
from hemplit.disk import write_whole
from hemplit.errors import DesignError, InputError, TargetError, nearest

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping

    from hemplit.core.draft.sheets import Together
    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.findings import Findings
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.proof import Change
    from hemplit.core.model.relation import Doubt, Kind, Relation
    from hemplit.core.model.tables import Tables, View
    from hemplit.core.shape import Shaped
    from hemplit.targets.contract import Target

    #: Told what is being done, how much of it is done, and how much there is.
    Progress = Callable[[str, int, int], None]

DESIGN_ENDING = ".design.toml"
LEFT_OUT_ENDING = ".left-out.csv"
#: What worksheets are called that nobody has named.
NO_NAMES = frozenset("sheet tabelle feuille hoja blatt table".split())
#: A draft looks for determinants of up to so many columns.
DEPTH = 2


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


@dataclass(frozen=True)
class Loaded:
    """What a target holds now, the proof of it, and what the steps found otherwise than when they were drafted."""

    design: Design
    tables: Tables
    proof: Proof
    sheets: Sheets
    left_out: Path | None = None
    """The file in which all rows stand that were left out, if there are more than a handful."""

    @cached_property
    def told(self) -> tuple[tuple[str, Doubt], ...]:
        """By the title of the sheet."""
        relations = self.sheets.relations
        steps = ((relation.source.title, one) for relation in relations.values() for one in relation.told)
        whole = with_united(self.design, relations)
        return (*steps, *strangers(self.design, self.tables, whole), *contradictions(self.design, whole))

    @property
    def needs_a_look(self) -> bool:
        """Whether a person must look at it: it is not proven, was told of something, or rows of data are left out."""
        torn = any(row.step == Act.LONG_ROWS for ledger in self.proof.ledgers for row in ledger.rows)
        return not self.proof.holds or bool(self.told) or torn


def read(paths: Iterable[str], progress: Progress = silent, *, uncorrected: bool = False) -> Sheets:
    """Reads and shapes all sheets of the files; ``uncorrected`` leaves every spelling as it is.

    Raises ``InputError`` for the first that cannot be read.
    """
    grids: dict[str, Grid] = {}
    taken: set[tuple[Path, str | None]] = set()
    twice: list[str] = []
    for path in paths:
        progress(f"reading {path}", 0, 1)
        found = files.read(path)
        for grid in found:
            place = Path(grid.source.path).absolute(), grid.source.sheet
            if place in taken:
                twice.append(f"{grid.source.title} was given twice and is read once")
                continue
            taken.add(place)
            given = Path(grid.source.path)
            stem = _stem(given)
            several = sum(other.source.path == grid.source.path for other in found) > 1
            own = words(grid.source.sheet or "") if several else ()
            # A worksheet has its own name, unless that is none or another has it.
            alone = own and own[0].rstrip("0123456789") not in NO_NAMES and snake(own) not in grids
            grids[unused(snake(own if alone else (*stem, *own)), grids, "sheet")] = grid
    sheets = shape_grids(grids, progress, uncorrected=uncorrected)
    return replace(sheets, notes=(*twice, *sheets.notes))


def _stem(path: Path) -> tuple[str, ...]:
    """The words for a sheet: from the file name, of a pattern from its whole words, else from the folder.

    >>> _stem(Path("yard/jobs-2026-0*.csv")), _stem(Path("haul-outs/2026-0*.csv")), _stem(Path("Crew Roster.xlsx"))
    (('jobs',), ('haul', 'outs'), ('crew', 'roster'))
    """
    before, starred, _ = path.name.split(".")[0].partition("*")
    if not starred:
        return words(before) or words(path.parent.name)
    return tuple(word for word in words(re.sub(r"[^\W_]+$", "", before)) if word.isalpha()) or words(path.parent.name)


def shape_grids(grids: Mapping[str, Grid], progress: Progress = silent, *, uncorrected: bool = False) -> Sheets:
    """The relations of the grids, which come by the names of their sheets; a sheet without a table is left out.

    Raises ``InputError`` if there is only that one.
    """
    shaped: dict[str, tuple[Grid, Shaped]] = {}
    notes: list[str] = []
    for name, grid in grids.items():
        progress(f"shaping {grid.source.title}", 0, 1)
        notes += [f"{grid.source.title}: {note}" for note in grid.notes]
        try:
            tables = shape.shape(grid, CORRECTIONS if uncorrected else ())
        except InputError as error:
            if len(grids) == 1:
                raise
            notes.append(f"{error.where}: {error.what}; this sheet is left out")
            continue
        for one in tables:
            title = one.relation.source.title
            notes += [f"{title}: {cut}" for cut in study.limits(len(one.relation.columns))]
            shaped[unused(name, shaped, "sheet")] = (grid, one)
    if not shaped:
        raise InputError(next(iter(grids.values())).source.path, "no sheet of it holds a table", "; ".join(notes))
    return replace(_sheets(shaped), notes=tuple(notes))


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


def findings(sheets: Sheets, progress: Progress = silent, depth: int | None = DEPTH) -> dict[str, Findings]:
    """What the study of each sheet shows, under the name of the sheet; as deep as a draft needs it."""
    return {
        name: study_relation(relation, depth if len(relation.columns) <= study.WIDE or depth != DEPTH else 1, progress)
        for name, relation in sheets.relations.items()
    }


def study_relation(relation: Relation, depth: int | None, progress: Progress = silent) -> Findings:
    """What the study of one relation shows. Raises ``InputError`` if it has more columns than are studied."""
    if len(relation.columns) > study.MOST_STUDIED:
        what = f"it has {len(relation.columns):,} columns, and at most {study.MOST_STUDIED:,} are studied"
        raise InputError(relation.source.title, what, "turn columns into rows, or leave some out")
    return study.study(relation, depth, lambda what, done, of: progress(f"{relation.source.title}: {what}", done, of))


@dataclass(frozen=True)
class Asked:
    """What dependencies are asked for: left sides of up to ``depth`` columns (None for any number), near ones up to a
    ``share`` of the rows, within ``seconds``; with ``ignore_blanks``, rows with a blank on the left say nothing."""

    depth: int | None = 3
    share: float = 0.02
    seconds: float | None = None
    ignore_blanks: bool = False


def study_ties(relation: Relation, asked: Asked, progress: Progress = silent) -> Findings:
    """Also the near dependencies, lists and bands; what the time does not suffice for is said in the findings."""
    watch = _watch(relation, asked.seconds, progress)
    return study.study_ties(relation, asked.depth, asked.share, watch, ignore_blanks=asked.ignore_blanks)


def stream_dependencies(
    relation: Relation, seconds: float | None, progress: Progress = silent
) -> Iterator[tuple[tuple[str, ...], tuple[str, ...], bool]]:
    """All minimal left sides with what each decides and whether it is a key, as they are found, in bounded memory.

    Raises ``TimeLimitError`` when ``seconds`` are over.
    """
    names = relation.names
    watch = _watch(relation, seconds, progress)
    for left, rights in stream(study.grouped(relation), relation.row_count, None, watch):
        decided = tuple(names[right] for right in rights if right < len(names))
        yield tuple(names[index] for index in left), decided, rights[-1] == len(names)


def _watch(relation: Relation, seconds: float | None, progress: Progress) -> Progress:
    """The progress that also ends the search when its time is over."""
    end = time.monotonic() + seconds if seconds is not None else None

    def watch(what: str, done: int, of: int) -> None:
        progress(f"{relation.source.title}: {what}", done, of)
        if end is not None and time.monotonic() > end:
            raise TimeLimitError(f"stopped after {seconds:g} s while {what} ({done:,} of {of:,})")

    return watch


def draft(sheets: Sheets, progress: Progress = silent, wishes: Wishes = NO_WISHES) -> Design:
    """The design that Hemplit proposes for the sheets; the files in it are named as they were given."""
    found = findings(sheets, progress, wishes.depth)
    return draft_design(found, sheets.parents, wishes, sheets.relations)


def together(sheets: Sheets, found: Mapping[str, Findings]) -> Together:
    """How the sheets hang together, given their findings."""
    return hang_together(found, sheets.parents, sheets.relations)


# Design files --------------------------------------------------------------------------------------------------------


def default_design_path(path: str) -> Path:
    """Where the design of a sheet or beside a target goes.

    >>> default_design_path("yard/jobs.csv").name
    'jobs.design.toml'
    """
    return Path(path).with_name(Path(path).name.rsplit(".", 1)[0] + DESIGN_ENDING)


def save_design(design: Design, path: Path, *, over_edited: bool) -> Design:
    """Writes the design, naming its sheets as seen from its own folder, and returns it as written.

    Raises ``DesignError`` instead of overwriting a design that a person edited, unless told to.
    """
    check_place(path, over_edited=over_edited)
    try:
        moved = replace(
            design,
            sheets=tuple(
                replace(sheet, file=_seen_from(path.parent, sheet.file)) if sheet.is_read else sheet
                for sheet in design.sheets
            ),
        )
        write_whole(path, to_toml(moved, path.name))
    except OSError as error:
        raise DesignError(str(path), f"it cannot be written ({error.strerror})", "choose another folder") from error
    return moved


def check_place(path: Path, *, over_edited: bool) -> None:
    """Raises ``DesignError`` if a design may not be written there: what is no design is never overwritten."""
    if path.is_dir():
        raise DesignError(str(path), "this is a folder", f"name a file, such as {path / ('NAME' + DESIGN_ENDING)}")
    if not is_design(str(path)):
        raise DesignError(str(path), "a design is a file that ends in .toml", f"name it {path.stem}{DESIGN_ENDING}")
    if not path.parent.is_dir() or not os.access(path.parent, os.W_OK):
        raise DesignError(str(path), "its folder is not there, or may not be written to", "choose another folder")
    if path.exists() and "[sheets." not in text_of(path):
        raise DesignError(str(path), "there is another file of this name, which is no design", "name another file")
    if not over_edited:
        _refuse_edited(path)


def is_edited_design(path: Path) -> bool:
    """Whether there is a design that a person edited."""
    return path.is_file() and is_edited(text_of(path))


def redraft(path: Path, sheets: Sheets, progress: Progress = silent, wishes: Wishes = NO_WISHES) -> Redrafted:
    """Adds to an edited design the columns that it does not know yet; what else a draft would do now is only told."""
    text = text_of(path)
    kept = from_toml(text, str(path))
    made = redraft_design(kept, draft(sheets, progress, wishes))
    for table, column in made.added:
        text = with_column(text, kept.by_name[table], column)
    if made.added:
        from_toml(text, str(path))
        write_whole(path, text)
    return made


def _refuse_edited(path: Path) -> None:
    if is_edited_design(path):
        raise DesignError(
            str(path), "somebody has edited this design", "load it as it is, or draft over it with draft --replace"
        )


def _seen_from(folder: Path, file: str) -> str:
    try:
        return Path(os.path.relpath(file, folder)).as_posix()
    except ValueError:  # on another drive
        return Path(file).absolute().as_posix()


def read_for(design: Design, folder: Path, progress: Progress = silent) -> Sheets:
    """Reads the sheets that a design names, and shapes them by its steps and kinds."""
    shaped: dict[str, tuple[Grid, Shaped]] = {}
    known: dict[str, dict[str | None, Grid]] = {}
    notes: list[str] = []
    parts = {(str(sheet.of), sheet.part): sheet.name for sheet in design.sheets if sheet.of is not None}
    for sheet in design.sheets:
        if not sheet.is_read:
            continue
        path = str(folder / sheet.file)
        if path not in known:
            progress(f"reading {path}", 0, 1)
            known[path] = {grid.source.sheet: grid for grid in files.read(path)}
        if sheet.sheet not in known[path]:
            known[path] |= {grid.source.sheet: grid for grid in files.read(path, apart=True)}
        if sheet.sheet not in known[path]:
            raise InputError(path, f"it has no sheet '{sheet.sheet}' with content", "correct 'sheet' in the design")
        grid = known[path][sheet.sheet]
        notes += [f"{grid.source.title}: {note}" for note in grid.notes]
        shaped[sheet.name] = (grid, shape.replay(grid, sheet.steps, _decided_kinds(design, sheet, parts)))
    sheets = replace(_sheets(shaped, parts), notes=tuple(dict.fromkeys(notes)))
    for sheet in design.sheets:
        if sheet.unites:
            continue
        if sheet.name not in sheets.relations:
            raise DesignError(
                f"sheets.{sheet.name}", f"no step of '{sheet.of}' takes '{sheet.part}' out of it", "delete it"
            )
        names = sheets.relations[sheet.name].names
        unknown = next((header for header in sheet.leave_out if header not in names), None)
        if unknown is not None:
            what = f"{sheets.relations[sheet.name].source.title} has no column '{unknown}'"
            raise DesignError(f"sheets.{sheet.name}.leave_out", what, nearest(unknown, names))
    for name, parent in sheets.parents.items():
        if not design.tables_of(name):
            raise DesignError(
                f"sheets.{parent}", f"a step takes '{name}' out, and no table holds it", "strike that step"
            )
    return sheets


def _decided_kinds(
    design: Design, sheet: SheetPlan, parts: Mapping[tuple[str, str], str]
) -> dict[tuple[str, str], Kind]:
    names = {"": sheet.name} | {part: name for (of, part), name in parts.items() if of == sheet.name}
    united = {("", header): kind for header, kind in kinds_united(design, sheet.name)}
    return united | {
        (part, header): column.kind
        for part, name in names.items()
        for table in design.tables_of(name)
        for column in table.columns
        if column.kind is not None
        for header in column.sources
    }


@dataclass(frozen=True)
class Explained:
    """A design with what its sheets show now; ``text`` is its file, in which lines are found."""

    design: Design
    findings: Mapping[str, Findings]
    sheets: Sheets
    text: str

    def line_of(self, place: str) -> int | None:
        """The line of the file where a table or a column is decided."""
        return line_of(self.text, place)


def explain(path: Path, progress: Progress = silent) -> Explained:
    """Reads a design and studies its sheets again."""
    text = text_of(path)
    design = from_toml(text, str(path))
    sheets = read_for(design, path.parent, progress)
    whole = replace(sheets, relations=with_united(design, sheets.relations))
    return Explained(design, findings(whole, progress), whole, text)


# Loading and proving -------------------------------------------------------------------------------------------------


def load_sheets(sheets: Sheets, target: str, *, replace_target: bool, progress: Progress = silent) -> Loaded:
    """Drafts, loads, proves, and writes the design beside the target."""
    place = _free_target(target, replace_target)
    check_place(default_design_path(target), over_edited=False)
    loaded = _load(draft(sheets, progress), sheets, place, progress, over=replace_target)
    save_design(loaded.design, default_design_path(target), over_edited=False)
    return _with_left_out(loaded, target)


def load_design(path: Path, target: str, *, replace_target: bool, progress: Progress = silent) -> Loaded:
    """Loads what a design file says, and proves."""
    place = _free_target(target, replace_target)
    text = text_of(path)
    design = from_toml(text, str(path))
    try:
        sheets = read_for(design, path.parent, progress)
        return _with_left_out(_load(design, sheets, place, progress, over=replace_target), target)
    except DesignError as error:
        raise at_line(error, text, str(path)) from error


def prove_design(path: Path, target: str, progress: Progress = silent) -> Loaded:
    """Proves a design against what the target holds now."""
    place = _target(target)
    text = text_of(path)
    design = from_toml(text, str(path))
    try:
        sheets = read_for(design, path.parent, progress)
        tables = split(design, sheets.relations)
    except DesignError as error:
        raise at_line(error, text, str(path)) from error
    return Loaded(design, tables, _prove(design, sheets, tables, place, progress), sheets)


def changes_of(sheets: Sheets, name: str) -> Iterator[Change]:
    """Every cell of a sheet that a step changed."""
    children = [sheets.relations[child] for child, parent in sheets.parents.items() if parent == name]
    return changes(sheets.grids[name], sheets.relations[name], children)


def proposals_of(sheets: Sheets, name: str) -> Iterator[tuple[str, list[Change]]]:
    """What each proposed step of a sheet would change."""
    return proposals(sheets.grids[name], sheets.relations[name])


def _with_left_out(loaded: Loaded, target: str) -> Loaded:
    """Writes the rows that were left out into a file beside the target, if there are more than a handful."""
    rows = [(ledger.sheet, row) for ledger in loaded.proof.ledgers for row in ledger.rows]
    if len(rows) <= HANDFUL:
        return loaded
    path = Path(target).with_name(Path(target).name.rsplit(".", 1)[0] + LEFT_OUT_ENDING)
    lines = [["sheet", "row", "left out by"], *([sheet, row.place, row.step, *row.texts] for sheet, row in rows)]
    text = io.StringIO(newline="")
    csv.writer(text).writerows(lines)
    try:
        write_whole(path, text.getvalue())
    except OSError as error:
        raise TargetError(
            str(path), f"it cannot be written ({error.strerror})", "close it in other programs"
        ) from error
    return replace(loaded, left_out=path)


def _target(text: str) -> Target:
    # The database libraries take most of a second to import, and only loading and proving need them.
    from hemplit.targets import target_for

    return target_for(text)


def _free_target(target: str, replace_target: bool) -> Target:
    place = _target(target)
    place.check()
    if place.exists() and not replace_target:
        raise TargetError(target, "it exists already", "load over it with --replace, or name another target")
    return place


def replaced(target: str) -> tuple[str, ...]:
    """The tables and views that loading over a target replaces; all else in it stays."""
    place = _target(target)
    place.check()
    return place.ours()


def _load(design: Design, sheets: Sheets, target: Target, progress: Progress, *, over: bool) -> Loaded:
    progress("splitting", 0, 1)
    tables = split(design, sheets.relations)
    progress("proving", 0, 1)
    proof = prove_tables(design, sheets, tables)
    if not proof.holds:
        raise _not_given_back(design, sheets, tables)
    progress("writing", 0, 1)
    target.write(tables, over=over)
    try:
        return Loaded(design, tables, _with_target(proof, sheets, tables, target, progress), sheets)
    except KeyboardInterrupt as stopped:
        raise KeyboardInterrupt("the new tables are loaded, but not verified") from stopped


def _not_given_back(design: Design, sheets: Sheets, tables: Tables) -> DesignError:
    """The error for tables that would not give the sheets back, before anything is written."""
    for view in tables.views:
        for column in view.columns:
            header, relation = column.header, sheets.relations[view.sheet]
            check = check_rejoin(relation, tables, view, only=header) if column.gathered is None else None
            if check is not None and check.different:
                first = check.differences[0]
                places = [
                    f"tables.{table.name}.columns.{one.name}"
                    for table in design.tables_of(view.sheet)
                    for one in table.columns
                    if header in one.sources
                ]
                what = f"{first.place} says '{first.expected}', and the tables would give back '{first.found}'"
                hint = "correct the formula, or write store = true"
                return DesignError((places or [f"sheets.{view.sheet}"])[0], what, hint)
    return DesignError(f"sheets.{tables.views[0].sheet}", "some of its cells would be in no account", "draft it again")


def _prove(design: Design, sheets: Sheets, tables: Tables, target: Target, progress: Progress) -> Proof:
    return _with_target(prove_tables(design, sheets, tables), sheets, tables, target, progress)


def _with_target(proof: Proof, sheets: Sheets, tables: Tables, target: Target, progress: Progress) -> Proof:
    """The proof of the tables, and that the target holds them and gives the sheets back."""
    progress("proving", 0, 1)
    target.check_held()
    structure = check_structure(*target.structure(tables))
    expected = {table.name: target.expected(table) for table in tables.tables}
    checks = [
        _unless_torn(structure, "the tables", lambda: check_stored(tables, expected, target.read(tables))),
        structure,
        *(
            _unless_torn(structure, f"view {view.name}", partial(_prove_view, view, sheets, tables, target))
            for view in tables.views
        ),
    ]
    return Proof((*proof.checks, *checks), proof.ledgers, proof.rows)


def _prove_view(view: View, sheets: Sheets, tables: Tables, target: Target) -> Check:
    order = target.order(tables.by_name[view.base])
    return check_view(view, tables, sheets.relations, order, lambda: target.view(view, tables))


def _unless_torn(structure: Check, what: str, check: Callable[[], Check]) -> Check:
    """The check; what cannot be read because somebody changed the structure is a difference and no error."""
    try:
        return check()
    except TargetError as error:
        if not structure.different:
            raise
        return Check(f"{what} can be read", 1, "parts", 1, (Difference(what, "its rows", error.what),))


def prove_tables(design: Design, sheets: Sheets, tables: Tables) -> Proof:
    """Whether the tables, before they go anywhere, give the sheets back, and where every cell went."""
    views = {view.sheet: view for view in tables.views}
    plans = {sheet.name: sheet for sheet in design.sheets}
    checks = []
    members: dict[int, tuple[Grid, list[Member]]] = {}
    for name, grid in sheets.grids.items():
        family = [name, *(child for child, parent in sheets.parents.items() if parent == name)]
        for one in family:
            if any(column.own for column in sheets.relations[one].columns):
                checks.append(check_cells(grid, sheets.relations[one]))
            checks.append(check_rejoin(sheets.relations[one], tables, views[one]))
            _, of_grid = members.setdefault(id(grid), (grid, []))
            of_grid.append(Member(sheets.relations[one], views[one], plans[one]))
    rows = sum(sheets.relations[name].row_count for name in sheets.grids)
    return Proof(tuple(checks), tuple(ledger(grid, some) for grid, some in members.values()), rows)


def is_design(path: str) -> bool:
    """Whether a file on the command line is a design and not a sheet."""
    return path.lower().endswith(".toml")
