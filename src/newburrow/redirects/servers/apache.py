"""Apache httpd: a map for the server's configuration, and a file for those who only have a folder.

Both ask the path as httpd has decoded it. In the map is what has no blank in it; everything else, and everything in the
folder's file, is an expression in which bytes that are not plain are numbers. A target is percent-encoded, and the
signs that a substitution would expand are told not to.
"""

from __future__ import annotations

import re
import shutil
import tempfile
from collections.abc import Iterator, Sequence
from typing import BinaryIO

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.rules.rule_words import in_words
from newburrow.redirects.server_key import (
    GONE_WORD,
    PASS_WORD,
    Key,
    asks_for,
    exactly,
    is_at,
    key_of,
    shown,
    word_for,
)
from newburrow.redirects.servers.base import Open, Server, ServerFiles, WholeDomain
from newburrow.store.journal.rows import GONE, UNCHANGED, OldAddress

_MAP, _SERVER, _FOLDER = "newburrow-map.txt", "newburrow-server.conf", "htaccess"
_LONGEST = 4000  # bytes of a key or target; httpd takes lines of 8,190
_MANY = 2000  # rules that a folder's file can have before requests get slow
_LONGEST_LINE = 1000  # bytes of a line of the map; httpd cuts off at 1,024
_BLANK = re.compile(rb"[\x00-\x20\x7f]")
_ALL = '"(?s)^/.*$"'
_DOMAIN = "newburrow-domain.conf"


class Apache(Server):
    """Apache httpd 2.4."""

    name = "apache"
    title = "Apache httpd"
    lowers = True  # in its configuration, not in a folder's file

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
        if redirects.mark:
            below = f" (in a folder {redirects.site} there)"
        else:
            below = ""
        return ServerFiles(
            f"With access to the server's configuration: put {_MAP} into its folder{below}, and `Include`\n"
            f"{_SERVER} in the virtual host of the old address. With many addresses make the map fast:\n"
            f"`httxt2dbm -i {_MAP} -o newburrow-map`, and write dbm: for txt:. Check with `apachectl configtest`,\n"
            f"then reload. With a folder only: copy {_FOLDER} to .htaccess in the top folder of the old site."
            + _slow(shared.lines)
            + skipped,
            shared.skipped,
        )

    def write_domain(self, domain: WholeDomain, open_file: Open) -> str:
        """One line for a virtual host or a folder's own file; mod_alias keeps the path and the query."""
        with open_file(_DOMAIN) as stream:
            stream.write(f'Redirect {domain.status} "/" "{domain.new}/"\n'.encode())
        return f"`Include {_DOMAIN}` in the virtual host of {domain.site}, or copy its line to .htaccess there."


SERVER = Apache()


class _ApacheFiles:
    """What is written, gathered from the answers where it is few, and streamed where it is not.

    In a folder the path has no slash before it. The first rule skips all others for requests to other hosts.
    """

    def __init__(self, redirects: RedirectMap) -> None:
        self.redirects, self.lowering = redirects, redirects.lowering()
        self.status = redirects.status
        self.skipped = 0
        self.lines = 0  # rules in the folder's file
        self.sets: set[tuple[str, ...]] = set()  # of parameters; few
        # what the map cannot hold: few, mostly none
        self.apart: list[tuple[Key, OldAddress]] = []

    def write(self, table: BinaryIO, folder: BinaryIO) -> None:
        """The table of a RewriteMap, and the same as expressions alone, for a folder's own file."""
        table.write(b"# Old addresses and where they are now.\n")
        rules = 0
        with tempfile.TemporaryFile() as body:
            for row in self.redirects.spelled_out():
                key = self._key(row)
                if key is None:
                    self.skipped += 1
                    body.write(
                        f"# Not written, since httpd cannot express it: {shown(row.old)}\n".encode()
                    )
                    continue
                if self.lowering is self.redirects:
                    self._to_table(table, key, row)
                lines = self._lines_for(key, row, "")
                rules += sum(line.startswith("RewriteRule") for line in lines)
                body.write("".join([f"{line}\n" for line in lines]).encode())
            if self.lowering is not self.redirects:
                self._write_table(table)
            last = list(self._patterns(self.redirects.rules, ""))
            rules += sum(line.startswith("RewriteRule") for line in last)
            body.write("".join(f"{line}\n" for line in last).encode())
            body.seek(0)
            folder.write(
                b"# Answers old addresses. Copy this to .htaccess in the top folder of the old site.\n"
            )
            folder.write("".join(f"{line}\n" for line in self._head(rules)).encode())
            self.lines = rules
            shutil.copyfileobj(body, folder)

    def _write_table(self, table: BinaryIO) -> None:
        """The table where fewer addresses are in it than in the folder's file, in which rules cannot lower letters."""
        for row in self.lowering.spelled_out():
            if key := self._key(row):
                self._to_table(table, key, row)

    def _head(self, rules: int) -> list[str]:
        return [
            "RewriteEngine On",
            f'RewriteCond "%{{HTTP_HOST}}" "!{is_at(self.redirects.site, not self.redirects.mark)}" [NC]',
            f'RewriteRule "^" - [S={rules}]',
        ]

    def _to_table(self, table: BinaryIO, key: Key, row: OldAddress) -> None:
        """A key, a blank, an answer."""
        name = key.path + key.query.encode()
        at, mark, query = word_for(row).partition("?")
        line = name + b" " + (at + mark + query.replace("?", "%3F")).encode() + b"\n"
        if _BLANK.search(name) or len(line) > _LONGEST_LINE or not key.is_plain:
            self.apart.append((key, row))
            return
        if key.pairs:
            self.sets.add(key.names)
        table.write(line)

    def _key(self, row: OldAddress) -> Key | None:
        """An encoded slash is refused by httpd before anything is asked."""
        if "%" in row.old and "%2F" in row.old.upper().partition("?")[0]:
            return None
        key = key_of(row)
        # an escaped byte takes four
        if key is None or len(row.new) * 4 + len(key.path) * 4 <= _LONGEST:
            return key
        if max(len(exactly(key.path)), len(word_for(row)), len(key.query) * 4) <= _LONGEST:
            return key
        return None

    def server(self) -> str:
        """What uses the map. To be called after that was written."""
        lines = [f'RewriteMap newburrow{self.redirects.mark} "txt:{_MAP}"']
        if self.redirects.mark:
            lines = [
                f'RewriteMap newburrow{self.redirects.mark} "txt:{self.redirects.site}/{_MAP}"'
            ]
        body: list[str] = []
        for key, row in self.apart:
            body += self._lines_for(key, row, "/")
        for names in sorted(self.sets, key=lambda names: (-len(names), names)):
            ahead = "".join(f"(?=(?:.*&)?{name}=([^&]*))" for name in names)
            pairs = "&".join(f"{name}=%{n}" for n, name in enumerate(names, 1))
            condition = f'RewriteCond "%{{QUERY_STRING}}" "^{ahead}"'
            body += self._asked(f"$0?{pairs}", [condition])
        body += self._asked("$0", [])
        body += self._patterns(self.lowering.rules, "/")
        if self.lowering is not self.redirects:
            lines.append(f'RewriteMap {self._to_lower} "int:tolower"')
        rules = sum(line.startswith("RewriteRule") for line in body)
        head = self._head(rules)
        return (
            "\n".join(
                [
                    "# Answers old addresses. Include this in the virtual host; the map is next to the main"
                    " configuration.",
                    head[0],
                    *lines,
                    *head[1:],
                    *body,
                ]
            )
            + "\n"
        )

    def _lines_for(self, key: Key, row: OldAddress, top: str) -> list[str]:
        """One address by itself."""
        path = exactly(key.path.removeprefix(b"/"))
        before = []
        if key.pairs:
            before = [f'RewriteCond "%{{QUERY_STRING}}" "^{asks_for(key.pairs)}"']
        pattern = f'"^{top}{path}$"'
        if row.status == UNCHANGED:
            return [*before, f"RewriteRule {pattern} - [END]"]
        if row.status == GONE:
            return [*before, f"RewriteRule {pattern} - [G]"]
        return self._sent(pattern, _plain(word_for(row)), before, not key.pairs)

    def _sent(self, pattern: str, target: str, before: list[str], by_path: bool) -> list[str]:
        """The rule for a redirect; with a query to keep, that stands before a fragment."""
        at, mark, fragment = target.partition("#")
        flags = f"R={self.status},L,NE"
        if not by_path or not self.redirects.keeps_query:
            return [*before, f'RewriteRule {pattern} "{target}" [{flags},QSD]']
        if not mark:
            return [*before, f'RewriteRule {pattern} "{target}" [{flags},QSA]']
        sign = "&" if "?" in at else "?"
        return [
            *before,
            'RewriteCond "%{QUERY_STRING}" "."',
            f'RewriteRule {pattern} "{at}{sign}%{{QUERY_STRING}}#{fragment}" [{flags}]',
            *before,
            f'RewriteRule {pattern} "{target}" [{flags},QSD]',
        ]

    def _asked(self, key: str, before: list[str]) -> list[str]:
        """What the map says of a key: gone, let pass, or an address."""
        looked = f'"${{newburrow{self.redirects.mark}:{key}}}"'
        by_path = not before
        return [
            *before,
            f'RewriteCond {looked} "^{GONE_WORD}$"',
            f"RewriteRule {_ALL} - [G]",
            *before,
            f'RewriteCond {looked} "^{PASS_WORD}$"',
            f"RewriteRule {_ALL} - [END]",
            # httpd refuses a question mark from an expansion, so it is in the rule itself.
            *self._sent(
                _ALL, "%1", [*before, f'RewriteCond {looked} "^(https?://[^?#]+)$"'], by_path
            ),
            *self._sent(
                _ALL,
                "%1?%2",
                [*before, f'RewriteCond {looked} "^(https?://[^?#]+)[?]([^?#]*)$"'],
                by_path,
            ),
            *self._with_fragment(
                "%1",
                "%2",
                [*before, f'RewriteCond {looked} "^(https?://[^?#]+)#(.*)$"'],
                by_path,
            ),
            *self._with_fragment(
                "%1?%2",
                "%3",
                [*before, f'RewriteCond {looked} "^(https?://[^?#]+)[?]([^?#]*)#(.*)$"'],
                by_path,
            ),
        ]

    def _with_fragment(
        self, at: str, fragment: str, before: list[str], by_path: bool
    ) -> list[str]:
        """A redirect to what the last condition has found; a condition after it would hide that."""
        flags = f"R={self.status},L,NE"
        if not by_path or not self.redirects.keeps_query:
            return [*before, f'RewriteRule {_ALL} "{at}#{fragment}" [{flags},QSD]']
        sign = "&" if "?" in at else "?"
        return [
            'RewriteCond "%{QUERY_STRING}" "."',
            *before,
            f'RewriteRule {_ALL} "{at}{sign}%{{QUERY_STRING}}#{fragment}" [{flags}]',
            *before,
            f'RewriteRule {_ALL} "{at}#{fragment}" [{flags},QSD]',
        ]

    @property
    def _to_lower(self) -> str:
        return f"newburrow_lower{self.redirects.mark}"

    def _patterns(self, rules: Sequence[RedirectRule], top: str) -> Iterator[str]:
        for rule in rules:
            yield f"# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}"
            if rule.parameter:
                value = f"{rule.parameter}=({rule.value_regex()})"
                yield f'RewriteCond "%{{QUERY_STRING}}" "(?:^|&){value}(?:&|$)"'
                path = rule.path_regex().removeprefix("^/")
                flags = f"R={self.status},L,NE,QSD"
                yield f'RewriteRule "^{top}{path}" "{rule.target("%1")}" [{flags}]'
                continue
            path = rule.regex().removeprefix("^/")
            if rule.lowers:
                target = rule.target(f"${{{{{self._to_lower}:${{}}}}}}")
            else:
                target = rule.target()
            yield from self._sent(f'"^{top}{path}"', target, [], True)


def _slow(lines: int) -> str:
    """A warning for a folder's file that httpd reads, and tries line by line, for every request."""
    if lines <= _MANY:
        return ""
    return (
        f"\n{_FOLDER} has {lines:,} rules, which httpd reads and tries for every request: use the map if you can,\n"
        "or limit them (redirects.most in move.toml)."
    )


def _plain(target: str) -> str:
    """A target of which nothing is expanded."""
    return target.replace("\\", "\\\\").replace("$", "\\$").replace("%", "\\%")
