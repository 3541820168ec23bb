"""Relations → findings → design: what the sheets show, how they hang together, and the draft for them."""

from __future__ import annotations

import time
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.at_once import at_once
from hemplit.core import study
from hemplit.core.draft import draft as draft_design
from hemplit.core.draft import together as hang_together
from hemplit.core.draft.wishes import NO_WISHES, Wishes
from hemplit.core.explain.exceptions import exceptions as exceptional
from hemplit.core.model.progress import silent
from hemplit.core.study.dependencies import TimeLimitError, stream
from hemplit.core.tables.same import with_united
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file.locate import line_of
from hemplit.errors import InputError
from hemplit.flow.opening import open_design
from hemplit.flow.reading import Sheets, read_for

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from hemplit.core.draft.sheets import Together
    from hemplit.core.explain.exceptions import Exceptional
    from hemplit.core.model.design import Design
    from hemplit.core.model.findings import Findings
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Relation
#: A draft looks for determinants of up to so many columns.
DEPTH = 2


def findings(sheets: Sheets, progress: Progress = silent, depth: int | None = DEPTH) -> dict[str, Findings]:
    """What the study of each sheet shows, under the name of the sheet; as deep as a draft needs it."""
    relations = list(sheets.relations.values())
    told = progress if len(relations) == 1 else silent

    def studied(relation: Relation) -> Findings:
        return study_relation(relation, depth if len(relation.columns) <= study.WIDE or depth != DEPTH else 1, told)

    found = {}
    progress("studying", 0, len(relations))
    for number, (name, one) in enumerate(zip(sheets.relations, at_once(studied, relations), strict=True), 1):
        progress("studying", number, len(relations))
        found[name] = one
    return found


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
    progress("drafting", 0, 1)
    return draft_design(found, sheets.parents, wishes, sheets.relations)


def together(sheets: Sheets, found: Mapping[str, Findings]) -> Together:
    """How the sheets hang together, given their findings."""
    return hang_together(found, sheets.parents, sheets.relations)


def exceptions(design: Design, sheets: Sheets) -> tuple[Exceptional, ...]:
    """The few cells for which columns of a design stand beside the things whose they would be."""
    return exceptional(design, with_united(design, sheets.relations))


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
    text, design = open_design(path)
    sheets = read_for(design, path.parent, progress)
    whole = replace(sheets, relations=with_united(design, sheets.relations))
    return Explained(design, findings(whole, progress), whole, text)
