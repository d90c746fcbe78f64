"""Apache httpd: a map for the server's configuration, and a file for those who only have a folder.

Both ask the path as httpd has decoded it. In the map is what has no blank in it; everything else, and everything in the
folder's file, is an expression in which bytes that are not plain are numbers. A target is percent-encoded, and the
signs that a substitution would expand are told not to.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import BinaryIO

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.learning import in_words
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.server_key import (
    GONE_WORD,
    PASS_WORD,
    Key,
    exactly,
    key_of,
    shown,
    site_of,
    word_for,
)
from newburrow.redirects.servers.base import Open, ServerFiles
from newburrow.store.journal.rows import GONE, UNCHANGED, OldAddress

_MAP, _SERVER, _FOLDER = "newburrow-map.txt", "newburrow-server.conf", "htaccess"
_LONGEST = 4000  # bytes of a key or target; httpd takes lines of 8,190
_BLANK = re.compile(rb"[\x00-\x20\x7f]")
_ALL = '"(?s)^/.*$"'


class Apache:
    """Apache httpd 2.4."""

    name = "apache"
    title = "Apache httpd"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """A map with what uses it, and the same for a folder's own file."""
        shared = _ApacheFiles(redirects)
        with open_file(_MAP) as table, open_file(_FOLDER) as folder:
            shared.write(table, folder)
        with open_file(_SERVER) as stream:
            stream.write(shared.server().encode())
        if shared.skipped:
            skipped = f"\n{shared.skipped:,} addresses cannot be expressed for httpd; {_FOLDER} lists them."
        else:
            skipped = ""
        return ServerFiles(
            f"With access to the server's configuration: put {_MAP} into its folder, and `Include` {_SERVER} in the\n"
            f"virtual host of the old address. With many addresses make the map fast: `httxt2dbm -i {_MAP} -o "
            "newburrow-map`,\nand write dbm: for txt:. Check with `apachectl configtest`, then reload.\n"
            f"With a folder only: copy {_FOLDER} to .htaccess in the top folder of the old site."
            + skipped,
            shared.skipped,
        )


SERVER = Apache()


class _ApacheFiles:
    """What is written, gathered from the answers where it is few, and streamed where it is not.

    In a folder the path has no slash before it.
    """

    def __init__(self, redirects: RedirectMap) -> None:
        self.redirects = redirects
        self.site = redirects.site
        self.rules = redirects.rules
        self.skipped = 0
        self.parameters: set[str] = set()  # few
        # what the map cannot hold: few, mostly none
        self.apart: list[tuple[Key, OldAddress]] = []

    def write(self, table: BinaryIO, folder: BinaryIO) -> None:
        """The table of a RewriteMap, and the same as expressions alone, for a folder's own file."""
        table.write(b"# Old addresses and where they are now.\n")
        folder.write(
            b"# Answers old addresses. Copy this to .htaccess in the top folder of the old site.\nRewriteEngine On\n"
        )
        status = self.redirects.permanent
        for row in self.redirects.spelled_out():
            key = self._key(row)
            if key is None:
                self.skipped += 1
                folder.write(
                    f"# Not written, since httpd cannot express it: {shown(row.old)}\n".encode()
                )
                continue
            self._to_table(table, key, row)
            folder.write(
                "".join([f"{line}\n" for line in _lines_for(key, row, "", status)]).encode()
            )
        folder.write(
            "".join(f"{line}\n" for line in _patterns(self.rules, "", status)).encode()
        )

    def _to_table(self, table: BinaryIO, key: Key, row: OldAddress) -> None:
        """A key, a blank, an answer."""
        name = key.path + (f"?{key.parameter}={key.value}".encode() if key.parameter else b"")
        if key.parameter:
            self.parameters.add(key.parameter)
        if _BLANK.search(name):
            self.apart.append((key, row))
        else:
            at, mark, query = word_for(row).partition("?")
            table.write(name + b" " + (at + mark + query.replace("?", "%3F")).encode() + b"\n")

    def _key(self, row: OldAddress) -> Key | None:
        """An encoded slash is refused by httpd before anything is asked."""
        slashes = "%" in row.old and "%2F" in row.old.upper()
        if site_of(row) == self.site and not slashes:
            key = key_of(row)
        else:
            key = None
        # an escaped byte takes four
        if key is None or len(row.new) * 4 + len(key.path) * 4 <= _LONGEST:
            return key
        if max(len(exactly(key.path)), len(word_for(row))) <= _LONGEST:
            return key
        return None

    def server(self) -> str:
        """What uses the map. To be called after that was written."""
        lines = [
            "# Answers old addresses. Include this in the virtual host; the map is next to the main configuration.",
            "RewriteEngine On",
            f'RewriteMap newburrow "txt:{_MAP}"',
        ]
        for key, row in self.apart:
            lines += _lines_for(key, row, "/", self.redirects.permanent)
        status = self.redirects.permanent
        for name in sorted(self.parameters):
            lines += _asked(
                f"$0?{name}=%1",
                [f'RewriteCond "%{{QUERY_STRING}}" "(?:^|&){name}=([^&]*)"'],
                ",QSD",
                status,
            )
        lines += _asked("$0", [], "", status)
        lines += _patterns(self.rules, "/", status)
        return "\n".join(lines) + "\n"


def _lines_for(key: Key, row: OldAddress, top: str, status: int) -> list[str]:
    """One address by itself."""
    path = exactly(key.path.removeprefix(b"/"))
    condition = [
        f'RewriteCond "%{{QUERY_STRING}}" "(?:^|&){key.parameter}={exactly(key.value.encode())}(?:&|$)"'
    ]
    if key.parameter:
        flags = ",QSD"
    else:
        flags = ""
    if row.status == UNCHANGED:
        rule = f'RewriteRule "^{top}{path}$" - [END]'
    elif row.status == GONE:
        rule = f'RewriteRule "^{top}{path}$" - [G]'
    else:
        rule = f'RewriteRule "^{top}{path}$" "{_plain(word_for(row))}" [R={status},L,NE{flags}]'
    return [*(condition if key.parameter else []), rule]


def _asked(key: str, before: list[str], flags: str, status: int) -> list[str]:
    """What the map says of a key: gone, let pass, or an address."""
    looked = f'"${{newburrow:{key}}}"'
    return [
        *before,
        f'RewriteCond {looked} "^{GONE_WORD}$"',
        f"RewriteRule {_ALL} - [G]",
        *before,
        f'RewriteCond {looked} "^{PASS_WORD}$"',
        f"RewriteRule {_ALL} - [END]",
        *before,
        f'RewriteCond {looked} "^(https?://[^?]+)$"',
        f'RewriteRule {_ALL} "%1" [R={status},L,NE{flags}]',
        # httpd refuses a question mark from an expansion, so it is in the rule itself.
        *before,
        f'RewriteCond {looked} "^(https?://[^?]+)[?]([^?]*)$"',
        f'RewriteRule {_ALL} "%1?%2" [R={status},L,NE{flags}]',
    ]


def _patterns(rules: tuple[RedirectRule, ...], top: str, status: int) -> Iterator[str]:
    for rule in rules:
        yield f"# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}"
        yield f'RewriteRule "^{top}{rule.regex().removeprefix("^/")}" "{rule.target()}" [R={status},L,NE]'


def _plain(target: str) -> str:
    """A target of which nothing is expanded."""
    return target.replace("\\", "\\\\").replace("$", "\\$").replace("%", "\\%")
