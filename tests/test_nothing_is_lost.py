"""Every piece of a made-up site is in what the new host imports, or is named in ledger or follow-ups.

The sites are drawn at random, with nasty values around a mark in each piece; they are written here by libraries that
are not ours, and what was moved is searched for the marks as plain text, so no parser of ours judges it.
"""

import contextlib
import html
import io
import itertools
import json
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import yaml
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from lxml import etree

from newburrow.cli import main
from newburrow.hosts import loader as hosts
from tests.helpers import ROUNDS, SITE, FolderCase, unpack_zips

ATOM, THR = "http://www.w3.org/2005/Atom", "http://purl.org/syndication/thread/1.0"
RP = "https://reedpost.example/ns/archive/2"
DC, CONTENT = "http://purl.org/dc/elements/1.1/", "http://purl.org/rss/1.0/modules/content/"
# Values in which a mark can stand: what the syntax of one target or another could take for its own.
NASTY = ("{}", "{} & <b>", "]]>{}", "# {}", "- {}", "1. {}", "---\n{}", "*{}*", "[{}](x)", "`{}`", "{}\\", '"{}"', "'{}", "{}\u202e",
         "🍐{}", "{{{{{}}}}}", "=={}==", "|{}|", "~{}", "<{}>", "&amp;{}", "%20{}", "{}, {}x", "  {}  ", "//{}//", ": {}", "{{%{}%}}")  # fmt: skip
BLOCKS = (
    "<p>{}</p>", "<p><b>{}</b>{}<i>{}</i></p>", '<p><a href="https://elsewhere.example/{}">{}</a></p>', "<h2>{}</h2>",
    '<p><img src="https://pictures.example/{}.png" alt="{}"></p>', "<ul><li>{}<ul><li>{}</li></ul></li><li>{}</li></ul>",
    "<ol start='3'><li><p>{}</p><p>{}</p></li></ol>", "<table><tr><th>{}</th></tr><tr><td>{}</td></tr></table>",
    "<pre><code>{}\n\n\n  {}</code></pre>", "<blockquote><p>{}</p><blockquote>{}</blockquote></blockquote>", "<div>{}<div>{}</div>{}</div>",
    '<iframe src="https://films.example/{}"></iframe>', "<figure><img src='https://pictures.example/{}'><figcaption>{}</figcaption></figure>",
    "<dl><dt>{}</dt><dd>{}</dd></dl>", "<details><summary>{}</summary>{}</details>", "<blink>{}</blink>", "<o:p>{}</o:p>",
    '<form action="https://elsewhere.example/{}"><label>{}</label><input name="{}"></form>', "{}", "<section><header>{}</header>{}</section>",
    '<video src="https://films.example/{}.mp4"></video>', "<p>{}<br>{}<hr>{}</p>", '<p style="background: url(https://pictures.example/{}.png)">{}</p>',
    '<p><sup>{}</sup><kbd>{}</kbd><mark>{}</mark><q>{}</q></p>', "<li>{}</li>", "<td>{}</td>", "<p>{}", "<center><font>{}</font></center>",
    '<img srcset="https://pictures.example/{}.png 2x" src="https://pictures.example/{}.png">', "<h1>{}</h1><h6>{}</h6>",
)  # fmt: skip


class Marks:
    """Gives marks that stand nowhere else, and keeps what each was put into."""

    def __init__(self) -> None:
        self.used: dict[str, str] = {}
        self._numbers = itertools.count(1)

    def new(self, what: str) -> str:
        mark = f"qz{next(self._numbers)}zq"
        self.used[mark] = what
        return mark

    def nasty(self, shape: str, what: str) -> str:
        return (
            shape.replace("{}", self.new(what))
            if "{{" not in shape
            else shape.format(self.new(what))
        )


shapes = st.sampled_from(NASTY)
blocks = st.lists(st.tuples(st.sampled_from(BLOCKS), shapes), min_size=1, max_size=5)
sites = st.lists(
    st.fixed_dictionaries(
        {"title": shapes, "summary": shapes, "blocks": blocks, "author": shapes, "terms": st.lists(shapes, max_size=3),
         "comments": st.lists(shapes, max_size=3), "field": shapes, "kind": st.sampled_from(("post", "page")),
         "state": st.sampled_from(("published", "draft"))}
    ), min_size=1, max_size=4,
)  # fmt: skip


def body(drawn: list[tuple[str, str]], marks: Marks) -> str:
    """Blocks with a mark in each place; in places of text the mark stands in a nasty value."""
    made = []
    for block, shape in drawn:
        pieces = block.split("{}")
        text = pieces[0]
        for piece in pieces[1:]:
            inside = text.rpartition("<")[2]
            in_tag = ">" not in inside and "<" in text
            what = f"{'attribute' if in_tag else 'text'} of {block}"
            text += (
                marks.new(what)
                if in_tag
                else html.escape(marks.nasty(shape, what), quote=False)
            ) + piece
        made.append(text)
    return "".join(made)


def rss(site: list[dict], marks: Marks) -> dict[str, bytes]:  # type: ignore[type-arg]
    root = etree.Element("rss", {"version": "2.0"}, {"dc": DC, "content": CONTENT})
    channel = etree.SubElement(root, "channel")
    etree.SubElement(channel, "title").text = "Orchard"
    etree.SubElement(channel, "link").text = SITE
    for number, entry in enumerate(site):
        item = etree.SubElement(channel, "item")
        etree.SubElement(item, "title").text = marks.nasty(entry["title"], "title")
        etree.SubElement(item, "link").text = f"{SITE}{marks.new('address')}/{number}"
        etree.SubElement(item, f"{{{DC}}}creator").text = marks.nasty(entry["author"], "author")
        etree.SubElement(item, "description").text = html.escape(
            marks.nasty(entry["summary"], "summary")
        )
        etree.SubElement(item, f"{{{CONTENT}}}encoded").text = body(entry["blocks"], marks)
        for shape in entry["terms"]:
            etree.SubElement(item, "category", domain="kinds").text = marks.nasty(shape, "term")
        etree.SubElement(
            item,
            "enclosure",
            url=f"https://sounds.example/{marks.new('enclosure')}.mp3",
            type="audio/mpeg",
            length="1",
        )
    return {"feed.xml": etree.tostring(root, xml_declaration=True, encoding="utf-8")}


def atom(site: list[dict], marks: Marks) -> dict[str, bytes]:  # type: ignore[type-arg]
    root = etree.Element(f"{{{ATOM}}}feed", nsmap={None: ATOM, "thr": THR})

    def put(parent: etree._Element, name: str, text: str, **more: str) -> etree._Element:
        element = etree.SubElement(parent, f"{{{ATOM}}}{name}", more)
        element.text = text
        return element

    def person(parent: etree._Element, shape: str, what: str) -> None:
        author = put(parent, "author", "")
        put(author, "name", marks.nasty(shape, what))
        put(author, "email", f"{marks.new(f'e-mail of {what}')}@people.example")
        put(author, "uri", f"https://people.example/{marks.new(f'address of {what}')}")

    put(root, "title", "Orchard")
    put(root, "id", SITE)
    etree.SubElement(root, f"{{{ATOM}}}link", href=SITE)
    for number, drawn in enumerate(site):
        entry = put(root, "entry", "")
        put(entry, "id", f"tag:orchard.example,2020:{number}")
        put(entry, "title", marks.nasty(drawn["title"], "title"))
        etree.SubElement(
            entry, f"{{{ATOM}}}link", href=f"{SITE}{marks.new('address')}/{number}"
        )
        put(entry, "published", "2020-05-06T07:08:09Z")
        put(entry, "summary", marks.nasty(drawn["summary"], "summary"))
        put(entry, "content", body(drawn["blocks"], marks), type="html")
        person(entry, drawn["author"], "author")
        for shape in drawn["terms"]:
            etree.SubElement(
                entry,
                f"{{{ATOM}}}category",
                term=marks.nasty(shape, "term"),
                label=marks.nasty(shape, "label of a term"),
            )
        for nth, shape in enumerate(drawn["comments"]):
            reply = put(root, "entry", "")
            put(reply, "id", f"tag:orchard.example,2020:{number}/{nth}")
            put(reply, "published", "2021-05-06T07:08:09Z")
            put(
                reply,
                "content",
                f"<p>{html.escape(marks.nasty(shape, 'comment'))}</p>",
                type="html",
            )
            person(reply, shape, "comment's author")
            etree.SubElement(
                reply, f"{{{THR}}}in-reply-to", ref=f"tag:orchard.example,2020:{number}"
            )
    return {"feed.atom": etree.tostring(root, xml_declaration=True, encoding="utf-8")}


def json_feed(site: list[dict], marks: Marks) -> dict[str, bytes]:  # type: ignore[type-arg]
    items = [
        {
            "id": str(number), "url": f"{SITE}{marks.new('address')}/{number}", "title": marks.nasty(entry["title"], "title"),
            "summary": marks.nasty(entry["summary"], "summary"), "content_html": body(entry["blocks"], marks),
            "authors": [{"name": marks.nasty(entry["author"], "author"), "url": f"https://people.example/{marks.new('address of author')}"}],
            "tags": [marks.nasty(shape, "term") for shape in entry["terms"]], "image": f"https://pictures.example/{marks.new('picture')}.png",
        }
        for number, entry in enumerate(site)
    ]  # fmt: skip
    feed = {
        "version": "https://jsonfeed.org/version/1.1",
        "title": "Orchard",
        "home_page_url": SITE,
        "items": items,
    }
    return {"feed.json": json.dumps(feed).encode()}


def markdown(site: list[dict], marks: Marks) -> dict[str, bytes]:  # type: ignore[type-arg]
    files = {}
    for number, entry in enumerate(site):
        front = {
            "title": marks.nasty(entry["title"], "title"), "permalink": f"{SITE}{marks.new('address')}/{number}", "kind": entry["kind"],
            "status": entry["state"], "authors": [marks.nasty(entry["author"], "author")], "summary": marks.nasty(entry["summary"], "summary"),
            "tags": [marks.nasty(shape, "term") for shape in entry["terms"]], "fields": [{"name": "soil", "value": marks.nasty(entry["field"], "field")}],
        }  # fmt: skip
        text = f"---\n{yaml.safe_dump(front, allow_unicode=True)}---\n\n{body(entry['blocks'], marks)}\n"
        files[f"texts/{number}.md"] = text.encode()
    return files


def reedpost(site: list[dict], marks: Marks) -> dict[str, bytes]:  # type: ignore[type-arg]
    """The RSS of a host with a dialect: people, terms, comments and named fields have places of their own."""
    root = etree.Element("rss", {"version": "2.0"}, {"content": CONTENT, "rp": RP})
    channel = etree.SubElement(root, "channel")
    etree.SubElement(channel, "title").text = "Orchard"
    etree.SubElement(channel, "link").text = SITE

    def put(parent: etree._Element, tag: str, text: str, **more: str) -> etree._Element:
        element = etree.SubElement(parent, f"{{{RP}}}{tag}", more)
        element.text = text
        return element

    for number, entry in enumerate(site):
        writer = put(channel, "writer", "", signs=f"w{number}")
        put(writer, "name", marks.nasty(entry["author"], "author"))
        put(writer, "mail", f"{marks.new('e-mail of author')}@people.example")
        put(writer, "about", marks.nasty(entry["author"], "about an author"))
        for nth, shape in enumerate(entry["terms"]):
            topic = put(channel, "topic", "", slug=f"t{number}-{nth}", shelf="topic")
            put(topic, "name", marks.nasty(shape, "term"))
            put(topic, "about", marks.nasty(shape, "description of a term"))
    files = {}
    for number, entry in enumerate(site):
        post = put(channel, "signpost", "", board="top", words=marks.nasty(entry["title"], "label"), to=str(number + 1))  # fmt: skip
        elsewhere = f"https://elsewhere.example/{marks.new('target in a menu')}"
        put(post, "signpost", "", board="top", words=marks.nasty(entry["field"], "label"), to=elsewhere)  # fmt: skip
        item = etree.SubElement(channel, "item")
        etree.SubElement(item, "title").text = marks.nasty(entry["title"], "title of a file")
        etree.SubElement(item, "description").text = marks.nasty(entry["summary"], "caption")
        path = f"files/{marks.new('name of a file')}.txt"
        files[path] = marks.new("content of a file").encode()
        own = {"id": f"m{number}", "sort": "file", "state": "live", "file": path, "source": SITE + path,
               "within": str(number + 1), "alt": marks.nasty(entry["title"], "alternative text")}  # fmt: skip
        for tag, text in own.items():
            put(item, tag, text)
    for number, entry in enumerate(site):
        item = etree.SubElement(channel, "item")
        etree.SubElement(item, "title").text = marks.nasty(entry["title"], "title")
        etree.SubElement(item, "link").text = f"{SITE}{marks.new('address')}/{number}"
        etree.SubElement(item, "author").text = f"w{number}"
        etree.SubElement(item, f"{{{CONTENT}}}encoded").text = body(entry["blocks"], marks)
        for nth, shape in enumerate(entry["terms"]):
            filed = etree.SubElement(
                item, "category", {f"{{{RP}}}slug": f"t{number}-{nth}", "domain": "topic"}
            )
            filed.text = shape
        put(item, "id", str(number + 1))
        put(item, "sort", "article" if entry["kind"] == "post" else "sheet")
        put(item, "state", "live" if entry["state"] == "published" else "sketch")
        put(item, "formerly", f"{SITE}{marks.new('old address')}/")
        put(
            item,
            "detail",
            marks.nasty(entry["field"], "field"),
            name=marks.new("name of a field"),
        )
        put(
            item,
            "unheard",
            marks.new("unknown element") if not number else "",
            of=marks.new("unknown attribute") if not number else "",
        )
        within = item
        for nth, shape in enumerate(entry["comments"]):
            within = put(within, "reply", "", id=f"{number}-{nth}", sort="reply", state="shown")
            put(within, "name", marks.nasty(shape, "comment's author"))
            put(within, "mail", f"{marks.new('e-mail of a comment')}@people.example")
            put(within, "web", f"https://people.example/{marks.new('address of a comment')}")
            put(within, "text", marks.nasty(shape, "comment"))
    files["reedpost.xml"] = etree.tostring(root, xml_declaration=True, encoding="utf-8")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return {"reedpost.zip": packed.getvalue()}


def quarrydesk(site: list[dict], marks: Marks) -> dict[str, bytes]:  # type: ignore[type-arg]
    """Lists of JSON records, one for each type."""
    lists: dict[str, list[dict[str, Any]]] = {}
    files: dict[str, bytes] = {}

    def put(kind: str, **facts: Any) -> None:
        lists.setdefault(kind, []).append(facts)

    def of(shape: str, what: str) -> str:
        return marks.nasty(shape, what)

    put("site", title="Orchard", address=SITE)
    for number, entry in enumerate(site):
        title, field, summary = entry["title"], entry["field"], entry["summary"]
        put("author", id=f"a{number}", name=of(entry["author"], "author"), signs=marks.new("login"),
            mail=f"{marks.new('e-mail')}@people.example", about=of(summary, "about an author"))  # fmt: skip
        for nth, shape in enumerate(entry["terms"]):
            put("term", shelf="tag", slug=f"t{number}-{nth}", name=of(shape, "term"), about=of(shape, "about a term"))  # fmt: skip
        put("post", id=str(number), type="article" if entry["kind"] == "post" else "sheet", title=of(title, "title"), text=body(entry["blocks"], marks),
            state="public" if entry["state"] == "published" else "working", path=f"{SITE}{marks.new('address')}/{number}", abstract=of(summary, "summary"),
            formerly=[f"{SITE}{marks.new('old address')}/"], writers=[f"a{number}"], unheard=marks.new("unknown name") if not number else "",
            keywords=[f"t{number}-{nth}" for nth in range(len(entry["terms"]))], details=[{"name": marks.new("name of a field"), "value": of(field, "field")}])  # fmt: skip
        for nth, shape in enumerate(entry["comments"]):
            put("comment", id=f"c{number}-{nth}", on=str(number), name=of(shape, "comment's author"), text=of(shape, "comment"),
                mail=f"{marks.new('e-mail of a comment')}@people.example", answers=f"c{number}-{nth - 1}" if nth else "")  # fmt: skip
        file = f"assets/{marks.new('name of a file')}.txt"
        files[file] = marks.new("content of a file").encode()
        put("media", id=f"m{number}", path=SITE + file, file=file, on=str(number), title=of(title, "title of a file"),
            caption=of(summary, "caption"), alternative=of(title, "alternative text"))  # fmt: skip
        put("menu", id=f"n{number}", board="top", words=of(title, "label"), to=f"https://elsewhere.example/{marks.new('target in a menu')}")  # fmt: skip
    records = {f"records/{kind}.json": json.dumps(rows) for kind, rows in lists.items()}
    return files | {name: text.encode() for name, text in records.items()}


WRITERS: dict[str, Callable[..., dict[str, bytes]]] = {
    "rss": rss, "atom": atom, "json": json_feed, "markdown": markdown, "reedpost": reedpost, "quarrydesk": quarrydesk,
}  # fmt: skip


class NothingIsLost(FolderCase):
    def moved(self, files: dict[str, bytes], host: str, number: int) -> tuple[Path, str]:
        """Where the site was moved to, and all that can be read there."""
        source, out = self.folder / f"in{number}", self.folder / f"out{number}"
        for name, data in files.items():
            (source / name).parent.mkdir(parents=True, exist_ok=True)
            (source / name).write_bytes(data)
        said = io.StringIO()
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(said):
            status = main.main(
                ["move", str(source), "--to", host, "--out", str(out), "--jobs", "1"]
            )
        self.assertIn(status, (0, 1), said.getvalue())
        unpack_zips(out / "new")
        return out, "\n".join(readable(out))

    # A failing site is not made smaller: each attempt is 36 moves.
    @settings(
        max_examples=3 * ROUNDS,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        phases=(Phase.explicit, Phase.reuse, Phase.generate),
    )
    @given(sites)
    def test_every_reader_with_every_writer(self, site: list[dict]) -> None:  # type: ignore[type-arg]
        for format_, written in WRITERS.items():
            for host in hosts.PROFILES.names():
                marks = Marks()
                files = written(site, marks)
                out, text = self.moved(files, host, next(_NUMBERS))
                lost = {mark: what for mark, what in marks.used.items() if mark not in text}
                self.assertEqual(lost, {}, f"{format_} to {host}: {out}")


_NUMBERS = itertools.count(1)


def readable(out: Path) -> Iterator[str]:
    """The texts of a move: what is imported, ledger and follow-ups; as they stand, and with escapes undone."""
    told = (
        "ledger.csv",
        "follow-ups.csv",
        "follow-up-places.csv",
    )  # not the tables of decisions
    for path in (
        *out.glob("new/**/*"),
        *(out / name for name in told),
        *out.glob("redirects/*.csv"),
    ):
        if path.is_file():
            yield (text := path.read_text("utf-8", "replace"))
            yield unquote(html.unescape(text))
