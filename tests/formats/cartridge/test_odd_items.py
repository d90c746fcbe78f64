"""Items as no careful program writes them: what they ask and what counts is the same after a move, there and back."""

from tests.commands.test_courses import check_package
from tests.formats.cartridge.packages import choices, condition, equals, item, quiz, text
from tests.helpers import FolderCase, rows


def field(ident: str, kind: str = "") -> str:
    typed = f' fibtype="{kind}"' if kind else ""
    return f'<response_str ident="{ident}"><render_fib{typed}><response_label ident="A"/></render_fib></response_str>'


def part(value: str, ident: str = "r") -> str:
    return f'<varsubstring respident="{ident}">{value}</varsubstring>'


def shown(condition_text: str, feedback: str) -> str:
    told = f'<displayfeedback feedbacktype="Response" linkrefid="{feedback}"/>'
    return condition_text.replace("</respcondition>", f"{told}</respcondition>")


def told(ident: str, words: str) -> str:
    return f'<itemfeedback ident="{ident}"><flow_mat>{text(words)}</flow_mat></itemfeedback>'


NONE = {"cc_weighting": "0"}
ITEMS = {
    "a part of a text beside a number": item(
        text("Q") + field("r") + field("n", "Decimal"),
        condition(part("owl"), "50", "Add", "Yes") + condition(equals("3", "n"), "50", "Add", "Yes"),
    ),
    "two fields that nothing scores": item(text("Q") + field("r") + field("s"), condition(part("a b"), "")),
    "a field of two that nothing fills": item(
        text("Q") + field("r") + field("s"), condition(equals("owl"), "100") + condition("<other/>", "0")
    ),
    "texts for no points, one of which costs some": item(
        text("Q") + field("r"),
        condition(equals("owl"), "100") + condition(equals("Eule"), "50") + condition(equals("cat"), "-50"),
        NONE,
    ),
    "parts of texts for no points": item(text("Q") + field("r"), condition(part("owl"), "100") + condition(part("x"), "-1"), NONE),
    "a composite for no points": item(
        text("Q") + choices("a", "b") + field("n", "Decimal"),
        condition(equals("a"), "50", "Add", "Yes") + condition(equals("3", "n"), "50", "Add", "Yes"), NONE,
    ),
    "shares that do not add up": item(
        text("Q") + choices("a", "b", "c", cardinality="Multiple"),
        condition(equals("a"), "2", "Add", "Yes") + condition(equals("b"), "60", "Add", "Yes") + condition(equals("c"), "-30", "Add", "Yes"),
    ),
    "feedback on right answers, of which there are none": item(
        text("Q") + choices("a", "b"), shown(condition(equals("zz"), "100"), "f"), after=told("f", "Well done")
    ),
    "feedback on a text of a composite": item(
        text("Q") + choices("a", "b") + field("t"),
        condition(equals("a"), "100") + shown(condition(equals("Owl", "t"), ""), "f"), after=told("f", "Indeed"),
    ),
    "feedback alone": item(text("Q") + field("r"), shown(condition("<other/>", "", goes_on="Yes"), "f"), {"cc_profile": "cc.fib.v0p1"}, after=told("f", "Thanks")),
    "a right answer that is none of the choices": item(
        text("Q") + choices("a", "b") + field("t"), condition(equals("zz"), "100", "Add")
    ),
    "a score above the greatest": item(
        text("Q") + choices("a", "b", cardinality="Multiple") + field("t"),
        condition(equals("Owl", "t"), "101", "Add", "Yes"), most="100",
    ),
    "two texts that score only together": item(
        text("Q") + field("r") + field("s"),
        condition("<and><or>" + equals("owl") + equals("Eule") + "</or>" + equals("cat", "s") + "</and>", "100"),
    ),
    "a number by two ranges": item(
        text("Q") + '<response_num ident="r"><render_fib/></response_num>',
        condition('<vargte respident="r">2</vargte><varlte respident="r">5</varlte>', "1") + condition(equals("4.5"), "100"),
    ),
}  # fmt: skip


class OddItems(FolderCase):
    def test_there_and_back(self) -> None:
        asked = [
            found.replace('ident="i"', f'ident="i{number}" title="{name}"', 1)
            for number, (name, found) in enumerate(ITEMS.items())
        ]
        source = self.write("odd.xml", quiz(asked))
        for step, host in enumerate(("slatewell", "chalkmere", "slatewell")):
            self.run_ok("move", source, "--to", host, "--out", f"m{step}")
            self.run_ok("verify", f"m{step}")
            follow_ups = rows(self.folder / f"m{step}/follow-ups.csv")
            changed = [row["what"] for row in follow_ups if row["kind"] == "question-changed"]
            self.assertEqual(changed, [], host)
            (source,) = (self.folder / f"m{step}/new").iterdir()
            check_package(self, source)
