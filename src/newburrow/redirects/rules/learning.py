"""Rules learnt from the answers: few patterns that give the answers of the map, and the exceptions.

Candidates are the rules that turn many old addresses into their new ones. They are tried on a sample of all addresses,
and on the pages of the new site; those are taken, one by one, that spare the most lines, if nearly all that they
answer is right: an address that nobody listed gets the right page, or none. What a rule would answer wrongly is an
exception that is before it: so no listed address gets another answer than the map gives.
"""

from __future__ import annotations

import re
import zlib
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from heapq import heappush, heapreplace
from typing import NamedTuple

from msgspec import Struct

from newburrow.core import url
from newburrow.redirects.rules.redirect_rule import (
    MOST_PARTS,
    PathPart,
    RedirectRule,
    candidate_rules,
    split,
    whole,
)
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.all_answers import AllAnswers
from newburrow.store.redirects.seen_keys import SeenKeys

MOST = 20  # rules of a site
_CANDIDATES = 24
_FAMILIES = 1000  # of addresses that look alike
_SAMPLE = 60  # answers of each family that are searched for candidates
_ALL = 50_000  # addresses of which each is put into its family
_TRIED = 20_000  # addresses of a site on which candidates are tried
_FREQUENT = 40  # words that can be fixed
_WORTH = 3  # lines that a rule must save
_RIGHT = 0.99  # share of right answers that a rule must give
_ENOUGH = 30  # right answers for which one wrong one is forgiven

# Why an address is another than that of its kind, and what a name that was taken gets.
_FORMER = ("other address", "redirect of the old site", "known from elsewhere")
_NUMBERED = re.compile(r"-\d+(?=(?:\.\w+)?/?$)")

_Sample = tuple[str, str, int]  # subject, new address, and how many redirects it represents


class LearntSite(Struct, frozen=True):
    """What was learnt about one old site."""

    site: str  # as `url.site_key`
    rules: tuple[RedirectRule, ...]  # in the order in which a server must try them
    addresses: int


class Learnt(Struct, frozen=True):
    """What one reading of all answers has shown."""

    sites: list[LearntSite]  # that with the most addresses first
    # Keys without a slash at their end that more than one address may have: all that have, and few others.
    twins: frozenset[str]
    has_capitals: bool  # whether any address, old or new, holds a capital letter


def learn(
    rows: Iterable[OldAddress], new_lists: Sequence[str] = (), most: int = MOST
) -> Learnt:
    """Find the rules that give the recorded answers of most old addresses, for each old site.

    The sites with the most addresses come first. A rule is taken only if it saves more lines than it needs
    exceptions, and at least 99 in 100 of its answers are right. `new_lists` are addresses of lists on the new
    site, which no rule may answer. Reads the rows once; memory is bound by samples of each site.
    """
    sites: dict[str, _SiteSample] = {}  # these are few
    seen, twins, has_capitals = SeenKeys(), set[str](), False
    for row in rows:
        key, new_key = row.key, row.new_key
        site, slash, subject = key.partition("/")
        if site not in sites:
            sites[site] = _SiteSample()
        sites[site].take(row, slash + subject)
        if seen.may_have(unslashed := key.rstrip("/")):
            twins.add(unslashed)
        is_own = new_key != key and new_key.startswith(f"{site}/")
        if is_own and seen.may_have(unslashed := new_key.rstrip("/")):
            twins.add(unslashed)
        has_capitals = has_capitals or not (
            key.islower() and (not new_key or new_key.islower())
        )
    ordered = sorted(sites.items(), key=lambda item: (-item[1].count, item[0]))
    found = [
        LearntSite(site, _rules(site, sample, new_lists, most), sample.count)
        for site, sample in ordered
    ]
    return Learnt(found, frozenset(twins), has_capitals)


def _rules(
    site: str, sample: _SiteSample, new_lists: Sequence[str], most: int
) -> tuple[RedirectRule, ...]:
    spared = [path for address in new_lists if (path := subject_on(site, url.key(address)))]
    candidates = [
        candidate
        for candidate in _candidates(site, sample.families.sample())
        if not any(map(candidate.asked(), spared))
    ]
    if not candidates:
        return ()
    looked = _looked_at(site, candidates, sample.tried())
    others = [
        n
        for n, candidate in enumerate(candidates)
        if candidate.parts[0].kind == "path" and _is_mostly_right(looked, n)
    ]
    with_parameters = [
        n for n, candidate in enumerate(candidates) if candidate.parts[0].kind != "path"
    ]
    orders = [_chosen(looked, [*others, *with_parameters], most)]
    # A rule that keeps all paths answers everything, so it follows the rules that say more.
    if others:
        narrow = [n for n in with_parameters if not candidates[n].keeps_path]
        order = [*_chosen(looked, narrow, most - 1), others[0]]
        if _is_right(looked, order):
            orders.append(order)
    best = min(orders, key=lambda order: (_lines(looked, order), len(order)))
    return tuple(candidates[number] for number in best)


def subject_on(site: str, key: str) -> str:
    """What rules ask of an address (by its key): its path, with the parameter if it has one; else empty."""
    if key.startswith(f"{site}/") and key.count("=") <= 1 and "&" not in key:
        return key[len(site) :]
    return ""


class _SiteSample:
    """What is kept of the addresses of one site: some of each family, and some of all."""

    def __init__(self) -> None:
        self.families = _Families()
        self.count = 0
        self._tried: list[tuple[int, int, OldAddress]] = []

    def take(self, row: OldAddress, subject: str) -> None:
        """Look at the answer for a path, or a path with a query."""
        self.count += 1
        rank = -zlib.crc32(subject.encode("utf-8", "replace"))
        # Of very many some are enough.
        if (
            row.status == REDIRECTED
            and "&" not in subject
            and (self.count < _ALL or not rank & 7)
        ):
            self.families.take(subject, row.new)
        if len(self._tried) < _TRIED:
            heappush(self._tried, (rank, self.count, row))
        elif rank > self._tried[0][0]:
            heapreplace(self._tried, (rank, self.count, row))

    def tried(self) -> list[OldAddress]:
        """The addresses on which candidates are tried."""
        return [row for _rank, _number, row in self._tried]


class _Families:
    """Some redirects of each family of addresses, and how many each represents.

    Families are formed by what is easy to see, so that small ones are not missed; of a family the sample is
    a number made of the address is the least, since what comes one after the other is alike.
    """

    def __init__(self) -> None:
        self._found: dict[
            tuple[str | int, ...], tuple[list[int], list[tuple[int, str, str]]]
        ] = {}

    def take(self, path: str, new: str) -> None:
        """Look at a redirect."""
        family = _family(path, new)
        if family not in self._found and len(self._found) >= _FAMILIES:
            family = family[2:]  # without the words
        total, taken = self._found.setdefault(family, ([0], []))
        total[0] += 1
        candidate = (-zlib.crc32(path.encode("utf-8", "replace")), path, new)
        if len(taken) < _SAMPLE:
            heappush(taken, candidate)
        elif candidate > taken[0]:
            heapreplace(taken, candidate)

    def sample(self) -> list[_Sample]:
        """Those that were taken."""
        return [
            (path, new, max(1, total // len(taken)))
            for [total], taken in self._found.values()
            for _number, path, new in sorted(taken)
        ]


def _family(path: str, new: str) -> tuple[str | int, ...]:
    """What is plain to see of an old and a new address: first words, the new host, numbers of parts, extensions."""
    host, _slash, new_path = new.partition("://")[2].partition("/")
    path, _mark, query = path.partition("?")
    if query:  # the name of the parameter tells most
        path = f"{path}?{query.partition('=')[0]}/"
    old_word, *old = _plain(path)
    new_word, *others = _plain(new_path)
    return (old_word, new_word, host, *old, *others)


def _plain(path: str) -> tuple[str | int, ...]:
    parts = path.strip("/").split("/")
    first, last = parts[0], parts[-1]
    dot = last.rfind(".", -6)
    return (
        first if len(parts) > 1 and not first.isdigit() else "",
        len(parts),
        last[dot:] if dot > 0 else "",
    )


def _candidates(site: str, sample: Sequence[_Sample]) -> list[RedirectRule]:
    """The rules that answer most."""
    words: Counter[str] = Counter()
    for path, _new, weight in sample:
        seen = split(path) if "?" not in path else None
        for word in {part.word for part in (seen[0] if seen else ()) if part.look == "word"}:
            words[word] += weight
    frequent = {word: count for word, count in words.most_common(_FREQUENT) if count > _WORTH}
    counts: Counter[RedirectRule] = Counter()
    counts_by_shape: Counter[RedirectRule] = Counter()
    bases: Counter[str] = Counter()
    for path, new, weight in sample:
        if url.site_key(new) != site and "?" not in path:
            bases[url.resolve(new, "/").rstrip("/")] += weight
        for candidate in candidate_rules(path, new, frequent):
            if candidate.has_own_number:
                continue
            if candidate.anchored or candidate.keeps_path:
                counts[candidate] += weight
                counts_by_shape[candidate] += 1
    # Of two that give the same answers the stricter comes first: it says less about unknown addresses.
    ordered = sorted(
        counts.items(),
        key=lambda item: (-item[1], item[0].is_cut, len(item[0].groups()), repr(item[0])),
    )
    # A rule for any name at all would answer for unknown pages, unless each keeps its path.
    # A rule met once mostly belongs to an address unlike any other.
    found = [rule for rule, count in ordered if count > _WORTH and counts_by_shape[rule] > 1][
        :_CANDIDATES
    ]
    return [whole(base) for base, count in bases.most_common(1) if count > _WORTH] + found


class _Masks(NamedTuple):
    """What the candidates say of one address, a bit for each."""

    answering: int
    right: int
    excused: int  # wrong for a reason that says nothing of the others
    is_redirect: bool


_Looked = Counter[_Masks]  # -> how many addresses there are of a kind


def _looked_at(
    site: str, candidates: Sequence[RedirectRule], rows: Iterable[OldAddress]
) -> _Looked:
    """How many addresses there are of each kind that the candidates tell apart."""
    looked: _Looked = Counter()
    asked = _CandidateIndex(candidates)
    for row in rows:
        subject = subject_on(site, row.key)
        # What is gone is gone by decision, and says nothing of its kind.
        if subject and row.status != GONE:
            looked[_masks(asked, subject, row)] += 1
        if row.status == REDIRECTED and (subject := subject_on(site, row.new_key)):
            masks = _masks(asked, subject, None)
            if masks.answering:
                looked[masks] += 1
    return looked


class _CandidateIndex:
    """The candidates that can be about a path, by what is plain to see of it; of many few are asked so."""

    def __init__(self, candidates: Sequence[RedirectRule]) -> None:
        self._all = [(number, rule, rule.asked()) for number, rule in enumerate(candidates)]
        self._words = {part.word for rule in candidates for part in rule.parts}
        self._found: dict[tuple[int, str, str], list[tuple[int, Callable[[str], str]]]] = {}

    def about(self, path: str) -> list[tuple[int, Callable[[str], str]]]:
        """Number and rule of the candidates for paths with so many segments and such a first and last one."""
        segments = path.partition("?")[0].strip("/").split("/")
        count = min(len(segments), MOST_PARTS + 1)
        seen = count, self._seen(segments[0]), self._seen(segments[-1])
        if seen not in self._found:
            self._found[seen] = [(n, ask) for n, rule, ask in self._all if _can_be(rule, *seen)]
        return self._found[seen]

    def _seen(self, segment: str) -> str:
        if segment in self._words:
            return segment
        if segment.isdigit():
            return "0"
        return ""


def _can_be(rule: RedirectRule, count: int, first: str, last: str) -> bool:
    """Whether a rule can be about such a path; of a file's name nothing is told."""
    if rule.parts[0].kind == "path" or rule.parameter:
        return True
    segments = [
        [part, *(later for later in rule.parts[n + 1 :][:1] if later.mark != "/")]
        for n, part in enumerate(rule.parts)
        if part.mark == "/"
    ]
    if len(segments) != count:
        return False
    if not rule.extension:
        ends = [(segments[0], first), (segments[-1], last)]
    elif count > 1:
        ends = [(segments[0], first)]
    else:
        ends = []
    return all(_may_be(parts, seen) for parts, seen in ends)


def _may_be(parts: list[PathPart], seen: str) -> bool:
    """Whether a segment of a rule can be this one; of a date with hyphens nothing is told."""
    part = parts[0]
    if len(parts) > 1:
        return True
    if not part.kind:
        return seen == part.word
    return part.kind == "name" or seen.isdigit()


def _masks(asked: _CandidateIndex, subject: str, row: OldAddress | None) -> _Masks:
    """What the candidates say of an old address, or without an answer of a page of the new site."""
    answering = right = excused = 0
    is_redirect = row is not None and row.status == REDIRECTED
    for number, ask in asked.about(subject):
        if answer := ask(subject):
            answering |= 1 << number
            if row is None or not is_redirect:
                continue
            if answer == row.new:
                right |= 1 << number
            elif _is_excused(row, answer):
                excused |= 1 << number
    return _Masks(answering, right, excused, is_redirect)


def _is_excused(row: OldAddress, answer: str) -> bool:
    """Whether an address is known to go elsewhere: it is a former one, or its new name got a number."""
    return row.why.startswith(_FORMER) or _NUMBERED.sub("", row.new) == answer


def _chosen(looked: _Looked, among: Sequence[int], most: int) -> list[int]:
    """The rules taken one after another, each the one that spares the most lines, before those taken or after them."""
    chosen: list[int] = []
    lines = _lines(looked, chosen)
    while len(chosen) < most:
        orders = sorted(
            (order for n in among if n not in chosen for order in ([*chosen, n], [n, *chosen])),
            key=lambda order: _lines(looked, order),
        )
        best = next((order for order in orders if _is_right(looked, order)), chosen)
        if lines - _lines(looked, best) < _WORTH:
            break
        chosen, lines = best, _lines(looked, best)
    return chosen


def _is_right(looked: _Looked, order: Sequence[int]) -> bool:
    """Whether nearly all that each rule answers in this order is right."""
    right, wrong = Counter[int](), Counter[int]()
    for masks, count in looked.items():
        first = next((number for number in order if masks.answering >> number & 1), None)
        if first is not None and not masks.excused >> first & 1:
            (right if masks.right >> first & 1 else wrong)[first] += count
    return all(
        right[n] >= _RIGHT * (right[n] + wrong[n]) or (wrong[n] == 1 and right[n] >= _ENOUGH)
        for n in order
    )


def _is_mostly_right(looked: _Looked, number: int) -> bool:
    """Whether a rule gives the right answer for most redirects."""
    redirects = sum(count for masks, count in looked.items() if masks.is_redirect)
    right = sum(count for masks, count in looked.items() if masks.right >> number & 1)
    return right * 2 >= redirects


def _lines(looked: _Looked, order: Sequence[int]) -> int:
    """How many lines rules in an order and their exceptions come to."""
    lines = len(order)
    for masks, count in looked.items():
        first = next((number for number in order if masks.answering >> number & 1), None)
        wrong = first is not None and not masks.right >> first & 1
        if wrong or (masks.is_redirect and first is None):
            lines += count
    return lines


def first_answer(rules: Sequence[RedirectRule]) -> Callable[[str], tuple[str, int]]:
    """A function from a path to the answer of the first rule that matches it, and its number; empty if none does."""
    asked = list(enumerate(rule.asked() for rule in rules))

    def answer(path: str) -> tuple[str, int]:
        for number, ask in asked:
            if found := ask(path):
                return found, number
        return "", 0

    return answer


def exceptions(
    sites: Sequence[LearntSite], answers: AllAnswers, right: Counter[tuple[str, int]]
) -> Iterator[tuple[OldAddress, bool]]:
    """The answers that must be before the rules, each with whether a rule would answer otherwise.

    In `right` it counts how many addresses each rule, by site and number, answers rightly.

    These are the answers that no rule gives, and the addresses of old sites, old or new, that a rule would
    answer and must not.
    """
    asked = {found.site: first_answer(found.rules) for found in sites if found.rules}
    known = {found.site for found in sites}
    # pages that a rule would answer: few, or it would not have been taken
    seen_keys: set[str] = set()
    for row in answers():
        site = row.key.partition("/")[0]
        ask = asked.get(site)
        answer = ""
        if ask and (subject := subject_on(site, row.key)):
            answer, number = ask(subject)
            if answer and answer == row.new and row.status == REDIRECTED:
                right[site, number] += 1
        # An address with a query must not get the answer of its path alone.
        may_change = answer or "?" in row.key
        if row.status == UNCHANGED and may_change and row.key not in seen_keys:
            seen_keys.add(row.key)
            yield row, True
        elif row.status == GONE or (row.status == REDIRECTED and answer != row.new):
            yield row, bool(answer)
        if row.status != REDIRECTED:
            continue
        new_site = row.new_key.partition("/")[0]
        if new_site not in known or row.new_key in seen_keys:
            continue
        ask = asked.get(new_site)
        subject = subject_on(new_site, row.new_key)
        if "?" in row.new_key or (ask and subject and ask(subject)[0]):
            seen_keys.add(row.new_key)
            why = "a page of the new site"
            page = OldAddress(row.new, row.new, UNCHANGED, why, row.new_key, row.new_key)
            yield page, True


def in_words(rule: RedirectRule) -> str:
    """What a rule does, in a sentence."""
    used = {part for part in rule.new if isinstance(part, int)}
    dropped = [part.kind for n, part in enumerate(rule.parts) if part.kind and n not in used]
    fixed = [part.word for part in rule.parts if not part.kind]
    text = "".join(part for part in rule.new if isinstance(part, str))
    changes = []
    dates = [kind for kind in dropped if kind in ("year", "month", "day")]
    if dates:
        changes.append(
            f"the {' and the '.join(dates)} {'is' if len(dates) == 1 else 'are'} dropped from the date"
        )
    for kind, many in Counter(kind for kind in dropped if kind not in dates).items():
        changes.append(f"the {kind} is dropped" if many == 1 else f"{many} {kind}s are dropped")
    new_words = [
        word
        for word in text.split("/")
        if word.strip("-") and not word.startswith(".") and word not in fixed
    ]
    old_words = [word for word in fixed if word not in text]
    if len(new_words) == len(old_words) == 1:
        changes.append(f"“{old_words[0]}” becomes “{new_words[0]}”")
    else:
        changes += [f"“{word}” is dropped" for word in old_words] + [
            f"“{word}” is added" for word in new_words
        ]
    last = rule.new[-1] if rule.new else ""
    ending = ""
    if isinstance(last, str) and last.startswith("."):
        ending = last
    if rule.extension != ending:
        if rule.extension:
            changes += [f"{rule.extension} is dropped"]
        if ending:
            changes += [f"{ending} is added"]
    order = [part for part in rule.new if isinstance(part, int)]
    if order != sorted(order):
        changes.append("the parts change their order")
    return ", ".join(changes) or "the path stays, the host changes"
