"""The persons that the entries of a feed name: who is one with whom, and what is known of each."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import unquote

from msgspec.structs import replace

from newburrow.core import url
from newburrow.model import Author, Where

_MAIL = r"[^\s<>()\"]+@[^\s<>()\"]+"
# A mailbox with its name in one of the forms that feeds use (RSS 2.0, author; RFC 5322 section 3.4).
_MAILBOXES = (
    re.compile(rf"(?:mailto:)?(?P<mail>{_MAIL})\s*\((?P<name>.+)\)"),
    re.compile(rf"\"?(?P<name>[^\"<>()]+?)\"?\s*<(?:mailto:)?(?P<mail>{_MAIL})>"),
    re.compile(rf"(?P<name>[^<>()]+?)\s*\((?:mailto:)?(?P<mail>{_MAIL})\)"),
    re.compile(rf"<?(?:mailto:)?(?P<mail>{_MAIL})>?(?P<name>)"),
)


def mailbox(text: str) -> tuple[str, str]:
    """Name and e-mail address in a text that names a person; either can be empty."""
    text = " ".join(text.split())
    for form in _MAILBOXES:
        found = form.fullmatch(text)
        if found:
            return found["name"].strip(), found["mail"]
    return text, ""


class People:
    """The persons named so far, which are few. One name with two logins or e-mail addresses is two persons."""

    def __init__(self) -> None:
        self._authors: dict[str, Author] = {}  # by key
        self._keys: dict[str, list[str]] = {}  # name -> keys

    def key(self, name: str, email: str, home: str, where: Where) -> str:
        """The key of a person; empty if nothing says who it is."""
        return self.add(Author(key="", name=name, email=email, address=home, source=where))

    def add(self, author: Author) -> str:
        """The key of the person that an author without a key is; empty if nothing says who it is.

        One without a name is named by the first part of the e-mail address, or by the address of their page.
        What is known of a person grows with each mention.
        """
        email, home = author.email.strip(), author.address.strip()
        name = " ".join(author.name.split()) or email.partition("@")[0] or _named_by(home)
        if not name:
            return ""
        author = replace(author, name=name, email=email, address=home)
        keys = self._keys.setdefault(name, [])
        for key in keys:
            known = self._authors[key]
            if _may_be_one(known, author):
                self._authors[key] = _united(known, author)
                return key
        key = name
        if keys:
            key = f"{name} <{email or author.login}>"
        keys.append(key)
        self._authors[key] = replace(author, key=key)
        return key

    def key_in(self, text: str, where: Where) -> str:
        """The key of a person that is named in one text, by name or as a mailbox."""
        name, email = mailbox(text)
        return self.key(name, email, "", where)

    def authors(self) -> Iterator[Author]:
        """All persons, in the order in which they were named."""
        yield from self._authors.values()


def _may_be_one(known: Author, author: Author) -> bool:
    """Whether nothing says that two authors of one name are two persons."""
    return all(
        not ours or not theirs or ours.casefold() == theirs.casefold()
        for ours, theirs in ((known.email, author.email), (known.login, author.login))
    )


def _united(known: Author, author: Author) -> Author:
    return replace(
        known,
        login=known.login or author.login,
        email=known.email or author.email,
        address=known.address or author.address,
        about=known.about or author.about,
    )


def _named_by(home: str) -> str:
    parts = url.split(home)
    if parts is None or not parts.hostname:
        return home
    return unquote(parts.path.strip("/").rpartition("/")[2]) or parts.hostname
