"""Values that are made of several (``B12 – Brass cleat``, ``12 m``, ``Miller, Ann``) are taken into their parts.

    Part                       Part Code   Part
    B12 – Brass cleat     →    B12         Brass cleat

That is done where every cell fits one shape, and the shape leaves no doubt: a comma, a title or a postal code shows
the parts, the header says that a name is a full one, or is made as they are. Where nearly all fit, or where the shape
is one of words only (a name in its usual order, a town and its country), it is proposed. What one sheet leaves in
doubt another may bear out:

    skippers   Skipper       slips   Skipper         skippers   Skipper First Name   Skipper Last Name
               Ben Falk              Falk, Ben    →             Ben                  Falk
"""

from __future__ import annotations

import re
from itertools import pairwise, permutations
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.children import shared
from hemplit.core.shape.headed import JOINED, headed, made_as
from hemplit.core.shape.looks import all_but, are_grouped
from hemplit.core.shape.working import Working, WorkingColumn, first_places, mark
from hemplit.core.texts.listed import CODE, DATE
from hemplit.core.texts.vocabulary import FULL
from hemplit.core.texts.words import is_part, is_person, words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.relation import Column, Relation

    #: What parts are called, and all values in parts.
    Parted = tuple[tuple[str, ...], set[tuple[str, ...]]]

ACT = Act.PARTS
SETTINGS = {"column": "column", "as": "parts", "names": "texts", "misfits": "misfits?"}
#: A shape is worth a word if so many of the filled cells fit it.
NEARLY_ALL = 0.95
#: In so many rows it is seen whether other columns hold the parts already.
LOOKED_AT = 50
#: Fewer different texts show no shape.
FEWEST = 3
#: So large a share of the values of one of both sheets stands in the other one.
BORNE_OUT = 0.5
#: That one name is the same may be an accident.
FEWEST_WHOLE = 2
PERSON = frozenset(
    "name names owner skipper contact crew person worker employee supervisor customer client member author inspector"
    " captain surveyor agent buyer seller signed kunde eigner besitzer mitarbeiter proprietaire dueno".split()
)
#: What names of firms end in; where such a share of a column's names do, they are no names of persons.
FIRM = frozenset(
    "ltd limited llc llp plc inc corp corporation company gmbh ohg sarl srl group holding holdings partners associates"
    " brothers bros sons services systems solutions supply supplies industries trading traders works engineering"
    " construction builders marine marina boats yachts yard boatyard boatworks chandlers chandlery motors garage bakery"
    " foods farm farms stores shop crafts school college council club society trust press insurance".split()
)
FIRMS = 0.1
ADDRESS = frozenset("address addr adresse anschrift direccion location".split())
UNITS = (
    r"mm|cm|dm|m|km|ft|in|inch|yd|mi|nm|mg|g|kg|t|lb|lbs|oz|ml|cl|dl|l|ltr|gal|h|hr|hrs|min|s|sec|days?|hours?|weeks?"
    r"|months?|years?|kW|W|hp|PS|V|A|Ah|°C|°F|kn|kts|bar|psi|m2|m²|m3|m³|pcs|pc|pairs?|sets?|rolls?|tins?"
)
NAMES = ("First Name", "Last Name")
#: The parts of a name, which are not called after its header if that says no more than "Full Name".
OF_NAMES = ("Title", *NAMES, "Suffix")
WORD = r"[^\W\d_][\w'’.-]*"
PREFIX = r"(?:Mr|Mrs|Ms|Miss|Dr|Prof|Capt|Herr|Frau|Mme|M)\.?"
SUFFIX = r"(?:Jr|Sr|Jun|Sen|II|III|IV|MD|PhD|Esq)\.?"
FIRST = rf"{WORD}(?: [A-Z]\.)?"
LAST = rf"(?:(?:van|von|de|der|den|la|le|di|da|du|ter) )*{WORD}"
STREET = r"\d+\w? [^,]+|[^,]+ \d+\w?"
POSTAL = r"[A-Z]{0,2}-?\d{4,6}|[A-Z]{1,2}\d{1,2}[A-Z]? ?\d[A-Z]{2}"


@dataclass(frozen=True)
class Shape:
    """One way in which a value is made of parts: how it reads, the names of the parts, and when it is meant.

    It is ``sure``, or made so by a word of the header, one of ``sure_with``. ``whole`` is how a value reads that has
    one part only; a column of such alone has nothing to part.
    """

    pattern: str
    parts: tuple[str, ...]
    sure: bool
    headers: frozenset[str] = frozenset()
    sure_with: frozenset[str] = frozenset()
    whole: str = ""


#: Of values that are made as their header is, which calls the parts.
AS_HEADED = {name: Shape(pattern, ("", ""), True) for name, pattern in JOINED.items()}
OF_VALUES = {
    "number and unit": Shape(rf"(?P<a>-?\d+(?:[.,]\d+)?) ?(?P<b>{UNITS})\.?", ("", "Unit"), True),
    "number, some with a limit": Shape(
        r"(?:(?P<a>[<>≤≥~≈±]|ca\.?|approx\.?|about|over|under|unter|über) ?)?(?P<b>-?\d+(?:[.,]\d+)?)",
        ("Limit", ""),
        False,
        whole=r"-?\d+(?:[.,]\d+)?",
    ),
    "number, some with a mark": Shape(
        r"(?P<a>-?\d+(?:[.,]\d+)?) ?(?P<b>[*†‡§]+)?", ("", "Mark"), True, whole=r"-?\d+(?:[.,]\d+)?"
    ),
    "code and description": Shape(rf"(?P<a>{CODE}) ?(?:[–—:|]|- |-(?= )) ?(?P<b>[^\W\d_].*)", ("Code", ""), True),
    "description and code": Shape(
        rf"(?P<a>[^\W\d_][^()\[\]]*?) ?[(\[](?=[^)\]]*[A-Z])(?P<b>{CODE})[)\]]", ("", "Code"), True
    ),
    "name and mail": Shape(r"(?P<a>[^\W\d_][^<>()@]*?) ?[<(](?P<b>[^\s@<>()]+@[^\s@<>()]+)[>)]", ("", "Email"), True),
    "name and phone": Shape(
        rf"(?P<a>{WORD}(?: {WORD})*) ?[,;:/(–-]? ?(?!{DATE}|(?:19|20)\d\d[-/])(?P<b>\+?\d[\d ()/-]{{5,}}\d)\)?",
        ("", "Phone"),
        True,
        PERSON,
    ),
    "mail and phone": Shape(
        r"(?P<a>[^\s@<>()]+@[^\s@<>(),;]+) ?[,;/|(–-]? ?(?P<b>\+?\d[\d ()/-]{5,}\d)\)?", ("Email", "Phone"), True
    ),
    "phone and mail": Shape(
        r"(?P<a>\+?\d[\d ()/-]{5,}\d) ?[,;/|(–-]? ?(?P<b>[^\s@<>()]+@[^\s@<>(),;]+)\)?", ("Phone", "Email"), True
    ),
    "from and to": Shape(rf"(?P<a>{DATE}) ?(?:-|–|—|to|until|bis) ?(?P<b>{DATE})", ("From", "To"), True),
    "last, first": Shape(
        rf"(?P<a>{WORD}(?: {WORD})?), (?P<b>{WORD}(?: {WORD})*)", ("Last Name", "First Name"), True, PERSON
    ),
    "prefix first last": Shape(
        rf"(?P<a>{PREFIX}) (?P<b>{WORD}(?: {WORD})*?) (?P<c>{LAST})",
        ("Title", "First Name", "Last Name"),
        True,
        PERSON,
    ),
    "first last": Shape(rf"(?P<a>{FIRST}) (?P<b>{LAST}(?:-{WORD})?)", ("First Name", "Last Name"), False, PERSON, FULL),
    "first last, some with a title": Shape(
        rf"(?:(?P<a>{PREFIX}(?: {PREFIX})?) )?(?P<b>{FIRST}) (?P<c>{LAST}(?:-{WORD})?)",
        ("Title", "First Name", "Last Name"),
        False,
        PERSON,
        FULL,
    ),
    "first last, some with a suffix": Shape(
        rf"(?P<a>{FIRST}) (?P<b>{LAST}(?:-{WORD})?)(?:,? (?P<c>{SUFFIX}))?",
        ("First Name", "Last Name", "Suffix"),
        False,
        PERSON,
        FULL,
    ),
    "street, town, region postal code": Shape(
        rf"(?P<a>{STREET}), (?P<b>[^,\d]+), (?P<c>[^,\d]+?),? (?P<d>{POSTAL})",
        ("Street", "Town", "Region", "Postal Code"),
        True,
    ),
    "street, town, postal code": Shape(
        rf"(?P<a>{STREET}), (?P<b>[^,\d]+?),? (?P<c>{POSTAL})", ("Street", "Town", "Postal Code"), True
    ),
    "street, postal code town, country": Shape(
        rf"(?P<a>{STREET}), (?P<b>[A-Z]{{0,2}}-?\d{{4,6}}) (?P<c>[^,\d]+), (?P<d>[^,\d]+)",
        ("Street", "Postal Code", "Town", "Country"),
        True,
    ),
    "street, postal code town": Shape(
        rf"(?P<a>{STREET}), (?P<b>[A-Z]{{0,2}}-?\d{{4,6}}) (?P<c>[^,\d]+)", ("Street", "Postal Code", "Town"), True
    ),
    "description and detail": Shape(r"(?P<a>[^\W\d_][^()]*?) ?\((?P<b>[^()\d]+)\)", ("", "Detail"), False),
    "street, town": Shape(rf"(?P<a>{STREET}), (?P<b>[^,\d]+)", ("Street", "Town"), False),
    "town, country": Shape(
        rf"(?P<a>{WORD}(?: {WORD})*), (?P<b>{WORD}(?: {WORD})*)", ("Town", "Country"), False, ADDRESS
    ),
}
SHAPES = {**AS_HEADED, **OF_VALUES}


def find(working: Working) -> Iterator[Step | Doubt]:
    """A step for each column of such values, to be done or proposed, and the cells that do not fit."""
    taken = shared(working)
    for column in working.columns:
        if column.own and not column.places and column.name not in taken:
            yield from _look_at(working, column)


def _look_at(working: Working, column: WorkingColumn) -> Iterator[Step | Doubt]:
    probe = [str(text) for text in column.cells.texts.slice(0, kinds.PROBE).to_pylist()]
    as_headed = made_as(column.name, column.cells.texts)
    if len(probe) < FEWEST and not as_headed:
        return
    for name, shape in ((as_headed, SHAPES[as_headed]),) if as_headed else OF_VALUES.items():
        if shape.headers and not shape.headers.intersection(words(column.name)):
            continue
        pattern = re.compile(shape.pattern)
        if not all_but(int((1 - NEARLY_ALL) * len(probe)) + 1, probe, pattern.fullmatch):
            continue
        if shape.whole and kinds.all_match(column.cells.texts, shape.whole):
            continue
        if name.startswith("number") and are_grouped([re.sub(r"[^\d.,]", "", text) for text in probe]):
            return
        texts = [str(text) for text in column.cells.texts.to_pylist()]
        unfit, has_parts = [], False
        for code, text in enumerate(texts):
            found = pattern.fullmatch(text)
            if found is None:
                unfit.append(code)
            elif not has_parts:
                has_parts = len([*filter(None, found.groupdict().values())]) > 1
        counts = column.cells.counts
        if not has_parts or counts[unfit].sum() > (1 - NEARLY_ALL) * counts.sum():
            continue
        of_persons = {*NAMES} <= {*shape.parts}
        if _stands_elsewhere(working, column, pattern) or (of_persons and _names_firms(texts)):
            return
        names = _names(working, column.name, shape.parts, headed(column.name).get(name, ()))
        example = max(texts, key=lambda text: len([*filter(None, _parts(pattern, text))]))
        sure = (shape.sure or bool(shape.sure_with.intersection(words(column.name)))) and not unfit
        sure = sure and not (of_persons and _is_named_whole(working, column))
        why = f"'{example}' is {' | '.join(filter(None, _parts(pattern, example)))}"
        why += f"; {len(unfit)} do not fit" if unfit else ""
        yield Step(ACT, (("column", column.name), ("as", name), ("names", names)), why, proposed=not sure)
        if unfit:
            places = working.places(column, first_places(column)[unfit])
            yield Doubt(
                f"'{column.name}' is {name}, but for some cells", places, "left whole", int(counts[unfit].sum())
            )
        return


def _names_firms(texts: Sequence[str]) -> bool:
    """Whether some of the texts end as the names of firms do.

    >>> _names_firms(["Saltby Marine", "Ann Marsh"]), _names_firms(["Di Press", *11 * ["Ann Marsh"]])
    (True, False)
    """
    last = (text.casefold().rstrip(".").split()[-1:] for text in texts)
    return sum(not FIRM.isdisjoint(word) for word in last) >= max(FIRMS * len(texts), 1)


def _is_named_whole(working: Working, column: WorkingColumn) -> bool:
    """Whether another column says whole names of this one, as of who is above somebody; it would find none in parts."""
    others = (one.cells.texts for one in working.columns if one is not column and one.own and len(one.cells.texts))
    return any(pc.all(pc.is_in(texts, value_set=column.cells.texts)).as_py() for texts in others)


def _stands_elsewhere(working: Working, column: WorkingColumn, pattern: re.Pattern[str]) -> bool:
    """Whether other columns have the parts already: then this one is computed from them, and no loss to leave."""
    rows = np.flatnonzero(column.filled)[:LOOKED_AT].tolist()
    given = [_parts(pattern, working.text(row, column)) for row in rows]
    others = [one for one in working.columns if one is not column]
    return all(
        any(
            all(working.text(row, one) == parts[place] for row, parts in zip(rows, given, strict=True))
            for one in others
        )
        for place in range(len(given[0]))
    )


def _names(working: Working, header: str, parts: Sequence[str], headed: Sequence[str]) -> tuple[str, ...]:
    """What the parts are called: as their header calls each, or after that and what they are."""
    taken = {column.name for column in working.columns} - {header}
    base = re.sub(r"(?i)[ _]*(full )?names?$|[ _]*address$", "", header) or ""
    said = headed or [f"{base if part in OF_NAMES else header} {part}".strip() if part else header for part in parts]
    return tuple(name if name not in taken else f"{name} (part)" for name in said)


def _parts(pattern: re.Pattern[str], text: str) -> list[str]:
    found = pattern.fullmatch(text)
    return [text] if found is None else [part or "" for part in found.groupdict().values()]


def fault(step: Step) -> str:
    """What is wrong with the names of the parts; empty if nothing."""
    names, parts = step.texts("names"), SHAPES[step.text("as")].parts
    if len(names) != len(parts) or len(set(names)) < len(names):
        return f"'{step.text('as')}' has {len(parts)} parts, and each needs a name of its own"
    return ""


def misfits(working: Working, step: Step) -> Iterator[tuple[WorkingColumn, int]]:
    """The column and each of its texts, by code, that are not made of these parts."""
    column = working.named(step.text("column"))
    pattern = re.compile(SHAPES[step.text("as")].pattern)
    for code, text in enumerate(column.cells.texts.to_pylist() if column else ()):
        if column and not pattern.fullmatch(str(text)):
            yield column, code


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with a column for each part; a cell that does not fit stays whole in the first."""
    column = working.named(step.text("column"))
    if column is None:
        return working
    pattern = re.compile(SHAPES[step.text("as")].pattern)
    given = [_parts(pattern, str(text)) for text in column.cells.texts.to_pylist()]
    names = step.texts("names")
    made = []
    for place, name in enumerate(names):
        texts = pa.array([(parts[place] or None) if place < len(parts) else None for parts in given], pa.string())
        encoded = texts.dictionary_encode()
        renumber = np.append(encoded.indices.fill_null(EMPTY).to_numpy().astype(np.int32), np.int32(EMPTY))
        cells = GridColumn(renumber[column.cells.codes], encoded.dictionary)
        changed = mark(column, column.filled, number) if place == 0 else None
        part_of = column.position if place else None
        made.append(replace(column, name=name, cells=cells, changed=changed, own=not place, part_of=part_of))
    columns = [part for one in working.columns for part in (made if one is column else [one])]
    return replace(working, columns=tuple(columns))


# Beside other sheets ------------------------------------------------------------------------------------------------


def borne_out(relations: Mapping[str, Relation]) -> dict[str, tuple[Step, ...]]:
    """The steps of those sheets that take values apart which they only proposed to, by the names of the sheets."""
    parted = {name: [*_parted(relation)] for name, relation in relations.items()}
    listed = {name: [*_listed(relation)] for name, relation in relations.items()}
    found = {}
    for name, relation in relations.items():
        others = [(other, one) for other, some in parted.items() if other != name for one in some]
        lists = [(other, one) for other, some in listed.items() if other != name for one in some]
        steps = tuple(_decided(step, relation, others, lists) for step in relation.steps)
        if steps != relation.steps:
            found[name] = steps
    return found


def named_whole(relations: Mapping[str, Relation]) -> dict[str, tuple[Step, ...]]:
    """The steps of those sheets that take names apart which another sheet says whole, and so would find in no table."""
    found = {}
    for name, relation in relations.items():
        others = [(other, column) for other, one in relations.items() if other != name for column in one.columns]
        steps = tuple(_left_whole(step, relation, others) for step in relation.steps)
        if steps != relation.steps:
            found[name] = steps
    return found


def sizes_listed(relations: Mapping[str, Relation]) -> dict[str, tuple[Step, ...]]:
    """The steps of those sheets that take a number from its unit, only proposed where one lists what another names: who
    hired a crane of 8t, of which a list says what it costs."""
    parted = [
        (name, step, columns, _held(columns))
        for name, relation in relations.items()
        for step, columns in _taken_apart(relation)
        if step.text("as") == "number and unit"
    ]
    left = [
        one
        for name, step, columns, listed in parted
        if FEWEST <= len(listed) == columns[0].filled
        for other, own, _, said in parted
        if other != name and len(said & listed) > BORNE_OUT * len(said)
        for one in ((name, step), (other, own))
    ]
    whole = {
        name: tuple(replace(step, proposed=True) if (name, step) in left else step for step in relation.steps)
        for name, relation in relations.items()
    }
    return {name: steps for name, steps in whole.items() if steps != relations[name].steps}


def _left_whole(step: Step, relation: Relation, others: Sequence[tuple[str, Column]]) -> Step:
    """The step, only proposed if it takes names of persons apart of which another sheet has some as they were."""
    if step.act != Act.PARTS or step.proposed or not {*NAMES} <= {*SHAPES[step.text("as")].parts}:
        return step
    pattern = re.compile(SHAPES[step.text("as")].pattern)
    own = _held([relation.by_name[name] for name in step.texts("names") if name in relation.by_name], blank="")
    for sheet, column in others:
        if not any(pattern.fullmatch(str(value)) for value in column.values.slice(0, FEWEST).to_pylist()):
            continue
        fits = [pattern.fullmatch(str(value)) for value in column.values.to_pylist()]
        known = sum(one is not None and one.groups(default="") in own for one in fits)
        if known >= max(FEWEST_WHOLE, BORNE_OUT * len(fits)):
            return replace(step, proposed=True, why=f"{step.why}; {sheet} says them whole")
    return step


def _decided(
    step: Step,
    relation: Relation,
    others: Sequence[tuple[str, Parted]],
    lists: Sequence[tuple[str, set[tuple[str, ...]]]],
) -> Step:
    """The step, to be done if it is a proposed one that another sheet bears out.

    One that took the like apart does if it shares enough with this one, and a list of persons if it has all of them.
    """
    column = relation.by_name.get(step.text("column"))
    if step.act != Act.PARTS or not step.proposed or column is None:
        return step
    shape = SHAPES[step.text("as")]
    fits = [*map(re.compile(shape.pattern).fullmatch, map(str, column.values.to_pylist()))]
    own = {_in_order(shape.parts, one.groups(default="")) for one in fits if one} if all(fits) else set()
    for sheet, (parts, theirs) in others:
        both = len(own & theirs)
        if {*parts} == {*shape.parts} and both >= max(FEWEST, BORNE_OUT * min(len(own), len(theirs))):
            return replace(step, proposed=False, why=f"{step.why}; {sheet} has the parts as well")
    of_person = {*shape.parts} == {*NAMES} and len(own) >= FEWEST
    lists_them = next((sheet for sheet, persons in lists if of_person and own <= persons), "")
    why = f"{step.why}; {lists_them} lists them by the parts"
    return replace(step, proposed=False, why=why) if lists_them else step


def _parted(relation: Relation) -> Iterator[Parted]:
    """What the parts are called into which values were taken, and all of these, the parts in the order of that."""
    for step, columns in _taken_apart(relation):
        parts = SHAPES[step.text("as")].parts
        yield parts, {_in_order(parts, cells) for cells in _held(columns)}


def _taken_apart(relation: Relation) -> Iterator[tuple[Step, list[Column]]]:
    """The steps by which values were taken apart, each with the columns of the parts."""
    for step in relation.steps:
        columns = [relation.by_name[name] for name in step.texts("names") if name in relation.by_name]
        if step.act == Act.PARTS and not step.proposed and len(columns) == len(step.texts("names")):
            yield step, columns


def _listed(relation: Relation) -> Iterator[set[tuple[str, ...]]]:
    """The names of persons, of which a sheet has the parts in columns of their own, whichever part comes first."""
    for pair in pairwise(one for one in relation.columns if is_part(one.name)):
        if is_person([one.name for one in pair]):
            held = _held(pair)
            yield from ({_in_order(parts, cells) for cells in held} for parts in permutations(NAMES))


def _held(columns: Sequence[Column], blank: str | None = None) -> set[tuple[str, ...]]:
    """What columns say together in the rows in which all are filled, or in all rows if it is said how a blank is."""
    codes = np.unique(np.stack([one.codes for one in columns], axis=1), axis=0)
    if blank is None:
        codes = codes[(codes != EMPTY).all(axis=1)]
    texts = [[*map(str, one.values.to_pylist()), blank or ""] for one in columns]
    return {tuple(one[code] for one, code in zip(texts, row, strict=True)) for row in codes.tolist()}


def _in_order(parts: Sequence[str], cells: Sequence[str]) -> tuple[str, ...]:
    """The cells in an order that does not depend on that in which a sheet writes them."""
    return tuple(cell for _, cell in sorted(zip(parts, cells, strict=True)))
