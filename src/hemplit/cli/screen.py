"""What a command writes to: results on stdout for a person or as JSON, progress on stderr while a person watches."""

from __future__ import annotations

import os
from time import monotonic
from typing import TYPE_CHECKING, Any

from hemplit.errors import STEERING, visible

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator
    from typing import TextIO

    from rich.console import Console
    from rich.progress import Progress

#: The width of lines that go to a file or a pipe, unless ``COLUMNS`` or ``--width`` says another.
PIPE_WIDTH = 100
NARROWEST, WIDEST = 40, 200
#: What takes more seconds is told in the end.
LONG = 2.0
#: When the program began, as far as it can know.
_STARTED = monotonic()


def _json(value: Any, indent: int | None = None) -> str:
    """The JSON of a value; what steers a terminal is escaped, as JSON itself asks for some of it only.

    >>> print(_json(f"a{chr(0x9B)}b"))
    "a\\u009bb"
    """
    import json

    text = json.dumps(value, ensure_ascii=False, indent=indent)
    return STEERING.sub(lambda found: f"\\u{ord(found.group(0)):04x}", text)


class Screen:
    """One call's output."""

    def __init__(
        self, stdout: TextIO, stderr: TextIO, *, as_json: bool = False, width: int | None = None, timed: bool = False
    ) -> None:
        self.stdout = stdout
        self.stderr = stderr
        self.as_json = as_json
        self.width = width
        self._progress: Progress | None = None
        self._console: Console | None = None
        self._doing, self._since, self._began = "", 0.0, 0.0
        self._timed = Stops() if timed else None

    @property
    def console(self) -> Console:
        """Where text for a person goes; colours only on a terminal, and not with ``NO_COLOR``."""
        if self._console is None:
            from rich.console import Console

            class Piped(Console):
                """A console that leaves it to the caller what a reader that has gone means."""

                def on_broken_pipe(self) -> None:
                    raise BrokenPipeError

            self._console = Piped(
                file=self.stdout, width=self._columns(), highlight=False, emoji=False, soft_wrap=False
            )
        return self._console

    def _columns(self) -> int | None:
        """How wide lines may be; None for as wide as the terminal is."""
        asked = os.environ.get("COLUMNS", "")
        if self.width is not None:
            return self.width
        if asked.isdigit() and int(asked) > 0:
            return min(max(int(asked), NARROWEST), WIDEST)
        return None if self.stdout.isatty() else PIPE_WIDTH

    def write_json(self, value: Any) -> None:
        """One JSON document, in UTF-8 whatever the terminal's encoding."""
        self._use_utf_8()
        self.stdout.write(f"{_json(value, indent=2)}\n")

    def stream_json(self, head: dict[str, Any], name: str, items: Iterable[Any]) -> None:
        """The beginning of a JSON document, and a list in it that is written item by item."""
        self._use_utf_8()
        self.stdout.write(f"{_json(head)[:-1]}, {_json(name)}: [")
        between = "\n"
        for item in items:
            self.stdout.write(between + _json(item))
            between = ",\n"

    def end_json(self, tail: dict[str, Any]) -> None:
        """The end of a document begun with ``stream_json``."""
        self.stdout.write(f"\n], {_json(tail)[1:]}\n")

    def _use_utf_8(self) -> None:
        if hasattr(self.stdout, "reconfigure"):
            self.stdout.reconfigure(encoding="utf-8")

    def note(self, text: str) -> None:
        """A remark beside the result."""
        self.close()
        print(visible(text), file=self.stderr)

    def progress(self, what: str, done: int, of: int) -> None:
        """What is going on, shown only on a terminal."""
        if self._timed is not None:
            self._timed.come_to(what)
        if not self.stderr.isatty():
            return
        if self._progress is None:
            from rich.console import Console
            from rich.progress import Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

            self._progress = Progress(
                SpinnerColumn(),
                TextColumn("{task.description}"),
                TimeElapsedColumn(),
                console=Console(file=self.stderr),
                transient=True,
            )
            self._progress.add_task("")
            self._progress.start()
            self._began = monotonic()
        if what != self._doing:
            self._doing, self._since = what, monotonic()
        from rich.markup import escape

        said = visible(f"{what}{share_of(done, of, monotonic() - self._since)}")
        self._progress.update(self._progress.task_ids[0], description=escape(said))

    def close(self) -> None:
        """Takes the progress off the terminal; what took long is told."""
        if self._progress is not None:
            self._progress.stop()
            self._progress = None
            took = monotonic() - self._began
            if took > LONG:
                print(f"done in {took:.0f} s", file=self.stderr)

    def tell_times(self) -> None:
        """Says how long each stop took, if that was asked for."""
        if self._timed is not None:
            self.close()
            for line in self._timed.told():
                print(visible(line), file=self.stderr)


class Stops:
    """How long the work stayed at each of its stops."""

    def __init__(self) -> None:
        self._at, self._since = "starting", _STARTED
        self._took: dict[str, float] = {}

    def come_to(self, stop: str) -> None:
        """The work goes on with something, perhaps the same as before."""
        now = monotonic()
        self._took[self._at] = self._took.get(self._at, 0.0) + now - self._since
        self._at, self._since = stop, now

    def told(self) -> Iterator[str]:
        """A line for each stop in the order of their first times, and one for all."""
        self.come_to("")
        whole = sum(self._took.values())
        for stop, seconds in {**self._took, "together": whole}.items():
            yield f"{seconds:9.2f} s {seconds / whole:5.0%}  {stop}"


def share_of(done: int, of: int, seconds: float) -> str:
    """How much of something is done that has taken so many seconds, and how long the rest will take.

    >>> share_of(2, 8, 10), share_of(0, 8, 10), share_of(0, 1, 10)
    (' 25 % · about 30 s left', ' 0 %', '')
    """
    if of <= 1:
        return ""
    left = f" · about {seconds / done * (of - done):.0f} s left" if done and seconds >= 1 else ""
    return f" {done / of:.0%}".replace("%", " %") + left
