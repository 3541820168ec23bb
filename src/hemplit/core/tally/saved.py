"""The views beside those of the sheets: for people to read, and for each question that the design keeps."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.tally import SavedTally
from hemplit.core.tables.named import named_views
from hemplit.core.tally.resolve import tally_of
from hemplit.dataclasses import replace
from hemplit.errors import DesignError, InputError

if TYPE_CHECKING:
    from hemplit.core.model.design import Design
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import Saved


def with_views(design: Design, tables: Tables) -> Tables:
    """The tables with these views. Raises ``DesignError`` for a saved question that has no honest answer."""
    tallies = tuple(_meant(saved, design, tables) for saved in design.tallies)
    tables = replace(tables, tallies=tallies)
    return replace(tables, named=named_views(design, tables))


def _meant(saved: Saved, design: Design, tables: Tables) -> SavedTally:
    place = f"tallies.{saved.name}"
    if saved.name.lower() in (view.name.lower() for view in tables.views):
        raise DesignError(place, "a view that gives a sheet back is called so", "give it another name")
    try:
        tally = tally_of(saved.ask, design, tables)
    except InputError as error:
        option, _, column = error.where.partition(" ")
        key = option.removeprefix("--")
        what = f"{column}: {error.what}" if column and column not in error.what else error.what
        raise DesignError(f"{place}.{key}", what, error.hint) from error
    titles = [*(one.title for one in tally.by), *(one.title for one in tally.measures)]
    twice = next((title for title in titles if titles.count(title) > 1), None)
    if twice is not None:
        raise DesignError(place, f"it asks for '{twice}' twice", "take one out")
    if len(tally.parts) > 1:
        first, second = (part.view.base for part in tally.parts[:2])
        what = f"it counts rows of {first} and of {second}, which one view cannot"
        raise DesignError(f"{place}.of", what, "save a question for each")
    return SavedTally(saved.name, tally)
