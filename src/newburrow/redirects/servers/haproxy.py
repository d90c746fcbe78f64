"""HAProxy: a map file, a map of expressions, and the lines for a frontend that use them.

The path is asked as it comes, percent-encoded; the keys are written in its one usual spelling, which holds no blank.
"""

from __future__ import annotations

from typing import BinaryIO

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.learning import in_words
from newburrow.redirects.server_key import GONE_WORD, key_of, shown, site_of, word_for
from newburrow.redirects.servers.base import Open, ServerFiles
from newburrow.store.journal.rows import UNCHANGED

_MAP, _RULES, _CONFIG = "newburrow.map", "newburrow-rules.map", "newburrow-frontend.cfg"
_LONGEST = 1500  # bytes of a key and its answer; a line of a map has to fit into a buffer


class Haproxy:
    """HAProxy 2.2 and later."""

    name = "haproxy"
    title = "HAProxy"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """Both maps, and the lines that use them."""
        with open_file(_MAP) as stream:
            skipped, parameters = _write_map(stream, redirects)
        with open_file(_RULES) as stream:
            stream.write(b"# Asked in this order where the other map says nothing.\n")
            for rule in redirects.rules:
                stream.write(
                    f"# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}\n".encode()
                )
                stream.write(f"{rule.regex()} {rule.target(chr(92) + '{}')}\n".encode())
        with open_file(_CONFIG) as stream:
            stream.write(_config(parameters, redirects.permanent).encode())
        return ServerFiles(
            f"Put {_MAP} and {_RULES} into /etc/haproxy, and the lines of {_CONFIG} into the frontend of the old\n"
            "address. Check with `haproxy -c -f haproxy.cfg`, then reload."
            + (
                f"\n{skipped:,} addresses cannot be expressed for HAProxy; {_MAP} lists them."
                if skipped
                else ""
            ),
            skipped,
        )


SERVER = Haproxy()


def _write_map(stream: BinaryIO, redirects: RedirectMap) -> tuple[int, list[str]]:
    """Write the exceptions; gives how many could not be, and the names of the parameters."""
    skipped, parameters, site = 0, set[str](), redirects.site
    for row in redirects.spelled_out():
        key, text = key_of(row), row.spelled.partition("/")
        name = text[1] + text[2]
        if (
            key is None
            or site_of(row) != site
            or len(name) + len(word_for(row)) > _LONGEST
            or "%00" in name
        ):
            skipped += 1
            stream.write(
                f"# Not written, since HAProxy cannot express it: {shown(row.old)}\n".encode()
            )
            continue
        if key.parameter:
            parameters.add(key.parameter)
        stream.write(
            f"{name} {word_for(row) if row.status != UNCHANGED else 'pass'}\n".encode()
        )
    return skipped, sorted(parameters)


def _config(parameters: list[str], status: int) -> str:
    lines = [
        "    # Answers old addresses. These lines belong into the frontend of the old address."
    ]
    unless = "unless { var(txn.newburrow) -m found }"
    for name in parameters:
        lines += [
            f"    http-request set-var(txn.newburrow_value) urlp({name}) if {{ urlp({name}) -m found }}",
            f'    http-request set-var(txn.newburrow) path,concat("?{name}=",txn.newburrow_value),'
            f"map(/etc/haproxy/{_MAP}) "
            f"if {{ urlp({name}) -m found }}",
        ]
    lines += [
        f"    http-request set-var(txn.newburrow) path,map(/etc/haproxy/{_MAP}) {unless}",
        f"    http-request set-var(txn.newburrow) path,map_regm(/etc/haproxy/{_RULES}) {unless}",
        f"    http-request return status 410 if {{ var(txn.newburrow) -m str {GONE_WORD} }}",
        f"    http-request redirect location %[var(txn.newburrow)] code {status} "
        "if { var(txn.newburrow) -m beg http }",
    ]
    return "\n".join(lines) + "\n"
