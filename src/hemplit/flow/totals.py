"""A tally out of a target, and the same out of the flat sheets."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.proof import HANDFUL, Check, Difference
from hemplit.core.tally.answer import Tallied, answer_of, differing
from hemplit.core.tally.flat import can_be_followed, groups_of, places_of

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import SavedTally, Tally
    from hemplit.core.tally.flat import Relations
    from hemplit.flow.further import Step
    from hemplit.targets.contract import Target


def compared(asked: Tally, place: Target, tables: Tables, relations: Relations, gone: str = "") -> Tallied:
    """What a target answers, compared with the sheets unless some of these are ``gone``."""
    places = {measure.title: places_of(part, measure, relations) for part in asked.parts for measure in part.measures}
    answers = [place.tally(part, tables, places) for part in asked.parts]
    unchecked = gone
    if not unchecked and not all(map(can_be_followed, asked.parts)):
        unchecked = "the sheets themselves do not name what belongs together by the same words"
    flat = answers if unchecked else [groups_of(part, relations) for part in asked.parts]
    changed, left_out = _on_purpose(asked, relations)
    return Tallied(
        asked,
        answer_of(asked, answers, places),
        tuple(place.tally_text(part, tables) for part in asked.parts),
        tuple(differing(asked, flat, answers, places)),
        unchecked,
        changed,
        left_out,
    )


def check_saved(saved: SavedTally, place: Target, tables: Tables, relations: Relations) -> Check:
    """Whether a saved question is answered as the sheets answer it, for one to which these have an answer."""
    tallied = compared(saved.tally, place, tables, relations)
    numbers = sum(len(values) for _, values in tallied.answer.rows)
    found = tuple(Difference(f"{saved.name}, {what}", sheet, held) for what, sheet, held in tallied.differences)
    what = f"the totals of {saved.name} are those of the sheets"
    return Check(what, numbers, "numbers", len(found), found[:HANDFUL])


def contradicted(steps: Sequence[Step]) -> str:
    """Why the sheets as they lie there do not come to what is held: one says other things of rows that another has."""
    first = next((step for step in steps if step.merged.conflicts or step.merged.changed), None)
    return f"{first.title} says something else of rows that were known" if first is not None else ""


def with_added(relations: Mapping[str, Relation], steps: Sequence[Step]) -> dict[str, list[Relation]]:
    """The relations of each sheet: the first, and of those that were added the rows that were new."""
    found = {name: [relation] for name, relation in relations.items()}
    for step in steps:
        own = step.sheets.relations[step.sheet]
        known = own.grid_rows[~np.asarray(step.is_new)]
        for name, relation in step.sheets.relations.items():
            found.setdefault(name, []).append(relation.without(known))
    return found


def _on_purpose(asked: Tally, relations: Mapping[str, Sequence[Relation]]) -> tuple[int, int]:
    """How many cells of the columns were changed, and how many rows left out, by the steps of the design."""
    flats = [flat for part in asked.parts for flat in part.flats if flat is not None]
    columns = {(flat.sheet, flat.header) for flat in flats}
    changed = sum(
        int(np.count_nonzero(column.changed))
        for sheet, header in columns
        for relation in relations.get(sheet, [])
        if (column := relation.by_name.get(header)) is not None and column.changed is not None
    )
    rows = {
        (sheet, int(row))
        for sheet in {sheet for sheet, _ in columns}
        for relation in relations.get(sheet, [])
        for cells in relation.account
        if cells.named
        for row in cells.rows
    }
    return changed, len(rows)
