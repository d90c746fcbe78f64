"""A first dialect for a site saved as HTML pages: what repeats on all pages is layout, what differs is content.

A guess goes by where an element stands once on each page, by words in classes and properties, and by what the values
look like. Every selector is shown with how many pages have it, and an example of what it finds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from statistics import median

from newburrow.assess.dialect_draft.observations import quoted
from newburrow.assess.dialect_draft.page_elements import ObservedElement, PageElements
from newburrow.core.dates import date_within, parse_date, zone_named
from newburrow.intake.part import Part

_MOST = 0.8  # of the pages that must have what each page has
_SAME = 0.5  # of the values that may be the same where each page has its own
_TITLE = 200  # characters of a title
_NO_TEXT = ("body", "p", "li", "dd")  # elements that are no box around a text alone
_SHORT = 60  # and of a name
_PART = 0.3  # of the words that differ from page to page: with fewer an element is not the text
_SOME = 0.1  # of the pages that must have what only some have
_FEW = 10  # pages, of which one is enough for that
_LISTED = 12  # elements of the layout that are named

_AUTHOR = (
    "author",
    "writer",
    "byline",
    "creator",
    "owner",
    "contributor",
    "who",
    "user",
    "editor",
    "by",
)
_UPDATED = ("updated", "modified", "changed", "edited", "revised", "update")
_TAGS = (
    "tag",
    "tags",
    "label",
    "labels",
    "keyword",
    "keywords",
    "topic",
    "topics",
    "categories",
    "category",
)
_COMMENT = ("comment", "comments", "reply", "remark", "remarks")
_LIKE_COMMENT = (
    "response",
    "discussion",
    "answer",
    "note",
)  # if somebody or a date is named in it
_TRAIL = ("breadcrumb", "breadcrumbs", "crumbs", "crumb", "trail", "path")
_FILES = ("attachment", "attachments", "files", "downloads", "file", "download")
_TEXT = ("text", "body", "content", "message", "said")


_BEGINNING = (
    "# A first draft of a dialect, guessed from a sample of pages. Read it through, correct it, and give it a name.",
    "# A selector is CSS; `time @datetime` is an attribute; facts in brackets are what a page states by itself.",
    'name = "draft"',
    'title = "A platform that somebody knows"',
    'format = "html"',
    "",
    "# To have such exports recognised, name words that only they have at the beginning of a page:",
    "# [recognise]",
    "# generator = ...",
    "",
    "[addresses]",
    'index = ["index.html"]',
)


def draft(parts: Sequence[Part]) -> str:
    """The text of a dialect file for pages."""
    return "\n".join(_HtmlDraft(PageElements(parts)).lines()) + "\n"


class _HtmlDraft:
    def __init__(self, pages: PageElements) -> None:
        self.pages = pages
        self.comment = self._comment()
        inside = self.comment.selector if self.comment else ""
        self.once = [
            seen
            for seen in pages.seen.values()
            if seen.pages >= _MOST * pages.count and seen.most == 1 and not seen.is_in(inside)
        ]
        self.own = [
            seen for seen in self.once if len(set(seen.texts)) > _SAME * len(seen.texts)
        ]

    def lines(self) -> Iterator[str]:
        """The whole file, line by line."""
        yield from _BEGINNING
        yield f"\n# {self.pages.count} pages were looked at."
        if self.pages.others:
            yield f"# {self.pages.others} more of the sample are built in another way, and were left aside."
        yield '[[records]]\nof = "entry"\nalways = { kind = "page" }'
        yield from self._left_out()
        yield '\n[records.take]\nid = "(place)"'
        yield from self._fact("title", self._title(), "(title)")
        yield 'slug = "(name)"\npermalink = ["(permalink)", "(shown_address)"]'
        published, updated = self._dates()
        yield from self._fact("published", published, "(published)")
        yield from self._fact("updated", updated, "(updated)")
        yield from self._fact("author", self._author(), "(author)")
        yield 'summary = "(summary)"'
        yield from self._fact("body", self._body(), "(body)")
        yield 'base = "(address)"\nlanguage = "(language)"\nlead_picture = "(lead_picture)"'
        trail = self._named(_TRAIL)
        if trail:
            yield _shown(
                f'parent = ["{quoted(trail.selector)} a @href", "(parent)"]',
                trail,
                self.pages,
            )
        else:
            yield 'parent = "(parent)"'
        tags = self._links(_TAGS)
        yield "\n[records.terms]"
        if tags:
            yield _shown(
                f'tag = ["{quoted(tags)}", "(tags)"]', self.pages.seen.get(tags), self.pages
            )
        else:
            yield 'tag = "(tags)"'
        yield from self._comments()
        files = self._links(_FILES) or self._file_links()
        if files:
            yield '\n[[records.inner]]\nof = "media"'
            yield _shown(
                f'each = "{quoted(files)}[href]"', self.pages.seen.get(files), self.pages
            )
            yield 'take = { address = "@href", title = "." }'
        yield '\n[[records]]\nof = "menu"\nfile = "(front page)"\neach = "(menu)"'
        yield (
            'take = { id = "(id)", label = "(label)", target = "(target)", parent = "(parent)", '
            'position = "(position)" }\nalways = { menu = "main" }'
        )
        yield from self._layout()

    # -- what is what ----------------------------------------------------------------------------

    def _title(self) -> ObservedElement | None:
        """A heading of its own on each page that the title in the head repeats."""
        heads = self.pages.titles
        fitting = [
            seen
            for seen in self.own
            if median(map(len, seen.texts)) <= _TITLE
            and sum(
                text.casefold() in heads.get(page, "").casefold()
                for page, text in zip(seen.on, seen.texts, strict=True)
            )
            >= _MOST * seen.pages
        ]
        return max(
            fitting,
            key=lambda seen: (seen.is_heading, seen.has_class, -seen.depth),
            default=None,
        )

    def _body(self) -> ObservedElement | None:
        """The box with the most words that differ from page to page, and with no other fact of the page in it.

        None where the pages say themselves what their text is, and where it is not in a box of its own.
        """
        if any(seen.is_stated_text for seen in self.once):
            return None
        others = [
            self._title(),
            self.comment,
            self._named(_TRAIL),
            self._named(_TAGS) if self._links(_TAGS) else None,
            self._author(),
        ]
        known = [seen for seen in others if seen is not None]
        whole = self.pages.seen.get("body")
        least = _PART * whole.own_words if whole else 0
        fitting = [
            seen
            for seen in self.own
            if seen.is_box
            and seen.tag not in _NO_TEXT
            and seen.own_words >= least
            and not any(fact is seen or fact.is_in(seen.selector) for fact in known)
        ]
        return max(
            fitting, key=lambda seen: (seen.own_words, seen.has_class, seen.depth), default=None
        )

    def _dates(self) -> tuple[ObservedElement | None, ObservedElement | None]:
        dated = _dated(self.once)
        changed = next((seen for seen in dated if _is_of_change(seen)), None)
        published = next((seen for seen in dated if seen is not changed), None)
        return published, changed

    def _author(self) -> ObservedElement | None:
        named = [
            seen
            for seen in self.once
            if seen.has_word(_AUTHOR) and 0 < median(map(len, seen.texts)) <= _SHORT
        ]
        return max(named, key=lambda seen: seen.depth, default=None)

    def _links(self, words: Sequence[str]) -> str:
        """The selector of links in an element whose class says what they are."""
        holder = self._named(words)
        if holder is None or (self.comment and holder.is_in(self.comment.selector)):
            return ""
        if holder.tag == "a":
            return holder.selector
        if f"{holder.selector} a" in self.pages.seen:
            return f"{holder.selector} a"
        return ""

    def _file_links(self) -> str:
        """The selector of links outside of the text that lead to files alone."""
        body = self._body()
        found = [
            seen
            for seen in self.pages.seen.values()
            if seen.leads_to_files
            and seen.selector.endswith(" a")
            and seen.pages > 1
            and self._is_usual(seen)
            and not (body is None or seen.is_in(body.selector))
        ]
        nearest = max(found, key=lambda seen: seen.depth, default=None)
        if nearest:
            return nearest.selector
        return ""

    def _named(self, words: Sequence[str]) -> ObservedElement | None:
        """The element with such a word in its name that most pages have."""
        found = [
            seen
            for seen in self.pages.seen.values()
            if seen.has_word(words) and " " not in seen.selector and self._is_usual(seen)
        ]
        return max(found, key=lambda seen: (seen.pages, -seen.depth), default=None)

    def _is_usual(self, seen: ObservedElement) -> bool:
        """Whether an element is on more than a page or two of many."""
        return self.pages.count < _FEW or seen.pages >= _SOME * self.pages.count

    def _comment(self) -> ObservedElement | None:
        """An element of which a page can have several, each with words of its own."""
        found = [
            seen
            for seen in self.pages.seen.values()
            if seen.most > 1
            and " " not in seen.selector
            and seen.is_box
            and (
                seen.has_word(_COMMENT)
                or (seen.has_word(_LIKE_COMMENT) and self._is_signed(seen))
            )
        ]
        return max(found, key=lambda seen: (seen.total, -seen.depth), default=None)

    def _is_signed(self, seen: ObservedElement) -> bool:
        """Whether elements name who wrote them, or when."""
        within = (inner for inner in self.pages.seen.values() if inner.is_in(seen.selector))
        return any(inner.has_word(_AUTHOR) or inner.attribute for inner in within)

    # -- writing ---------------------------------------------------------------------------------

    def _fact(self, fact: str, seen: ObservedElement | None, otherwise: str) -> Iterator[str]:
        if seen is None:
            yield f'{fact} = "{otherwise}"  # not found among the elements'
            return
        yield _shown(f'{fact} = ["{quoted(seen.with_value)}", "{otherwise}"]', seen, self.pages)

    def _comments(self) -> Iterator[str]:
        if self.comment is None:
            yield "\n# No element was found that repeats within a page and is called a comment."
            return
        within = [
            seen for seen in self.pages.seen.values() if seen.is_in(self.comment.selector)
        ]
        dated = _dated(within)
        # One without a class may have been seen outside of the comments.
        date = max(dated, key=lambda seen: (seen.has_class, seen.depth), default=None)
        author = next((seen for seen in within if seen.has_word(_AUTHOR)), None)
        text = next((seen for seen in within if seen.has_word(_TEXT)), None) or max(
            (seen for seen in within if seen.is_box),
            key=lambda seen: seen.own_words,
            default=None,
        )
        yield '\n[[records.inner]]\nof = "comment"'
        yield _shown(f'each = "{quoted(self.comment.selector)}"', self.comment, self.pages)
        yield 'take.id = "@id"'
        for fact, seen in (("author_name", author), ("published", date), ("body", text)):
            if seen is not None:
                yield _shown(f'take.{fact} = "{quoted(seen.with_value)}"', seen, self.pages)

    def _left_out(self) -> Iterator[str]:
        """What shows the same on every page in the element that is the text, and is not read."""
        body = self._body()
        same = [seen for seen in self._same() if body is None or seen.is_in(body.selector)]
        if same:
            yield "layout = [  # what shows the same on every page is not read"
            for seen in same[:_LISTED]:
                yield f'  "{quoted(seen.selector)}",  # {_short(seen.shown[0])}'
            yield "]"

    def _layout(self) -> Iterator[str]:
        """What shows the same on every page outside of the text."""
        body = self._body()
        same = [seen for seen in self._same() if body and not seen.is_in(body.selector)]
        if same:
            yield "\n# The same on every page, and taken for layout:"
        for seen in same[:_LISTED]:
            yield f"#   {seen.selector}: {_short(seen.shown[0])}"

    def _same(self) -> list[ObservedElement]:
        """The outermost elements that show the same on every page, each by one selector."""
        found = {
            (tuple(seen.on), tuple(seen.shown)): seen
            for seen in reversed(self.once)
            if seen.is_same
            and seen.has_class
            and not seen.is_heading
            and " " not in seen.selector
        }
        same = list(reversed(found.values()))
        return [seen for seen in same if not any(seen.is_in(other.selector) for other in same)]


def _dated(elements: Sequence[ObservedElement]) -> list[ObservedElement]:
    """The elements that show dates; else the innermost that shows one in a line, such as who wrote the page."""
    zone = zone_named("")
    filled = [seen for seen in elements if seen.values]
    dated = [seen for seen in filled if all(parse_date(text, zone, []) for text in seen.values)]
    if dated:
        return dated
    lines = [seen for seen in filled if all(map(date_within, seen.values))]
    return sorted(lines, key=lambda seen: -seen.depth)[:1]


def _is_of_change(seen: ObservedElement) -> bool:
    """Whether an element names the date of the last change, by its class or in words."""
    texts = [text.lower() for text in seen.values]
    in_words = all(any(word in text for word in _UPDATED) for text in texts)
    return seen.has_word(_UPDATED) or in_words


def _shown(line: str, seen: ObservedElement | None, pages: PageElements) -> str:
    if seen is None:
        return line
    example = next(iter(seen.values), "") or next(iter(seen.texts), "")
    return f"{line}  # on {seen.pages} of {pages.count} pages: {_short(example)}"


def _short(text: str) -> str:
    text = " ".join(text.split())
    if len(text) <= _SHORT:
        return text
    return f"{text[:_SHORT]}…"
