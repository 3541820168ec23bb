"""What pages look like: the colours of the pictures, by day and by night, and plain black on white on paper."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.pictures.theme import DAY, FONTS, NIGHT

if TYPE_CHECKING:
    from hemplit.views.pictures.theme import Theme

RULES = """
* { box-sizing: border-box }
body { margin: 0; background: var(--page); color: var(--ink); font: 15px/1.5 FONTS }
header, main { max-width: 1240px; margin: 0 auto; padding: 20px 24px }
h1 { font-size: 27px; line-height: 1.2; margin: 8px 0 }
h2 { font-size: 21px; margin: 34px 0 8px; padding-top: 12px; border-top: 2px solid var(--main) }
h3 { font-size: 16.5px; margin: 24px 0 6px }
h4 { font-size: 15px; font-weight: normal; margin: 0 0 4px }
p { margin: 6px 0; max-width: 78ch }
a { color: var(--main) }
nav ul { display: flex; flex-wrap: wrap; gap: 4px 20px; padding: 0; list-style: none }
.verdict { font-size: 17px; padding: 8px 14px; border-left: 6px solid var(--main); background: var(--main-head) }
.verdict.bad { border-color: var(--junction); background: var(--junction-head) }
.numbers { display: flex; flex-wrap: wrap; gap: 8px 34px; padding: 0; list-style: none; color: var(--quiet) }
.numbers li > span { color: var(--ink); font-size: 20px }
.wide { overflow-x: auto; padding: 2px 0 8px }
table { border-collapse: collapse; font-size: 13px; background: var(--paper) }
caption { text-align: left; color: var(--quiet); padding: 4px 0; font-size: 13px }
th, td { border: 1px solid var(--edge); padding: 3px 8px; text-align: left; vertical-align: top }
th { background: var(--entity-head); font-weight: bold; white-space: nowrap }
td { white-space: nowrap; max-width: 34ch; overflow: hidden; text-overflow: ellipsis }
.sheet th { background: var(--page); color: var(--quiet); font-weight: normal }
.homes td { background: var(--entity-head); font-weight: bold }
.homes i { font-weight: normal; color: var(--entity) }
.again { background: var(--lookup-head) }
tr.gone td, span.gone { background: var(--page); color: var(--quiet); font-style: italic }
.skip td { background: var(--page) }
del { color: var(--junction) }
ins { color: var(--main); font-weight: bold; text-decoration: none }
.more { color: var(--quiet); font-size: 13px }
article { margin: 14px 0; padding: 12px 16px; background: var(--paper); border: 1px solid var(--edge) }
.pair { display: flex; flex-wrap: wrap; gap: 0 28px }
.pair .wide { max-width: 100% }
dl { display: grid; grid-template-columns: max-content 1fr; gap: 2px 14px; margin: 4px 0 }
dt { font-weight: bold }
dd { margin: 0 }
svg { max-width: 100%; height: auto }
@media print {
  body { background: #fff; font-size: 11px }
  nav { display: none }
  section, article { break-inside: auto } h2, h3, h4 { break-after: avoid } tr, svg { break-inside: avoid }
  .wide { overflow: visible } table { font-size: 9px } td { max-width: none; white-space: normal }
}
"""


def looks() -> str:
    """The style sheet of a page."""
    fonts = ", ".join(f'"{font}"' if " " in font else font for font in FONTS[1:])
    night = f"@media screen and (prefers-color-scheme: dark) {{ :root {{ {_colours(NIGHT)} }} }}"
    return f":root {{ color-scheme: light dark; {_colours(DAY)} }}\n{night}{RULES.replace('FONTS', fonts)}"


def _colours(theme: Theme) -> str:
    return "; ".join(f"--{name.replace(' ', '-')}: {colour}" for name, colour in theme.colours.items())
