"""What a format is, to those who call one.

To add a format: write a module here with a subclass of `Format` and one instance of it; give it
`recognise`, and `read` or `write` or both; name the instance under `newburrow.formats` in the package's
entry points. Nothing else needs to know. A format is handed open streams, never paths.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from typing import Any, BinaryIO, Protocol, runtime_checkable

from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.dialects.schema import NO_DIALECT, Dialect
from newburrow.intake.head import Head
from newburrow.intake.part import Part
from newburrow.model import Media, MenuItem, Revision, Site, Term
from newburrow.model.bundle import Bundle
from newburrow.model.reading import WHOLE, Item, KnownPage


class Input(Struct, frozen=True):
    """One part of an export, as a reader gets it."""

    label: str  # the file, for messages
    stream: BinaryIO
    dialect: Dialect
    root: str = ""  # name of the root element, where the part is XML
    name: str = ""  # of the file within its source
    base: str = ""  # address of the site, where another part has said it
    zone: str = ""  # time zone of the site, likewise
    site_title: str = ""  # likewise
    is_front_page: bool = False  # whether the site's front page is read
    top: str = ""  # the folder around the whole site, which is no part of its addresses
    address: str = ""  # that the part had on the web, where the source says it
    # lines of the file before those of the stream, besides those of its frame
    lines: int = 0
    # called with the number of entries read so far
    progress: Callable[[int], None] = lambda _entries: None
    # what feeds and sitemaps of the source say of the page at one of these addresses
    known_page: Callable[..., KnownPage | None] = lambda *_addresses: None
    # opens another file of the same source by the name that this part gives it: relative to
    # this part, or to the source. None where the source has no such file. The file is then part
    # of what was read, and not a file of the site that is moved by itself. Raises BurrowError
    # where it cannot be read. A reader closes what it opened.
    sibling: Callable[[str], BinaryIO | None] = lambda _name: None
    # of the files that a manifest describes, those to read: all, or a half; halves in turn give all
    share: tuple[float, float] = WHOLE
    # whether the same source has a file of that name; the file stays one of the site
    has: Callable[[str], bool] = lambda _name: False
    # the first bytes of such a file, which stays one of the site; empty where there is none
    start_of: Callable[[str], bytes] = lambda _name: b""


class Files(Protocol):
    """Where files are put; one place alone opens them."""

    def open(self, name: str) -> BinaryIO:
        """A new file under a name relative to what the new host imports."""
        ...


class Output(Files, Protocol):
    """Where a writer puts its files."""

    def free_name(self, name: str) -> str:
        """The name, or the next one with a number before its extension that no file of this run has."""
        ...


class Job(Struct, frozen=True):
    """What a writer is told before the first record."""

    site: Site  # as it will be on the new host
    options: dict[str, Any]  # the [write] table of the host profile
    # when the newest entry was changed, RFC 3339; empty where none has a date
    updated: str = ""
    # the dialect in which the host reads the format, if the profile names one
    dialect: Dialect | None = None
    file_bytes: int = 0  # the largest file that the host accepts; 0: any size
    templates: dict[str, str] = {}  # kind -> text, where the profile has templates
    # whether an entry or a file goes to an address of the new site
    goes_to: Callable[[str], bool] = lambda _address: True
    # of the new site, each after the one it is under; targets are addresses
    menus: tuple[MenuItem, ...] = ()
    # all of the new site; a writer that can declare terms also writes those that no entry has
    terms: tuple[Term, ...] = ()


class Refused(Exception):
    """Raised by a writer that cannot write a record: it fails, for the reason given."""

    def __init__(self, reason: str, advice: str) -> None:
        super().__init__(reason)
        self.reason, self.advice = reason, advice


class Writer(Protocol):
    """Writes one site. `finish` must be called; only then is the output whole."""

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """Write an entry with its comments; what had to be dropped comes back as problems. Raises Refused."""
        ...

    def media(self, media: Media) -> Iterable[Problem]:
        """Write what is known of a media whose file goes to `media.path`, beside the other files."""
        ...

    def finish(self) -> None:
        """Write the end and close the files."""
        ...


@runtime_checkable
class HistoryWriter(Protocol):
    """A writer that also takes the history of entries. It gets them after all entries, page by page."""

    def revision(self, revision: Revision, new_address: str) -> Iterable[Problem]:
        """Write one state of the entry at a new address; `author` is a name here. Raises Refused."""
        ...


class Format:
    """One open format. Subclasses say what they can."""

    name: str
    title: str  # with the standard that rules it
    needs_dialect = False  # whether it can be read only with a dialect
    is_tree = False  # whether a site is a folder with a file for each entry
    is_text = False  # whether a file in it can begin with a tag and still not be XML
    manifest = ""  # name of the file that says what all other files of its folder are; empty where there is none
    is_one_page = False  # whether a file in it can be a web page that was saved by mistake
    has_parts = True  # whether what is written can be in several files
    # extensions of files that belong to the layout of a site in this format, and not to its content
    layout_files: tuple[str, ...] = ()
    has_history = False  # whether its writer takes the history of entries
    has_questions = (
        False  # whether its writer takes quizzes and question banks with their questions
    )
    # facts of an entry that what is written always says, whether they are known or not (`verify.entry_facts`)
    always_said: tuple[str, ...] = ()
    # facts of an entry that what is written has no place for, beside what its writer reports
    never_said: tuple[str, ...] = ()
    has_menus = False  # whether what is written has a place for menus and the front page

    def recognise(self, head: Head) -> bool:
        """Whether a part of an export is in this format, judged by its content."""
        raise NotImplementedError

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The records of a part, streamed. Raises BurrowError where the part is not well-formed."""
        raise NotImplementedError

    def plain(self) -> Dialect:
        """The dialect to read with if none is known: the format by itself."""
        return Dialect(
            name=NO_DIALECT, format=self.name, title="no dialect: the format as it stands"
        )

    def site_of(self, parts: Sequence[Part], files: Collection[str]) -> Site | None:
        """The site as the parts of this format show it together; None where the format does not say that.

        `files` are the names of the files beside them.
        """
        return None

    def kept_dialects(self, files: dict[str, Part]) -> list[Dialect]:
        """The dialects that an export of this format keeps with its content; their files are removed.

        `files` are those of the export that hold no content, by name. Raises BurrowError where one cannot be read.
        """
        return []

    def check_options(self, options: dict[str, Any]) -> None:
        """Check the options of `write`. Raises msgspec.ValidationError if one is unknown or wrong."""

    def write(self, output: Output, job: Job) -> Writer:
        """A writer for one site."""
        raise NotImplementedError

    def written_name(self, key: str) -> str:
        """The last part of the key that a question has when what was written is read again."""
        return key

    @property
    def reads(self) -> bool:
        """Whether the format has a reader."""
        return type(self).read is not Format.read

    @property
    def writes(self) -> bool:
        """Whether the format has a writer."""
        return type(self).write is not Format.write
