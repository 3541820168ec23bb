"""The parts of which a page is made, as HTML; all that a sheet says is written out, so that it is only text."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from hemplit.views.style import counted, short

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.explain.walk import Cell, Excerpt, Marked


def tag(name: str, text: str) -> str:
    """A text in an element.

    >>> tag("td", "<b>")
    '<td>&lt;b&gt;</td>'
    """
    return f"<{name}>{escape(text)}</{name}>"


def lines(texts: Iterable[str]) -> str:
    """A list; nothing if it is empty."""
    listed = "".join(tag("li", text) for text in texts)
    return f"<ul>{listed}</ul>" if listed else ""


def told(pairs: Iterable[tuple[str, str]]) -> str:
    """Words, each with what it means here."""
    return "<dl>" + "".join(tag("dt", word) + tag("dd", text) for word, text in pairs) + "</dl>"


def numbers(given: Iterable[tuple[str, str, str]]) -> str:
    """Large numbers with what they count, some as they were before and are now."""
    items = []
    for what, before, now in given:
        number = f"{escape(before)} <span>→</span> <b>{escape(now)}</b>" if before else f"<b>{escape(now)}</b>"
        items.append(f"<li><span>{number}</span> {escape(what)}</li>")
    return f'<ul class="numbers">{"".join(items)}</ul>'


def excerpt_table(given: Excerpt, caption: str, unit: str) -> str:
    """The first rows of a table."""
    head = "".join(f'<th scope="col">{escape(name)}</th>' for name in given.columns)
    rows = "".join("<tr>" + "".join(tag("td", short(cell)) for cell in row) + "</tr>" for row in given.rows)
    more = given.row_count - len(given.rows)
    rest = f'<p class="more">and {escape(counted(more, f"more {unit}"))}</p>' if more > 0 else ""
    return (
        f'<div class="wide" tabindex="0" role="group" aria-label="{escape(caption)}"><table><caption>{escape(caption)}'
        f"</caption><thead><tr>{head}</tr></thead><tbody>{rows}</tbody></table>{rest}</div>"
    )


def flat_table(sheet: Marked) -> str:
    """The first rows of a sheet, with what was found in them."""
    letters = "".join(f'<th scope="col">{escape(home.letters)}</th>' for home in sheet.homes)
    homes = "".join(
        f"<td>{escape(home.header)}<br><i>→ {escape(', '.join(home.tables)) or '–'}</i></td>" for home in sheet.homes
    )
    body = []
    file, before = "", 0
    for row in sheet.rows:
        if row.file != file or (before and row.number > before + 1):
            said = row.file if row.file != file else "…"
            body.append(f'<tr class="skip"><th scope="row" colspan="{len(sheet.homes) + 2}">{escape(said)}</th></tr>')
        file, before = row.file, row.number
        why = f"<td>{escape(row.why)}</td>" if row.why else "<td></td>"
        gone = ' class="gone"' if row.why else ""
        cells = "".join(map(_cell, row.cells))
        body.append(f'<tr{gone}><th scope="row">{row.number}</th>{cells}{why}</tr>')
    more = sheet.column_count - len(sheet.homes)
    rest = f'<p class="more">and {escape(counted(more, "more column"))}</p>' if more > 0 else ""
    return (
        f'<div class="wide sheet" tabindex="0" role="group" aria-label="{escape(sheet.title)}"><table>'
        f"<caption>{escape(sheet.title)}</caption>"
        f'<thead><tr><td></td>{letters}<td></td></tr><tr class="homes"><td></td>{homes}<td></td></tr></thead>'
        f"<tbody>{''.join(body)}</tbody></table>{rest}</div>"
    )


def _cell(cell: Cell) -> str:
    text = escape(short(cell.text))
    if cell.now is not None and cell.now != cell.text:
        after = escape(short(cell.now)) if cell.now else "(blank)"
        return f"<td><del>{text}</del> <ins>{after}</ins></td>"
    return f'<td class="again">{text}</td>' if cell.again else f"<td>{text}</td>"
