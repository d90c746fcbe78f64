"""JSON (RFC 8259), for everything else: the rules, and each address with its answer."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any, BinaryIO

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.rule_words import in_words
from newburrow.redirects.servers.base import Open, Server, ServerFiles

_FILE = "redirects.json"


class AsJson(Server):
    """One file."""

    name = "json"
    title = "JSON, for any program"
    lowers = True

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """Rules as expressions of the path with numbered groups, exceptions that are before them, and all answers.

        What a rule with `lowers` takes from the path gets small letters.
        """
        redirects = redirects.lowering()
        rules = [
            {
                "path": rule.regex(),
                "to": rule.target(),
                "lowers": rule.lowers,
                "status": redirects.status,
                "what": in_words(rule),
            }
            for rule in redirects.rules
        ]
        with open_file(_FILE) as stream:
            head = {"site": redirects.site, "rules": rules}
            stream.write(
                (
                    json.dumps(head, ensure_ascii=False, indent=1)[:-2]
                    + ',\n "before_the_rules": ['
                ).encode()
            )
            _list(
                stream,
                (
                    {"from": row.old, "to": row.new, "status": redirects.status_of(row)}
                    for row in redirects.exact()
                ),
            )
            stream.write(b'],\n "addresses": [')
            facts = (
                {
                    "from": row.old,
                    "to": row.new,
                    "status": redirects.status_of(row),
                    "why": row.why,
                }
                for row in redirects.answers()
            )
            _list(stream, facts)
            stream.write(b"]\n}\n")
        return ServerFiles(
            f"{_FILE} has all answers; addresses.csv next to it has them as a table."
        )


SERVER = AsJson()


def _list(stream: BinaryIO, rows: Iterator[dict[str, Any]]) -> None:
    for number, row in enumerate(rows):
        stream.write(
            ((",\n  " if number else "\n  ") + json.dumps(row, ensure_ascii=False)).encode(
                "utf-8", "replace"
            )
        )
