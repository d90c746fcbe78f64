"""Reading a package: its manifest, and each resource as an entry at its place in the course."""

from __future__ import annotations

import html
import posixpath
from collections.abc import Iterator
from itertools import chain, islice
from typing import BinaryIO
from urllib.parse import quote

from msgspec.structs import replace

from newburrow.core import url, url_pattern
from newburrow.core.problem import BurrowError, Problem
from newburrow.formats import xml_stream
from newburrow.formats.base import Input
from newburrow.formats.cartridge import small_files
from newburrow.formats.cartridge.course_tree import CourseTree
from newburrow.formats.cartridge.kinds import ASSOCIATED, ResourceKind, kind_of
from newburrow.formats.cartridge.manifest import Manifest, Resource, read_manifest, site_of
from newburrow.formats.cartridge.page import lesson_of
from newburrow.formats.qti1 import reader as qti1
from newburrow.formats.qti2 import reader as qti2
from newburrow.model import Body, Entry, Extra, Media, Question, Where
from newburrow.model.reading import WHOLE, Item

_OF_FILE = (
    "general/title",
    "general/description",
    "annotation/description",
)  # metadata with a place in the model
_KINDS = {
    ResourceKind.WEB_LINK: "link",
    ResourceKind.DISCUSSION: "discussion",
    ResourceKind.ASSIGNMENT: "assignment",
    ResourceKind.TOOL: "link",
}


_OF_TESTS = (
    ResourceKind.QTI_2_ITEM,
    ResourceKind.QTI_2_STIMULUS,
)  # read with what they are part of


def read(source: Input) -> Iterator[Item | Problem]:
    """The records of the package that a manifest describes. Raises BurrowError where the manifest cannot be read."""
    yield from _Package(source).records()


class _Package:
    """One package being read."""

    def __init__(self, source: Input) -> None:
        self.source = source
        self.folder = posixpath.dirname(source.name)
        own = posixpath.basename(source.name)
        self.manifest = read_manifest(lambda: self._opened(own), source.label)
        self.tree = CourseTree(self.manifest)
        self.banks = self.tree.banks(self._asked_by_tests)
        self.in_banks = {path: bank for bank in self.banks for path in self._paths(bank)}
        self.site = (
            url.resolve(source.base, quote(f"{self.folder}/")) if self.folder else source.base
        )
        self.done = 0

    def _asked_by_tests(self) -> set[str]:
        """The paths of the items that tests of QTI 2 refer to; a test that cannot be read is told of later."""
        return {
            path
            for resource in self.manifest.resources.values()
            if kind_of(resource) is ResourceKind.QTI_2_TEST
            for path in qti2.items_asked(self._xml_of(resource), self._opened_or_none)
        }

    def records(self) -> Iterator[Item | Problem]:
        """The site, then what is in the package, or the share of it that is asked for."""
        begin, end = self.source.share
        if begin == WHOLE[0]:
            yield from self._head()
        resources = self._resources()
        number = len(resources) + len(self.banks)
        contents = chain(map(self._contents, resources), map(self._bank, self.banks))
        for found in islice(contents, round(begin * number), round(end * number)):
            yield from found
            self.done += 1
            self.source.progress(self.done)
        if end == WHOLE[1]:
            for entry in self.tree.repeated(self.source.label):
                yield replace(entry, body=self._link_to(entry))

    def _head(self) -> Iterator[Item | Problem]:
        """The site and its modules, and what has to be said of the manifest."""
        yield site_of(self.manifest, self.source.label)
        yield from self._doubts(self.manifest)
        for entry in self.tree.modules(self.source.label):
            yield self._site_of(entry)

    def _resources(self) -> list[Resource]:
        """The resources that are not items of a question bank."""
        held = {name for names in self.banks.values() for name in names}
        return [
            resource
            for identifier, resource in self.manifest.resources.items()
            if identifier not in held
        ]

    def _paths(self, bank: str) -> list[str]:
        """Where the items of a question bank lie."""
        return [self.manifest.resources[identifier].path for identifier in self.banks[bank]]

    def _contents(self, resource: Resource) -> Iterator[Item | Problem]:
        for item in self._resource(resource):
            yield self._addressed(item, resource)

    def _opened(self, name: str) -> BinaryIO:
        stream = self.source.sibling(name)
        if stream is None:
            raise FileNotFoundError(name)
        return stream

    def _address(self, path: str) -> str:
        return url.resolve(self.site, quote(path))

    def _site_of(self, entry: Entry) -> Entry:
        return replace(entry, body=Body(entry.body.text, base=self.site))

    def _doubts(self, manifest: Manifest) -> Iterator[Problem]:
        where = Where(self.source.label)
        if manifest.version and manifest.version not in ("1.0", "1.1", "1.2", "1.3"):
            yield Problem.at(where, "cartridge-version", version=manifest.version)
        for _name in manifest.unknown:
            yield Problem.at(where, "manifest-within")
        if manifest.organisations > 1:
            others = manifest.organisations - 1
            yield Problem.at(where, "organisation-unread", number=others)
        known = manifest.resources
        for node in manifest.nodes:
            if node.resource and node.resource not in known:
                line = Where(self.source.label, node.line)
                yield Problem.at(
                    line, "resource-missing", title=node.title, resource=node.resource
                )

    def _resource(self, resource: Resource) -> Iterator[Item | Problem]:
        """What one resource holds; a problem where its file is not in the package or cannot be read."""
        entry = self.tree.placed(resource, Where(self.source.label, resource.line))
        kind = kind_of(resource, entry.position is not None)
        if kind is ResourceKind.FILE and self._is_qti(resource):
            kind = ResourceKind.QTI_1
        try:
            if kind is ResourceKind.QTI_2_TEST:
                yield from self._placed(self._test(resource, entry), entry)
            elif kind in (ResourceKind.QTI_1, ResourceKind.QTI_1_BANK):
                yield from self._placed(self._quiz(resource, entry, kind), entry)
            elif kind is ResourceKind.PAGE:
                yield from lesson_of(resource, entry, self.site, self._opened)
            elif kind in _KINDS:
                yield from self._small(resource, replace(entry, kind=_KINDS[kind]), kind)
            elif kind is ResourceKind.FILE:
                yield from self._file(resource, entry)
            elif kind not in _OF_TESTS:
                yield self._unread(resource)
        except FileNotFoundError:
            yield self._missing(resource, entry)
        except BurrowError as error:
            yield error.problem

    def _addressed(self, item: Item | Problem, resource: Resource) -> Item | Problem:
        """The same; an entry gets the address that it had on the old site, where the dialect says how it is made."""
        if not isinstance(item, Entry):
            return item
        pattern = self.source.dialect.course.addresses.get(item.kind)
        if not pattern:
            return item
        path = posixpath.splitext(resource.path)[0]
        values = {"path": path, "name": posixpath.basename(path), "id": resource.identifier}
        return replace(
            item, permalink=url.resolve(self.source.base, url_pattern.expand(pattern, values))
        )

    def _is_qti(self, resource: Resource) -> bool:
        """Whether a file of an application is QTI 1.2, as further question banks are: a cartridge has one at most."""
        if not resource.type.startswith(ASSOCIATED) or not resource.path.endswith(".xml"):
            return False
        return f"<{qti1.ROOT}".encode() in self.source.start_of(resource.path)

    def _missing(self, resource: Resource, entry: Entry) -> Problem:
        where = Where(self.source.label, resource.line)
        if entry.title:
            of = f"“{entry.title}”"
        else:
            of = f"the resource {resource.identifier}"
        return Problem.at(where, "package-file-missing", file=resource.path or "(none)", of=of)

    def _unread(self, resource: Resource) -> Problem:
        where = Where(self.source.label, resource.line)
        return Problem.at(
            where,
            "resource-unread",
            type=resource.type,
            resource=resource.path or resource.identifier,
        )

    def _placed(
        self, found: Iterator[Entry | Question | Problem], entry: Entry
    ) -> Iterator[Item | Problem]:
        """The same, the quiz or bank at its place in the course."""
        for item in found:
            if isinstance(item, Entry):
                item = replace(
                    item,
                    title=item.title or entry.title,
                    parent=entry.parent,
                    position=entry.position,
                    status=entry.status,
                    extra=item.extra | entry.extra | _outline_title(item.title, entry),
                )
            yield item

    def _quiz(
        self, resource: Resource, entry: Entry, kind: ResourceKind
    ) -> Iterator[Entry | Question | Problem]:
        path = self._xml_of(resource)
        file = qti1.QtiFile(
            lambda: self._opened(path),
            path,
            entry.key,
            self._address(path),
            entry.title,
            kind is ResourceKind.QTI_1_BANK,
        )
        yield from qti1.read(file)

    @staticmethod
    def _xml_of(resource: Resource) -> str:
        named = [name for name in resource.files if name.lower().endswith(".xml")]
        if resource.path.lower().endswith(".xml"):
            return resource.path
        return next(iter(named), resource.path)

    def _test(self, resource: Resource, entry: Entry) -> Iterator[Entry | Question | Problem]:
        path = self._xml_of(resource)
        yield from qti2.read_test(
            qti2.TestFile(
                path,
                path,
                entry.key,
                self._opened_or_none,
                self.site,
                entry.title,
                self.in_banks,
            )
        )

    def _opened_or_none(self, name: str) -> BinaryIO | None:
        return self.source.sibling(name)

    def _bank(self, bank: str) -> Iterator[Item | Problem]:
        entry = self.tree.bank_entry(bank, self.source.label)
        yield from qti2.read_bank(self._paths(bank), entry, self.site, self._opened_or_none)

    def _small(
        self, resource: Resource, entry: Entry, kind: ResourceKind
    ) -> Iterator[Item | Problem]:
        path = self._xml_of(resource)
        entry = replace(entry, body=Body("", base=self._address(path)))
        root = xml_stream.root_of(lambda: self._opened(path), path)
        made = small_files.entry_of(root, entry)
        if made is None:
            yield self._unread(resource)
            return
        yield replace(made, extra=made.extra | _outline_title(made.title, entry))
        if kind is ResourceKind.TOOL:
            yield Problem.about(made, "tool-link", address=made.fields.get("tool", ""))

    def _file(self, resource: Resource, entry: Entry) -> Iterator[Item | Problem]:
        """A document for a file that has a place in the course; any other is a file of the site."""
        if not resource.path or not self.source.has(resource.path):
            yield self._missing(resource, entry)
            return
        if self.folder:
            name = f"{self.folder}/{resource.path}"
        else:
            name = resource.path
        if resource.extra:
            yield Media(
                key=f"file:{name}",
                path=name,
                title=resource.title,
                caption=resource.caption,
                alternative_text=resource.alternative_text,
                extra={
                    name: found
                    for name, found in resource.extra.items()
                    if name not in _OF_FILE
                },
                source=entry.source,
            )
        if entry.position is None:
            return
        yield replace(
            entry, kind="document", enclosures=(f"file:{name}",), body=Body("", base=self.site)
        )

    def _link_to(self, entry: Entry) -> Body:
        """A link to what stands at another place of the course already."""
        target = self.manifest.resources[self.tree.target_of(entry.key)].path
        words = html.escape(entry.title or target, quote=False)
        return Body(
            f'<p><a href="{html.escape(self._address(target))}">{words}</a></p>', base=self.site
        )


def _outline_title(title: str, entry: Entry) -> Extra:
    """The title that an entry has in the outline of the course, where its file gives it another."""
    if entry.title and entry.title != title:
        return {"title in the outline": [entry.title]}
    return {}
