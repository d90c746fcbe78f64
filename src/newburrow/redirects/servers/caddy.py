"""Caddy: maps from the path, and from the path with one parameter, and the lines that use them.

The path is asked as Caddy has decoded it. A key that is not plain is an expression in which all other characters are
number, so that nothing in it is taken for a placeholder; a target is percent-encoded.
"""

from __future__ import annotations

import re
import tempfile
from typing import BinaryIO

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.learning import in_words
from newburrow.redirects.server_key import (
    GONE_WORD,
    PASS_WORD,
    Key,
    key_of,
    shown,
    site_of,
    word_for,
)
from newburrow.redirects.servers.base import Open, ServerFiles
from newburrow.store.journal.rows import UNCHANGED, OldAddress

_FILE = "newburrow.caddy"
_PLAIN = re.compile(r"[A-Za-z0-9/_.~?=-]+")


class Caddy:
    """Caddy 2."""

    name = "caddy"
    title = "Caddy"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """One file for the site block of the old address."""
        with open_file(_FILE) as stream:
            skipped = _write(stream, redirects)
        return ServerFiles(
            f"Put {_FILE} beside the Caddyfile, and `import {_FILE}` in the site block of the old address.\n"
            "Check with `caddy validate`, then `caddy reload`."
            + (
                f"\n{skipped:,} addresses cannot be expressed for Caddy; {_FILE} lists them."
                if skipped
                else ""
            ),
            skipped,
        )


SERVER = Caddy()


def _write(stream: BinaryIO, redirects: RedirectMap) -> int:
    """Write all maps, that of the path first; gives how many addresses it could not express."""
    stream.write(
        b"# Old addresses and where they are now. Import this in the site block of the old address.\n"
    )
    stream.write(b"map {path} {newburrow} {\n")
    skipped, by_parameter, site = 0, dict[str, BinaryIO](), redirects.site
    left: list[str] = []
    for row in redirects.spelled_out():
        if site_of(row) == site:
            key = key_of(row, merged=False)
        else:
            key = None
        if key:
            line = _line(key, row)
        else:
            line = ""
        if key is None or not line:
            skipped += 1
            stream.write(
                f"\t# Not written, since Caddy cannot express it: {shown(row.old)}\n".encode()
            )
        elif key.parameter:
            if key.parameter not in by_parameter:
                by_parameter[key.parameter] = tempfile.TemporaryFile()  # noqa: SIM115 (closed below)
            by_parameter[key.parameter].write(line.encode())
        else:
            stream.write(line.encode())
    for rule in redirects.rules:
        stream.write(
            f"\t# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}\n".encode()
        )
        stream.write(f'\t`~{rule.regex()}` "{rule.target("${{{}}}")}"\n'.encode())
    stream.write(b'\tdefault ""\n}\n')
    for number, (name, rows_of_parameter) in enumerate(sorted(by_parameter.items())):
        left.append(f"{{newburrow_by_{number}}}")
        stream.write(f"map {{path}}?{name}={{query.{name}}} {left[-1]} {{\n".encode())
        rows_of_parameter.seek(0)
        stream.writelines(rows_of_parameter)
        rows_of_parameter.close()
        stream.write(b'\tdefault ""\n}\n')
    # by default Caddy tries all redirects before anything else
    stream.write(b"route {\n")
    for number, name in enumerate([*left, "{newburrow}"]):
        stream.write(_use(name, number, redirects.permanent).encode())
    stream.write(b"}\n")
    return skipped


def _line(key: Key, row: OldAddress) -> str:
    """One line of a map; empty for a path that is no UTF-8."""
    name = key.path + (f"?{key.parameter}={key.value}".encode() if key.parameter else b"")
    try:
        text = name.decode("utf-8")
    except UnicodeDecodeError:
        return ""
    if _PLAIN.fullmatch(text):
        found = f'"{text}"'
    else:
        found = f"`~^{''.join(map(_by_number, text))}$`"
    # Caddy would expand it
    if row.status == UNCHANGED:
        target = PASS_WORD
    else:
        target = word_for(row).replace("$", "%24")
    return f'\t{found} "{target}"\n'


def _by_number(letter: str) -> str:
    if letter.isascii() and (letter.isalnum() or letter in "/_-"):
        return letter
    return f"\\x{{{ord(letter):x}}}"


def _use(name: str, number: int, status: int) -> str:
    """What a map says, done."""
    return (
        f'\t@newburrow_gone_{number} expression `{name} == "{GONE_WORD}"`\n'
        f"\trespond @newburrow_gone_{number} 410\n"
        f'\t@newburrow_moved_{number} expression `{name}.startsWith("http")`\n'
        f"\tredir @newburrow_moved_{number} {name} {status}\n"
    )
