"""The permalink pattern that a draft proposes."""

from datetime import UTC, datetime

from newburrow.core import tomlfile
from newburrow.decide.address_proposals import AddressProposal, proposals
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
