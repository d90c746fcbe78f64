"""What a dialect takes from one plain record: its selectors compiled, and the facts that they find."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from newburrow.core import plugins
from newburrow.dialects.schema import RecordMap
from newburrow.formats.records.record_view import RecordView
from newburrow.formats.serialised_list import parts
from newburrow.model import Where

# facts that a record can have several of: all selectors are read, not only the first that finds something
_SEVERAL = ("other_addresses", "terms", "enclosures")
Compile = Callable[[str], Any]  # a selector's text -> a compiled one


class CompiledMap:
    """One record map of a dialect, its selectors compiled for the format."""

    def __init__(self, rules: RecordMap, compile_: Compile) -> None:
        self.rules, self.of = rules, rules.of

        def all_of(texts: str | list[str]) -> list[Any]:
            return [compile_(text) for text in ([texts] if isinstance(texts, str) else texts)]

        if rules.each:
            self.each = compile_(rules.each)
        else:
            self.each = None
        self.take = {fact: all_of(texts) for fact, texts in rules.take.items()}
        self.terms = {vocabulary: all_of(texts) for vocabulary, texts in rules.terms.items()}
        self.fields = {name: all_of(texts) for name, texts in rules.fields.items()}
        self.pairs = [
            (pair, compile_(pair.element), compile_(pair.name), compile_(pair.value))
            for pair in rules.pairs
        ]
        self.inner = [CompiledMap(inner_map, compile_) for inner_map in rules.inner]


_compiled: dict[int, tuple[RecordMap, CompiledMap]] = {}  # by the identity of the rules
_MOST_COMPILED = 256


def compiled_map(rules: RecordMap, compile_: Compile) -> CompiledMap:
    """The compiled form of a record map, kept for the next part: an export may have a file for each entry."""
    known = _compiled.get(id(rules))
    if known and known[0] is rules:
        return known[1]
    if len(_compiled) >= _MOST_COMPILED:
        _compiled.clear()
    made = CompiledMap(rules, compile_)
    _compiled[id(rules)] = (rules, made)
    return made


class RecordFacts:
    """The facts of one record, taken through its view."""

    def __init__(self, rules: CompiledMap, view: RecordView, where: Where, number: int) -> None:
        self.rules, self.view, self.where, self.parent = rules, view, where, ""
        self.number = number  # of the record in its part
        self._known: dict[str, list[str]] = {}
        self._beside: dict[str, list[str]] = {}  # what pairs contain besides names and values
        self.markups = plugins.names(plugins.MARKUPS)

    def texts(self, selectors: list[Any]) -> list[str]:
        """What the first selector that finds something finds."""
        for selector in selectors:
            if found := self.view.texts(selector):
                return found
        return []

    def markup(self, fact: str) -> list[str]:
        """The texts of a fact that is a body: with the markup of what is within an element."""
        for selector in self.rules.take.get(fact, []):
            if found := self.view.bodies(selector):
                return found
        return []

    def parted(self, fact: str, texts: list[str]) -> list[str]:
        """Texts taken apart where the dialect says that one holds several."""
        if mark := self.rules.rules.split.get(fact, ""):
            texts = [part for text in texts for part in text.split(mark)]
        return [bare for text in texts if (bare := text.strip())]

    def each(self, fact: str) -> list[str]:
        """All texts of a fact, in the shape that the dialect gives them."""
        found = self._known.get(fact)
        if found is None:
            found = self._taken(fact, self.rules.take.get(fact, []))
            always = self.rules.rules.always
            if not found and fact in always:
                found = [always[fact]]
            self._known[fact] = found
        return found

    def _taken(self, fact: str, selectors: list[Any]) -> list[str]:
        if not selectors:
            return []
        rules = self.rules.rules
        if fact in rules.join:
            every = [text for selector in selectors for text in self.view.texts(selector)]
            texts = [rules.join[fact].join(every)]
        elif fact in _SEVERAL:
            texts = [text for selector in selectors for text in self.view.texts(selector)]
        else:
            texts = self.texts(selectors)
        found = self.parted(fact, texts)
        if shape := rules.shape.get(fact, ""):
            return [shape.replace("{text}", text) for text in found]
        return found

    def one(self, fact: str) -> str:
        """The first text of a fact; empty where there is none."""
        found = self.each(fact)
        if found:
            return found[0]
        return ""

    def key(self, within: str = "") -> str:
        """What names the record among all of its type."""
        facts: tuple[str, ...] = ("id",)
        if self.rules.of != "comment":
            facts = ("id", "guid", "permalink", "address", "path")
        for fact in facts:
            if text := self.one(fact):
                return text
        if within:
            return f"{within}#{self.number}"
        return self.one("slug") or f"{self.where} #{self.number}"  # several can be in one line

    def fields(self) -> dict[str, str]:
        """Named metadata; what a pair holds besides is kept with what no fact takes."""
        named = {name: self.texts(selector) for name, selector in self.rules.fields.items()}
        found = {name: "\n".join(texts).strip() for name, texts in named.items() if texts}
        for pair, element, name, value in self.rules.pairs:
            for view in self.view.inner(element):
                names = view.texts(name)
                if names:
                    texts = view.texts(value)
                    if pair.lists:
                        texts = [part for text in texts for part in parts(text)]
                    named_field = names[0].strip()
                    found[named_field] = "\n".join(
                        filter(None, (found.get(named_field), *texts))
                    ).strip()
                for place, values in view.left().items():
                    self._beside.setdefault(f"{pair.element} {place}", []).extend(values)
        return found

    def left(self) -> dict[str, list[str]]:
        """What has no place in the model."""
        return self.view.left() | self._beside
