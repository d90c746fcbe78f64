"""Authors: kept under their name, assigned to another, or left when nothing of theirs moves."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.decide.conditions import author_named
from newburrow.decide.decisions import AuthorChoice
from newburrow.model import Author
from newburrow.store.journal.rows import Fate, LedgerRow


def plan(context: Context, used: set[str]) -> None:
    """Decide the name of every author on the new host, and settle all of them.

    `used` are the keys of authors of whom something moves; the others are left out. Fills
    `context.authors`. Two authors with the same new name are merged. What the new host cannot hold of an
    author is a follow-up.
    """
    first: dict[str, Author] = {}  # new name -> the first author that has it
    for author in context.store.all(Author):
        choice = context.author_choices.get(author.key, AuthorChoice())
        fate, reason, name = Fate.MOVED, "", choice.new_name or author.name
        if author.key not in used:
            fate, reason, name = Fate.LEFT_OUT, "wrote nothing that moves", ""
        elif choice.action == "assign":
            name = _assigned(choice.new_name, context)
            fate, reason = Fate.MERGED, f"entries are assigned to {name} (authors.csv)"
            _say_unknown(author, name, context)
        elif context.journal.existing.has("author", name):
            fate, reason = Fate.MERGED, "is an author of the new host already"
        elif name in first and choice.new_name:
            fate, reason = (
                Fate.MERGED,
                f"is renamed to {name}, the name of the author {first[name].key} (authors.csv)",
            )
        elif name in first and _are_two(author, first[name]):
            name = _told_apart(author, name, first)
            context.journal.follow_ups.add(
                Problem.about(author, "same-name", author=author.name, name=name)
            )
        elif name in first:
            fate, reason = Fate.MERGED, f"has the same name as the author {first[name].key}"
        if name:
            first.setdefault(name, author)
            context.authors[author.key] = replace(author, name=name)
        context.journal.ledger.add(
            LedgerRow(
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
            context.journal.follow_ups.add(
                Problem.about(author, "author-profile", author=author.name, text=author.about)
            )


def _are_two(author: Author, other: Author) -> bool:
    """Whether two authors of one name are known to be two persons."""
    return any(
        ours and theirs and ours.casefold() != theirs.casefold()
        for ours, theirs in ((author.login, other.login), (author.email, other.email))
    )


def _told_apart(author: Author, name: str, taken: dict[str, Author]) -> str:
    """A name with the login in brackets, or the first part of the e-mail address, that nobody else has."""
    mark = author.login or author.email.partition("@")[0]
    number, new_name = 1, f"{name} ({mark})"
    while new_name in taken:
        number += 1
        new_name = f"{name} ({mark} {number})"
    return new_name


def _assigned(word: str, context: Context) -> str:
    """The name under which the entries go that are assigned to an author, of the export or of the new host."""
    seen = set[str]()
    while author := author_named(word, context.store):
        if author.key in seen:
            return author.name  # assigned to one another: nobody is meant but those themselves
        seen.add(author.key)
        choice = context.author_choices.get(author.key, AuthorChoice())
        word = choice.new_name or author.name
        if choice.action != "assign":
            break
    return word


def _say_unknown(author: Author, name: str, context: Context) -> None:
    """Entries assigned to somebody of whom nothing is known, where it is known whom the new host has."""
    if context.decisions.new.holds and not (
        context.journal.existing.has("author", name) or author_named(name, context.store)
    ):
        context.journal.follow_ups.add(
            Problem.about(author, "author-to-make", author=author.name, name=name)
        )
