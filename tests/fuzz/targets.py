"""What is fuzzed: each parser of ours as a function of bytes, with inputs to begin from.

A target may refuse its input in the ways that its callers know; anything else that it raises is a fault.
"""

import io
import tarfile
import zipfile
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import NamedTuple

from newburrow.assess.dialect_draft import drafting
from newburrow.commands.mend import mend_path
from newburrow.core import (
    csvfile,
    dates,
    local_dates,
    plugins,
    template,
    tomlfile,
    url,
    url_pattern,
)
from newburrow.core.problem import BurrowError
from newburrow.core.web_schemes import runs_script
from newburrow.decide.decisions import Decisions
from newburrow.dialects import loader, macros
from newburrow.dialects.css_selector import CssSelector
from newburrow.dialects.element_pattern import ElementPattern
from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.schema import Macro
from newburrow.dialects.selector import Selector
from newburrow.formats.exports import detection, export_records
from newburrow.hosts import loader as hosts
from newburrow.intake.budget import ReadingLimits
from newburrow.markup import addresses, guess, srcset
from newburrow.markup.base import DEEPEST_WRITTEN, Unreadable
from newburrow.markup.html import Fragment, TooDeep, flattened
from newburrow.markup.sanitiser import sanitised
from newburrow.redirects import table
from newburrow.redirects.known import files as known_files
from tests.attacks.payloads import payloads
from tests.formats.test_fixtures import cases
from tests.fuzz import packages
from tests.intake.test_saved_pages import saved_page
from tests.intake.test_warcs import archive, rare_archive

CORPUS = Path(__file__).parent / "corpus"
FIXTURES = Path(__file__).parent.parent / "fixtures"
_LIMITS = ReadingLimits(unpacked=20_000_000, files=2000)
_MACROS = [Macro("signup")]


class Target(NamedTuple):
    """One parser."""

    run: Callable[[bytes, Path], object]  # with a folder that is its own
    seeds: list[bytes]
    refuses: tuple[type[BaseException], ...] = (BurrowError,)


def _texts(*texts: str) -> list[bytes]:
    return [text.encode("utf-8", "surrogatepass") for text in texts]


def _file(data: bytes, folder: Path, name: str) -> Path:
    path = folder / name
    path.write_bytes(data)
    return path


def _export(name: str) -> Callable[[bytes, Path], object]:
    def run(data: bytes, folder: Path) -> object:
        request = detection.ExportRequest((), limits=_LIMITS)
        export = detection.examine(_file(data, folder, name), request=request)
        return sum(1 for _record in export_records.records(export))

    return run


def _mend(name: str) -> Callable[[bytes, Path], object]:
    def run(data: bytes, folder: Path) -> object:
        out = folder / "mended"
        out.unlink(missing_ok=True)
        return mend_path(_file(data, folder, name), out, lambda _repair: None, _LIMITS)

    return run


def _text(work: Callable[[str], object]) -> Callable[[bytes, Path], object]:
    return lambda data, _folder: work(data.decode("utf-8", "replace"))


def _there_and_back(name: str) -> Callable[[str], object]:
    markup = plugins.get(plugins.MARKUPS, name)

    def run(text: str) -> object:
        made = markup.to_html(text)
        clean = sanitised(Fragment(flattened(made)).html(), frozenset(), lambda *_what: None)
        if hasattr(markup, "from_html"):
            return markup.from_html(flattened(clean, DEEPEST_WRITTEN))
        return clean

    return run


def _html(text: str) -> object:
    fragment = Fragment(text)
    addresses.change_all(fragment, lambda value, _use, _node: value + "x")
    return sanitised(fragment.html(), frozenset(), lambda *_what: None)


def _pattern(text: str) -> object:
    pattern, _sign, value = text.partition("\n")
    if list(url_pattern.unknown_variables(["a"], pattern, ("slug", "year", "list", "page"))):
        return None
    url_pattern.expand(pattern, {"slug": value, "year": "2024"})
    return url_pattern.matcher(pattern).fullmatch(value[:200])


def _address(text: str) -> object:
    base, _sign, other = text.partition("\n")
    resolved = url.resolve(base, other)
    runs_script(resolved)
    url.safe(resolved)
    return url.key(resolved), url.site_key(resolved), list(url.compositions(resolved))


def _selectors(text: str) -> object:
    names = {"rp": "urn:x"}
    of_words = (lambda word, _names: JsonSelector(word), lambda word, _names: CssSelector(word))
    for make in (ElementPattern, Selector, *of_words):
        try:
            make(text, names)
        except ValueError:
            continue
    return None


def _dialect(data: bytes, folder: Path) -> object:
    return loader.load(str(_file(data, folder, "mine.toml")))


def _host(data: bytes, folder: Path) -> object:
    return hosts.load(str(_file(data, folder, "mine.toml")))


def _tables(data: bytes, folder: Path) -> object:
    path = _file(data, folder, "t.csv")
    for work in (lambda: list(csvfile.read(path, ("author", "name"))), lambda: list(table.read(path)), lambda: list(known_files.read(path))):  # fmt: skip
        try:
            work()
        except (BurrowError, UnicodeDecodeError):
            continue
    return None


def _draft(data: bytes, folder: Path) -> object:
    return drafting.draft_dialect(_file(data, folder, "export"), _LIMITS)


def _fixture_files(*suffixes: str) -> list[bytes]:
    return [path.read_bytes() for path in cases() if path.suffix in suffixes and path.is_file()]


def _zips() -> list[bytes]:
    made = []
    for method in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w", method) as archive:
            archive.writestr("posts.xml", _fixture_files(".xml")[0])
            archive.writestr("files/a.png", b"png")
        made.append(stream.getvalue())
    for mode in ("w", "w:gz", "w:bz2", "w:xz"):
        stream = io.BytesIO()
        with tarfile.open(fileobj=stream, mode=mode) as archive:  # type: ignore[call-overload]
            info = tarfile.TarInfo("posts.xml")
            info.size = 9
            archive.addfile(info, io.BytesIO(b"<rss/>   "))
        made.append(stream.getvalue())
    return made


def _shipped(folder: str) -> Iterable[bytes]:
    return (path.read_bytes() for path in sorted(Path(loader.__file__).parent.parent.glob(f"{folder}/*.toml")))  # fmt: skip


def targets() -> dict[str, Target]:
    """All parsers by name."""
    xml, others = (
        _fixture_files(".xml", ".atom", ".rss"),
        _fixture_files(".json", ".jsonl", ".csv", ".md"),
    )
    json_texts = [path.read_bytes() for path in sorted(FIXTURES.glob("*/*.json"))[:8]]
    made = {
        "archives": Target(_export("e.bin"), _zips()),
        "feeds": Target(_export("e.xml"), xml),
        "records": Target(_export("e.json"), [*json_texts, *others]),
        "texts": Target(_export("e.md"), _texts("---\ntitle: A\ntags: [b]\n---\n# C\n", "+++\ntitle='A'\n+++\nx", '{\n"title": "A"\n}\nx')),
        "pages": Target(_export("e.html"), _fixture_files(".html")),
        "creole pages": Target(_export("e.creole"), _texts("---\ntitle: A\n---\n= B\n* [[c|d]] {{e.png}}\n", "= A =\n|=b|c|\n")),
        "web archives": Target(_export("e.warc"), [archive(False), archive(True), rare_archive()]),
        "saved pages": Target(_export("e.mhtml"), [saved_page()]),
        "questions": Target(packages.as_file(packages.QUIZ), packages.seeds("chalkmere", b"<questestinterop")),
        "question items": Target(packages.as_file(packages.ITEM), packages.seeds("slatewell", b"<assessmentItem ")),
        "manifests": Target(packages.as_manifest("chalkmere"), packages.seeds("chalkmere", b"<manifest ")),
        "mend xml": Target(_mend("e.xml"), xml),
        "mend json": Target(_mend("e.json"), json_texts),
        "draft of a dialect": Target(_draft, [*xml, *json_texts, *_fixture_files(".html")]),
        "dialects": Target(_dialect, [*_shipped("dialects"), b'name="x"\nextends="reedpost"\n']),
        "host profiles": Target(_host, list(_shipped("hosts"))),
        "decisions": Target(lambda data, _folder: tomlfile.load(data.decode("utf-8", "replace"), "m", Decisions),
                            _texts('[old]\npaths=["a"]\n[new]\nhost="x"\naddress="https://a.example/"\n')),
        "tables": Target(_tables, _texts("author,name\na,b\n", "sep=;\nauthor;name\n", "old,new,status,why\nhttps://a.example/,,410,x\n",
                         "Redirect 301 /a /b\nRewriteRule ^x$ /y [R=301]\n", "location = /a { return 301 /b; }\nmap $uri $x {\n/a /b;\n}\n")),
        "html": Target(_text(_html), _texts(*payloads()[:-3]), (TooDeep,)),
        "srcset": Target(_text(srcset.candidates), _texts("a 1x, b 2x", "data:,a 3w")),
        "guess": Target(_text(guess.guess), _texts("# A\n\n* b\n", "h1. A", "== A\n**b**")),
        "macros": Target(_text(lambda text: macros.put_back(*macros.taken_out(text, _MACROS), lambda use: use.words)),
                         _texts('a [signup day="1"] b [/signup]', "[signup][signup /]")),
        "addresses": Target(_text(_address), _texts("https://a.example/b/\n../c?d=e#f", "http://é.example:80/\n//x", "https://[::1]/\nx:y")),
        "address patterns": Target(_text(_pattern), _texts("/{year}/{slug}/\n/2024/x/", "{+list}older/{page}\n/a/older/2"), (BurrowError, ValueError)),
        "selectors": Target(_text(_selectors), _texts("rp:a/@b", "$.a[?@.b=='c'].d", "a | b[c='d']", "//x[position()=1]", "ul.a > li:not(.b) @href", "(title)"), (BurrowError,)),
        "templates": Target(_text(lambda text: template.rendered(text, {"a": "b"})), _texts("{{ a }}{% for i in 'abc' %}{{ i }}{% endfor %}"),
                            (ValueError, template.TemplateFailed)),
        "dates": Target(_text(lambda text: (dates.parse_date(text), local_dates.parse(text, dates.UTC))),
                        _texts("2024-05-06T07:08:09+01:00", "Mon, 6 May 2024 07:08:09 GMT", "24.11.2026 1:45 PM")),
    }  # fmt: skip
    for name in plugins.names(plugins.MARKUPS):
        seeds = _texts("# A\n\n* b [c](d)\n\n```\ne\n```", "h1. A\n\n* b \"c\":d", "= A\n* b [[c|d]] **e**\n|=f|g|", "<p>a <b>b</b></p>", "[1]\n\nfn1. x")  # fmt: skip
        made[f"markup {name}"] = Target(
            _text(_there_and_back(name)), seeds, (Unreadable, TooDeep)
        )
    for name, target in made.items():  # what once was a fault or a hang
        found = sorted((CORPUS / name.replace(" ", "-")).glob("*.input"))
        target.seeds.extend(path.read_bytes() for path in found)
    return made
