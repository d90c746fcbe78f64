"""Measures a large course against parsing its XML alone: `python bench/course.py [--rounds N] [QUIZZES]`.

A cartridge with quizzes of 40 questions each, read (`survey`), and moved to the same host and to Slatewell. The floor
opens the package and parses the manifest and every quiz with the same library. Each round runs everything once, in
turn; what is told is the least.
"""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
import zipfile
from pathlib import Path

from generate import sentence
from lxml import etree
from run import HERE, PROGRAM, timed

from newburrow.formats.qti1 import writer
from newburrow.model import Answer, Body, Choice, Entry, Feedback, Question, Quiz

_EACH = 40  # questions of a quiz
MANIFEST = """<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1"><metadata><schema>IMS Common Cartridge</schema>
<schemaversion>1.3.0</schemaversion></metadata><organizations><organization identifier="o" structure="rooted-hierarchy">
<item identifier="root">{items}</item></organization></organizations><resources>{resources}</resources></manifest>
"""


def question(chance: random.Random, number: int) -> Question:
    names = ("a", "b", "c", "d")
    return Question(
        key=str(number),
        kind="choice" if number % 4 else "multiple-choice",
        prompt=Body(f"<p>{sentence(chance, 25)} <em>{sentence(chance, 4)}</em></p>"),
        choices=tuple(Choice(name, Body(f"<p>{sentence(chance, 8)}</p>")) for name in names),
        answers=(Answer("b"),) if number % 4 else (Answer("a"), Answer("c")),
        feedback=(
            Feedback(Body(sentence(chance, 12)), "right"),
            Feedback(Body(sentence(chance, 12)), "wrong"),
        ),
        points=2.0,
    )


def export(path: Path, quizzes: int) -> None:
    """A cartridge with so many quizzes."""
    items, resources = [], []
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for n in range(quizzes):
            chance = random.Random(n)
            entry = Entry(key=f"q{n}", kind="quiz", title=f"Quiz {n}", quiz=Quiz(minutes=30))
            asked = [(f"i{n}x{number}", question(chance, number)) for number in range(_EACH)]
            archive.writestr(
                f"quiz-{n}.xml",
                "".join(writer.quiz(entry, f"q{n}", asked, lambda body: body.text)),
            )
            items.append(
                f'<item identifier="n{n}" identifierref="q{n}"><title>Quiz {n}</title></item>'
            )
            kind = "imsqti_xmlv1p2/imscc_xmlv1p3/assessment"
            resources.append(
                f'<resource identifier="q{n}" type="{kind}"><file href="quiz-{n}.xml"/></resource>'
            )
        archive.writestr(
            "imsmanifest.xml",
            MANIFEST.format(items="".join(items), resources="".join(resources)),
        )


def floor(path: Path) -> None:
    """Parse all XML of a package."""
    questions = 0
    with zipfile.ZipFile(path) as archive:
        for name in archive.namelist():
            with archive.open(name) as stream:
                for _event, element in etree.iterparse(stream, tag="{*}item"):
                    questions += 1
                    element.clear()
    print(questions)


def main() -> None:
    """Measure, and print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=2)
    parser.add_argument("--floor", type=Path, help=argparse.SUPPRESS)
    parser.add_argument("quizzes", type=int, nargs="?", default=500)
    options = parser.parse_args()
    if options.floor:
        floor(options.floor)
        return
    with tempfile.TemporaryDirectory(dir=HERE) as name:
        folder = Path(name)
        export(folder / "course.zip", options.quizzes)
        size = sum(info.file_size for info in zipfile.ZipFile(folder / "course.zip").infolist())
        commands = {
            "parsing alone": [sys.executable, str(HERE / "course.py"), "--floor", "course.zip"],
            "survey": [PROGRAM, "survey", "course.zip", "--quiet"],
            "move to Chalkmere": [PROGRAM, "move", "course.zip", "--to", "chalkmere", "--quiet", "--out"],
            "move to Slatewell": [PROGRAM, "move", "course.zip", "--to", "slatewell", "--quiet", "--out"],
        }  # fmt: skip
        best: dict[str, tuple[float, float]] = {}
        for number in range(options.rounds):
            for label, command in commands.items():
                more = [f"{label[-9:]}-{number}"] if command[-1] == "--out" else []
                seconds, memory = timed(*command, *more, cwd=folder)
                best[label] = min(best.get(label, (seconds, memory)), (seconds, memory))
        base = best["parsing alone"][0]
        print(
            f"{options.quizzes:,} quizzes, {options.quizzes * _EACH:,} questions, {size / 1e6:.0f} MB of XML"
        )
        for label, (seconds, memory) in best.items():
            print(f"{label:<20}{seconds:8.1f} s{seconds / base:8.1f} x{memory:8.0f} MB")


if __name__ == "__main__":
    main()
