"""One page that a colleague understands without Hemplit: no network, no scripts, light or dark, good on paper."""

from __future__ import annotations

from collections import Counter
from html import escape
from typing import TYPE_CHECKING

from hemplit.views.page.looks import looks
from hemplit.views.page.parts import excerpt_table, flat_table, lines, numbers, tag, told
from hemplit.views.pictures.arrows import arrows_of
from hemplit.views.pictures.shapes import drawing_of
from hemplit.views.pictures.svg import svg_of
from hemplit.views.sheets import formula
from hemplit.views.style import counted
from hemplit.views.whys import said_of, taken_said

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.explain.walk import Stage, Walk
    from hemplit.core.model.proof import Ledger

SECTIONS = (
    ("sheets", "The sheets as they were"),
    ("way", "The way to the tables"),
    ("diagram", "How the tables hang together"),
    ("tables", "The tables"),
    ("changes", "What was changed"),
    ("account", "Where every cell went"),
)
#: So many changes of one sort are listed.
SHOWN = 8


def page_of(walk: Walk) -> str:
    """The page as HTML."""
    verdict = _verdict(walk)
    body = [
        "<header>",
        tag("h1", f"{walk.title}: from {counted(len(walk.sheets), 'sheet')} to {counted(len(walk.excerpts), 'table')}"),
        f'<p class="verdict {"good" if walk.proof.holds else "bad"}">{escape(verdict)}</p>',
        numbers(_before_and_after(walk)),
        '<nav aria-label="On this page"><ul>',
        *(f'<li><a href="#{name}">{escape(title)}</a></li>' for name, title in SECTIONS),
        "</ul></nav></header><main>",
    ]
    parts = (_sheets, _way, _diagram, _tables, _changes, _account)
    for (name, title), part in zip(SECTIONS, parts, strict=True):
        body += [f'<section id="{name}">', tag("h2", title), *part(walk), "</section>"]
    return (
        '<!doctype html>\n<html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{escape(walk.title)}</title><style>{looks()}</style></head><body>\n"
        + "\n".join(body)
        + "\n</main></body></html>\n"
    )


def _verdict(walk: Walk) -> str:
    if not walk.proof.holds:
        return "Not verified: the tables do not give the sheets back. See below."
    cells = sum(ledger.cells for ledger in walk.proof.ledgers)
    return f"Verified: joining the tables gives every row of the sheets back. All {cells:,} cells are accounted for."


def _before_and_after(walk: Walk) -> Iterator[tuple[str, str, str]]:
    """What there was before and after: label and both numbers."""
    again = sum(flat.again for flat in walk.story.flats)
    cells = sum(ledger.cells for ledger in walk.proof.ledgers)
    stored = sum(table.row_count * len(table.columns) for table in walk.tables.tables)
    yield "sheets → tables", f"{len(walk.sheets)}", f"{len(walk.excerpts)}"
    yield "cells", f"{cells:,}", f"{stored:,}"
    yield "cells that repeated another row", "", f"{again:,}"


def _sheets(walk: Walk) -> Iterator[str]:
    yield (
        "<p>The first rows of each sheet, as they were. Below each header stands the table to which the column goes. "
        '<span class="again">Pale cells</span> say again what an earlier row says; '
        "<del>crossed out</del> <ins>cells</ins> were read or corrected as the design says; "
        '<span class="gone">grey rows</span> are in no table, and the reason stands beside them.</p>'
    )
    for sheet in walk.sheets:
        size = f"{counted(sheet.row_count, 'row')}, {counted(sheet.column_count, 'column')}"
        yield tag("h3", sheet.title)
        yield f"<p>{escape(size)}.</p>"
        yield flat_table(sheet)


def _way(walk: Walk) -> Iterator[str]:
    for chapter in walk.story.chapters:
        stages = walk.stages[chapter.title]
        yield tag("h3", chapter.title)
        if not stages:
            yield "<p>Nothing to do.</p>"
            continue
        if any(stage.lead for stage in stages):
            determined = [
                (stage.lead, tuple(header for header in stage.passing.passage.headers if header not in stage.lead))
                for stage in stages
                if stage.lead
            ]
            yield svg_of(arrows_of(determined), name=f"arrows-{walk.story.chapters.index(chapter)}")
        for stage in stages:
            yield from _stage(stage)
    if walk.story.computed or walk.story.taken:
        yield tag("h3", "Calculated, not stored")
        calculated = [f"{header} = {formula(given)}" for header, given in walk.story.computed]
        yield lines([*map(taken_said, walk.story.taken), *calculated])


def _stage(stage: Stage) -> Iterator[str]:
    passage, anomaly = stage.passing.passage, stage.passing.anomaly
    yield f"<article><h4><b>{escape(passage.table)}</b> comes out of {escape(passage.out_of)}</h4>"
    yield f"<p>{escape(passage.why)}.</p>"
    yield '<div class="pair">'
    if stage.before is not None:
        yield excerpt_table(stage.before, f"Before: {stage.before.name}", "row")
    yield excerpt_table(stage.after, f"After: {stage.after.name}", "row")
    yield "</div>"
    wrong = []
    if anomaly is not None:
        wrong.append(("Update", said_of(anomaly)))
    if stage.lost is not None:
        wrong += [("Insert", stage.lost.insert), ("Delete", stage.lost.delete)]
    if wrong:
        yield "<p>What goes wrong in one large sheet:</p>" + told(wrong)
    yield "</article>"


def _diagram(walk: Walk) -> Iterator[str]:
    yield '<div class="wide" tabindex="0" role="group" aria-label="Diagram of the tables">'
    yield svg_of(drawing_of(walk.picture), name="diagram-of-tables") + "</div>"


def _tables(walk: Walk) -> Iterator[str]:
    for one in walk.excerpts:
        table = walk.tables.by_name[one.name]
        refers = ", ".join(f"{', '.join(own.columns)} → {own.table}" for own in table.references)
        yield tag("h3", one.name)
        about = [table.purpose, counted(one.row_count, "row"), f"primary key {', '.join(table.key)}"]
        yield f"<p>{escape('; '.join([*about, *([refers] if refers else [])]))}</p>"
        yield excerpt_table(one, f"First rows of {one.name}", "row")


def _changes(walk: Walk) -> Iterator[str]:
    if not any(walk.changes.values()):
        yield "<p>No cell was changed.</p>"
        return
    yield '<div class="wide" tabindex="0" role="group" aria-label="Changed cells"><table>'
    yield "<caption>Changed cells, each sort once</caption><thead><tr>"
    yield "".join(f'<th scope="col">{word}</th>' for word in ("Sheet", "Column", "Was", "Is", "Cells", "By the step"))
    yield "</tr></thead><tbody>"
    for title, changes in walk.changes.items():
        sorts = Counter((one.column, one.step, one.before, one.after) for one in changes)
        by_column: Counter[tuple[str, str]] = Counter()
        hidden: Counter[tuple[str, str]] = Counter()
        for (column, step, before, after), cells in sorts.most_common():
            by_column[column, step] += 1
            if by_column[column, step] > SHOWN:
                hidden[column, step] += cells
                continue
            row = (title, column, before, after or "(blank)", f"{cells:,}", step)
            yield "<tr>" + "".join(tag("td", cell) for cell in row) + "</tr>"
        for (column, step), cells in hidden.items():
            row = (title, column, "others", "", f"{cells:,}", step)
            yield "<tr>" + "".join(tag("td", cell) for cell in row) + "</tr>"
    yield "</tbody></table></div>"


def _account(walk: Walk) -> Iterator[str]:
    for ledger in walk.proof.ledgers:
        yield tag("h3", ledger.sheet)
        yield numbers(
            (what, "", f"{count:,}")
            for what, count in (
                ("cells", ledger.cells),
                ("stored", ledger.stored),
                ("calculated", ledger.calculated),
                ("changed", ledger.changed),
                ("left out", ledger.set_aside),
            )
        )
        yield lines(_reasons(ledger))
    yield tag("h3", "Checks")
    yield lines(
        f"{'✓' if not check.different else '✗'} {check.what} ({check.compared:,} {check.unit} compared)"
        for check in walk.proof.checks
    )


def _reasons(ledger: Ledger) -> Iterator[str]:
    for part in ledger.changes:
        yield f"{part.cells:,} changed: {part.reason}"
    for part in ledger.left_out:
        yield f"{part.cells:,} left out: {part.reason}"
    for row in ledger.rows:
        yield f"left out: {row.place} ({row.step}): {', '.join(filter(None, row.texts))}"
