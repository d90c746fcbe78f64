"""An HTML page, or an element of one, as a record whose facts CSS selectors find."""

from __future__ import annotations

from selectolax.lexbor import LexborNode

from newburrow.dialects.css_selector import CssSelector
from newburrow.formats.html.document import Document, text_of
from newburrow.formats.html.layout import without
from newburrow.formats.html.own_facts import Facts, OwnFacts
from newburrow.formats.records.record_view import RecordView
from newburrow.model import Extra

_ADDRESSES = ("href", "src", "content", "cite", "data", "poster")


class PageView:
    """One page, or one element of it, such as a comment."""

    line = 0  # the parser does not say where an element stood

    def __init__(self, document: Document, node: LexborNode | None, own: OwnFacts) -> None:
        """`node` is the element; None: the whole page."""
        self._document, self._node, self._own = document, node, own
        self._records = set[int]()  # elements that are records within this one

    def texts(self, selector: CssSelector) -> list[str]:
        """The words of the elements, or the values of an attribute; addresses are absolute."""
        if selector.fact:
            return self._own.texts(selector.fact)
        found = []
        for node in self._found(selector.css):
            if selector.attribute:
                text = (node.attributes.get(selector.attribute) or "").strip()
                # the content of the element itself is a value, such as that of a field
                is_value = selector.attribute == "content" and not selector.css
                if selector.attribute in _ADDRESSES and text and not is_value:
                    text = self._address(text, selector.attribute)
            elif node.tag == "title":
                text = self._document.without_site(text_of(node))
            else:
                text = text_of(node)
            if text:
                found.append(text)
        return found

    def _address(self, text: str, attribute: str) -> str:
        if attribute == "content" and "/" not in text:
            return text
        if attribute == "content" and "://" not in text and not text.startswith("/"):
            return text
        return self._document.resolved(text)

    def bodies(self, selector: CssSelector) -> list[str]:
        """The HTML in the elements."""
        if selector.fact or selector.attribute:
            return self.texts(selector)
        layout = self._document.layout
        found = [
            without(node.inner_html or "", layout) if layout else node.inner_html or ""
            for node in self._found(selector.css)
        ]
        return [text.strip() for text in found if text.strip()]

    def inner(self, selector: CssSelector) -> list[RecordView]:
        """The outermost of the elements; those within them are records within these."""
        if selector.fact:
            return [FactsView(facts) for facts in self._own.records(selector.fact)]
        found = self._found(selector.css)
        within = {node.mem_id for node in found}
        outermost = [node for node in found if not self._is_within(node, within)]
        self._records |= {node.mem_id for node in outermost}
        return [PageView(self._document, node, self._own) for node in outermost]

    def left(self) -> Extra:
        """Nothing: what no selector takes of a page is its layout."""
        return {}

    def _found(self, css: str) -> list[LexborNode]:
        """The elements that a selector finds within this one, without those of records within it."""
        if not css:
            root = self._node if self._node is not None else self._document.root
            if root is not None:
                return [root]
            return []
        if self._node is None:
            found = self._document.all(css)
        else:
            found = self._document.within(self._node, css)
        if not self._records:
            return found
        return [
            node
            for node in found
            if node.mem_id not in self._records and not self._is_within(node, self._records)
        ]

    def _is_within(self, node: LexborNode, holders: set[int]) -> bool:
        top = self._node.mem_id if self._node is not None else 0
        above = node.parent
        while above is not None and above.mem_id != top:
            if above.mem_id in holders:
                return True
            above = above.parent
        return False


class FactsView:
    """A record that a page states in an open vocabulary."""

    line = 0

    def __init__(self, facts: Facts) -> None:
        self._facts = facts

    def texts(self, selector: CssSelector) -> list[str]:
        """The texts of a fact."""
        return [text for text in self._facts.get(selector.fact, []) if text]

    def bodies(self, selector: CssSelector) -> list[str]:
        """The same: a text is HTML here."""
        return self.texts(selector)

    def inner(self, _selector: CssSelector) -> list[RecordView]:
        """None: a record that is stated so has no others in it."""
        return []

    def left(self) -> Extra:
        """Nothing."""
        return {}
