"""Exports of three unlike makes, each of thirty settings and more: how many a draft gets right without a hand."""

import json
import tomllib

from tests.helpers import SITE, FolderCase

STATES, COMMENT_STATES = ("live", "sketch", "live", "timed"), ("shown", "waiting", "junk")
USERS = ((1, "Tamsin", "tamsin", "Keeps."), (2, "Idris", "idris", "Bees."))
POSTS = range(1, 31)
REPLIES = range(40)


def above(number: int) -> int:
    """The comment that a comment answers; 0 for none."""
    return 499 + number if number % 7 == 3 else 0


def feed() -> str:
    """RSS with a namespace of its own: people and terms beside the items, comments and pairs within them."""
    out = [
        '<?xml version="1.0"?><rss version="2.0" xmlns:o="https://old.example/ns" xmlns:dc="http://purl.org/dc/elements/1.1/" '
        'xmlns:content="http://purl.org/rss/1.0/modules/content/"><channel><title>Orchard</title>'
        f"<link>{SITE}</link><description/><o:timezone>Europe/Oslo</o:timezone>"
    ]
    for number, name, login, about in USERS:
        out.append(f"<o:person><o:person_id>{number}</o:person_id><o:nick>{login}</o:nick><o:shown_name>{name}</o:shown_name>"
                   f"<o:post_box>{login}@old.example</o:post_box><o:bio>{about}</o:bio></o:person>")  # fmt: skip
    for number in range(5):
        out.append(f"<o:label><o:label_key>tag-{number}</o:label_key><o:label_name>Tag {number}</o:label_name><o:label_up>"
                   f"{'tag-0' if number == 3 else ''}</o:label_up><o:label_text>About {number}</o:label_text></o:label>")  # fmt: skip
    for number in POSTS:
        remarks = "".join(
            f"<o:remark><o:remark_id>{500 + n}</o:remark_id><o:remark_by>Guest {n}</o:remark_by><o:remark_mail>g{n}@x.example</o:remark_mail>"
            f"<o:remark_at>2022-03-04 05:06:07</o:remark_at><o:remark_text>Well {n}</o:remark_text>"
            f"<o:remark_ok>{COMMENT_STATES[n % 3]}</o:remark_ok><o:remark_under>{above(n)}</o:remark_under></o:remark>"
            for n in REPLIES if 1 + n % 30 == number
        )  # fmt: skip
        out.append(
            f"<item><title>Apple {number}</title><link>{SITE}{number}/apple-{number}</link><dc:creator>tamsin</dc:creator>"
            f'<category domain="label" o:key="tag-{number % 5}">Tag {number % 5}</category><content:encoded>&lt;p&gt;Row&lt;/p&gt;</content:encoded>'
            f"<o:entry_no>{number}</o:entry_no><o:entry_kind>{'article' if number % 5 else 'sheet'}</o:entry_kind>"
            f"<o:entry_state>{STATES[number % 4]}</o:entry_state><o:entry_name>apple-{number}</o:entry_name><o:entry_up>0</o:entry_up>"
            f"<o:entry_order>{number}</o:entry_order><o:edited>2022-01-02 03:04:05</o:edited><o:reach>{'public' if number % 2 else 'friends'}</o:reach>"
            f"<o:extra><o:k>soil</o:k><o:v>clay {number}</o:v></o:extra>{remarks}</item>"
        )
    return "".join(out) + "</channel></rss>"


def dump() -> str:
    """Tables of a database in JSON, two levels down: joins with an order column, rows of keys and values."""
    posts = [
        {"id": n, "uid": f"u-{n}", "headline": f"Apple {n}", "path_name": f"apple-{n}", "said": f"<p>Row {n}</p>", "teaser": f"About {n}",
         "lead_image": f"/content/{n}.png", "state": STATES[n % 4], "reach": ("public", "members")[n % 2],
         "sort": ("article", "sheet")[n % 5 == 0], "made_on": f"2021-01-{n:02}T10:00:00Z", "changed_on": f"2022-01-{n:02}T10:00:00Z",
         "out_on": f"2021-02-11T10:{n:02}:00Z", "writer_id": 1 + n % 2, "lang": "en", "rank": n, "url": f"{SITE}{n}/apple-{n}"}
        for n in POSTS
    ]  # fmt: skip
    users = [
        {"id": n, "name": name, "signs": login, "mail": f"{login}@old.example", "about": about}
        for n, name, login, about in USERS
    ]
    tags = [
        {
            "id": 10 + n,
            "name": f"Tag {n}",
            "slug": f"tag-{n}",
            "about": f"d{n}",
            "parent_id": 10 if n == 3 else None,
        }
        for n in range(5)
    ]
    joins = [
        {"id": 100 + n, "article_id": 1 + n % 30, "topic_id": 10 + n % 5, "sort_order": n % 3}
        for n in range(60)
    ]
    comments = [
        {"id": 500 + n, "article_id": 1 + n % 30, "parent_id": above(n) or None, "name": f"Guest {n}", "mail": f"g{n}@x.example",
         "body": f"Well {n}", "state": COMMENT_STATES[n % 3], "made_on": "2022-03-04T05:06:07Z"} for n in REPLIES
    ]  # fmt: skip
    facts = [
        {"article_id": 1 + n % 30, "key": ("soil", "sun")[n % 2], "value": f"v{n}"}
        for n in range(60)
    ]
    tables = {"articles": [*posts, posts[-1]], "people": users, "topics": tags, "articles_topics": joins, "comments": comments, "article_facts": facts,
              "settings": [{"id": 1, "key": "title", "value": "Orchard"}]}  # fmt: skip
    return json.dumps({"store": [{"about": {"version": "3"}, "tables": tables}]})


def tree() -> str:
    """XML with attributes: people, subjects, texts, and responses within the texts."""
    out = [f'<?xml version="1.0"?><backup site="{SITE}"><people>']
    for number, name, login, about in USERS:
        out.append(
            f'<human nr="{number}" account="{login}"><full>{name}</full><contact>{login}@old.example</contact><vita>{about}</vita></human>'
        )
    out.append("</people><subjects>")
    for number in range(5):
        out.append(
            f'<subject nr="{10 + number}" below="{10 if number == 3 else ""}"><word>Tag {number}</word><part>tag-{number}</part></subject>'
        )
    out.append("</subjects><texts>")
    for number in POSTS:
        responses = "".join(
            f'<response nr="{500 + n}" answers="{above(n) or ""}" status="{COMMENT_STATES[n % 3]}"><from>Guest {n}</from><mail>g{n}@x.example</mail>'
            f"<when>2022-03-04T05:06:07Z</when><words>Well {n}</words></response>" for n in REPLIES if 1 + n % 30 == number
        )  # fmt: skip
        out.append(
            f'<text nr="{number}" type="{"article" if number % 5 else "sheet"}" phase="{STATES[number % 4]}" by="{1 + number % 2}">'
            f"<heading>Apple {number}</heading><address>{SITE}{number}/apple-{number}</address><name>apple-{number}</name>"
            f'<lead>About {number}</lead><content format="html">&lt;p&gt;Row&lt;/p&gt;</content><created>2021-01-{number:02}T10:00:00Z</created>'
            f'<modified>2022-01-{number:02}T10:00:00Z</modified><subjects><ref nr="{10 + number % 5}"/></subjects><responses>{responses}</responses></text>'
        )
    return "".join(out) + "</texts></backup>"


VALUES = {
    "values.kind.article": "post", "values.kind.sheet": "page", "values.status.live": "published", "values.status.sketch": "draft",
    "values.status.timed": "scheduled", "values.comment_status.shown": "approved", "values.comment_status.waiting": "pending",
    "values.comment_status.junk": "spam",
}  # fmt: skip
# What a person who knows the platform would write, by setting.
FEED = VALUES | {
    **{f"entry.{fact}": f"old:{tag}" for fact, tag in (("id", "entry_no"), ("kind", "entry_kind"), ("status", "entry_state"),
       ("slug", "entry_name"), ("parent", "entry_up"), ("position", "entry_order"), ("updated", "edited"))},
    "entry.fields.element": "old:extra", "entry.fields.name": "old:k", "entry.fields.value": "old:v", "site.zone": "old:timezone",
    **{f"author.{fact}": f"old:{tag}" for fact, tag in (("element", "person"), ("login", "nick"), ("name", "shown_name"),
       ("email", "post_box"), ("about", "bio"))},
    **{f"term.{fact}": f"old:{tag}" for fact, tag in (("element", "label"), ("slug", "label_key"), ("name", "label_name"),
       ("parent", "label_up"), ("description", "label_text"))},
    "term.entry_slug": "@old:key", "term.default_vocabulary": "label",
    **{f"comment.{fact}": f"old:remark{tag}" for fact, tag in (("element", ""), ("id", "_id"), ("author_name", "_by"), ("email", "_mail"),
       ("published", "_at"), ("body", "_text"), ("status", "_ok"), ("parent", "_under"))},
}  # fmt: skip
DUMP = VALUES | {
    **{f"articles.{fact}": name for fact, name in (("id", "id"), ("kind", "sort"), ("status", "state"), ("title", "headline"), ("slug", "path_name"),
       ("permalink", "url"), ("published", "out_on"), ("updated", "changed_on"), ("author", "writer_id"), ("summary", "teaser"), ("body", "said"),
       ("position", "rank"), ("language", "lang"), ("lead_picture", "lead_image"))},
    **{f"people.{fact}": name for fact, name in (("id", "id"), ("login", "signs"), ("name", "name"), ("email", "mail"), ("about", "about"))},
    **{f"topics.{fact}": name for fact, name in (("id", "id"), ("slug", "slug"), ("name", "name"), ("parent", "parent_id"), ("description", "about"))},
    "articles_topics.entry": "article_id", "articles_topics.term": "topic_id", "article_facts.entry": "article_id", "article_facts.name": "key", "article_facts.value": "value",
    **{f"comments.{fact}": name for fact, name in (("id", "id"), ("entry", "article_id"), ("parent", "parent_id"), ("status", "state"),
       ("author_name", "name"), ("email", "mail"), ("published", "made_on"), ("body", "body"))}, "settings.title": "value",
}  # fmt: skip
TREE = VALUES | {
    **{f"human.{fact}": name for fact, name in (("id", "@nr"), ("login", "@account"), ("name", "full"), ("email", "contact"), ("about", "vita"))},
    **{f"subject.{fact}": name for fact, name in (("id", "@nr"), ("slug", "part"), ("name", "word"), ("parent", "@below"))},
    **{f"text.{fact}": name for fact, name in (("id", "@nr"), ("kind", "@type"), ("status", "@phase"), ("title", "heading"), ("permalink", "address"),
       ("slug", "name"), ("published", "created"), ("updated", "modified"), ("author", "@by"), ("summary", "lead"), ("body", "content"),
       ("markup", "content/@format"), ("terms.subject", "subjects/ref/@nr"))},
    **{f"response.{fact}": name for fact, name in (("id", "@nr"), ("parent", "@answers"), ("status", "@status"), ("author_name", "from"),
       ("email", "mail"), ("published", "when"), ("body", "words"))}, "site.address": "@site",
}  # fmt: skip


def settings(dialect: dict) -> dict[str, str]:  # type: ignore[type-arg]
    """The settings of a dialect, each under the name of its table or of the list that it is about."""
    found = {
        f"values.{name}.{old}": new
        for name, table in dialect.get("values", {}).items()
        for old, new in table.items()
    }
    for table in ("entry", "site", "author", "term", "comment"):
        for name, value in dialect.get(table, {}).items():
            rows = value if isinstance(value, list) else []
            found |= {
                f"{table}.{name}.{key}": text for row in rows for key, text in row.items()
            }
            found |= {f"{table}.{name}": value} if isinstance(value, str) else {}
    waiting = list(dialect.get("records", []))
    for record in waiting:
        of = record["each"].rpartition("/")[2].rpartition(".")[2].removesuffix("[*]")
        found |= {f"{of}.{fact}": selector for fact, selector in record.get("take", {}).items()}
        found |= {
            f"{of}.terms.{name}": selector for name, selector in record.get("terms", {}).items()
        }
        waiting += record.get("inner", [])
    return found


class Strangers(FolderCase):
    def check(
        self, name: str, text: str, wanted: dict[str, str], states: dict[str, int]
    ) -> str:
        self.write(name, text)
        draft = self.run_ok("dialects", "--draft-from", name)
        found = settings(tomllib.loads(draft))
        right = [setting for setting, value in wanted.items() if found.get(setting) == value]
        self.assertGreaterEqual(len(wanted), 30)
        self.assertGreaterEqual(len(right), 0.8 * len(wanted), sorted(set(wanted) - set(right)))
        wrong = {
            setting
            for setting in found
            if setting in wanted and found[setting] != wanted[setting]
        }
        self.assertEqual(wrong, set(), f"{len(right)} of {len(wanted)}")
        self.write("draft.toml", draft)
        report = self.survey(name, "--dialect", "draft.toml")
        published = sum(
            kinds.get("published", 0)
            for kind, kinds in report["states"].items()
            if kind in ("post", "page")
        )
        self.assertEqual(
            published, states["published"]
        )  # nothing more is public than on the old site
        self.assertEqual(report["counts"]["comment"], 40)
        return draft

    def test_a_feed_with_a_namespace_of_its_own(self) -> None:
        draft = self.check("a.xml", feed(), FEED, {"published": 15})
        self.assertRegex(draft, "WARNING: .*\n# old:reach")

    def test_tables_of_a_database_two_levels_down(self) -> None:
        # One row, of a published post, is there twice.
        draft = self.check("b.json", dump(), DUMP, {"published": 16})
        self.assertRegex(draft, "WARNING: .*\n# reach")

    def test_a_tree_of_xml(self) -> None:
        self.check("c.xml", tree(), TREE, {"published": 15})
