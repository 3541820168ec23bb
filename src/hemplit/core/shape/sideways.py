"""A repeating group running sideways is stood up into a relation of its own, with the key of its row and its place.

    Job   Part 1   Qty 1   Part 2   Qty 2             Job   Part      Qty   Position
    17    cleat    4       rope     1           →     17    cleat     4     1
    18    rope     2                                  17    rope      1     2
                                                      18    rope      2     1

Which headers belong together stands in ``series.py``. Numbers alone do not make a group: the columns must hold values
of one sort, and either run in blocks, leave later blocks blank, or share their values. Two headers of which only the
second has a number (``Hull``, ``Hull 2``) may be two ways to say one thing, and columns of 0 and 1 of which a row has
one at most say one thing together: such stay. Columns that hold nothing but a mark, such as x, are a group if their
headers name things of one sort (``Rigging``, ``Painting``), and not if each says something else of the row: that a
person knows, so it is proposed.
"""

from __future__ import annotations

from itertools import groupby, pairwise
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct, stack
from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import KIND, POSITION, Step
from hemplit.core.shape.children import copied, from_codes, key_of, told_once, with_key
from hemplit.core.shape.looks import all_but, is_number, is_word
from hemplit.core.shape.series import Group, blocks_in, numbered, of_kinds, periods
from hemplit.core.shape.working import SHOWN, Working, WorkingColumn, kept, stacked
from hemplit.core.texts.words import is_measure, is_plural, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.shape.working import Flags

ACT = Act.SIDEWAYS
SETTINGS = {
    "into": "text", "blocks": "blocks", "names": "texts", "labels": "texts", "label": "text", "key": "key",
    "once": "flag?",
}  # fmt: skip
#: Columns of one group share at least this part of their values, if neither blocks nor blanks show that they are one.
SHARED = 0.2
#: Two columns that say the same in this part of the rows list nothing.
SAME = 0.5
#: In this part of the rows somebody left a place blank in front of one that is filled; where it is more, each place
#: stands for something of its own.
GAPS = 0.1
#: So many columns of marks beside each other, as two more often say something of the row each.
FEWEST_MARKED = 3
MARKS = frozenset("x ✓ ✔ ☑ ✗ • ● *".split())


def find(working: Working) -> Iterator[Step]:
    """A step for each group."""
    marked = _marked(working.columns)
    groups = [*_groups(working, marked)]
    # What stands in rows of its own is no key of the rows that are left.
    gone = {name for group in groups if group not in marked for name in _members(group)}
    for group in groups:
        is_mark = group in marked
        why = f"{len(group.blocks)} times {', '.join(group.names)} side by side"
        if is_mark:
            why = f"{len(group.blocks)} columns hold a mark or nothing: {', '.join(group.labels[:SHOWN])}"
        yield Step(
            ACT,
            (
                ("into", _title(group)),
                ("blocks", group.blocks),
                ("names", group.names),
                ("labels", group.labels),
                ("label", group.label),
                ("key", key_of(working, [*gone, *_members(group)])),
            ),
            why,
            proposed=is_mark,
        )


def _groups(working: Working, marked: Sequence[Group]) -> Iterator[Group]:
    """The groups, of which no two share a header."""
    names = [column.name for column in working.columns]
    taken: set[str] = set()
    for found in (*periods(names), *numbered(names), *of_kinds(names), *marked):
        group = _of_lists(working, found) if found.label == POSITION else found
        members = _members(group)
        stays = bool(members & taken) or len(members) == len(names)
        if not stays and (group in marked or _is_group(working, group)):
            taken |= members
            yield group


def _members(group: Group) -> set[str]:
    return {name for block in group.blocks for name in block if name}


def _title(group: Group) -> str:
    """What the rows are called that a group becomes."""
    said = [words(name) for name in group.names]
    if group.label == KIND and len(said) > 1:
        return group.names[0]
    if group.label != POSITION:
        return f"{group.names[0]} by {group.label}"
    # Of a parent's name and phone it is the parent that stands there several times.
    first = group.names[0].split()[0]
    return first if len(said) > 1 and all(len(one) > 1 and one[:1] == said[0][:1] for one in said) else group.names[0]


def fault(step: Step) -> str:
    """What the parts of a step leave open or say twice; empty if nothing."""
    blocks, names, labels = step.blocks, step.texts("names"), step.texts("labels")
    if len(blocks) != len(labels) or len(blocks[0]) != len(names):
        return f"{len(blocks)} blocks of {len(blocks[0])} headers need as many labels and names"
    headers = [header for block in blocks for header in block if header]
    if len(set(headers)) < len(headers) or len(set(labels)) < len(labels) or len(set(names)) < len(names):
        return "a header, a label or a name stands twice"
    unused = next((name for place, name in enumerate(names) if not any(block[place] for block in blocks)), "")
    return f"no header belongs to '{unused}'" if unused else ""


def _marked(columns: Sequence[WorkingColumn]) -> list[Group]:
    """Columns beside each other that hold one and the same mark, or nothing."""
    found = []
    for mark, run in groupby(columns, _mark):
        headers = [column.name for column in run]
        if mark and len(headers) >= FEWEST_MARKED:
            found.append(Group(("Mark",), tuple((one,) for one in headers), tuple(headers), KIND))
    return found


def _mark(column: WorkingColumn) -> str:
    """The mark that a column holds in some of its rows; empty for another column."""
    texts = column.cells.texts
    if column.cells.full or len(texts) != 1:
        return ""
    mark = str(texts[0]).strip().lower()
    return mark if mark in MARKS else ""


# Whether they are one group -------------------------------------------------------------------------------------------


def _lanes(working: Working, group: Group) -> list[list[WorkingColumn]]:
    """The columns of each of the group's names."""
    by_name = {column.name: column for column in working.columns}
    return [[by_name[block[place]] for block in group.blocks if block[place]] for place in range(len(group.names))]


def _of_lists(working: Working, group: Group) -> Group:
    """The group without what is said several times of one thing, and not once of each of several."""
    lanes = _lanes(working, group)
    pairs = [lane for lane in lanes if len(lane) == len(group.blocks) == 2 and lane[0].name in group.names]
    gone = [lane for lane in lanes if _are_one_choice(lane)]
    if not any(_is_listed(pair) for pair in pairs):
        gone += pairs
    places = [place for place, lane in enumerate(lanes) if lane not in gone]
    blocks = tuple(tuple(block[place] for place in places) for block in group.blocks)
    return replace(group, names=tuple(group.names[place] for place in places), blocks=blocks)


def _is_listed(pair: Sequence[WorkingColumn]) -> bool:
    """Whether the second column lists more of what is in the first: it is blank at times, or says other words."""
    if _leaves_blank(pair):
        return True
    codes, texts = stack([(column.cells.codes, column.cells.texts) for column in pair])
    one, other = np.split(codes, 2)
    both = (one != EMPTY) & (other != EMPTY)
    in_words = not all_but(0, map(str, texts.slice(0, kinds.PROBE).to_pylist()), is_number)
    return in_words and bool(np.count_nonzero(one[both] == other[both]) < SAME * np.count_nonzero(both))


def _are_one_choice(lane: Sequence[WorkingColumn]) -> bool:
    """Whether the columns hold 0 and 1 only, and a row has a 1 in one of them at most."""
    if any({"0", "1"} != {*column.cells.texts.to_pylist()} for column in lane):
        return False
    ones = [column.cells.codes == column.cells.texts.index("1").as_py() for column in lane]
    return int(np.sum(ones, axis=0).max()) == 1


def _is_group(working: Working, group: Group) -> bool:
    lanes = _lanes(working, group)
    if not lanes or not all(_of_one_sort(lane) for lane in lanes):
        return False
    if group.label == KIND:
        # Numbers of each kind are counts or measures; what else is said of each comes out of the same values.
        counted = all(is_measure(words(name)) or is_plural(name) for name in group.names)
        return counted or any(map(_share_values, lanes))
    if group.label != POSITION or len(lanes) > 1:
        return True
    return _leaves_blank(lanes[0]) or _share_values(lanes[0])


def _of_one_sort(lane: Sequence[WorkingColumn]) -> bool:
    """Whether the columns that have values have them all of words, or all of numbers or dates."""
    sorts = set()
    for column in lane:
        probe = [str(text) for text in column.cells.texts.slice(0, kinds.PROBE).to_pylist()]
        if probe:
            words_ = sum(is_word(text) for text in probe)
            sorts.add("words" if 2 * words_ > len(probe) else "others")
    return len(sorts) <= 1


def _leaves_blank(lane: Sequence[WorkingColumn]) -> bool:
    """Whether a block is filled only where the one before it is, but for gaps, and not wherever the first is."""
    if not (lane[0].filled & ~lane[-1].filled).any():
        return False
    return all(
        np.count_nonzero(two.filled & ~one.filled) <= GAPS * np.count_nonzero(two.filled) for one, two in pairwise(lane)
    )


def _share_values(lane: Sequence[WorkingColumn]) -> bool:
    pools = [set(column.cells.texts.to_pylist()) for column in lane]
    together = set().union(*pools)
    smallest = min(len(pool) for pool in pools)
    if not smallest or all(is_number(str(text)) for text in together):
        # Measures share values by accident; only groups with a plain word for a repeated thing are taken.
        return bool(smallest) and len(set.intersection(*pools)) >= 0.5 * smallest and len(lane) > 2
    shared = [len(one & two) / min(len(one), len(two)) for one, two in pairwise(pools)]
    return min(shared) >= SHARED


# Doing it -------------------------------------------------------------------------------------------------------------


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the group, which becomes a child; blocks without content are no rows."""
    working = with_key(working, step.texts("key"))
    names = step.texts("names")
    blocks = blocks_in(step, [column.name for column in working.columns])
    moved = {header: name for block in blocks.values() for header, name in zip(block, names, strict=True) if header}
    left = tuple(column for column in working.columns if column.name not in moved)
    if len(left) == len(working.columns):
        return working
    once = told_once(working, step, moved)
    grouped = [[once.named(header) for header in block] for block in blocks.values()]
    rows = once.row_count
    columns = [_stood_up(name, [block[place] for block in grouped], rows, number) for place, name in enumerate(names)]
    every = np.tile(np.arange(rows), len(grouped))
    label = from_codes(
        _free(step.text("label"), (*names, *step.texts("key"))),
        columns[0].position,
        np.repeat(np.arange(len(grouped)), rows),
        tuple(blocks),
    )
    child = Working(
        working.source,
        (*copied(once, step.texts("key"), every), *columns, label),
        once.grid_rows[every],
        name=step.text("into"),
        of=step.texts("key"),
        block=np.repeat(np.arange(len(grouped), dtype=np.int16), rows),
        account=() if once.again is None else tuple(_said_again(working, step, moved, once.again[:, 0])),
        again=once.again,
    )
    order = np.argsort(every, kind="stable")
    child = _ordered(child, order)
    filled = np.zeros(child.row_count, dtype=bool)
    for column in child.columns:
        if column.places:
            filled |= column.filled
    child = _kept_blocks(child, filled)
    return replace(working, columns=left, children=(*working.children, child))


def _said_again(
    working: Working, step: Step, moved: Mapping[str, str], again: npt.NDArray[np.int64]
) -> Iterator[Cells]:
    """The cells in the rows of the grid that say ``again`` what another tells, and is kept from there."""
    rows = np.isin(working.grid_rows, again)
    for column in (column for column in working.columns if column.name in moved):
        by = np.zeros(working.row_count, dtype=np.int8) if column.changed is None else column.changed
        at, name = (column.position,), moved[column.name]
        told = rows & (column.filled | (by != 0))
        for number in distinct(by[told]).tolist():
            fate, reason = (Fate.CHANGED, Act.of(number)) if number else (Fate.STORED, name)
            yield Cells(fate, reason, working.grid_rows[told & (by == number)], at, column=name)
        if (rows & ~told).any():
            yield Cells(Fate.LEFT_OUT, f"blank under {step.text('into')}", working.grid_rows[rows & ~told], at)


def _free(name: str, taken: Sequence[str]) -> str:
    return name if name not in taken else f"{name} of Block"


def _stood_up(name: str, lane: Sequence[WorkingColumn | None], rows: int, number: int) -> WorkingColumn:
    places = tuple(-1 if column is None else column.position for column in lane)
    first = next(column for column in lane if column is not None)
    changed = None
    if any(column is not None and column.changed is not None for column in lane):
        none = np.zeros(rows, dtype=np.int8)
        changed = np.concatenate(
            [none if column is None or column.changed is None else column.changed for column in lane]
        )
    return WorkingColumn(
        first.position,
        name,
        stacked([(None if one is None else one.cells, rows) for one in lane]),
        changed=changed,
        places=places,
        headers=tuple("" if column is None else column.name for column in lane),
    )


def _ordered(child: Working, order: np.ndarray) -> Working:
    columns = tuple(
        replace(
            column,
            cells=replace(column.cells, codes=column.cells.codes[order]),
            changed=None if column.changed is None else column.changed[order],
        )
        for column in child.columns
    )
    assert child.block is not None
    return replace(child, columns=columns, grid_rows=child.grid_rows[order], block=child.block[order])


def _kept_blocks(child: Working, filled: Flags) -> Working:
    """Only the blocks with content. The cells of the others are blank, or were made so by a step, which is told."""
    assert child.block is not None
    account = []
    for column in child.columns:
        for block, position in enumerate(column.places):
            if position < 0:
                continue
            gone = np.flatnonzero(~filled & (child.block == block))
            by = np.zeros(len(gone), dtype=np.int8) if column.changed is None else column.changed[gone]
            for number in distinct(by).tolist():
                fate = Fate.CHANGED if number else Fate.LEFT_OUT
                reason = Act.of(number) if number else f"blank under {child.name}"
                account.append(Cells(fate, reason, child.grid_rows[gone[by == number]], (position,)))
    columns = tuple(
        replace(
            column, cells=kept(column.cells, filled), changed=None if column.changed is None else column.changed[filled]
        )
        for column in child.columns
    )
    return replace(
        child,
        columns=columns,
        grid_rows=child.grid_rows[filled],
        block=child.block[filled],
        account=(*child.account, *account),
    )
