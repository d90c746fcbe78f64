"""The names of the files of a finished move."""

from __future__ import annotations

from newburrow.decide.marks import CUT_OVER, FOLLOW_UPS
from newburrow.store.journal.follow_ups import PLACES
from newburrow.verify.difference import DIFFERENCES, FIDELITY
from newburrow.write.output import IDS

ADDRESSES, CHANGED, REPORT = "redirects/addresses.csv", "redirects/changed.csv", "report.html"
NOT_PUBLIC = "redirects/not-public.csv"
WALK = "walk.csv"
# What a move writes anew; what is left there of an earlier one goes.
WRITTEN_ANEW = (
    "new/",
    "redirects/",
    "ledger.csv",
    FOLLOW_UPS,
    PLACES,
    REPORT,
    IDS,
    WALK,
    CUT_OVER,
    FIDELITY,  # of an earlier result, as `verify` found it
    DIFFERENCES,
)
