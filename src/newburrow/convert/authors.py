"""Authors: kept under their name, assigned to another, or left when nothing of theirs moves."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.convert.decisions import AuthorChoice
from newburrow.journal import Fate, Settled
from newburrow.model import Author, Bundle
from newburrow.problem import Problem, Severity


def plan(context: Context, used: set[str]) -> None:
    """Decide every author's name on the new host, and settle all of them."""
    first: dict[str, str] = {}  # new name -> old name of the first author that has it
    for author in context.store.all(Author):
        choice = context.author_choices.get(author.key, AuthorChoice())
        fate, reason, name = Fate.MOVED, "", choice.new_name or author.name
        if author.key not in used:
            fate, reason, name = Fate.LEFT_OUT, "wrote nothing that moves", ""
        elif choice.action == "assign":
            fate, reason = Fate.MERGED, f"entries are assigned to {name} (authors.csv)"
        elif name in first and choice.new_name:
            fate, reason = Fate.MERGED, f"is renamed to {name}, the name of the author {first[name]} (authors.csv)"
        elif name in first:
            fate, reason = Fate.MERGED, f"has the same name as the author {first[name]}"
        if name:
            first.setdefault(name, author.key)
            context.authors[author.key] = replace(author, name=name)
        context.journal.settle(
            Settled(
                "author",
                author.key,
                "author",
                fate,
                reason,
                author.name,
                next(context.old_archives.of_author(author), ""),
                context.new_archives.of_author(name),
            )
        )
        if fate is Fate.MOVED and author.about and not context.host.authors.profiles:
            context.journal.follow_up(
                Problem(
                    Severity.INFO,
                    "author-profile",
                    f"The new host has no place for the text about {author.name}: “{author.about}”",
                    "Put it on a page of the new site, if it should be read there.",
                    author.source,
                    "author",
                    author.key,
                )
            )


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry's authors as they are on the new host."""
    found = {author.name: author for key in bundle.entry.authors if (author := context.authors.get(key))}
    if found:
        return replace(bundle, authors=tuple(found.values())), []
    problem = Problem(
        Severity.INFO,
        "no-author",
        "The entry has no author.",
        "Set one on the new host, if it needs one.",
        bundle.entry.source,
        "entry",
        bundle.entry.key,
    )
    return bundle, [problem]
