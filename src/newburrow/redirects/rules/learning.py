"""Rules learnt from the answers: few patterns that give exactly the answer of the map, and the exceptions.

Candidates are the rules that turn many old addresses into their new ones. Each answer and each address of the new
site is run through all candidates; those are taken, one by one, that spare the most lines. What a rule would answer
wrongly is an exception that is before it: so no address gets another answer than the map gives.
"""

from __future__ import annotations

import zlib
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from heapq import heappush, heapreplace

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

MOST = 20  # rules
_CANDIDATES = 24
_FAMILIES = 1000  # of addresses that look alike
_SAMPLE = 60  # answers of each family that are searched for candidates
_FREQUENT = 40  # words that can be fixed
_WORTH = 3  # lines that a rule must save

_Sample = tuple[str, str, int]  # path, new address, and how many redirects it represents


def learn(answers: AllAnswers, most: int = MOST) -> tuple[str, tuple[RedirectRule, ...]]:
    """Find the rules that give exactly the recorded answers of most old addresses.

    Gives the site (as `url.site_key`) that most old addresses are on, and its rules in the order in which
    a server must try them, at most `most`. A rule is taken only if it saves more lines than it needs
    exceptions. Reads all answers several times; memory is bound by a sample of each family.
    """
    site, sample = _sampled(answers)
    candidates = _candidates(site, sample)
    if not candidates:
        return site, ()
    looked = _looked_at(site, candidates, answers)
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
        orders.append(
            [
                *_chosen(
                    looked,
                    [n for n in with_parameters if not candidates[n].keeps_path],
                    most - 1,
                ),
                others[0],
            ]
        )
    best = min(orders, key=lambda order: (_lines(looked, order), len(order)))
    return site, tuple(candidates[number] for number in best)


def path_on(site: str, key: str) -> str:
    """The path of an address (by its key) of this site, as it is compared; empty for another, and one with a query."""
    if key.startswith(f"{site}/") and "?" not in key:
        return key[len(site) :]
    return ""


def _sampled(answers: AllAnswers) -> tuple[str, list[_Sample]]:
    """The site that most addresses are of, and some of its redirects."""
    counts: Counter[str] = Counter()
    families: dict[str, _Families] = {}  # by site; these are few
    for row in answers():
        site, slash, path = row.key.partition("/")
        counts[site] += 1
        if row.status == REDIRECTED and "?" not in path:
            families.setdefault(site, _Families()).take(slash + path, row.new)
    most = min(counts, key=lambda site: (-counts[site], site), default="")
    return most, families[most].sample() if most in families else []


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
        seen = split(path)
        for word in {part.word for part in (seen[0] if seen else ()) if part.look == "word"}:
            words[word] += weight
    frequent = {word: count for word, count in words.most_common(_FREQUENT) if count > _WORTH}
    counts: Counter[RedirectRule] = Counter()
    counts_by_shape: Counter[RedirectRule] = Counter()
    bases: Counter[str] = Counter()
    for path, new, weight in sample:
        if url.site_key(new) != site:
            bases[url.resolve(new, "/").rstrip("/")] += weight
        for candidate in candidate_rules(path, new, frequent):
            if candidate.anchored or candidate.keeps_path:
                counts[candidate] += weight
                counts_by_shape[candidate] += 1
    # Of two that give the same answers the stricter comes first: it says less about unknown addresses.
    ordered = sorted(
        counts.items(), key=lambda item: (-item[1], len(item[0].groups()), repr(item[0]))
    )
    # A rule for any name at all would answer for unknown pages, unless each keeps its path.
    # A rule met once mostly belongs to an address unlike any other.
    found = [rule for rule, count in ordered if count > _WORTH and counts_by_shape[rule] > 1][
        :_CANDIDATES
    ]
    return [whole(base) for base, count in bases.most_common(1) if count > _WORTH] + found


# which rules answer, which rightly, whether it is a redirect -> addresses
_Looked = Counter[tuple[int, int, bool]]


def _looked_at(site: str, candidates: Sequence[RedirectRule], answers: AllAnswers) -> _Looked:
    """How many addresses there are of each kind that the candidates tell apart."""
    looked: _Looked = Counter()
    asked = _CandidateIndex(candidates)
    for row in answers():
        if path := path_on(site, row.key):
            looked[_masks(asked, path, row.new if row.status == REDIRECTED else "")] += 1
        if row.status == REDIRECTED and (path := path_on(site, row.new_key)):
            masks = _masks(asked, path, "")
            if masks[0]:
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
        segments = path.strip("/").split("/")
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
    if rule.parts[0].kind == "path":
        return True
    segments = [
        [part, *(later for later in rule.parts[n + 1 :][:1] if later.mark == "-")]
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
    if not part.kind:
        return seen == part.word
    return len(parts) > 1 or part.kind == "name" or seen.isdigit()


def _masks(asked: _CandidateIndex, path: str, new: str) -> tuple[int, int, bool]:
    answering = right = 0
    for number, ask in asked.about(path):
        if answer := ask(path):
            answering |= 1 << number
            if answer == new:
                right |= 1 << number
    return answering, right, bool(new)


def _chosen(looked: _Looked, among: Sequence[int], most: int) -> list[int]:
    """The rules taken one after another, each the one that spares the most lines, before those taken or after them."""
    chosen: list[int] = []
    lines = _lines(looked, chosen)
    while len(chosen) < most:
        orders = [
            order for n in among if n not in chosen for order in ([*chosen, n], [n, *chosen])
        ]
        best = min(orders, key=lambda order: _lines(looked, order), default=chosen)
        if lines - _lines(looked, best) < _WORTH:
            break
        chosen, lines = best, _lines(looked, best)
    return chosen


def _is_mostly_right(looked: _Looked, number: int) -> bool:
    """Whether a rule gives the right answer for most redirects."""
    redirects = sum(
        count for (_answering, _right, redirect), count in looked.items() if redirect
    )
    return (
        sum(
            count
            for (_answering, right, _redirect), count in looked.items()
            if right >> number & 1
        )
        * 2
        >= redirects
    )


def _lines(looked: _Looked, order: Sequence[int]) -> int:
    """How many lines rules in an order and their exceptions come to."""
    lines = len(order)
    for (answering, right, redirect), count in looked.items():
        first = next((number for number in order if answering >> number & 1), None)
        wrong = first is not None and not right >> first & 1
        if wrong or (redirect and first is None):
            lines += count
    return lines


def first_answer(rules: Sequence[RedirectRule]) -> Callable[[str], str]:
    """A function from a path to the answer of the first rule that matches it; empty if none does."""
    asked = [rule.asked() for rule in rules]

    def answer(path: str) -> str:
        for ask in asked:
            if found := ask(path):
                return found
        return ""

    return answer


def exceptions(
    rules: Sequence[RedirectRule], answers: AllAnswers, site: str
) -> Iterator[OldAddress]:
    """The answers that must be before the rules.

    These are the answers that no rule gives, and the addresses of the site, old or new, that a rule would
    answer and must not.
    """
    if not rules:
        yield from (row for row in answers() if row.status != UNCHANGED)
        return
    ask = first_answer(rules)
    # pages that a rule would answer: few, or it would not have been taken
    seen_keys: set[str] = set()
    for row in answers():
        path = path_on(site, row.key)
        if path:
            answer = ask(path)
        else:
            answer = ""
        if row.status == UNCHANGED and answer and row.key not in seen_keys:
            seen_keys.add(row.key)
            yield row
        elif row.status == GONE or (row.status == REDIRECTED and answer != row.new):
            yield row
        if row.status == REDIRECTED:
            path = path_on(site, row.new_key)
        else:
            path = ""
        if path and ask(path) and row.new_key not in seen_keys:
            seen_keys.add(row.new_key)
            yield OldAddress(
                row.new, row.new, UNCHANGED, "a page of the new site", row.new_key, row.new_key
            )


def counted(rules: Sequence[RedirectRule], site: str, answers: AllAnswers) -> list[int]:
    """How many old addresses of a site each rule answers rightly, in the order of the rules.

    An address counts for the first rule that answers it. Reads all answers once.
    """
    counts = [0] * len(rules)
    asked = [rule.asked() for rule in rules]
    for row in answers() if rules else ():
        if row.status == REDIRECTED:
            path = path_on(site, row.key)
        else:
            path = ""
        found = next(
            ((n, answer) for n, ask in enumerate(asked) if path and (answer := ask(path))), None
        )
        if found and found[1] == row.new:
            counts[found[0]] += 1
    return counts


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
