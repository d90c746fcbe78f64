"""One entry of the result held against the one that was handed over, and against the one of the old site."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from newburrow.formats.base import Format
from newburrow.hosts.profile import Profile
from newburrow.model import Author, Entry, Media, Revision
from newburrow.model.bundle import Above, Bundle
from newburrow.model.keys import bare
from newburrow.store.content_store import Store
from newburrow.store.journal.handed_over import HandedEntry
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.verify import comment_facts, entry_facts, fidelity, question_facts
from newburrow.verify.anchors import Anchors
from newburrow.verify.bodies import NewBodies, OldBodies
from newburrow.verify.body_facts import ASPECTS, EMBEDS, LINKS, NOT_THERE, PICTURES, BodyFacts
from newburrow.verify.difference import Difference
from newburrow.verify.explanations import Explanations
from newburrow.verify.fidelity import Fidelity

# Codes of follow-ups that say of a link that it leads to nothing.
_DEAD = (
    "dead-link",
    "link-to-left-out",
    "red-link",
    "missing-picture",
    "missing-file",
    "history-changed",
)


class CheckedEntry(Struct, frozen=True):
    """What came of holding one entry against what it was."""

    key: str
    title: str
    kind: str
    old: str  # address
    new: str  # address
    fidelity: Fidelity
    differences: list[Difference]


class EntryCheck:
    """Checks the entries of one move."""

    def __init__(
        self,
        journal: KeptJournal,
        result: Store,
        host: Profile,
        format_: Format,
        bodies: tuple[Store, OldBodies, NewBodies],
        anchors: Anchors,
    ) -> None:
        """`result` is the result as it was read.

        `bodies` has the store of the old site, its bodies, and those of the result; `anchors` knows the places
        within pages.
        """
        self._journal, self._result, self._host, self._format = journal, result, host, format_
        self._store, self._old, self._new = bodies
        self._anchors = anchors
        self._language = result.site().language

    def check(self, handed: HandedEntry, found: Entry) -> CheckedEntry:
        """Everything about one entry that was found in the result."""
        bundle = handed.bundle
        differences = [
            *self._facts(handed, found),
            *self._body_as_handed(handed, found),
            *self._comments(handed, found),
            *self._versions(handed, found),
            *self._questions(handed, found),
        ]
        source = self._store.get(Entry, handed.key)
        measured, old = Fidelity({}), ""
        if source is not None:
            old = source.permalink
            is_as_handed = not any(difference.fact in ASPECTS for difference in differences)
            measured, unlike = self._body_as_before(handed, found, source, is_as_handed)
            differences += unlike
        return CheckedEntry(
            handed.key,
            bundle.entry.title,
            bundle.entry.kind,
            old,
            bundle.new_address,
            measured,
            differences,
        )

    def _facts(self, handed: HandedEntry, found: Entry) -> Iterator[Difference]:
        parent = self._parent(handed.bundle)
        before = entry_facts.handed(handed.bundle, parent)
        after = entry_facts.found(found, self._result, parent)
        for fact in {**before, **after}:
            old, new = before.get(fact, ""), after.get(fact, "")
            if old != new and not self._is_of_format(fact, old, new, handed.bundle.entry):
                yield _of_entry(handed, fact, old, new)

    def _is_of_format(self, fact: str, old: str, new: str, entry: Entry) -> bool:
        """Whether the format says a fact in this way alone: nothing is lost, and nothing was changed."""
        kind = self._host.kinds.get(entry.kind)
        if fact in self._format.always_said and not old:
            return True
        if fact in self._format.never_said and not new:
            return True
        if fact == "language" and not old:
            return new == self._language
        if fact == "kind":
            return self._host.kind_for(new) == old
        if fact == "parent":
            return not old and not (kind and kind.parents)
        return False

    def _comments(self, handed: HandedEntry, found: Entry) -> Iterator[Difference]:
        address = handed.bundle.new_address
        differences = comment_facts.differences(
            handed.bundle.comments,
            self._result.comments_of(found),
            self._new.words(address),
            address,
        )
        for difference in differences:
            is_always_said = f"comment: {difference.fact}" in self._format.always_said
            if difference.expected or not is_always_said:
                yield difference

    def _parent(self, bundle: Bundle) -> Above:
        """The entry that one is under on the new site, with empty texts if there is none."""
        if bundle.trail:
            return bundle.trail[-1]
        key = bundle.entry.parent
        place = self._journal.plan.get(key)
        parent = self._journal.handed.entry(key)
        if place is None or parent is None:
            return Above("", "")
        return Above(parent.entry.title, place.new)

    def _body_as_handed(self, handed: HandedEntry, found: Entry) -> Iterator[Difference]:
        before, after = handed.bundle.entry.body, found.body
        if before == after:
            return
        address = handed.bundle.new_address
        about = self._journal.follow_ups.of("entry", handed.key)
        why = next((message for code, message, _advice in about if code == "link-text"), "")
        yield from self._unlike(
            handed, self._new.facts(before, address), self._new.facts(after, address), why
        )

    def _unlike(
        self, handed: HandedEntry, before: BodyFacts, after: BodyFacts, why: str = ""
    ) -> Iterator[Difference]:
        for aspect in fidelity.compare(before, after).changed:
            stood, stands = fidelity.excerpt(aspect, before.of(aspect), after.of(aspect))
            yield _of_entry(handed, aspect, stood, stands, why)

    def _body_as_before(
        self, handed: HandedEntry, found: Entry, source: Entry, is_as_handed: bool
    ) -> tuple[Fidelity, list[Difference]]:
        """How much of the old body is there; what is not, with the row that explains it.

        Where the body is not as it was handed over, that is a difference already and is not said again.
        """
        before = self._old.facts(source.body, source.permalink)
        after = self._new.facts(found.body, handed.bundle.new_address)
        measured = fidelity.compare(before, after)
        if not is_as_handed:
            return measured, []
        about = self._journal.follow_ups.of("entry", handed.key)
        codes = {code: message for code, message, _advice in about}
        reasons = Explanations(codes, source, handed.bundle, self._lead(source))
        differences = []
        for aspect in measured.changed:
            stood, stands = fidelity.excerpt(aspect, before.of(aspect), after.of(aspect))
            why = reasons.why(aspect, before, after)
            if not why and _has_only_died(before.of(aspect), after.of(aspect)):
                continue  # a dead link, which is said below
            differences.append(
                _of_entry(handed, f"{aspect} of the old site", stood, stands, why)
            )
        differences += self._dead_links(handed, before, after, codes)
        return measured, [*differences, *self._dead_anchors(handed, after)]

    def _lead(self, source: Entry) -> Media | None:
        """The lead picture of an entry of the old site as it is on the new one."""
        word = source.lead_picture
        if not word:
            return None
        _name, new = self._journal.files.get(word)
        known = self._store.get(Media, word)
        address = new or self._old.address_after(word, source.permalink)
        if known is None:
            return Media(key="", address=address)
        return Media(key="", address=address, caption=known.caption)

    def _dead_links(
        self, handed: HandedEntry, before: BodyFacts, after: BodyFacts, codes: Mapping[str, str]
    ) -> Iterator[Difference]:
        """Links and pictures in the result that lead to an address of the site where nothing is."""
        said = next((f"{code}: {codes[code]}" for code in _DEAD if code in codes), "")
        for aspect in (LINKS, PICTURES, EMBEDS):
            dead = [part for part in after.of(aspect) if part.startswith(NOT_THERE)]
            if not dead:
                continue
            was_dead, why = set(dead) <= set(before.of(aspect)), said
            if not said and was_dead and self._host.markup.missing_pages:
                why = "a page that the old site did not have either: the new host shows such links"
            shown = "; ".join(dead)[:200]
            yield _of_entry(handed, f"dead {aspect}", "an address of the result", shown, why)

    def _dead_anchors(self, handed: HandedEntry, after: BodyFacts) -> Iterator[Difference]:
        """Links to a place within a page that is no longer there: the page opens at its top."""
        lost = list(self._anchors.lost(handed.bundle.new_address, after.of(LINKS)))
        if lost:
            shown = "; ".join(lost)[:200]
            yield _of_entry(handed, "dead anchors", "a place within its page", shown)

    def _versions(self, handed: HandedEntry, found: Entry) -> Iterator[Difference]:
        """Earlier states, one by one; their texts are long, so that no two are held at a time."""
        expected = self._journal.handed.versions(handed.bundle.new_address)
        there = self._result.revisions_of(found.key)
        number = 0
        for number, before in enumerate(expected, 1):
            after = next(there, None)
            if after is None:
                yield _of_entry(handed, f"version {number}", "a version", "")
                return
            is_same = self._version(before, before.author) == self._version(
                after, self._author_of(after)
            )
            if not is_same:
                yield _of_entry(handed, f"version {number}", "as handed over", "another one")
        if number and next(there, None) is not None:
            yield _of_entry(handed, f"version {number + 1}", "", "a version")

    def _version(self, revision: Revision, author: str) -> tuple[object, ...]:
        """What is compared of an earlier state, with the name of its author."""
        words = self._new.words("")(revision.body)
        return author, revision.published, " ".join(revision.note.split()), words

    def _author_of(self, revision: Revision) -> str:
        """The name of the author of a state in the result."""
        author = self._result.get(Author, revision.author)
        if author is None:
            return revision.author
        return author.name

    def _questions(self, handed: HandedEntry, found: Entry) -> Iterator[Difference]:
        if not handed.bundle.questions:
            return
        there = {}
        for question in self._result.questions_of(found.key):
            for name in (question.key.rpartition("/")[2], bare(question.key)):
                there[name] = question
        for number, question in enumerate(handed.bundle.questions, 1):
            place = (
                f"“{handed.bundle.entry.title or handed.bundle.entry.key}”, question {number}"
            )
            match = there.get(self._format.written_name(question.key)) or there.get(
                bare(question.key)
            )
            if match is None:
                yield Difference(
                    "question", place, handed.bundle.new_address, "missing", "a question", ""
                )
                continue
            before, after = question_facts.facts(question), question_facts.facts(match)
            for fact, value in before.items():
                if value != after[fact]:
                    yield Difference(
                        "question",
                        place,
                        handed.bundle.new_address,
                        fact,
                        str(value),
                        str(after[fact]),
                    )


def _has_only_died(before: Sequence[str], after: Sequence[str]) -> bool:
    """Whether nothing but dead addresses have come in place of others."""
    pairs = zip(before, after, strict=False)
    return len(before) == len(after) and all(
        new == old or new.startswith(NOT_THERE) for old, new in pairs
    )


def missing(handed: HandedEntry) -> Difference:
    """The difference for an entry that is not in the result."""
    return _of_entry(handed, "missing", f"a {handed.bundle.entry.kind}", "")


def out_of_order(handed: HandedEntry, follower: Entry) -> Difference:
    """The difference for an entry that stands before one in its file that should stand before it."""
    place = f"“{follower.title or follower.permalink}”"
    return _of_entry(handed, "order", f"after {place}", f"before {place}")


def _of_entry(handed: HandedEntry, fact: str, old: str, new: str, why: str = "") -> Difference:
    bundle = handed.bundle
    return Difference("entry", bundle.entry.title, bundle.new_address, fact, old, new, why)
