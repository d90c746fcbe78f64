"""What is written for hosts that run nothing: pages that forward, JSON, and the sitemap of the new site."""

import io
import json
import re

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from newburrow.core import url
from newburrow.decide.decisions import Redirects
from newburrow.redirects import sitemap
from newburrow.redirects.rules.redirect_rule import subject_on
from newburrow.redirects.servers import json_file, pages, path_list
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE, FolderCase
from tests.redirects.server import map_of
from tests.redirects.servers.test_nginx import NASTY

REF = re.compile(r'href="([^"]*)"|url=([^"]*)"')


class Kept(io.BytesIO):
    def close(self) -> None:
        self.kept = self.getvalue()
        super().close()


def written(server: object, *rows: OldAddress) -> tuple[dict[str, str], int]:
    files: dict[str, Kept] = {}
    done = server.write(
        map_of(rows),
        lambda name: files.setdefault(name, Kept()),
    )
    return {name: file.kept.decode() for name, file in files.items()}, done.skipped


def row(old: str, new: str = "https://new.example/a") -> OldAddress:
    return OldAddress.of(SITE + old, new, REDIRECTED, "")


class Forwarding(FolderCase):
    def test_a_page_stands_where_each_address_leads(self) -> None:
        files, skipped = written(
            pages.SERVER, row("a/"), row("b"), row("c.html"), row("é/x"), row(""), OldAddress.of(SITE + "gone", "", GONE, ""),
            OldAddress.of(SITE + "stay", SITE + "stay", UNCHANGED, ""), row("?entry=3"), row("%2e%2e/x%00"), row("y" * 300), row("q%0Ar"),
        )  # fmt: skip
        self.assertEqual(sorted(files), ["not-written.txt", "site/a/index.html", "site/b/index.html", "site/c.html", "site/index.html",
                                         "site/é/x/index.html"])  # fmt: skip
        self.assertEqual((skipped, files["not-written.txt"].count("\n")), (4, 4))

    @given(st.lists(st.sampled_from(NASTY), min_size=1, max_size=4).map("".join))
    def test_nothing_breaks_out_of_a_page(self, words: str) -> None:
        new = "https://new.example/" + words
        files, _skipped = written(pages.SERVER, row("a/", new))
        page = files["site/a/index.html"]
        root = etree.HTML(page)
        self.assertEqual(
            [one.tag for one in root.iter()],
            ["html", "head", "meta", "title", "link", "meta", "body", "p", "a"],
        )
        found = {
            url.key(one)
            for one in (root.find(".//a").get("href"), root.find(".//link").get("href"))
        }
        self.assertEqual(found, {url.key(url.safe(new))})
        self.assertEqual(root.findall(".//meta")[1].get("content"), f"0; url={url.safe(new)}")


class AsJson(FolderCase):
    def test_all_answers_and_rules(self) -> None:
        rows = [row(f"blog/p-{n}", f"https://new.example/p-{n}/") for n in range(9)] + [
            OldAddress.of(SITE + 'x"{}', "", GONE, 'why "')
        ]
        files, _skipped = written(json_file.SERVER, *rows)
        told = json.loads(files["redirects.json"])
        self.assertEqual([(one["from"], one["to"], one["status"], one["why"]) for one in told["addresses"]],
                         [(one.old, one.new, one.status, one.why) for one in rows])  # fmt: skip
        self.assertEqual(
            ([one["to"] for one in told["rules"]], len(told["before_the_rules"])),
            (["https://new.example/$1/"], 1),
        )
        for one in rows[:9]:
            path = subject_on("mistlebank.example", one.key)
            self.assertTrue(re.fullmatch(told["rules"][0]["path"], path))
        self.assertEqual(
            json.loads(written(json_file.SERVER)[0]["redirects.json"])["addresses"], []
        )


class Sitemap(FolderCase):
    def test_in_parts_with_an_index(self) -> None:
        for count, parts in ((0, 1), (3, 1), (4, 2), (7, 3)):
            files: dict[str, Kept] = {}
            new = [f"{SITE}{n}/é&<" for n in range(count)]
            sitemap.write(
                lambda name, files=files: files.setdefault(name, Kept()),
                new,
                SITE,
                most=3,
            )
            roots = {name: etree.fromstring(file.kept) for name, file in files.items()}
            located = [
                one.text
                for name, root in roots.items()
                if name != "sitemap.xml" or parts == 1
                for one in root.iter("{*}loc")
            ]
            self.assertEqual(located, [url.safe(one) for one in new])
            self.assertEqual(len(files), 1 if parts == 1 else parts + 1)
            if parts > 1:
                named = [one.text for one in roots["sitemap.xml"].iter("{*}loc")]
                self.assertEqual(named, [f"{SITE}sitemap-{n}.xml" for n in range(1, parts + 1)])


class Lists(FolderCase):
    def test_plain_lists_of_paths(self) -> None:
        files, skipped = written(
            path_list.SERVER, row("a b,c/", "https://new.example/d e?f=1#g"), row("?entry=3"), row("x", "https://other.example/y"),
            OldAddress.of(SITE + "gone", "", GONE, ""), OldAddress.of(SITE + "stay", SITE + "stay", UNCHANGED, ""),
        )  # fmt: skip
        self.assertEqual(
            files["paths.txt"].splitlines(),
            ["/a%20b%2Cc/ /d%20e?f=1#g", "/?entry=3 /a", "/x https://other.example/y"],
        )
        self.assertEqual(files["paths.csv"].splitlines()[:2], ["old,new", "/a%20b%2Cc/,/d%20e?f=1#g"])  # fmt: skip
        self.assertEqual(files["paths.tsv"].splitlines()[2], "/?entry=3\t/a")
        self.assertEqual((skipped, files["not-written.txt"]), (1, f"{SITE}gone\n"))

    def test_a_limit_on_lines(self) -> None:
        """What no rule may answer comes first, then what is visited most; without room for that there is no rule."""
        rows = [
            OldAddress.of(f"{SITE}x{n}.html", f"https://new.example/{n * 7}q", REDIRECTED, "")
            for n in range(30)
        ]
        rows += [
            OldAddress.of(f"{SITE}blog/p{n}", f"https://new.example/b/p{n}", REDIRECTED, "")
            for n in range(40)
        ]
        rows.append(
            OldAddress.of(f"{SITE}blog/odd", "https://new.example/elsewhere", REDIRECTED, "")
        )
        for most, rules, left in ((None, 1, 0), (12, 1, 21), (3, 1, 30)):
            redirects = map_of(rows, Redirects(most=most))
            self.assertEqual(len(redirects.rules), rules)
            lines = [one.old for one in redirects.spelled_out()]
            self.assertLessEqual(len(lines) + rules, most or 99)
            self.assertIn(f"{SITE}blog/odd", lines)
            self.assertEqual(len(list(redirects.left_out())), left)
            if left == 21:
                self.assertIn(f"{SITE}x8.html", lines)
        self.assertEqual(map_of(rows, Redirects(most=1)).rules, ())
