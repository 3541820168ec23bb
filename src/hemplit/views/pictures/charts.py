"""Totals as a picture: bars for names, lines over time, parts on top of each other for what goes across."""

from __future__ import annotations

import io
import warnings
from itertools import cycle
from math import nan
from typing import TYPE_CHECKING, Any

from hemplit.core.model.tally import Aggregate, DatePart
from hemplit.core.tally.answer import NONE
from hemplit.core.tally.labels import periods
from hemplit.errors import InputError
from hemplit.views.pictures.theme import DAY, FONTS

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.tally import Tally
    from hemplit.core.tally.answer import Answer, Tallied

#: More groups than these make no picture that can be read; those with the largest numbers are drawn.
MOST_BARS, MOST_LAYERS = 30, 8
#: What tells layers apart beside their colours.
COLOURS = ("main", "lookup", "entity", "junction", "quiet")
HATCHES = ("", "///", "...", "\\\\\\", "xxx", "---", "+++", "ooo")
MARKS = ("o", "s", "^", "D", "v", "P", "X", "*")
OVER_TIME = (DatePart.YEAR, DatePart.QUARTER, DatePart.MONTH, DatePart.WEEK)
#: Of more points the labels of some are left out.
MOST_LABELS = 12
#: Measures that stand for a whole, so that parts may stand on top of each other.
ADDED = (Aggregate.SUM, Aggregate.NUMBER)
WIDTH, POINTS = 12.8, 100
#: What a panel of bars is high: for its title and axis, and for each bar.
EDGE, BAR, LEAST = 1.5, 0.27, 3.4


def chart_of(tallied: Tallied, form: str) -> bytes:
    """The picture of an answer, a panel for each measure, as the content of a file: png, svg or pdf.

    Raises ``InputError`` without Matplotlib, or if there is nothing to draw.
    """
    try:
        from matplotlib import font_manager, rc_context
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure
    except ImportError as error:
        what = "it needs Matplotlib, which is not installed"
        raise InputError(f".{form}", what, 'pip install "hemplit[pictures]"') from error
    tally, answer = tallied.tally, tallied.answer
    if not answer.rows or not answer.names:
        raise InputError(f".{form}", "there are no groups to draw", "say by what the numbers are told apart with --by")
    there = set(font_manager.get_font_names())
    fonts = [font for font in FONTS if font in there] or ["DejaVu Sans"]
    over_time = _is_over_time(tally)
    rows = min(len(answer.rows), MOST_BARS)
    height = 4.6 if over_time else max(EDGE + BAR * rows, LEAST)
    panels = len(tally.measures)
    held = io.BytesIO()
    looks: Any = {"font.family": fonts, "pdf.fonttype": 42, "svg.fonttype": "path", "svg.hashsalt": "hemplit"}
    with rc_context(looks), warnings.catch_warnings():
        warnings.filterwarnings("ignore", "Glyph", UserWarning)
        figure = Figure(figsize=(WIDTH, height * panels), dpi=POINTS, layout="constrained")
        FigureCanvasAgg(figure)
        figure.set_facecolor(DAY.colours["page"])
        for number, axes in enumerate(figure.subplots(panels, 1, squeeze=False)[:, 0]):
            _panel(axes, tally, answer, number, over_time=over_time)
        told: dict[str, Any] = {"png": {}, "svg": {"Date": None}, "pdf": {"CreationDate": None}}[form]
        figure.savefig(held, format=form, metadata=told)
    return held.getvalue()


def _is_over_time(tally: Tally) -> bool:
    down = tally.by[:-1] if tally.across else tally.by
    kinds = {column.header: column.kind.word for column in tally.parts[0].view.columns}
    return len(down) == 1 and (down[0].part in OVER_TIME or (down[0].part is None and kinds[down[0].header] == "date"))


def _panel(axes: Any, tally: Tally, answer: Answer, number: int, *, over_time: bool) -> None:
    """One measure: its layers, title, labels and what they mean."""
    measure, ink, quiet = tally.measures[number], DAY.colours["ink"], DAY.colours["quiet"]
    measures = len(tally.measures)
    columns = [answer.numbers.index(name) for name in answer.numbers][number::measures]
    layers = [*answer.across[:-1]] or [""]
    columns = columns[: len(layers)]
    values = [[float(row[1][column] or 0) for column in columns] for row in answer.rows]
    whole = [float(row[1][number + measures * len(layers) if answer.across else number] or 0) for row in answer.rows]
    names = [" · ".join(row[0]) for row in answer.rows]
    if over_time and tally.by[0].part is not None:
        names, values = _without_gaps(names, values, tally.by[0].part, 0.0 if measure.aggregate in ADDED else nan)
    kept = list(range(len(names)))
    if not over_time and len(kept) > MOST_BARS:
        largest = sorted(kept, key=lambda place: -whole[place])[:MOST_BARS]
        kept = sorted(largest)
    shown = sorted(range(len(layers)), key=lambda place: -sum(row[place] for row in values))[:MOST_LAYERS]
    shown.sort()
    series = [(layers[place], [values[row][place] for row in kept]) for place in shown]
    labels = [names[row] for row in kept]
    axes.set_facecolor(DAY.colours["paper"])
    stacked = bool(answer.across) and measure.aggregate in ADDED
    if over_time:
        _over_time(axes, labels, series, stacked=stacked)
    else:
        _bars(axes, labels, series, stacked=stacked)
    by = " and ".join((*answer.names, *([tally.by[-1].title] if tally.across else ())))
    axes.set_title(f"{measure.title} by {by}", loc="left", color=ink, fontsize=13, fontweight="bold", pad=12)
    left = [f"{len(names) - len(kept)} smaller groups" if len(names) > len(kept) else ""]
    left += [f"{len(layers) - len(shown)} smaller ones across" if len(layers) > len(shown) else ""]
    if any(left):
        axes.set_title(f"without {' and '.join(filter(None, left))}", loc="right", color=quiet, fontsize=10, pad=12)
    if answer.across:
        axes.legend(title=tally.by[-1].title, frameon=False, fontsize=10, loc="upper left", bbox_to_anchor=(1.0, 1.0))
    axes.tick_params(colors=ink, labelsize=10, length=0)
    for side, spine in axes.spines.items():
        spine.set_visible(side in ("left", "bottom"))
        spine.set_color(DAY.colours["edge"])


def _without_gaps(
    names: list[str], values: list[list[float]], part: DatePart, nothing: float
) -> tuple[list[str], list[list[float]]]:
    """The periods with those between them in which there is nothing; what has no period stays last."""
    held = dict(zip(names, values, strict=True))
    known = [name for name in names if name != NONE]
    whole = [*periods(known, part), *(name for name in names if name == NONE)] if known else names
    return whole, [held.get(name, [nothing] * len(values[0])) for name in whole]


def _bars(axes: Any, labels: Sequence[str], series: Sequence[tuple[str, list[float]]], *, stacked: bool) -> None:
    """A line of bars for each name, from the top down."""
    places = list(range(len(labels)))
    start = [0.0] * len(labels)
    high = 0.72 if stacked or len(series) == 1 else 0.8 / len(series)
    bars = None
    for at, ((name, values), colour, hatch) in enumerate(zip(series, cycle(COLOURS), cycle(HATCHES), strict=False)):
        at_ = places if stacked or len(series) == 1 else [place - 0.4 + high * (at + 0.5) for place in places]
        bars = axes.barh(
            at_,
            values,
            height=high,
            left=start if stacked else None,
            color=DAY.colours[colour],
            edgecolor=DAY.colours["paper"],
            linewidth=0.8,
            hatch=hatch,
            label=name,
        )
        start = [one + value for one, value in zip(start, values, strict=True)]
    axes.set_yticks(places, [label if len(label) <= 40 else label[:39] + "…" for label in labels])
    axes.invert_yaxis()
    axes.set_ylim(len(labels) - 0.4, -0.6)
    if len(series) == 1 and bars is not None:
        numbers = [f"{value:,.10g}" for value in series[0][1]]
        axes.bar_label(bars, numbers, padding=4, fontsize=9, color=DAY.colours["ink"])
        axes.margins(x=0.1)
    axes.xaxis.grid(True, color=DAY.colours["edge"], linewidth=0.8)
    axes.set_axisbelow(True)
    axes.xaxis.set_major_formatter("{x:,.10g}")


def _over_time(axes: Any, labels: Sequence[str], series: Sequence[tuple[str, list[float]]], *, stacked: bool) -> None:
    """A line for each layer, or bars on top of each other where they make up a whole."""
    places = list(range(len(labels)))
    start = [0.0] * len(labels)
    looks = zip(series, cycle(COLOURS), cycle(HATCHES), cycle(MARKS), strict=False)
    for (name, values), colour, hatch, mark in looks:
        if stacked:
            edge = DAY.colours["paper"]
            axes.bar(places, values, 0.78, start, color=DAY.colours[colour], edgecolor=edge, hatch=hatch, label=name)
            start = [one + value for one, value in zip(start, values, strict=True)]
        else:
            axes.plot(places, values, color=DAY.colours[colour], marker=mark, linewidth=2, markersize=6, label=name)
    step = -(-len(labels) // MOST_LABELS)
    axes.set_xticks(places[::step], labels[::step])
    axes.set_ylim(bottom=min(0.0, axes.get_ylim()[0]))
    axes.yaxis.grid(True, color=DAY.colours["edge"], linewidth=0.8)
    axes.set_axisbelow(True)
    axes.yaxis.set_major_formatter("{x:,.10g}")
