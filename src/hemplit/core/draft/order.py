"""In which order links between sheets are followed: what one of them makes of a table decides what another can.

A list is referred to by columns that may become references themselves, and what is said beside a reference to a thing
can be taken from there.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.among import base_of, holder_of, names_things

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.draft.links import Things
    from hemplit.core.model.design import TablePlan
    from hemplit.core.model.findings import Link


def in_order(links: Sequence[Link], things: Things, tables: Mapping[str, TablePlan]) -> list[Link]:
    """The links in the order in which they are followed; ``tables`` are those of each sheet by itself."""
    to_lists = [link for link in links if not things.holds(link)]
    return sorted(links, key=lambda one: (_is_beside(one, links, tables), *_depths(one, to_lists, tables)))


def _is_beside(link: Link, links: Sequence[Link], tables: Mapping[str, TablePlan]) -> bool:
    """Whether another link names the rows of the same sheet by their key, or the thing of which this one's column says
    something, so that this one's can be taken from there."""
    others = [one for one in links if (one.child, one.parent) == (link.child, link.parent) and one is not link]
    if not _goes_by_key(link, tables) and any(_goes_by_key(one, tables) for one in others):
        return True
    held = holder_of(tables, link.child, link.headers[0])
    if held is None or names_things(*held):
        return False
    named = (holder_of(tables, one.child, one.headers[0]) for one in others)
    return any(one is not None and one[0] is held[0] and names_things(*one) for one in named)


def _goes_by_key(link: Link, tables: Mapping[str, TablePlan]) -> bool:
    """Whether a link names the rows of the other sheet's table by its key."""
    base = base_of(tables, link.parent)
    return base is not None and link.key == tuple(base.by_name[name].source for name in base.key)


def _depths(link: Link, to_lists: Sequence[Link], tables: Mapping[str, TablePlan]) -> tuple[int, int]:
    """How many lists the one of a thing refers to, through each other, and one more, none if it is of no thing; and how
    many any does.

    What is put together says the same of what it refers to only when that is one already, and by which columns a list
    is referred to is known only when these are what they will be.
    """
    holder = holder_of(tables, link.child, link.headers[0])
    deep = _depth(link.parent, to_lists)
    return (1 + deep if holder is not None and names_things(*holder) else 0), deep


def _depth(sheet: str, links: Sequence[Link]) -> int:
    further = [other for other in links if other.child == sheet != other.parent]
    return max((1 + _depth(other.parent, links) for other in further), default=0)
