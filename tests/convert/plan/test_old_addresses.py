"""What readers of an old address find: pages of the new site keep theirs, and what was not chosen stays."""

import shutil

from tests.helpers import SITE, FolderCase, item, rows, rss

OWN = 'xmlns:rp="https://reedpost.example/ns/archive/2"'


class OnOneDomain(FolderCase):
    """A move from Reedpost to a host on the same domain."""

    def draft(self, *items: str, host: str = "lanternlog", more: tuple[str, ...] = ()) -> None:
        self.write("feed.xml", rss(*items, head=f"<link>{SITE}</link>", attributes=OWN))
        self.run_ok("draft", "feed.xml", "--to", host, "--out", "m", *more)

    def decide(self, *changes: tuple[str, str]) -> None:
        path = self.folder / "m/move.toml"
        text = path.read_text()
        for old, new in changes:
            self.assertIn(old, text)
            text = text.replace(old, new, 1)
        path.write_text(text)

    def moved(self) -> dict[str, tuple[str, str]]:
        """Old address from the site on -> status and new address."""
        self.run_ok("move", "m")
        return {
            row["old"].removeprefix(SITE.rstrip("/")): (
                row["status"],
                row["new"].removeprefix(SITE),
            )
            for row in rows(self.folder / "m/redirects/addresses.csv")
        }

    def test_a_page_that_the_new_host_holds_is_never_gone(self) -> None:
        self.write("holds.txt", f"{SITE}about/\n{SITE}2023-05-06/other\n")
        self.draft(
            item("About", f"{SITE}about/", "", "<rp:kind>page</rp:kind><rp:state>draft</rp:state>"),
            item("A", f"{SITE}2023-05-06/a", ""),
            item("Gone", f"{SITE}about/", "", "<rp:kind>page</rp:kind>"),
            more=("--holds", "holds.txt"),
        )  # fmt: skip
        self.decide(('states = ["published"', '# states = ["published"'))
        found = self.moved()
        self.assertEqual(found["/about/"][0], "200")
        self.assertEqual(found["/2023-05-06/other"][0], "200")  # no rule may answer it

    def test_what_was_only_not_chosen_stays(self) -> None:
        posts = [item(f"P{n}", f"{SITE}2023-05-0{n}/p{n}", "x", f"<category>{'cider' if n < 3 else 'bees'}</category><pubDate>0{n} May 2023 08:00:00 +0000</pubDate>") for n in range(1, 7)]  # fmt: skip
        self.draft(*posts)
        self.decide(("[choose.only]", '[choose.only]\nterms = ["cider"]'))
        found = self.moved()
        self.assertEqual(found["/2023-05-01/p1"], ("301", "leaves/2023/p1"))
        self.assertEqual(found["/2023-05-05/p5"], ("200", "2023-05-05/p5"))
        self.assertEqual(found["/"][0], "200")
        self.decide(('not_chosen = "stays"', 'not_chosen = "gone"'))
        found = self.moved()
        self.assertEqual(found["/2023-05-05/p5"], ("410", ""))
        self.decide(('not_chosen = "gone"', 'not_chosen = "https://bees.example/"'))
        found = self.moved()
        self.assertEqual(found["/2023-05-05/p5"], ("301", "https://bees.example/2023-05-05/p5"))

    def test_a_wrong_word_for_what_was_not_chosen(self) -> None:
        self.draft(item("A", f"{SITE}a", "x"))
        self.decide(('not_chosen = "stays"', 'not_chosen = "stay"'))
        message = self.refused("move", "m")
        self.assertIn("'stay' is not one of 'gone' and 'stays'", message)
        self.assertIn("move.toml, line ", message)

    def test_drafts_have_no_public_redirect(self) -> None:
        self.draft(
            item("A", f"{SITE}2023-05-06/a", f'<a href="{SITE}2023-05-06/b">b</a>', "<pubDate>06 May 2023 08:00:00 +0000</pubDate>"),
            item("B", f"{SITE}2023-05-06/b", "x", "<rp:state>draft</rp:state><pubDate>06 May 2023 08:00:00 +0000</pubDate>"),
        )  # fmt: skip
        found = self.moved()
        self.assertIn("/2023-05-06/a", found)
        self.assertNotIn("/2023-05-06/b", found)
        self.assertIn(
            "leaves/2023/b", (self.folder / "m/new/lanternlog-import.atom").read_text()
        )

    def test_who_stood_at_an_address_keeps_it(self) -> None:
        page = "<rp:kind>page</rp:kind><pubDate>{} May 20{} 08:00:00 +0000</pubDate>"
        self.draft(
            item("Older", f"{SITE}old/visit", "x", page.format("01", "10")),
            item("Here", f"{SITE}visit", f'<a href="{SITE}visit">here</a>', page.format("01", "20")),
            host="reedpost",
        )  # fmt: skip
        self.decide(('post = "/', 'post = "/{slug}"  # "'))
        found = self.moved()
        self.assertEqual(found["/visit"], ("200", "visit"))
        self.assertEqual(found["/old/visit"], ("301", "visit-2"))

    def test_nobody_takes_over_the_address_of_another(self) -> None:
        self.draft(
            item("One", f"{SITE}2023-05-06/swap", "x", "<rp:kind>page</rp:kind>"),
            item("Swap", f"{SITE}swap", "y", "<pubDate>06 May 2023 08:00:00 +0000</pubDate>"),
            host="reedpost",
        )  # fmt: skip
        self.decide(('post = "/', 'post = "/{year}-{month}-{day}/{slug}"  # "'))
        self.decide(('page = "/', 'page = "/{slug}"  # "'))
        found = self.moved()
        self.assertEqual(found["/swap"], ("301", "2023-05-06/swap-2"))
        self.assertEqual(found["/2023-05-06/swap"], ("301", "swap-2"))

    def test_lists_of_the_new_host_are_its_own(self) -> None:
        posts = [item(f"P{n}", f"{SITE}2023-05-0{n}/p{n}", "x", f"<category domain='tag'>t{n}</category><pubDate>0{n} May 2023 08:00:00 +0000</pubDate>") for n in range(1, 9)]  # fmt: skip
        self.draft(*posts)
        self.write("known.csv", "old,new\n/topics/t1/leaf-2,/marks/t1/\n/leaves/2023/,/2023-05-01/p1\n/leaves.atom,/news.rss\n")  # fmt: skip
        self.decide(("known = []", 'known = ["../known.csv"]'))
        found = self.moved()
        for old in ("/topics/t1/leaf-2", "/leaves/2023/", "/leaves.atom"):
            self.assertIn(found.get(old, ("200",))[0], ("200",), old)

    def test_no_answer_leads_to_an_answer(self) -> None:
        posts = [item(f"P{n}", f"{SITE}2023-05-0{n}/p{n}", "x", f"<pubDate>0{n} May 2023 08:00:00 +0000</pubDate>") for n in range(1, 9)]  # fmt: skip
        self.draft(*posts)
        self.write("known.csv", "old,new\n" + "".join(f"/k{n},/k{n + 1}\n" for n in range(1, 6)) + "/k6,/2023-05-01/p1\n/x,/y\n/y,/x\n")  # fmt: skip
        self.decide(("known = []", 'known = ["../known.csv"]'))
        found = self.moved()
        redirected = {old: new for old, (status, new) in found.items() if status == "301"}
        self.assertEqual(redirected["/k1"], "leaves/2023/p1")
        for old, new in redirected.items():
            self.assertNotEqual(found.get(f"/{new}", ("200",))[0], "301", old)

    def test_categories_and_authors_in_addresses(self) -> None:
        def post(n: int) -> str:
            part = "cider" if n % 2 else "bees"
            more = f"<category domain='topic' rp:slug='{part}'>{part.title()}</category><author>ada</author><pubDate>0{n} May 2023 08:00:00 +0000</pubDate>"  # fmt: skip
            return item(f"P{n}", f"{SITE}{part}/p{n}/", "x", more)

        self.draft(*map(post, range(1, 9)), host="plainleaf")
        self.assertIn("/{category}/{slug}/ ", self.run_ok("survey", "feed.xml"))
        self.assertIn('post = "/{category}/{slug}/"', (self.folder / "m/move.toml").read_text())
        found = self.moved()
        self.assertEqual(found["/cider/p1/"], ("200", "cider/p1/"))
        self.decide(('post = "/{category}/{slug}/"', 'post = "/{author}/{category}/{slug}/"'))
        self.assertEqual(self.moved()["/bees/p2/"], ("301", "ada/bees/p2/"))

    def test_a_tree_of_folders_and_what_collides(self) -> None:
        page = '<html><head><title>{0}</title><link rel="canonical" href="https://mistlebank.example/w/{0}/index.html"></head><body><main><h1>{0}</h1><p>x</p></main></body></html>'  # fmt: skip
        for name in ("Looms", "Looms/Frame", "Looms/Frame/Parts", "Wool", "Wool/Dyes"):
            (self.folder / "site/w" / name).mkdir(parents=True)
            self.write(f"site/w/{name}/index.html", page.format(name))
        self.run_ok("draft", "site", "--to", "plainleaf", "--out", "tree")
        text = (self.folder / "tree/move.toml").read_text()
        self.assertIn('page = "/w/{+path}/index.html"', text)
        posts = [item(f"P{n}", f"{SITE}{'' if n < 5 else 'x/'}same-{n % 2}", "x", f"<rp:slug>same-{n % 2}</rp:slug><pubDate>0{n} May 2023 08:00:00 +0000</pubDate>") for n in range(1, 9)]  # fmt: skip
        self.draft(*posts, host="reedpost")
        self.assertIn(
            'post = "/{year}-{month}-{day}/{slug}"', (self.folder / "m/move.toml").read_text()
        )

    def test_a_folder_whose_file_is_what_a_page_states(self) -> None:
        """Visitors and links name the folder; its address is known, and nothing has two meanings."""
        links = (
            "/w/Looms/",
            f"{SITE}w/Wool",
            f"{SITE}w/Looms",
            f"{SITE}w/Wool/index.html",
            "/",
        )
        text = "".join(f'<p><a href="{link}">{link}</a></p>' for link in links)
        page = '<html><head><title>{0}</title><link rel="canonical" href="{1}index.html"></head><body><main><h1>{0}</h1>{2}</main></body></html>'  # fmt: skip
        for name, address in (("", SITE), ("w/Looms", f"{SITE}w/Looms/"), ("w/Wool", f"{SITE}w/Wool/")):  # fmt: skip
            self.write(
                f"site/{name}/index.html", page.format(name[2:] or "Home", address, text)
            )
        found = {finding["code"] for finding in self.survey("site")["findings"]}
        self.assertNotIn("dead-link", found)
        self.run_ok("draft", "site", "--to", "reedpost", "--out", "m")
        answers = self.moved()
        for name in ("Looms", "Wool"):
            self.assertEqual(answers[f"/w/{name}/"], answers[f"/w/{name}/index.html"])
            self.assertEqual(answers[f"/w/{name}/"][1], name)
        self.decide(('page = "/{slug}"', 'page = "/w/{slug}/"'))  # where the folders are
        self.assertEqual(self.moved()["/w/Wool/"], ("200", "w/Wool/"))
        kinds = {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        self.assertFalse(kinds & {"dead-link", "address-conflict"})

    def test_a_site_in_a_folder_of_its_host(self) -> None:
        """What stands at the root belongs to others, unless pages of the site lie there too."""
        head = f"<link>{SITE}notes/</link>"
        for outside, expected in ((f"{SITE}notes/c/", False), (f"{SITE}2024/c/", True)):
            items = [item("A", f"{SITE}notes/a/"), item("C", outside)]
            self.write("feed.xml", rss(*items).replace(f"<link>{SITE}</link>", head))
            self.run_ok("move", "feed.xml", "--to", "reedpost", "--out", "m")
            old = {row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")}
            self.assertIn(f"{SITE}notes/", old)
            self.assertEqual(SITE in old, expected)
            shutil.rmtree(self.folder / "m")

    def test_a_missing_list_of_what_the_host_holds_is_refused_at_once(self) -> None:
        self.write("feed.xml", rss(item("A", f"{SITE}a/"), head=f"<link>{SITE}</link>"))
        words = ("draft", "feed.xml", "--to", "lanternlog", "--out", "m", "--holds", "none.txt")
        self.assertIn("none.txt", self.refused(*words))
