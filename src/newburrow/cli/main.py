"""The entry point: finds the command, and turns every error of ours into a plain message."""

from __future__ import annotations

import gc
import importlib
import io
import logging
import os
import sys
from collections.abc import Sequence

COMMANDS = {
    "survey": "count and examine what is in an export; writes nothing",
    "show": "print all of one item of an export, or the story of one item of a move",
    "mend": "repair an export that is not well-formed; lists every repair",
    "keep": "keep everything in an export in a bag, to survey and move later",
    "draft": "make a move folder with every decision filled in, to look through and change",
    "move": "convert, with redirects, ledger, follow-ups and report",
    "redirects": "write the redirects of a finished move for a server",
    "verify": "read the result of a move back, and hold it against the old site",
    "hosts": "list the hosts that you can move to, or print all of one",
    "dialects": "list the dialects that can be read, or print all of one",
    "demo": "do the whole job once on made-up data",
}

_FIRST_STEPS = """\
A first move:
  newburrow survey export.zip                                  see what is in it
  newburrow draft export.zip --to lanternlog --out my-move     decide in my-move/move.toml
  newburrow move my-move                                       convert

Each command says more with --help, for example: newburrow move --help
No export at hand? See it all on made-up data: newburrow demo
Completion in your shell: newburrow --completion bash
"""


def overview() -> str:
    """What `newburrow` and `newburrow --help` print."""
    lines = [
        "New Burrow moves a blog, a wiki or a course to another host, with redirects from every old address.",
        "",
        "usage: newburrow COMMAND ...",
        "",
    ]
    lines += [f"  {name:<11}{text}" for name, text in COMMANDS.items()]
    return "\n".join([*lines, "", _FIRST_STEPS])


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; gives the exit status."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    log = logging.getLogger("newburrow")
    log.propagate = False
    log.addHandler(logging.NullHandler())  # without one, errors would go to the screen
    sys.unraisablehook = _unraisable
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # what a terminal cannot show is replaced
            stream.reconfigure(errors="replace")
    try:
        status = _main(words)
        sys.stdout.flush()  # flushed here, so that a closed pipe is noticed here
        return status
    except BrokenPipeError:
        # the pipe was closed; nothing more to print
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except KeyboardInterrupt:
        print("newburrow: stopped. Run the same command again to go on.", file=sys.stderr)
        return 130
    except SystemExit:
        raise
    except BaseException as error:  # a native library may end with one that is no Exception
        return _fault(error)


def _main(words: list[str]) -> int:
    if words[:1] == ["help"] and len(words) > 1:  # `help survey` is `survey --help`
        words = [words[1], "--help"]
    if not words or words[0] in ("-h", "--help", "help"):
        print(overview(), end="")
        if words:
            return 0
        return 2
    if words[0] == "--version":
        from newburrow import __version__

        print(f"newburrow {__version__}")
        return 0
    if words[0].partition("=")[0] == "--completion":
        return _completion(words)
    name = _command(words)
    if not name:
        if words[0].startswith("-"):
            return _no_option(words)
        return _unknown(words[0])
    # Records are short-lived and free of cycles; collecting at the usual rate would take a tenth of the time.
    gc.set_threshold(50_000, 20, 100)
    module = importlib.import_module(f"newburrow.cli.{name}")
    return _run(module, name, words)


def _completion(words: list[str]) -> int:
    """Print the script that completes words in a shell."""
    from newburrow.cli.whole_parser import SHELLS, completion

    shell = words[0].partition("=")[2] or next(iter(words[1:]), "")
    if shell not in SHELLS:
        message = f"newburrow: --completion needs the name of a shell: {', '.join(SHELLS)}."
        print(f"{message}\nFor example: newburrow --completion bash", file=sys.stderr)
        return 2
    print(completion(shell, COMMANDS))
    return 0


def _command(words: list[str]) -> str:
    """Take the command out of the words; options of all commands may come before it."""
    place = 0
    while place < len(words) and words[place].startswith("-"):
        if words[place] in ("--log", "--log-level", "--jobs"):
            place += 2
        else:
            place += 1
    if place < len(words) and words[place] in COMMANDS:
        return words.pop(place)
    return ""


def _unknown(word: str) -> int:
    from newburrow.core.suggestions import suggest

    print(
        f"newburrow: there is no command {word!r}. {suggest(word, COMMANDS, 'The commands are')}\n"
        "See them all: newburrow --help",
        file=sys.stderr,
    )
    return 2


def _no_option(words: list[str]) -> int:
    """Answer options of which none is a command's: the nearest right one, or that the command is missing."""
    from newburrow.core.suggestions import suggest

    options = (
        "--version",
        "--help",
        "--completion",
        "--quiet",
        "--log",
        "--log-level",
        "--jobs",
    )
    wrong = next((word for word in words if word.partition("=")[0] not in options), "")
    if wrong.startswith("-"):
        print(
            f"newburrow: there is no option {wrong!r}. {suggest(wrong, options, 'The options are')}\n"
            "See them all: newburrow --help",
            file=sys.stderr,
        )
    else:
        print(f"newburrow: the command is missing.\n\n{overview()}", file=sys.stderr)
    return 2


def _run(module: object, name: str, words: list[str]) -> int:
    from newburrow.cli import log_file
    from newburrow.cli.parsing import Parser, add_common
    from newburrow.cli.screen import Screen
    from newburrow.core import log_facts
    from newburrow.core.problem import BurrowError

    parser = Parser(name, module.__doc__ or "", module.EXAMPLE)  # type: ignore[attr-defined]
    module.configure(parser)  # type: ignore[attr-defined]
    add_common(parser)
    options = parser.parse(words)
    screen = Screen(options.quiet)
    try:
        log_file.start(options.log, options.log_level)
        log_facts.info(
            logging.getLogger("newburrow"), f"newburrow {name}", words=" ".join(words)
        )
        status: int = module.run(options, screen)  # type: ignore[attr-defined]
        return status
    except BurrowError as error:
        logging.getLogger("newburrow").error("%s", error, exc_info=error)
        screen.error(f"newburrow: {error}")
        return 2


def _fault(error: BaseException) -> int:
    """Say what ended the run; gives the exit status."""
    logging.getLogger("newburrow").critical("%s", error, exc_info=error)
    try:
        from newburrow.cli.faults import in_words

        words = in_words(error)
    except BaseException:  # not even that can be loaded
        words = "There is not enough memory."
    words = words or (
        f"a fault in New Burrow: {type(error).__name__}: {error}\n"
        "  Run the command again with --log FILE and report the fault with that file."
    )
    print(f"newburrow: {words}", file=sys.stderr)
    return 2


def _unraisable(what: sys.UnraisableHookArgs) -> None:
    """An error where nobody can catch it, as when a generator is closed: the one that caused it is said."""
    logging.getLogger("newburrow").error("%s", what.err_msg, exc_info=what.exc_value)


if __name__ == "__main__":
    sys.exit(main())
