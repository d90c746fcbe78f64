"""The codes of what is reported about quizzes and questions: a part of the catalogue in `codes`, like `entry_codes`."""

from __future__ import annotations

QUIZ_CODES: dict[str, tuple[str, ...]] = {
    "question-apart": (
        "error",
        "A question belongs to no quiz or question bank that is in the export.",
        "Its text is in content.sqlite. Export its quiz too, or add the question by hand.",
        "A question was not moved: {reason}.",
    ),
    "question-as-essay": (
        "warning",
        "The new host has no kind for a question, nor one in which nothing of it would be lost.",
        "Make the question again on the new host; the essay shows the original and the right answers to the teacher.",
        "{place} became an essay. Its kind was: {kind}.",
    ),
    "question-in-parts": (
        "note",
        "A question became several, since the new host has no such kind. Their points add up to its own.",
        "Nothing.",
        "{place} became {number} questions. Its kind was: {kind}.",
    ),
    "question-lost": (
        "error",
        "The new host has no kind for a question, not even the essay.",
        "Add the question by hand.",
        "{place} was not moved: the new host has no place for its kind: {kind}.",
    ),
    "rubric-lost": (
        "warning",
        "A question has a text for teachers, for which the new host has no place.",
        "Keep it elsewhere; follow-up-places.csv has it.",
        "{place} has a text for teachers, for which the new host has no place.",
    ),
    "question-doubtful": (
        "warning",
        "A question cannot be right as it stands in the export.",
        "Look at it on the old host, and correct it on the new one.",
        "{message}",
    ),
    "question-changed": (
        "error",
        "A question that was read back from the result is not the one that was moved.",
        "Compare it with the old one, and correct it on the new host.",
        "{place} differs after the move: {what}.",
    ),
    "scoring-kept": (
        "warning",
        "A question is scored by rules that the content model cannot say.",
        "Set its scoring again on the new host. The rules are in content.sqlite, and in the text for teachers.",
        "It is scored by rules of its own, which cannot be moved.",
    ),
    "test-rule-unread": (
        "warning",
        "A quiz has rules that the content model has no place for, such as conditions for a section.",
        "Look at the quiz on the old host, and set them by hand where the new host has anything like them.",
        "It has rules that are not moved: {rules}.",
    ),
    "file-elsewhere": (
        "warning",
        "A file is not where a page or a question expects it; one of the same name lies elsewhere.",
        "Look whether it is the right one.",
        "The file {expected} is not there; {found}, which has the same name, was taken instead.",
    ),
    "interaction-unread": (
        "warning",
        "A question asks in a way that is not read.",
        "Make the question again on the new host.",
        "It asks by {interaction}, which is not read; its text is kept as an essay.",
    ),
    "item-rule-unread": (
        "warning",
        "A question has rules that the content model has no place for, such as numbers that differ for each student.",
        "Look at the question on the old host, and set it up by hand where the new host has anything like it.",
        "It has rules that are not moved: {rules}.",
    ),
    "answers-hidden": (
        "note",
        "A quiz became a page, which shows its questions without answers, feedback and texts for teachers.",
        'Set answers = "at-end" under [quizzes] in move.toml if readers may see them. They are in content.sqlite.',
        "The page does not show the answers, the feedback and the texts for teachers that its questions have.",
    ),
    "draw-written-out": (
        "warning",
        "A quiz drew questions at random, and now holds all of them.",
        "Set the draw again on the new host, if it has one.",
        "It drew {draw} of {total} questions at random; now it asks all {total}.",
    ),
    "no-bank": (
        "warning",
        "A quiz draws from a question bank that is not in the export.",
        "Export the bank too, and hand in both.",
        "It draws from the question bank {bank}, which is not in the export.",
    ),
    "quiz-setting": (
        "warning",
        "The new host does not have a setting of a quiz.",
        "Set it by hand, if the new host has anything like it.",
        "The new host has no place for this setting: {setting}.",
    ),
    "link-text": (
        "warning",
        "An entry that is a link has text, but a link on the new host has only a title and an address.",
        "Put the text where readers should see it; follow-up-places.csv has it.",
        "A link on the new host has no place for text.",
    ),
    "tool-link": (
        "warning",
        "An entry opens a tool of another server, which has to know the new host.",
        "Register the tool with the new host; the old key and secret are not in the export.",
        "It opens the tool at {address}, which the new host has to know.",
    ),
}
