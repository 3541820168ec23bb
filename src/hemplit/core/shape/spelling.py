"""Several spellings of one value (``marlow boats``, ``Marlow Botas``) become the one that most cells have.

How likely an odd text is a slip is told by the column itself and by what stands beside; see ``slips.py``. What is
nearly sure is done. What is likelier right than not is proposed and waits for a person; so is what changes the letters
of a code, of which one letter makes another one, or of a person's name that no other column bears out. What another
sheet lists is no slip:

    boats   Boat         Berth      lifts   Boat
            Sandpiper    B4                 Sandpiper
            Sandpipers   B7                 Sandpipers   (one in a hundred, and right)
"""

from __future__ import annotations

import re
from collections import defaultdict
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT, Doubt, Step
from hemplit.core.shape.deciding import holds_codes
from hemplit.core.shape.slips import slips
from hemplit.core.shape.working import SHOWN, Working, first_places, rewritten, with_column
from hemplit.core.texts.vocabulary import PART_OF_NAME
from hemplit.core.texts.words import words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.relation import Relation
    from hemplit.core.shape.slips import Slip
    from hemplit.core.shape.working import WorkingColumn

ACT = Act.SPELLING
SETTINGS = {"column": "column", "instead": "text", "of": "text or texts"}
#: Values that hardly repeat are no names of things, and columns of more different texts are no lists of them.
REPEATS = 1.3
MOST_TEXTS = 20_000
#: Longer texts are remarks.
LONGEST = 60
#: A word of digits and more letters than these is no code: a letter more or less makes no other.
LETTERS_OF_CODE = 3
#: A correction is done from these odds on, and proposed from those.
DONE, PROPOSED = 10.0, 1.0


def find(working: Working) -> Iterator[Step]:
    """A step for each spelling, the sure ones to be done and the others proposed."""
    for column in working.columns:
        if _names_things(column):
            yield from _steps(working, column)


def _names_things(column: WorkingColumn) -> bool:
    """Whether a column holds texts that come again, half of them with letters and half of them short."""
    texts, filled = column.cells.texts, int(np.count_nonzero(column.filled))
    if not 1 < len(texts) <= MOST_TEXTS or filled < REPEATS * len(texts):
        return False
    lettered = pc.sum(pc.match_substring_regex(texts, "[[:alpha:]]|[^[:ascii:]]")).as_py() or 0
    short = pc.sum(pc.less_equal(pc.utf8_length(texts), LONGEST)).as_py() or 0
    return 2 * lettered >= len(texts) <= 2 * short


def _steps(working: Working, column: WorkingColumn) -> Iterator[Step]:
    """A step for each text that others are slips of: a person reads them together."""
    found = slips(column, [one for one in working.columns if one is not column], PROPOSED)
    if not found:
        return
    codes, names = holds_codes(column), bool(PART_OF_NAME.intersection(words(column.name)))
    first, texts = first_places(column), column.cells.texts.to_pylist()
    together: dict[tuple[int, bool], list[Slip]] = defaultdict(list)
    for one in sorted(found, key=lambda one: -one.odds):
        sure = one.odds >= DONE and (one.witnessed or not names)
        together[one.common, codes or not sure or _is_in_a_code(texts[one.odd], texts[one.common])].append(one)
    for (common, proposed), some in together.items():
        odd = tuple(texts[one.odd] for one in some)
        settings = (("column", column.name), ("instead", texts[common]), ("of", odd if len(odd) > 1 else odd[0]))
        places = [working.address(int(first[one.odd]), column) for one in some[:SHOWN]]
        why = f"{_counts(column, some)}, {', '.join(places)}; {_odds(some)}"
        yield Step(ACT, settings, why, proposed=proposed, strength=some[0].odds)


def _is_in_a_code(one: str, other: str) -> bool:
    """Whether two texts differ in a word of digits and a few letters.

    >>> [_is_in_a_code(*pair) for pair in (("winch (s5)", "winch (l5)"), ("wnich (s5)", "winch (s5)"))]
    [True, False]
    """
    differing = set(re.findall("[^\\W_]+", one.casefold())) ^ set(re.findall("[^\\W_]+", other.casefold()))
    letters = (sum(map(str.isalpha, word)) for word in differing if not word.isalpha())
    return any(count <= LETTERS_OF_CODE for count in letters)


def _counts(column: WorkingColumn, some: Sequence[Slip]) -> str:
    """How often the odd texts stand, and the common one."""
    counts = column.cells.counts
    return f"{', '.join(f'×{counts[one.odd]:,}' for one in some)} → ×{counts[some[0].common]:,}"


def _odds(some: Sequence[Slip]) -> str:
    """The odds that they are slips, the surest first."""
    said = dict.fromkeys(f"{min(one.odds, 1e6):,.0f}" if one.odds >= DONE else f"{one.odds:.1f}" for one in some)
    return f"odds {', '.join(said)} to 1"


def told(working: Working, step: Step) -> Iterator[Doubt]:
    """The texts that stand as often as what they are corrected to: next month one may be a name of its own."""
    column = working.named(step.text("column"))
    if column is None:
        return
    texts, counts = column.cells.texts.to_pylist(), column.cells.counts.tolist()
    meant = step.text("instead")
    others = counts[texts.index(meant)] if meant in texts else 0
    for odd in step.texts("of"):
        code = texts.index(odd) if odd in texts else EMPTY
        if code != EMPTY and 1 < counts[code] >= others:
            places = working.places(column, np.flatnonzero(column.cells.codes == code))
            what = f"'{odd}' is corrected to '{meant}' in {counts[code]:,} cells, and {others:,} say so themselves"
            hint = f"if '{odd}' is a name of its own, take it out of the step '{step.act}', and load again"
            yield Doubt(what, places, hint, counts[code])


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with one spelling in place of others."""
    column = working.named(step.text("column"))
    if column is None:
        return working
    texts = column.cells.texts
    odd = pc.is_in(texts, pa.array(step.texts("of"), texts.type))
    other = pc.if_else(odd, pa.scalar(step.text("instead"), texts.type), texts)
    return with_column(working, column, rewritten(column, other, number))


# Beside other sheets ------------------------------------------------------------------------------------------------


def not_listed(relations: Mapping[str, Relation]) -> dict[str, tuple[Step, ...]]:
    """The steps of those sheets that would correct a text which another sheet lists, without it, by their names."""
    found = {}
    for name, relation in relations.items():
        if any(step.act == ACT for step in relation.steps):
            lists = [one for other, listing in relations.items() if other != name for one in _lists(listing)]
            steps = (_but_for(step, lists) if step.act == ACT else step for step in relation.steps)
            left = tuple(step for step in steps if step is not None)
            if left != relation.steps:
                found[name] = left
    return found


def _lists(relation: Relation) -> Iterator[pa.Array]:
    """The texts of each column that says nothing twice."""
    for column in relation.columns:
        if column.kind == TEXT and len(column.values) == np.count_nonzero(column.codes != EMPTY):
            yield column.values


def _but_for(step: Step, lists: Sequence[pa.Array]) -> Step | None:
    """The step without the texts that are listed; None if nothing is left of it."""
    odd = step.texts("of")
    listed = {text for one in lists for text in odd if one.index(text).as_py() >= 0}
    left = tuple(text for text in odd if text not in listed)
    if not listed or not left:
        return step if left else None
    of = left if len(left) > 1 else left[0]
    return replace(step, settings=tuple((key, of if key == "of" else value) for key, value in step.settings))
