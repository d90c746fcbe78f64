"""The content model: what a site is made of, whatever its host.

Plain immutable records. This package opens nothing and knows no format and no host. Dates are aware
datetimes, addresses are absolute URLs, a body carries its markup. Besides the records there are
`record_types` (what is true of each type), `keys`, `reading` (what readers give) and `bundle`.
"""

from newburrow.model.author import Author
from newburrow.model.comment import COMMENT_KINDS, COMMENT_STATES, Comment
from newburrow.model.course import (
    QUESTION_KINDS,
    Answer,
    Choice,
    Feedback,
    Question,
)
from newburrow.model.entry import COPY_OF, ENTRY_KINDS, ENTRY_STATES, OUTSIDE_SITEMAP, Entry
from newburrow.model.media import Media
from newburrow.model.menu import MenuItem
from newburrow.model.quiz import QUIZ_KINDS, Quiz, QuizSection
from newburrow.model.record import Body, Extra, Record, Where
from newburrow.model.revision import Revision
from newburrow.model.site import Site
from newburrow.model.term import Term

__all__ = [
    "COMMENT_KINDS",
    "COMMENT_STATES",
    "COPY_OF",
    "ENTRY_KINDS",
    "ENTRY_STATES",
    "OUTSIDE_SITEMAP",
    "QUESTION_KINDS",
    "QUIZ_KINDS",
    "Answer",
    "Author",
    "Body",
    "Choice",
    "Comment",
    "Entry",
    "Extra",
    "Feedback",
    "Media",
    "MenuItem",
    "Question",
    "Quiz",
    "QuizSection",
    "Record",
    "Revision",
    "Site",
    "Term",
    "Where",
]
