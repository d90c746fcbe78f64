"""One snippet for the page template of an old host that lets one edit nothing else: it works in the visitor's browser.

It holds the rules and, as far as it stays small, the exceptions. It goes to the new address, names it as the one that
counts (RFC 6596), and shows a link; without scripts the link leads to the front page of the new site.
"""

from __future__ import annotations

import html
import json
from typing import BinaryIO

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.server_key import key_of, shown, site_of
from newburrow.redirects.servers.base import Open, ServerFiles
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress

_FILE, _LIST = "snippet.html", "not-written.txt"
# bytes of the exceptions in the snippet: every page of the old site carries them
_TABLE = 16_000
_STAY, _GONE = 0, 1  # words in the table that are not a new address

_SNIPPET = """<!-- Old addresses: put this at the top of the body of the page template. -->
<p id="new-address"><a href="{front}">This site has moved.</a></p>
<script>
(function (table, rules) {{
  var path = location.pathname, to = null, has = Object.prototype.hasOwnProperty;
  location.search.slice(1).split("&").forEach(function (part) {{
    if (to === null && part && has.call(table, path + "?" + part)) to = table[path + "?" + part];
  }});
  [path, path + "/", path.replace(/\\/$/, "")].forEach(function (one) {{
    if (to === null && has.call(table, one)) to = table[one];
  }});
  for (var i = 0; to === null && i < rules.length; i++) {{
    var found = path.match(new RegExp(rules[i][0]));
    if (found) to = rules[i][1].replace(/\\$(\\d)/g, function (_all, n) {{ return found[n]; }});
  }}
  var box = document.getElementById("new-address");
  if (to === {stay}) {{ box.remove(); return; }}
  if (to === {gone}) {{ box.textContent = "What stood here is gone."; return; }}
  if (to === null) return;
  var link = document.createElement("link");
  link.rel = "canonical";
  link.href = to;
  document.head.appendChild(link);
  box.firstChild.href = to;
  location.replace(to + location.hash);
}})({table}, {rules});
</script>
"""


class Snippet:
    """One piece of HTML."""

    name = "snippet"
    title = "a snippet for a page template"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """The snippet, and a list of what did not fit into it."""
        with open_file(_LIST) as left:
            table, skipped = _table(redirects, left)
        rules = [[rule.regex(), rule.target()] for rule in redirects.rules]
        with open_file(_FILE) as stream:
            made = _SNIPPET.format(
                front=html.escape(_front(redirects)),
                stay=_STAY,
                gone=_GONE,
                table=_script(table),
                rules=_script(rules),
            )
            stream.write(made.encode())
        return ServerFiles(
            f"Put {_FILE} at the top of the body of the old site's page template. To check it open a few old addresses."
            + (
                f"\n{skipped:,} addresses are left out ({_LIST}); they show a link to the front."
                if skipped
                else ""
            ),
            skipped,
        )


SERVER = Snippet()


def _front(redirects: RedirectMap) -> str:
    """The front page of the site that most old addresses lead to."""
    first = next((row.new for row in redirects.answers() if row.status == REDIRECTED), "")
    if first:
        return url.safe(url.resolve(first, "/"))
    return ""


def _table(redirects: RedirectMap, left: BinaryIO) -> tuple[dict[str, str | int], int]:
    """The exceptions that fit, by path and parameter as a browser tells them; the number of those that do not."""
    table: dict[str, str | int] = {}
    size = skipped = 0
    for row in redirects.looked_up():
        host, slash, path = row.spelled.partition("/")
        value = _value(row)
        size += len(path) + len(str(value)) + 8
        if key_of(row) is None or site_of(row) != redirects.site or not host or size > _TABLE:
            skipped += 1
            left.write(f"{shown(row.old)}\n".encode())
        else:
            table[slash + path] = value
    return table, skipped


def _value(row: OldAddress) -> str | int:
    if row.status == REDIRECTED:
        return url.safe(row.new)
    if row.status == GONE:
        return _GONE
    return _STAY


def _script(value: object) -> str:
    """JSON that can be in a script: nothing in it ends the element (HTML standard 4.12.1.3)."""
    text = json.dumps(value, ensure_ascii=True, separators=(",", ":"))
    return text.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")
