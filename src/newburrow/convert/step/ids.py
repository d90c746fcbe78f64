"""The ids of an entry and of what belongs to it."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.model import Media
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry, its comments and its files under their new ids."""
    if not context.has_ids:
        return bundle, []
    entry, new = bundle.entry, context.new_id
    own = new("entry", entry.key)
    comments = tuple(
        replace(
            comment,
            key=new("comment", comment.key),
            entry=own,
            parent=new("comment", comment.parent) if comment.parent else "",
        )
        for comment in bundle.comments
    )
    quiz = entry.quiz
    if quiz:
        sections = (
            replace(section, bank=new("entry", section.bank) if section.bank else "")
            for section in quiz.sections
        )
        quiz = replace(quiz, sections=tuple(sections))
    lead, files = bundle.lead_picture, bundle.enclosures
    return replace(
        bundle,
        entry=replace(
            entry,
            key=own,
            parent=new("entry", entry.parent) if entry.parent else "",
            quiz=quiz,
        ),
        questions=tuple(replace(question, entry=own) for question in bundle.questions),
        banks={new("entry", bank): keys for bank, keys in bundle.banks.items()},
        comments=comments,
        lead_picture=of_media(lead, context) if lead else None,
        enclosures=tuple(of_media(file, context) for file in files),
    ), []


def of_media(media: Media, context: Context) -> Media:
    """A file under its new id."""
    if not context.has_ids:
        return media
    if media.entry:
        entry = context.new_id("entry", media.entry)
    else:
        entry = ""
    return replace(media, key=context.new_id("media", media.key), entry=entry)
