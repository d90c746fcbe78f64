"""Rules learnt from the answers: few patterns that give the answers of the map, and the exceptions.

Candidates are the rules that turn many old addresses into their new ones. They are tried on a sample of all addresses,
and on the pages of the new site; those are taken, one by one, that spare the most lines, if nearly all that they
answer is right: an address that nobody listed gets the right page, or none. What a rule would answer wrongly is an
exception that is before it: so no listed address gets another answer than the map gives.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

from newburrow.core import url
from newburrow.redirects.rules.learnt import Learnt, LearntSite
from newburrow.redirects.rules.redirect_rule import (
    RedirectRule,
    candidate_rules,
    split,
    subject_on,
    whole,
)
from newburrow.redirects.rules.rule_choice import (
    WORTH,
    Looked,
    chosen_from,
    is_mostly_right,
    is_right,
    line_count,
    looked_at,
)
from newburrow.redirects.rules.site_sample import Sample, SiteSample
from newburrow.store.journal.rows import OldAddress
from newburrow.store.redirects.seen_keys import SeenKeys

MOST = 20  # rules of a site
_CANDIDATES = 24
_FREQUENT = 40  # words that can be fixed


def learn(
    rows: Iterable[OldAddress], new_lists: Sequence[str] = (), most: int = MOST
) -> Learnt:
    """Find the rules that give the recorded answers of most old addresses, for each old site.

    The sites with the most addresses come first. A rule is taken only if it saves more lines than it needs
    exceptions, and at least 99 in 100 of its answers are right. `new_lists` are addresses of lists on the new
    site, which no rule may answer. Reads the rows once; memory is bound by samples of each site.
    """
    sites: dict[str, SiteSample] = {}  # these are few
    seen, twins, has_capitals = SeenKeys(), set[str](), False
    for row in rows:
        key, new_key = row.key, row.new_key
        site, slash, subject = key.partition("/")
        if site not in sites:
            sites[site] = SiteSample()
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
    found = [_learnt_site(site, sample, new_lists, most) for site, sample in ordered]
    return Learnt(found, frozenset(twins), has_capitals)


def _learnt_site(
    site: str, sample: SiteSample, new_lists: Sequence[str], most: int
) -> LearntSite:
    """The rules of a site, and those for servers that can lower letters."""
    spared = [path for address in new_lists if (path := subject_on(site, url.key(address)))]
    candidates = [
        candidate
        for candidate in _candidates(site, sample.families.sample())
        if not any(map(candidate.asked(), spared))
    ]
    if not candidates:
        return LearntSite(site, (), sample.count, ())
    looked = looked_at(site, candidates, sample.tried())
    plain = [n for n, candidate in enumerate(candidates) if not candidate.lowers]
    lowering = best = _best_of(plain, candidates, looked, most)
    if len(plain) < len(candidates):
        chosen = _best_of(range(len(candidates)), candidates, looked, most)
        # They come last, since some servers ask them apart.
        chosen.sort(key=lambda n: candidates[n].lowers)
        if is_right(looked, chosen) and line_count(looked, chosen) < line_count(looked, best):
            lowering = chosen
    return LearntSite(
        site,
        tuple(candidates[number] for number in best),
        sample.count,
        tuple(candidates[number] for number in lowering),
    )


def _best_of(
    among: Sequence[int], candidates: Sequence[RedirectRule], looked: Looked, most: int
) -> list[int]:
    """The numbers of the candidates that become rules, in the order in which they are tried."""
    others = [
        n for n in among if candidates[n].parts[0].kind == "path" and is_mostly_right(looked, n)
    ]
    with_parameters = [n for n in among if candidates[n].parts[0].kind != "path"]
    orders = [chosen_from(looked, [*others, *with_parameters], most)]
    # A rule that keeps all paths answers everything, so it follows the rules that say more.
    if others:
        narrow = [n for n in with_parameters if not candidates[n].keeps_path]
        order = [*chosen_from(looked, narrow, most - 1), others[0]]
        if is_right(looked, order):
            orders.append(order)
    return min(orders, key=lambda order: (line_count(looked, order), len(order)))


def _candidates(site: str, sample: Sequence[Sample]) -> list[RedirectRule]:
    """The rules that answer most."""
    words: Counter[str] = Counter()
    for path, _new, weight in sample:
        seen = split(path) if "?" not in path else None
        parts = seen[0] if seen else ()
        for word in dict.fromkeys(part.word for part in parts if part.look == "word"):
            words[word] += weight
    frequent = {word: count for word, count in words.most_common(_FREQUENT) if count > WORTH}
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
    found = [rule for rule, count in ordered if count > WORTH and counts_by_shape[rule] > 1][
        :_CANDIDATES
    ]
    return [whole(base) for base, count in bases.most_common(1) if count > WORTH] + found
