"""The tree of a course, from the organisation of its manifest: modules, and where each resource stands."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from newburrow.formats.cartridge.kinds import ResourceKind, kind_of
from newburrow.formats.cartridge.manifest import Manifest, Node, Resource
from newburrow.model import Entry, Where


class CourseTree:
    """Where everything stands. The key of a module is that of its item, of anything else that of its resource."""

    def __init__(self, manifest: Manifest) -> None:
        self.manifest = manifest
        self._first: dict[str, Node] = {}  # identifier of a resource -> where it stands first
        self._again: list[Node] = []
        for node in manifest.nodes:
            known = node.resource in manifest.resources
            if known and self._first.setdefault(node.resource, node) is not node:
                self._again.append(node)
        self._nodes = {node.identifier: node for node in manifest.nodes}
        self._banks = self._find_banks()

    def _find_banks(self) -> dict[str, list[str]]:
        """Items of QTI 2 by the heading that holds nothing else, which is their question bank; else by none."""
        held: dict[str, list[Node]] = {}
        for node in self.manifest.nodes:
            held.setdefault(node.parent, []).append(node)
        banks: dict[str, list[str]] = {}
        for parent, nodes in held.items():
            kinds = {self._kind(node) for node in nodes}
            if parent and kinds == {ResourceKind.QTI_2_ITEM}:
                banks[parent] = [node.resource for node in nodes]
        return banks

    def _kind(self, node: Node) -> ResourceKind | None:
        resource = self.manifest.resources.get(node.resource)
        if resource:
            return kind_of(resource)
        return None

    def banks(self, asked: Callable[[], set[str]]) -> dict[str, list[str]]:
        """Key of a question bank -> identifiers of its items; a package of items alone is one bank.

        `asked` gives the paths of items that tests refer to: not every manifest says what a test depends on.
        """
        placed = {name for names in self._banks.values() for name in names}
        items = [
            name
            for name, resource in self.manifest.resources.items()
            if kind_of(resource) is ResourceKind.QTI_2_ITEM and name not in placed
        ]
        used = {
            name
            for resource in self.manifest.resources.values()
            if kind_of(resource) is ResourceKind.QTI_2_TEST
            for name in resource.depends
        }
        loose = [name for name in items if name not in used]
        if loose:
            paths = asked()
            loose = [name for name in loose if self.manifest.resources[name].path not in paths]
        if loose:
            return {**self._banks, "items": loose}
        return self._banks

    def bank_entry(self, key: str, label: str) -> Entry:
        """The entry of a question bank of items."""
        node = self._nodes.get(key)
        if node is None:
            return Entry(
                key=key, kind="question-bank", title=self.manifest.title, source=Where(label)
            )
        return Entry(
            key=key,
            kind="question-bank",
            title=node.title,
            parent=self._key(node.parent),
            position=node.position,
            source=Where(label, node.line),
        )

    def modules(self, label: str) -> Iterator[Entry]:
        """The headings of the tree."""
        for node in self.manifest.nodes:
            if not node.resource and node.identifier not in self._banks:
                yield self._entry(node, Entry(key=node.identifier, kind="module"), label)

    def placed(self, resource: Resource, where: Where) -> Entry:
        """The entry of a resource with title and place; one outside the tree has neither."""
        key = resource.identifier or resource.path
        entry = Entry(key=key, kind="lesson", extra=dict(resource.extra), source=where)
        node = self._first.get(resource.identifier)
        if node:
            entry = self._entry(node, entry, where.file)
        if resource.is_for_teachers:
            return replace(entry, status="private")
        return entry

    def repeated(self, label: str) -> Iterator[Entry]:
        """What stands at a second place: a link there."""
        for node in self._again:
            yield self._entry(node, Entry(key=node.identifier, kind="link"), label)

    def target_of(self, key: str) -> str:
        """The identifier of the resource that an item stands for."""
        return self._nodes[key].resource

    def _entry(self, node: Node, entry: Entry, label: str) -> Entry:
        return replace(
            entry,
            title=node.title,
            parent=self._key(node.parent),
            position=node.position,
            status="published" if node.is_visible else "draft",
            source=entry.source if entry.source.file else Where(label, node.line),
        )

    def _key(self, item: str) -> str:
        """The key of the entry that an item became."""
        node = self._nodes.get(item)
        if node is None:
            return ""
        if node.resource in self.manifest.resources and self._first.get(node.resource) is node:
            return node.resource
        return node.identifier
