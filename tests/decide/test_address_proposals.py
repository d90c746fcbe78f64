"""The permalink pattern that a draft proposes."""

from datetime import UTC, datetime

from newburrow.core import tomlfile
from newburrow.decide.address_proposals import AddressProposal, proposals, ranked
from newburrow.hosts.profile import Profile
from newburrow.model import Entry, Site
from newburrow.store.fill import fill
from tests.helpers import SITE, FolderCase

HOST = 'name = "h"\nformat = "atom"\n[kinds.post]\naddress = "/{slug}/"\nalso = [ALSO]\n'


class Proposals(FolderCase):
    def proposed(self, also: str) -> list[AddressProposal]:
        entries = [
            Entry(key=str(n), slug=f"p{n}", title="P", published=datetime(2023, 5, 4, 23, 30, tzinfo=UTC),
                  permalink=f"{SITE}2023/05/05/p{n}/" if n else f"{SITE}p{n}/")
            for n in range(4)
        ]  # fmt: skip
        # there it is the 5th already
        site = Site(key="site", address=SITE, zone="Europe/London")
        with fill(self.folder / "c.sqlite", iter([(site, *entries)]), dict) as store:
            host = tomlfile.load(HOST.replace("ALSO", also), "h.toml", Profile)
            return list(proposals(store, host))

    def test_the_one_that_keeps_most(self) -> None:
        best, usual = "/{year}/{month}/{day}/{slug}/", "/{slug}/"
        self.assertEqual(
            self.proposed(f'"{best}"'), [AddressProposal("post", best, 3, 4, usual, 1)]
        )
        self.assertEqual(self.proposed('"/{id}/"'), [AddressProposal("post", usual, 1, 4)])
        # there is nothing to choose
        self.assertEqual(self.proposed(""), [AddressProposal("post", usual, 0, 0)])

    def test_of_several_that_keep_as_many_the_decided_one(self) -> None:
        entries = [
            Entry(
                key=str(n),
                slug=f"p{n // 4}",
                permalink=f"{SITE}{n}",
                published=datetime(2023, 5, n, tzinfo=UTC),
            )
            for n in range(1, 5)
        ]
        toml = HOST.replace("/{slug}/", "/{day}/{slug}/")
        toml = toml.replace("ALSO", '"/{slug}/", "/no-{id}/", "/{id}"')
        host = tomlfile.load(toml, "h.toml", Profile)
        site = Site(key="site", address=SITE)
        with fill(self.folder / "d.sqlite", iter([(site, *entries)]), dict) as store:
            number, ranks = ranked(store, host, {})["post"]
            self.assertEqual(number, 4)
            # the last one makes entries want the same address
            self.assertEqual(
                [(rank.pattern, rank.keeps, rank.collisions) for rank in ranks],
                [
                    ("/{id}", 4, 0),
                    ("/{day}/{slug}/", 0, 0),
                    ("/no-{id}/", 0, 0),
                    ("/{slug}/", 0, 2),
                ],
            )
            decided = ranked(store, host, {"post": "/no-{id}/"})["post"][1]
            self.assertEqual([rank.pattern for rank in decided][:2], ["/{id}", "/no-{id}/"])
