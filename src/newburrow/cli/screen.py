"""What a person sees: results on standard output, progress and messages on standard error."""

from __future__ import annotations

import logging
import os
import shlex
import shutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Literal

from newburrow.core.problem import BurrowError, refusal
from newburrow.core.progress import Event, Listener
from newburrow.decide.questions import OpenQuestion

if TYPE_CHECKING:
    from rich.console import Console
    from rich.table import Table

JSON_VERSION = 1  # of the forms that --json prints (`json_forms`)
_NAME_WIDTH = 12  # columns of the name before a fact
_LEAST_WIDTH = 20  # columns of the fact, on however narrow a terminal
_PIPE_WIDTH = 110  # columns if the output is not a terminal


def in_shell(path: object) -> str:
    """A path as it can be written in a shell."""
    return shlex.quote(str(path))


def _pipe_width() -> int:
    """The width of tables where there is no terminal; `COLUMNS` can say it."""
    word = os.environ.get("COLUMNS", "")
    if word.isascii() and word.isdigit() and 20 <= int(word) <= 10_000:
        return int(word)
    return _PIPE_WIDTH


class Screen:
    """The two streams. Colour and progress bars only on a terminal, and never with NO_COLOR."""

    def __init__(self, quiet: bool = False) -> None:
        self.quiet = quiet
        self.plain = bool(os.environ.get("NO_COLOR"))

    @property
    def out(self) -> Console:
        """Standard output."""
        from rich.console import Console

        terminal = sys.stdout.isatty()
        return Console(
            file=sys.stdout,
            no_color=self.plain,
            highlight=False,
            soft_wrap=False,
            emoji=False,
            color_system=None if self.plain or not terminal else "auto",
            width=None if terminal else _pipe_width(),
        )

    def line(self, text: str = "") -> None:
        """Print one line of a result on standard output, unchanged."""
        print(_printable(text))

    def fact(self, name: str, words: str) -> None:
        """Print a fact after its name; on a terminal a long one goes on below itself, else it is one line."""
        lines = [words]
        if sys.stdout.isatty():
            import textwrap

            width = max(_LEAST_WIDTH, shutil.get_terminal_size().columns - _NAME_WIDTH)
            lines = textwrap.wrap(words, width, break_on_hyphens=False, break_long_words=False)
        for line in lines:
            self.line(f"{name:<{_NAME_WIDTH}}{line}")
            name = ""

    def json(self, form: str, value: object) -> None:
        """Print a result as one JSON object on standard output: its form, the version of that, and its members."""
        import json

        from msgspec import to_builtins

        is_unicode = (sys.stdout.encoding or "").lower().replace("-", "") == "utf8"
        made = {"form": form, "version": JSON_VERSION, **to_builtins(value)}
        self.line(json.dumps(made, ensure_ascii=not is_unicode, indent=2))

    def message(self, text: str) -> None:
        """Print a message on standard error, unless --quiet was given."""
        if not self.quiet:
            print(_printable(text), file=sys.stderr)

    def error(self, text: str) -> None:
        """Print an error on standard error."""
        print(_printable(text), file=sys.stderr)

    def ask(self, question: OpenQuestion) -> str:
        """Ask a question until the answer is allowed. Raises BurrowError at the end of standard input."""
        print(_printable(question.text), file=sys.stderr)
        if question.choices:
            print(f"  {' | '.join(question.choices)}", file=sys.stderr)
        while True:
            print(f"  [{_printable(question.proposed)}] ", end="", file=sys.stderr, flush=True)
            line = sys.stdin.readline()
            if not line:
                raise refusal(
                    "no-answer", "There was no answer.", "Run it again, or leave --ask out."
                )
            try:
                question.value(line)
            except BurrowError as error:
                self.error(f"  {error.problem.message} {error.problem.advice}")
                continue
            return line

    @contextmanager
    def progress(self) -> Iterator[Listener]:
        """A listener that shows bars if standard error is a terminal, else a line now and then."""
        from newburrow.cli import progress_view

        stages = _LoggedStages()
        if self.quiet or self.plain or not sys.stderr.isatty():
            show_line = progress_view.lines(self.message)

            def say(event: Event) -> None:
                stages.note(event)
                if event.notice:
                    self.message(event.notice)
                else:
                    show_line(event)

            yield say
            return
        with progress_view.bars() as show_bar:

            def show(event: Event) -> None:
                stages.note(event)
                show_bar(event)

            yield show


class _LoggedStages:
    """Writes each stage of the work into the log, once."""

    def __init__(self) -> None:
        self._seen = set[str]()

    def note(self, event: Event) -> None:
        """Log the stage of an event if it is a new one."""
        if event.stage and event.stage not in self._seen:
            self._seen.add(event.stage)
            logging.getLogger("newburrow").info("%s", event.stage)


def table(*columns: str, numbers: tuple[str, ...] = ()) -> Table:
    """A table with these columns, those named in `numbers` to the right."""
    from rich.box import SIMPLE_HEAD
    from rich.table import Table

    made = Table(
        box=SIMPLE_HEAD,
        pad_edge=False,
        padding=(0, 2, 0, 0),
        header_style="bold",
        show_edge=False,
    )
    for column in columns:
        number = column in numbers  # which says nothing in two lines
        side: Literal["left", "right"] = "right" if number else "left"
        made.add_column(
            column, justify=side, overflow="fold", no_wrap=number, min_width=len(column)
        )
    return made


def cell(text: str) -> str:
    """A text from an export as a cell: control characters made visible, brackets not taken for styles."""
    from rich.markup import escape

    return escape(_printable(text))


def _printable(text: str) -> str:
    """Control characters of an export could steer a terminal; they become U+FFFD."""
    return "".join(
        c if c.isprintable() or c == "\n" else "\N{REPLACEMENT CHARACTER}" for c in text
    )
