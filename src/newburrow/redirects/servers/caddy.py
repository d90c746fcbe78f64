"""Caddy: maps from the path, and from the path with parameters, and the lines that use them.

The path and single parameters are asked as Caddy has decoded them. A key that is not plain is an expression in which
all other characters are numbers, so that nothing in it is taken for a placeholder; a target is percent-encoded. A
parameter that has no value, or a name that is not plain, is asked of the whole query, as it was sent.
"""

from __future__ import annotations

import re
import tempfile
from contextlib import ExitStack
from typing import BinaryIO
from urllib.parse import unquote

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.rules.rule_words import in_words
from newburrow.redirects.server_key import (
    GONE_WORD,
    Key,
    asks_in_order,
    is_at,
    key_of,
    shown,
    word_for,
)
from newburrow.redirects.servers.base import Open, Server, ServerFiles, WholeDomain
from newburrow.store.journal.rows import OldAddress

_FILE = "newburrow.caddy"
_PLAIN = re.compile(r"[A-Za-z0-9/_.~?=&-]+")
_NAME = re.compile(r"[A-Za-z0-9_-]+\Z")
_WHOLE = ("",)  # the set of those that are asked of the whole query
_DOMAIN = "newburrow-domain.caddy"


class Caddy(Server):
    """Caddy 2."""

    name = "caddy"
    title = "Caddy"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """One file for the site block of the old address."""
        with open_file(_FILE) as stream, ExitStack() as stack:
            skipped = _CaddyFile(redirects, stream, stack).write()
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

    def write_domain(self, domain: WholeDomain, open_file: Open) -> str:
        """One line for the site block."""
        with open_file(_DOMAIN) as stream:
            stream.write(f"redir {domain.new}{{uri}} {domain.status}\n".encode())
        return f"`import {_DOMAIN}` in the site block of {domain.site}, and nothing else there."


SERVER = Caddy()


class _CaddyFile:
    """All maps, that of the path first, and what uses them."""

    def __init__(self, redirects: RedirectMap, stream: BinaryIO, stack: ExitStack) -> None:
        self.redirects, self.stream = redirects, stream
        self._stack = stack
        self._by_names: dict[tuple[str, ...], BinaryIO] = {}
        self._name = f"newburrow{redirects.mark}"

    def write(self) -> int:
        """Write the file; gives how many addresses it could not express."""
        self._line(
            "# Old addresses and where they are now. Import this in the site block of the old address."
        )
        self._line(f"map {{path}} {{{self._name}}} {{{self._name}_end}} {{")
        skipped = 0
        for row in self.redirects.spelled_out():
            key = key_of(row, merged=False)
            asked, found = _expression(key) if key else (_WHOLE, "")
            if not found:
                skipped += 1
                self._line(f"\t# Not written, since Caddy cannot express it: {shown(row.old)}")
            elif asked:
                self._of(asked).write(_row(found, row).encode())
            else:
                self.stream.write(_row(found, row).encode())
        for rule in self.redirects.path_rules:
            self._rule(self.stream, rule)
        self._line('\tdefault "" ""\n}')
        for rule in self.redirects.parameter_rules:
            self._rule(self._of((rule.parameter,)), rule)
        placeholders = self._with_parameters()
        # by default Caddy tries all redirects before anything else
        here = is_at(self.redirects.site, not self.redirects.mark).replace("\\", "\\\\")
        self._line(f'@{self._name}_here expression `{{host}}.matches("(?i){here}")`')
        self._line(f"route @{self._name}_here {{")
        for number, name in enumerate(placeholders):
            self._use(name, placeholders[:number], False)
        self._use(f"{{{self._name}}}", placeholders, self.redirects.keeps_query)
        self._line("}")
        return skipped

    def _with_parameters(self) -> list[str]:
        """Write the maps of paths with parameters, those with the most first; gives their placeholders."""
        placeholders = []
        ordered = sorted(self._by_names.items(), key=lambda item: (-len(item[0]), item[0]))
        for number, (names, lines) in enumerate(ordered):
            placeholders.append(f"{{{self._name}_by_{number}}}")
            pairs = "&".join(f"{name}={{query.{name}}}" for name in names)
            if names == _WHOLE:
                source = "{path}?{query}"
            else:
                source = f"{{path}}?{pairs}"
            end = f"{placeholders[-1][:-1]}_end}}"
            self._line(f"map {source} {placeholders[-1]} {end} {{")
            lines.seek(0)
            self.stream.writelines(lines)
            self._line('\tdefault "" ""\n}')
        return placeholders

    def _of(self, names: tuple[str, ...]) -> BinaryIO:
        if names not in self._by_names:
            stream = tempfile.TemporaryFile()  # noqa: SIM115 (the stack closes it)
            self._by_names[names] = self._stack.enter_context(stream)
        return self._by_names[names]

    def _rule(self, stream: BinaryIO, rule: RedirectRule) -> None:
        stream.write(
            f"\t# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}\n".encode()
        )
        stream.write(f'\t`~{rule.regex()}` "{rule.target("${{{}}}")}" ""\n'.encode())

    def _use(self, name: str, before: list[str], keeps_query: bool) -> None:
        """What a map says, done: gone; redirected; redirected with the query, before a fragment.

        A map is asked only where those `before` it say nothing.
        """
        mark, status = f"{self._name}_{len(before)}", self.redirects.status
        unless = "".join(f' && {placeholder} == ""' for placeholder in before)
        self._line(f'\t@{mark}_gone expression `{name} == "{GONE_WORD}"{unless}`')
        self._line(f"\trespond @{mark}_gone 410")
        moved, end = f'{name}.startsWith("http"){unless}', f"{name[:-1]}_end}}"
        if keeps_query:
            for sign, which, has in (("&", "more", ""), ("?", "query", "!")):
                condition = f'{has}{name}.contains("?") && {moved} && {{query}} != ""'
                self._line(f"\t@{mark}_{which} expression `{condition}`")
                self._line(f"\tredir @{mark}_{which} {name}{sign}{{query}}{end} {status}")
        self._line(f"\t@{mark}_moved expression `{moved}`")
        self._line(f"\tredir @{mark}_moved {name}{end} {status}")

    def _line(self, text: str) -> None:
        self.stream.write(f"{text}\n".encode())


def _row(found: str, row: OldAddress) -> str:
    """One line of a map: what is asked, the new address, and its fragment, which follows a query."""
    target = word_for(row).replace("$", "%24")  # Caddy would expand it
    at, mark, fragment = target.partition("#")
    return f'\t{found} "{at}" "{mark}{fragment}"\n'


def _expression(key: Key) -> tuple[tuple[str, ...], str]:
    """The names that are asked for, and what matches the path and their values; empty for what is not UTF-8."""
    try:
        path = key.path.decode("utf-8")
        values = [unquote(value, errors="strict") for _name, value in key.pairs]
    except UnicodeDecodeError:
        return (), ""
    single = all(values) and all(map(_NAME.match, key.names))
    if key.pairs and not single:
        whole = asks_in_order(key.pairs)
        # RE2 reads text, not bytes: what is encoded is asked for encoded.
        if not whole or re.search(r"\\x[89a-f]", whole):
            return (), ""
        return _WHOLE, f"`~^{_numbered(path)}\\?{whole}$`"
    query = "&".join(f"{name}={value}" for name, value in zip(key.names, values, strict=True))
    text = f"{path}?{query}" if key.pairs else path
    if _PLAIN.fullmatch(text):
        return key.names, f'"{text}"'
    return key.names, f"`~^{_numbered(text)}$`"


def _numbered(text: str) -> str:
    return "".join(map(_by_number, text))


def _by_number(letter: str) -> str:
    if letter.isascii() and (letter.isalnum() or letter in "/_-"):
        return letter
    return f"\\x{{{ord(letter):x}}}"
