"""Reading what is known of old addresses from files beside the export."""

from __future__ import annotations

from collections.abc import Iterator

from newburrow.convert.context import Context
from newburrow.core import foreign_pattern, url
from newburrow.core.problem import Problem, refusal
from newburrow.decide.move_folder import MoveFolder
from newburrow.model import Where
from newburrow.redirects.known import files
from newburrow.redirects.known.addresses import KnownAddresses
from newburrow.redirects.known.found import Found, KnownUrl, OldRule


def learn(folder: MoveFolder, context: Context) -> KnownAddresses:
    """Answer the old addresses in the files that `old.known` of `move.toml` names.

    These are logs, lists, sitemaps and rules of the old server. Addresses that are spelled otherwise than a
    known one get its answer. Those of which nothing is known remain in the result, with their visits.
    Raises BurrowError if a file cannot be read.
    """
    found = KnownAddresses(context.old.address)
    sites = frozenset(filter(None, (url.site_key(site.address) for site in context.sites)))
    for name in context.decisions.old.known:
        path = folder.path / name
        if not path.is_file():
            message = f"There is no file {str(path)!r}."
            raise refusal(
                "no-such-file",
                message,
                "Correct old.known.",
                folder.line_in_move(["old", "known"]),
            )
        others: list[OldRule | Problem] = []
        for problem in found.add(_rows(files.read(path), others), sites):
            context.journal.follow_ups.add(problem)
        for rule in [other for other in others if isinstance(other, OldRule)]:
            if foreign_pattern.is_too_slow(rule.old):
                others.append(_too_slow(rule, str(path)))
            else:
                context.old_rules.append((rule.old, rule.new))
        context.journal.follow_ups.add(
            *(other for other in others if isinstance(other, Problem))
        )
    if context.decisions.old.known:
        found.answer(context)
    return found


def _too_slow(rule: OldRule, file: str) -> Problem:
    message = f"The rule {rule.old!r} takes too long to match a path: it was not used."
    advice = "Add lines to redirects/addresses.csv for addresses that it answered."
    return Problem.at(Where(file), "old-rule", message=message, advice=advice)


def _rows(found: Found, others: list[OldRule | Problem]) -> Iterator[KnownUrl]:
    for known_url in found:
        if isinstance(known_url, KnownUrl):
            yield known_url
        else:
            others.append(known_url)
