"""One snippet for the page template of an old host that lets one edit nothing else: it works in the visitor's browser.

It holds the rules and, as far as it stays small, the exceptions. It goes to the new address, names it as the one that
counts (RFC 6596), and shows a link; without scripts the link leads to the front page of the new site.
"""

from __future__ import annotations

import html
import json
import unicodedata
from typing import BinaryIO
from urllib.parse import unquote

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.server_key import key_of, shown
from newburrow.redirects.servers.base import Open, Server, ServerFiles
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress

_FILE, _LIST = "snippet.html", "not-written.txt"
# bytes of the exceptions in the snippet: every page of the old site carries them
_TABLE = 16_000
_Row = list[
    str | int | dict[str, str]
]  # the answer; the parameters that have to be there, if any
_STAY, _GONE = 0, 1  # words in the table that are not a new address

_SNIPPET = """<!-- Old addresses: put this at the top of the body of the page template. -->
<p id="new-address"><a href="{front}">This site has moved.</a></p>
<script>
(function (table, rules) {{
  var to = null, byPath = false, has = Object.prototype.hasOwnProperty;
  function decoded(text) {{
    try {{ text = decodeURIComponent(text); }} catch (e) {{}}
    return text.normalize ? text.normalize("NFC") : text;
  }}
  var path = decoded(location.pathname), given = {{}};
  location.search.slice(1).split("&").forEach(function (part) {{
    var cut = (part + "=").indexOf("="), plus = /\\+/g;
    if (part) given[decoded(part.slice(0, cut))] = decoded(part.slice(cut + 1).replace(plus, " "));
  }});
  [path, path + "/", path.replace(/\\/$/, "")].forEach(function (one) {{
    (has.call(table, one) ? table[one] : []).forEach(function (row) {{
      var asks = row.length > 1 ? row[1] : {{}}, names = Object.keys(asks);
      if (to !== null || !names.every(function (n) {{ return has.call(given, n) && given[n] === asks[n]; }})) return;
      to = row[0];
      byPath = !names.length;
    }});
  }});
  for (var i = 0; to === null && i < rules.length; i++) {{
    var rule = rules[i], name = rule[2], asked = location.pathname;
    if (name && !has.call(given, name)) continue;
    var found = (name ? asked + "?" + name + "=" + given[name] : asked).match(new RegExp(rule[0]));
    if (found) to = rule[1].replace(/\\$(\\d)/g, function (_all, n) {{
      return rule[3] ? found[n].toLowerCase() : found[n];
    }});
    byPath = byPath || (found && !name);
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
  var parts = to.split("#"), rest = {keeps} && byPath ? location.search.slice(1) : "";
  if (rest) parts[0] += (parts[0].indexOf("?") < 0 ? "?" : "&") + rest;
  location.replace(parts[0] + (parts[1] ? "#" + parts[1] : location.hash));
}})({table}, {rules});
</script>
"""


class Snippet(Server):
    """One piece of HTML."""

    name = "snippet"
    title = "a snippet for a page template"
    lowers = True

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """The snippet, and a list of what did not fit into it."""
        redirects = redirects.lowering()
        with open_file(_LIST) as left:
            table, skipped = _table(redirects, left)
        rules = [
            [rule.regex(), rule.target(), rule.parameter, int(rule.lowers)]
            for rule in redirects.rules
        ]
        with open_file(_FILE) as stream:
            made = _SNIPPET.format(
                front=html.escape(_front(redirects)),
                stay=_STAY,
                gone=_GONE,
                keeps=str(redirects.keeps_query).lower(),
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


def _table(redirects: RedirectMap, left: BinaryIO) -> tuple[dict[str, list[_Row]], int]:
    """The exceptions that fit, by decoded path: answer and parameters; and the number of those that do not."""
    table: dict[str, list[_Row]] = {}
    size = skipped = 0
    for row in redirects.exact():
        key, value = key_of(row, merged=False), _value(row)
        path = _text(key.path) if key else None
        if key:
            asks = {unquote(name): unquote(value) for name, value in key.pairs}
        else:
            asks = {}
        size += len(row.old) + len(str(value)) + 8
        if path is None or size > _TABLE:
            skipped += 1
            left.write(f"{shown(row.old)}\n".encode())
        else:
            table.setdefault(path, []).append([value, asks] if asks else [value])
    return table, skipped


def _text(path: bytes) -> str | None:
    """A path as a browser has it decoded; none where it is not UTF-8."""
    try:
        return unicodedata.normalize("NFC", path.decode("utf-8"))
    except UnicodeDecodeError:
        return None


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
