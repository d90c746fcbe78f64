"""Authors: kept under their name, assigned to another, or left when nothing of theirs moves."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.decide.conditions import author_named
from newburrow.decide.decisions import AuthorChoice
from newburrow.hosts.profile import Authors
from newburrow.model import Author
from newburrow.store.journal.rows import Fate, LedgerRow


def plan(context: Context, used: set[str]) -> None:
    """Decide the name of every author on the new host, and settle all of them.

    `used` are the keys of authors of whom something moves; the others are left out. Fills
    `context.authors`. Two authors with the same new name are merged. What the new host cannot hold of an
    author is a follow-up.
    """
    first: dict[str, Author] = {}  # new name -> the first author that has it
    used = used | _heirs(used, context)
    for author in context.store.all(Author):
        fate, reason, name, person = Fate.LEFT_OUT, "wrote nothing that moves", "", author
        if author.key in used:
            fate, reason, name, person = _decided(author, first, context)
        if name:
            first.setdefault(name, author)
            context.authors[author.key] = replace(person, key=author.key, name=name)
        context.journal.ledger.add(
            LedgerRow(
                "author",
                author.key,
                "author",
                fate,
                reason,
                author.name,
                next(context.old_archives.of_author(author), ""),
                context.new_pages.archives.of_author(name),
            )
        )
        if fate is Fate.MOVED:
            for problem in _without_place(author, context.host.authors):
                context.journal.follow_ups.add(problem)


def _without_place(author: Author, host: Authors) -> Iterator[Problem]:
    """What the new host cannot hold of an author."""
    if author.about and not host.profiles:
        yield Problem.about(author, "author-profile", author=author.name, text=author.about)
    if author.login not in ("", author.name) and not host.logins:
        yield Problem.about(author, "author-login", author=author.name, login=author.login)


def _decided(
    author: Author, first: dict[str, Author], context: Context
) -> tuple[Fate, str, str, Author]:
    """The fate of an author of whom something moves, the reason, the new name, and who that person is."""
    choice = context.author_choices.get(author.key, AuthorChoice())
    heir, name = _heir(author, context), choice.new_name or author.name
    if choice.action == "assign":
        person = heir or _named_elsewhere(choice.new_name, author, context)
        if heir:
            name = _final_name(person, context)
        else:
            name = person.name
        _say_unknown(author, name, context)
        return Fate.MERGED, f"entries are assigned to {name} (authors.csv)", name, person
    if heir:
        name = _final_name(heir, context)
        reason = f"is renamed to {name}, the name of the author {heir.key} (authors.csv)"
        return Fate.MERGED, reason, name, heir
    if held := _of_new_host(name, context):
        return Fate.MERGED, "is an author of the new host already", held.name, held
    same = first.get(name)
    if same is None:
        return Fate.MOVED, "", name, author
    if choice.new_name:
        reason = f"is renamed to {name}, the name of the author {same.key} (authors.csv)"
        return Fate.MERGED, reason, name, same
    if not _are_two(author, same):
        return Fate.MERGED, f"has the same name as the author {same.key}", name, author
    name = _told_apart(author, name, first)
    context.journal.follow_ups.add(
        Problem.about(author, "same-name", author=author.name, name=name)
    )
    return Fate.MOVED, "", name, author


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


def _heir(author: Author, context: Context) -> Author | None:
    """The author of the export that one becomes, after all who are named on the way; None where it is nobody's.

    Who is renamed to somebody becomes that person, unless that one goes under another name.
    """
    seen, heir = {author.key}, author
    while True:
        choice = context.author_choices.get(heir.key, AuthorChoice())
        if choice.new_name:
            following = author_named(choice.new_name, context.store)
        else:
            following = None
        if following is None or (choice.action != "assign" and _leaves(following, context)):
            if heir.key != author.key:
                return heir
            return None
        if following.key in seen:  # of one another: nobody is meant but those themselves
            if following.key != author.key:
                return following
            return None
        seen.add(following.key)
        heir = following


def _leaves(author: Author, context: Context) -> bool:
    """Whether an author goes under another name than his own."""
    choice = context.author_choices.get(author.key, AuthorChoice())
    return choice.new_name not in ("", author.name)


def _heirs(used: set[str], context: Context) -> set[str]:
    """Keys of the authors who get the entries of others."""
    heirs = (
        _heir(author, context) for author in context.store.all(Author) if author.key in used
    )
    return {heir.key for heir in heirs if heir}


def _named_elsewhere(word: str, author: Author, context: Context) -> Author:
    """Whom a word means that is the name of nobody else in the export: of the new host, or somebody new."""
    if author_named(word, context.store):  # each is assigned to the other
        return author
    return _of_new_host(word, context) or Author(key=author.key, name=word)


def _final_name(person: Author, context: Context) -> str:
    return context.author_choices.get(person.key, AuthorChoice()).new_name or person.name


def _of_new_host(word: str, context: Context) -> Author | None:
    """The author whom the new host holds already under a name, login or e-mail address."""
    existing = context.journal.existing
    held = existing.get("author", word) or existing.get("person", word.casefold())
    if held is None:
        return None
    return Author(
        key=held.id,
        name=held.title,
        login=held.login,
        email=held.email,
        address=held.address,
    )


def _say_unknown(author: Author, name: str, context: Context) -> None:
    """Entries assigned to somebody of whom nothing is known, where it is known whom the new host has."""
    if context.decisions.new.holds and not (
        context.journal.existing.has("author", name) or author_named(name, context.store)
    ):
        context.journal.follow_ups.add(
            Problem.about(author, "author-to-make", author=author.name, name=name)
        )
