"""The grafting course of the demo, built from `course.toml`, and written as the exports of two course hosts."""

from __future__ import annotations

import html
import io
import re
import tomllib
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

from msgspec import Struct
from msgspec.structs import replace

from newburrow.convert.quiz import fitting
from newburrow.core import plugins
from newburrow.demo import pictures
from newburrow.demo.export import add
from newburrow.formats.base import Job
from newburrow.hosts import loader as hosts
from newburrow.markup.base import section_id
from newburrow.model import (
    Answer,
    Body,
    Choice,
    Entry,
    Feedback,
    Media,
    Question,
    Quiz,
    QuizSection,
    Site,
)
from newburrow.model.bundle import Bundle

_NAMED = re.compile(r"\{(page|pic):([^}]*)\}")


class GraftingCourse(Struct, frozen=True):
    """The whole course."""

    exports: list[str]  # the hosts whose exports are written
    host: str  # that the demo moves it to
    site: Site
    bundles: list[Bundle]
    files: list[tuple[Media, bytes]]


def build() -> GraftingCourse:
    """The course of the demo."""
    data = tomllib.loads(Path(__file__).with_name("course.toml").read_text("utf-8"))
    builder = _Builder(data)
    return GraftingCourse(
        data["exports"], data["host"], builder.site, list(builder.bundles()), builder.files()
    )


class _Builder:
    """Makes records from the data."""

    def __init__(self, data: dict[str, Any]) -> None:
        self.data = data
        self.site = Site(key="site", **data["site"])

    def files(self) -> list[tuple[Media, bytes]]:
        """The pictures, and a sheet; the other files that texts name are missing on purpose."""
        made = []
        for name, (motif, seed) in self.data["pictures"].items():
            path = f"files/{name}.png"
            made.append(
                (Media(key=name, path=path, media_type="image/png"), pictures.draw(motif, seed))
            )
        sheet = Media(key="angles", path="files/angles.pdf", media_type="application/pdf")
        return [*made, (sheet, b"%PDF-1.4\n% a sheet of angles\n")]

    def bundles(self) -> Iterator[Bundle]:
        """The entries in the order of the course, each with its questions."""
        for number, module in enumerate(self.data["modules"], 1):
            key = f"module {number}"
            yield self._bundle(
                Entry(key=key, kind="module", title=module["title"], position=number)
            )
            parts = list(self._parts(module))
            for position, (entry, asked) in enumerate(parts, 1):
                yield self._bundle(replace(entry, parent=key, position=position), asked)
        for bank in self.data["banks"]:
            entry = Entry(
                key=f"bank {bank['title']}", kind="question-bank", title=bank["title"]
            )
            yield self._bundle(entry, self._questions(bank, entry.key))

    def _bundle(self, entry: Entry, asked: tuple[Question, ...] = ()) -> Bundle:
        folder = "lessons" if entry.kind == "lesson" else f"{entry.kind}s"
        address = f"{self.site.address}{folder}/{section_id(entry.title)}"
        if entry.quiz:
            drawn = [section.bank for section in entry.quiz.sections if section.bank]
        else:
            drawn = []
        banks = {
            key: {
                question.key: question.points or 1.0
                for question in self._questions({"title": key.removeprefix("bank ")}, key)
            }
            for key in drawn
        }
        return Bundle(entry, questions=asked, banks=banks, new_address=address)

    def _parts(self, module: dict[str, Any]) -> Iterator[tuple[Entry, tuple[Question, ...]]]:
        """What stands in a module."""
        for title, text in module["lessons"]:
            yield (
                Entry(key=f"lesson {title}", kind="lesson", title=title, body=self._body(text)),
                (),
            )
        for title, address in module["links"]:
            link = (
                f'<p><a href="{html.escape(address)}">{html.escape(title, quote=False)}</a></p>'
            )
            yield Entry(key=f"link {title}", kind="link", title=title, body=Body(link)), ()
        for title, text in module["discussions"]:
            yield (
                Entry(key=f"topic {title}", kind="discussion", title=title, body=Body(text)),
                (),
            )
        task = self.data["assignment"]
        if task["module"] == module["title"]:
            fields = {name: task[name] for name in ("points", "hand_in", "for_teachers")}
            entry = Entry(
                key="task",
                kind="assignment",
                title=task["title"],
                body=Body(task["text"]),
                fields=fields,
            )
            yield entry, ()
        for quiz in self.data["quizzes"]:
            if quiz["module"] == module["title"]:
                entry = self._quiz(quiz)
                yield entry, self._questions(quiz, entry.key)

    def _quiz(self, quiz: dict[str, Any]) -> Entry:
        sections = [QuizSection("main", shuffle=quiz.get("shuffle", False))]
        if quiz.get("bank"):
            sections.append(
                QuizSection("drawn", bank=f"bank {quiz['bank']}", draw=quiz["draws"])
            )
        facts = Quiz(
            kind=quiz.get("kind", "quiz"),
            sections=tuple(sections),
            minutes=quiz.get("minutes"),
            attempts=quiz.get("attempts", 1),
            shows_answers=quiz.get("shows_answers", False),
            gives_feedback=quiz.get("gives_feedback", True),
        )
        body = self._body(quiz.get("intro", ""))
        return Entry(
            key=f"quiz {quiz['title']}", kind="quiz", title=quiz["title"], body=body, quiz=facts
        )

    def _questions(self, holder: dict[str, Any], entry: str) -> tuple[Question, ...]:
        """The questions of a quiz or a bank: those written out, then those of its groups."""
        rows = [*holder.get("questions", ())]
        for group in self.data["groups"].values():
            if holder["title"] in (group.get("quiz"), group.get("bank")):
                rows += _rows(group)
        return tuple(
            self._question(holder, row, number, entry) for number, row in enumerate(rows, 1)
        )

    def _question(
        self, holder: dict[str, Any], row: dict[str, Any], number: int, entry: str
    ) -> Question:
        choices, answers = _choices_and_answers(row)
        told = [("right", row.get("told_right")), ("wrong", row.get("told_wrong"))]
        feedback = [Feedback(self._body(text), on) for on, text in told if text]
        if row.get("hint"):
            feedback.append(Feedback(self._body(row["hint"]), is_hint=True))
        is_survey = holder.get("kind") == "survey"
        unscored = (
            is_survey
            or row["kind"] == "text-only"
            or not (answers or row["kind"] in ("essay", "upload", "composite"))
        )
        return Question(
            key=f"{entry}/{number}",
            kind=row["kind"],
            entry=entry,
            section="main" if entry.startswith("quiz") else "",
            position=number,
            prompt=self._body(row["ask"]),
            choices=tuple(
                replace(choice, body=self._body(choice.body.text)) for choice in choices
            ),
            answers=answers,
            feedback=tuple(feedback),
            points=None if unscored else float(row.get("points", 1)),
            shuffle=row.get("shuffle", False),
            is_partial=row.get(
                "is_partial", len(answers) > 1 and any(a.share < 1 for a in answers)
            ),
            rubric=self._body(row.get("for_teachers", "")),
            parts=tuple(map(self._part, row.get("parts", ()))),
        )

    def _part(self, row: dict[str, Any]) -> Question:
        choices, answers = _choices_and_answers(row)
        return Question(
            key=row["name"],
            kind=row["kind"],
            prompt=self._body(row.get("ask", "")),
            choices=tuple(choices),
            answers=answers,
            points=float(row.get("points", 1)),
        )

    def _body(self, text: str) -> Body:
        def named(found: re.Match[str]) -> str:
            if found[1] == "pic":
                return f'<img src="{self.site.address}files/{found[2]}.png" alt="{found[2]}">'
            return f'<a href="{self.site.address}lessons/{section_id(found[2])}">{found[2]}</a>'

        text = re.sub(r'"files/', f'"{self.site.address}files/', text)
        return Body(_NAMED.sub(named, text))


def _rows(group: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """The questions of a group."""
    rows = group["rows"]
    for number, (name, right) in enumerate(rows):
        wrong = [rows[(number + step) % len(rows)][1] for step in (2, 5)]
        ask = group["ask"].replace("{name}", html.escape(name, quote=False))
        yield {"kind": "choice", "ask": ask, "right": [right], "wrong": wrong, "shuffle": True}


def _choices_and_answers(row: dict[str, Any]) -> tuple[list[Choice], tuple[Answer, ...]]:
    """The choices of a question in an order that does not tell the answer, and the right answers."""
    kind, right = row["kind"], row.get("right", [])
    if kind == "composite":  # its parts have them
        return [], ()
    if kind in ("match", "associate"):
        return _pairs(row)
    if kind == "gap-match":
        drops = row["drops"]
        sources = [
            Choice(f"d{number}", Body(text), "source")
            for number, text in enumerate(drops.values())
        ]
        targets = [Choice(gap, Body(), "target") for gap in drops]
        share = 1 / len(drops)
        return [*sources, *targets], tuple(
            Answer(f"d{number}", gap, share=share) for number, gap in enumerate(drops)
        )
    if kind == "inline-choice":
        lists = row["lists"]
        choices = [
            Choice(f"{gap}{n}", Body(word), gap)
            for gap, words in lists.items()
            for n, word in enumerate(words)
        ]
        return choices, tuple(Answer(f"{gap}0", gap=gap, share=1 / len(lists)) for gap in lists)
    if "gaps" in row:
        gaps = row["gaps"]
        return [], tuple(
            Answer(word, gap=gap, share=1 / len(gaps))
            for gap, words in gaps.items()
            for word in words
        )
    if kind == "numerical":
        low, high = row.get("between") or (float(right[0]), float(right[0]))
        return [], (Answer(f"{(low + high) / 2:g}", lower=float(low), upper=float(high)),)
    if kind in ("text-entry", "pattern-match"):
        case, part = row.get("case_sensitive", False), kind == "pattern-match"
        return [], tuple(Answer(word, case_sensitive=case, is_pattern=part) for word in right)
    return _listed(row)


def _listed(row: dict[str, Any]) -> tuple[list[Choice], tuple[Answer, ...]]:
    right = row.get("right", [])
    texts = [*right, *row.get("wrong", [])]
    if row["kind"] in ("choice", "multiple-choice"):
        texts.sort(key=lambda text: text[::-1])
    if row["kind"] == "hot-text":
        texts.reverse()
    names = {text: f"c{number}" for number, text in enumerate(texts, 1)}
    choices = [Choice(name, Body(text)) for text, name in names.items()]
    share = 1 / len(right) if row.get("is_partial") else 1.0
    answers = tuple(Answer(names[text], share=share) for text in right)
    if row["kind"] == "order":
        choices.sort(key=lambda choice: choice.body.text)
    return choices, answers


def _pairs(row: dict[str, Any]) -> tuple[list[Choice], tuple[Answer, ...]]:
    pairs = row["pairs"]
    groups = ("source", "target") if row["kind"] == "match" else ("", "")
    most = 0 if row["kind"] == "match" else 1
    sources = [
        Choice(f"s{n}", Body(first), groups[0]) for n, (first, _second) in enumerate(pairs)
    ]
    targets = [
        Choice(f"t{n}", Body(second), groups[1], most=most)
        for n, (_first, second) in enumerate(pairs)
    ]
    others = [Choice(f"o{n}", Body(text)) for n, text in enumerate(row.get("wrong", []))]
    share = 1 / len(pairs)
    return [*sources, *targets, *others], tuple(
        Answer(f"s{n}", f"t{n}", share=share) for n in range(len(pairs))
    )


def write(course: GraftingCourse, host: str, path: Path) -> None:
    """Write the course as a host exports it, as a zip; the same bytes every time."""
    profile = hosts.load(host)
    banks = {
        bundle.entry.key: bundle.questions
        for bundle in course.bundles
        if bundle.entry.kind == "question-bank"
    }
    with zipfile.ZipFile(path, "w") as archive:
        output = _CourseArchive(archive)
        known = {bundle.new_address for bundle in course.bundles}
        known |= {course.site.address + media.path for media, _data in course.files}
        job = Job(course.site, profile.write | {"mark": host}, goes_to=known.__contains__)
        writer = plugins.get(plugins.FORMATS, profile.format).write(output, job)
        for bundle in course.bundles:
            writer.entry(_as_held(bundle, host, banks))
        for media, data in course.files:
            add(archive, media.path, data, zipfile.ZIP_STORED)
            writer.media(media)
        writer.finish()


def _as_held(bundle: Bundle, host: str, banks: dict[str, tuple[Question, ...]]) -> Bundle:
    """The bundle as a host can hold it: in its kinds of entries and of questions."""
    profile = hosts.load(host)
    rules = profile.quizzes
    asked: list[Question] = []
    if rules.draws:
        drawn = []
    else:
        drawn = [question for bank in bundle.banks for question in banks[bank]]
    copies = (
        replace(q, key=f"{bundle.entry.key}/{q.key}", entry=bundle.entry.key, section="drawn")
        for q in drawn
    )
    for question in (*bundle.questions, *copies):
        gaps = rules.gaps == 1 and fitting.needs_parts(question)
        if gaps:
            fitted = fitting.one_gap_each(question, rules.questions)
        else:
            fitted = fitting.fitted(question, rules.questions)
        asked += fitted
    entry = replace(bundle.entry, kind=profile.kind_for(bundle.entry.kind))
    return replace(bundle, entry=entry, questions=tuple(asked))


class _CourseArchive:
    """The output of a writer, into a zip."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self.archive = archive

    def open(self, name: str) -> BinaryIO:
        """A new file in the zip, put there when it is closed."""
        archive = self.archive

        class Held(io.BytesIO):
            def close(self) -> None:
                if not self.closed:
                    add(archive, name, self.getvalue(), zipfile.ZIP_DEFLATED)
                super().close()

        return Held()
