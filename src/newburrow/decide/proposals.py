"""What a draft proposes and counts: the facts of an export that the decisions of `move.toml` are about."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from itertools import islice
from typing import Any

from newburrow.core import plugins, url
from newburrow.decide.address_proposals import proposals
from newburrow.decide.decisions import Selection
from newburrow.dialects.loader import is_preset
from newburrow.dialects.schema import Dialect
from newburrow.hosts.profile import Profile
from newburrow.model import Comment, Entry, Media, Term
from newburrow.store.content_store import Store

_SERVERS = ("apache", "nginx")  # proposed; the most in use
_PRESETS = 5  # titles of preset content named
_FIELDS = 30  # names of fields named


def facts(content: Store, host: Profile, dialects: tuple[Dialect, ...]) -> dict[str, Any]:
    """The facts that the template of `move.toml` is filled with, by name."""
    entries, comments = content.states("entry"), content.states("comment")
    kinds = Counter({kind: sum(counts.values()) for kind, counts in entries.items()})
    states, by_state = _by_state(entries), _by_state(comments)
    uses = content.uses()
    vocabularies = Counter(term.vocabulary for term in content.all(Term))
    fields = Counter(
        {name[6:]: found for name, found in uses.items() if name.startswith("field ")}
    )
    site = content.site()
    move_states = [state for state in Selection().states if states[state]]
    move_kinds = [kind for kind in Selection().kinds if kinds[kind]] or ["post"]
    pingbacks = sum(
        sum(counts.values()) for kind, counts in comments.items() if kind != "comment"
    )
    return {
        "site": site,
        "host": host,
        "uses": uses,
        "kinds": counted(kinds),
        "states": counted(states),
        "comment_states": counted(by_state),
        "presets": ", ".join(_presets(content, dialects)) or "none found",
        "move_kinds": move_kinds,
        "move_states": move_states or ["published"],
        "kind_rows": [
            (kind, kinds[kind], host.kind_for(kind))
            for kind in move_kinds
            if host.kind_for(kind)
        ],
        "changed_states": [state for state in move_states if state not in host.states.takes],
        "address": site.address
        if url.key(site.address) and site.is_addressed
        else "https://new-site.example/",
        "servers": [name for name in plugins.names(plugins.SERVERS) if name in _SERVERS],
        "recognised": [dialect.name for dialect in dialects],
        "latest": (site.written or datetime.now(UTC)).date().isoformat(),
        "unsigned": uses["unsigned"],
        "nested": sum(1 for term in content.all(Term) if term.parent),
        "term_count": content.count(Term),
        "host_vocabularies": list(dict.fromkeys((host.terms.name, *host.terms.vocabularies))),
        "vocabulary_rows": [
            (vocabulary, found, _vocabulary(vocabulary, host))
            for vocabulary, found in sorted(vocabularies.items())
        ],
        "pingbacks": pingbacks,
        "comment_count": content.count(Comment),
        "file_count": content.count(Media),
        "fields": counted(Counter(dict(fields.most_common(_FIELDS)))),
        "field_rows": list(_renamed(fields, host)),
        "proposals": list(proposals(content, host)),
        "limits": list(_limits(content, host, sum(kinds[kind] for kind in move_kinds))),
    }


def _presets(content: Store, dialects: tuple[Dialect, ...]) -> Iterator[str]:
    if not any(dialect.presets for dialect in dialects):
        return
    found = (
        entry.title or entry.slug
        for entry in content.all(Entry)
        if any(is_preset(dialect, entry.kind, entry.slug, entry.title) for dialect in dialects)
    )
    yield from islice(found, _PRESETS)


def _vocabulary(theirs: str, host: Profile) -> str:
    """The host's vocabulary for terms of another: sections are categories where the host has no sections."""
    if (
        theirs == "section"
        and host.vocabulary_for("section") != "section"
        and "category" in host.terms.vocabularies
    ):
        return "category"
    return host.vocabulary_for(theirs)


def _renamed(fields: Iterable[str], host: Profile) -> Iterator[tuple[str, str]]:
    """Fields of the export that the host calls a little differently: its name, the host's."""
    theirs = {_letters(name): name for kind in host.kinds.values() for name in kind.fields}
    for name in sorted(fields):
        new = theirs.get(_letters(name), name)
        if new != name:
            yield name, new


def _letters(name: str) -> str:
    return re.sub(r"[\W_]+", "", name.casefold())


def _limits(content: Store, host: Profile, moving: int) -> Iterator[str]:
    """What the host's limits mean for this export, said before anything is done."""
    limits, name = host.limits, host.title or host.name
    if limits.entries:
        above = moving - limits.entries
        if above > 0:
            consequence = f": the {above:,} oldest would be left out"
        else:
            consequence = ""
        yield f"{name} accepts {limits.entries:,} entries; {moving:,} are to move{consequence}."
    if limits.total_bytes:
        files = sum(media.size for media in content.all(Media))
        if files > limits.total_bytes:
            consequence = ": the largest files would be left out"
        else:
            consequence = ""
        yield f"{name} accepts {limits.total_bytes:,} bytes in all; the files have {files:,}{consequence}."
    if limits.upload_bytes:
        size = content.text_bytes() + sum(media.size for media in content.all(Media))
        parts = -(-size // limits.upload_bytes) or 1
        yield (
            f"{name} accepts uploads of {limits.upload_bytes:,} bytes; texts and files have about {size:,} bytes "
            f"before they are packed: {parts:,} {'part' if parts == 1 else 'parts'} at most."
        )
    if host.media.file_bytes:
        large = sum(
            1 for media in content.all(Media) if media.size > (host.media.file_bytes or 0)
        )
        yield f"{name} accepts files of {host.media.file_bytes:,} bytes; {large:,} are larger and would be left out."


def _by_state(counts: dict[str, dict[str, int]]) -> Counter[str]:
    """Numbers by state, whatever the kind."""
    total: Counter[str] = Counter()
    for numbers in counts.values():
        total.update(numbers)
    return total


def counted(counts: Counter[str]) -> str:
    """Counts with their names as a phrase: `3 posts, 1 page`."""
    return ", ".join(f"{number} {name}" for name, number in sorted(counts.items())) or "none"
