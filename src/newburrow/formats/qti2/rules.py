"""Declarations and response processing of an item of QTI 2.1 (sections 5.2, 5.3 and 8)."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from newburrow.formats.qti2.names import Names
from newburrow.formats.xml_names import number
from newburrow.formats.xml_output import text
from newburrow.model import Answer, Feedback, Question

_TEMPLATE = "http://www.imsglobal.org/question/qti_v2p1/rptemplates/"
_PAIRS = ("match", "associate", "gap-match")
_CARDINALITY = {"multiple-choice": "multiple", "hot-text": "multiple", "order": "ordered",
                "match": "multiple", "associate": "multiple", "gap-match": "multiple"}  # fmt: skip
_UNSCORED = ("essay", "upload", "text-only")
_TEXTS = ("text-entry", "pattern-match", "essay")
_FILLED = ("text-entry", "pattern-match")
_GENERAL = ("any", "right", "wrong", "solution")


def with_points(question: Question) -> Question:
    """The same; one without points whose answers only rules can name is worth 0, since rules set a score."""
    is_kept = question.points is not None or bool(question.scoring)
    if is_kept or not any(map(_by_tests, question.parts or (question,))):
        return question
    return replace(question, points=0.0)


def declarations(question: Question, names: Names) -> Iterator[str]:
    """The responses with the right answers and the mapping, then the outcomes."""
    if question.parts:
        for part in question.parts:
            yield from _responses(part, names.part(part.key))
    elif question.kind != "text-only":
        yield from _responses(question, names)
    if any(feedback.is_hint for feedback in question.feedback):
        yield '<responseDeclaration identifier="HINT" cardinality="single" baseType="boolean"/>\n'
    points = question.points
    most = f' normalMaximum="{points:.12g}"' if points is not None else ""
    single = 'cardinality="single" baseType="float"'
    yield f'<outcomeDeclaration identifier="SCORE" {single}{most}>\n{_default("0")}</outcomeDeclaration>\n'
    if points is not None:
        full = _default(f"{points:.12g}")
        yield f'<outcomeDeclaration identifier="MAXSCORE" {single}>\n{full}</outcomeDeclaration>\n'
    if question.feedback:
        yield '<outcomeDeclaration identifier="FEEDBACK" cardinality="multiple" baseType="identifier"/>\n'
    if any(feedback.on == "solution" for feedback in question.feedback):
        yield '<outcomeDeclaration identifier="SOLUTION" cardinality="single" baseType="identifier"/>\n'


def _default(value: str) -> str:
    return f"<defaultValue>\n<value>{value}</value>\n</defaultValue>\n"


def _responses(question: Question, names: Names) -> Iterator[str]:
    for gap in names.responses():
        yield from _response(question, names, gap)


def _response(question: Question, names: Names, gap: str) -> Iterator[str]:
    cardinality = _CARDINALITY.get(question.kind, "single")
    named, type_ = names.response(gap), _type(question)
    yield f'<responseDeclaration identifier="{named}" cardinality="{cardinality}" baseType="{type_}">\n'
    answers = [answer for answer in question.answers if answer.gap == gap or not gap]
    if not _by_tests(question):
        right = [
            answer for answer in answers if question.is_partial or answer.share >= 1
        ] or answers
        if cardinality == "single":
            right = sorted(right, key=lambda answer: -answer.share)[:1]
        values = "".join(
            f"<value>{text(_value(answer, question, names))}</value>\n"
            for answer in right
            if answer.share > 0
        )
        if values:
            yield f"<correctResponse>\n{values}</correctResponse>\n"
        if _is_mapped(question):
            yield from _mapping(question, names, answers)
    yield "</responseDeclaration>\n"


def _type(question: Question) -> str:
    if question.kind == "associate":
        return "pair"
    if question.kind in _PAIRS:
        return "directedPair"
    types = {"numerical": "float", "upload": "file"}
    return types.get(question.kind, "string" if question.kind in _TEXTS else "identifier")


def _value(answer: Answer, question: Question, names: Names) -> str:
    if question.kind in _PAIRS:
        return f"{names.of(answer.value)} {names.of(answer.partner)}"
    if _type(question) == "identifier":
        return names.of(answer.value)
    return answer.value


def _mapping(question: Question, names: Names, answers: list[Answer]) -> Iterator[str]:
    if not answers:
        return
    # Without points, the values still say what is right, and the bounds that it counts for nothing.
    points, bounds = question.points, ""
    if points == 0:
        bounds = ' lowerBound="0" upperBound="0"'
    points = 1.0 if _needs_all(question) else points or 1.0
    yield f'<mapping{bounds} defaultValue="0">\n'
    for answer in answers:
        case = ""
        if _type(question) == "string" and not answer.case_sensitive:
            case = ' caseSensitive="false"'
        key = text(_value(answer, question, names)).replace('"', "&quot;")
        yield f'<mapEntry mapKey="{key}" mappedValue="{round(answer.share * points, 9):.12g}"{case}/>\n'
    yield "</mapping>\n"


def _by_tests(question: Question) -> bool:
    """Whether rules hold each answer against the response: parts of texts, and ranges of numbers."""
    return question.kind in ("pattern-match", "numerical") and any(
        answer.is_pattern or answer.lower != answer.upper for answer in question.answers
    )


def _is_mapped(question: Question) -> bool:
    """Whether answers have values of their own: they share the points, or several can be right."""
    return (
        question.kind in ("text-entry", "pattern-match", "numerical")
        or question.is_partial
        or any(answer.share != 1 for answer in question.answers)
        or _has_ways(question)
    )


def _has_ways(question: Question) -> bool:
    """Whether a response that takes one answer has several that are right."""
    gaps = {answer.gap for answer in question.answers}
    return question.kind not in _CARDINALITY and len(gaps) < len(question.answers)


def _needs_all(question: Question) -> bool:
    """Whether several texts score only all together; each is then worth 1 by its mapping."""
    gaps = {answer.gap for answer in question.answers}
    return question.kind in _FILLED and len(gaps) > 1 and not question.is_partial


def processing(question: Question, names: Names) -> Iterator[str]:
    """The response processing: a standard template where that says it all, else rules."""
    scored = _has_answers(question) and question.points is not None
    if not scored and not question.feedback:
        return
    is_one = len(names.responses()) == 1 and not question.parts
    plain = not question.feedback and not _by_tests(question) and is_one
    if scored and plain and _is_mapped(question):
        yield f'<responseProcessing template="{_TEMPLATE}map_response"/>\n'
        return
    if scored and plain and question.points == 1:
        yield f'<responseProcessing template="{_TEMPLATE}match_correct"/>\n'
        return
    yield "<responseProcessing>\n"
    if scored:
        yield from _scoring(question, names)
    yield from _feedback_rules(question, names)
    yield "</responseProcessing>\n"


def _has_answers(question: Question) -> bool:
    """Whether answers to a question, or to a part of it, are right or wrong."""
    if question.parts:
        return any(map(_has_answers, question.parts))
    return question.kind not in _UNSCORED and bool(question.answers)


def _scoring(question: Question, names: Names) -> Iterator[str]:
    if question.parts:
        yield from _of_parts(question, names)
        return
    if _by_tests(question):
        yield _tests(question, names, _sets)
        return
    responses = _filled(question, names)
    if _needs_all(question):
        tests = "".join(map(_is_full, responses))
        yield _condition([(f"<and>\n{tests}</and>\n", _full_score())])
        return
    if _is_mapped(question):
        mapped = "".join(f'<mapResponse identifier="{name}"/>\n' for name in responses)
        yield _sets(f"<sum>\n{mapped}</sum>\n" if len(responses) > 1 else mapped)
        return
    yield _condition([(_correct(responses), _full_score())])


def _filled(question: Question, names: Names) -> list[str]:
    """The responses for which an answer is known; a gap in a text can lack one."""
    gaps = {answer.gap for answer in question.answers}
    return [names.response(gap) for gap in names.responses() if not gap or gap in gaps]


def _of_parts(question: Question, names: Names) -> Iterator[str]:
    """Rules that add up what the parts score, or that ask whether all of them are right."""
    scored = [(part, names.part(part.key)) for part in question.parts if _has_answers(part)]
    if not question.is_partial:
        tests = [_right_part(*pair) for pair in scored]
        yield _condition([(f"<and>\n{''.join(tests)}</and>\n", _full_score())])
        return
    for part, own in scored:
        response = own.response("")
        if _by_tests(part):
            yield _tests(part, own, _adds)
        elif _is_mapped(part):
            yield _adds(f'<mapResponse identifier="{response}"/>\n')
        else:
            points = _base("float", f"{1.0 if part.points is None else part.points:.12g}")
            yield _condition([(_correct([response]), _adds(points))])


def _is_full(response: str) -> str:
    """A test whether a response is worth 1 by its mapping."""
    return f'<gte>\n<mapResponse identifier="{response}"/>\n{_base("float", "1")}</gte>\n'


def _right_part(part: Question, names: Names) -> str:
    """A test whether a part is right."""
    response = names.response("")
    if _by_tests(part):
        tests = "".join(_test(answer, response) for answer in part.answers)
        if len(part.answers) > 1:
            return f"<or>\n{tests}</or>\n"
        return tests
    if _is_mapped(part):
        return _is_full(response)
    return _correct([response])


def _full_score() -> str:
    return _sets('<variable identifier="MAXSCORE"/>\n')


def _sets(value: str) -> str:
    return f'<setOutcomeValue identifier="SCORE">\n{value}</setOutcomeValue>\n'


def _adds(value: str) -> str:
    return _sets(f'<sum>\n<variable identifier="SCORE"/>\n{value}</sum>\n')


def _correct(responses: list[str]) -> str:
    tests = "".join(
        f'<match>\n<variable identifier="{name}"/>\n<correct identifier="{name}"/>\n</match>\n'
        for name in responses
    )
    if len(responses) > 1:
        return f"<and>\n{tests}</and>\n"
    return tests


def _tests(question: Question, names: Names, scored: Callable[[str], str]) -> str:
    """A condition with a branch for each answer."""
    points = 1.0 if question.points is None else question.points
    branches = []
    for answer in question.answers:
        score = _base("float", f"{round(answer.share * points, 9):.12g}")
        if not points and answer.share > 0:  # what is right gets all that there is
            score = '<variable identifier="MAXSCORE"/>\n'
        branches.append((_test(answer, names.response("")), scored(score)))
    return _condition(branches)


def _test(answer: Answer, response: str) -> str:
    variable = f'<variable identifier="{response}"/>\n'
    if answer.lower is None and answer.upper is None:
        case, part = str(answer.case_sensitive).lower(), str(answer.is_pattern).lower()
        wanted = _base("string", answer.value)
        return f'<stringMatch caseSensitive="{case}" substring="{part}">\n{variable}{wanted}</stringMatch>\n'
    limits = [
        f"<{name}>\n{variable}{_base('float', f'{limit:.12g}')}</{name}>\n"
        for name, limit in (("gte", answer.lower), ("lte", answer.upper))
        if limit is not None
    ]
    if len(limits) > 1:
        return f"<and>\n{''.join(limits)}</and>\n"
    return limits[0]


def _base(type_: str, value: str) -> str:
    return f'<baseValue baseType="{type_}">{text(value)}</baseValue>\n'


def _condition(branches: list[tuple[str, str]]) -> str:
    """One condition of branches: a test, and what it does."""
    made = ""
    for test, action in branches:
        tag = "responseElseIf" if made else "responseIf"
        made += f"<{tag}>\n{test}{action}</{tag}>\n"
    return f"<responseCondition>\n{made}</responseCondition>\n"


def named_feedback(question: Question, names: Names) -> Iterator[tuple[str, Feedback]]:
    """The feedback of a question, each with its identifier; those shown on the same have the same."""
    hints = 0
    fixed = {"any": "general", "right": "correct", "wrong": "incorrect", "solution": "solution"}
    for feedback in question.feedback:
        if feedback.is_hint:
            hints += 1
            yield f"hint{hints}", feedback
        else:
            yield fixed.get(feedback.on) or names.of(feedback.on), feedback


def _feedback_rules(question: Question, names: Names) -> Iterator[str]:
    is_answered = _has_answers(question) and not (question.scoring and question.points is None)
    shown = dict.fromkeys(
        (name, feedback.is_hint, feedback.on)
        for name, feedback in named_feedback(question, names)
    )
    for name, is_hint, on in shown:
        show = _show(name)
        if is_hint:
            yield _condition([('<variable identifier="HINT"/>\n', show)])
        elif on == "any" or not _is_known(on, question):
            yield show
        elif on in ("right", "wrong") and is_answered:
            yield _condition([(_is_right(question, names, on == "right"), show)])
        elif on not in _GENERAL:
            yield _condition([(_given(on, question, names), show)])


def _is_known(on: str, question: Question) -> bool:
    """Whether a rule can say what a feedback is shown on: of a composite, a choice or a text."""
    return on in _GENERAL or not question.parts or bool(_parts_with(on, question))


def _parts_with(value: str, question: Question) -> list[Question]:
    """The parts of a composite to which an answer is given: the first with such a choice, else all it can fill.

    Where there is none, it is the first part with choices: nobody gives that answer.
    """
    named = [
        part for part in question.parts if any(choice.name == value for choice in part.choices)
    ]
    is_number = number(value) is not None
    filled = [
        part
        for part in question.parts
        if part.kind in _TEXTS or (is_number and part.kind == "numerical")
    ]
    return named[:1] or filled or [part for part in question.parts if part.choices][:1]


def _show(name: str) -> str:
    both = f'<multiple>\n<variable identifier="FEEDBACK"/>\n{_base("identifier", name)}</multiple>\n'
    return f'<setOutcomeValue identifier="FEEDBACK">\n{both}</setOutcomeValue>\n'


def _is_right(question: Question, names: Names, right: bool) -> str:
    if (question.parts or _is_mapped(question)) and question.points:
        full = f'<gte>\n<variable identifier="SCORE"/>\n{_base("float", f"{question.points:.12g}")}</gte>\n'
    else:
        full = _all_correct(question, names)
    if right:
        return full
    return f"<not>\n{full}</not>\n"


def _all_correct(question: Question, names: Names) -> str:
    """A test whether each response is the correct one, whatever it scores."""
    if question.parts:
        tests = [
            _all_correct(part, names.part(part.key))
            for part in question.parts
            if _has_answers(part)
        ]
        return f"<and>\n{''.join(tests)}</and>\n"
    if _by_tests(question):
        return _right_part(question, names)
    return _correct(_filled(question, names))


def _given(value: str, question: Question, names: Names) -> str:
    """A test whether an answer was given: to any of several gaps, or of the texts that a composite asks for.

    See `_parts_with`.
    """
    tests = list(_tests_of(value, question, names))
    if len(tests) > 1:
        return f"<or>\n{''.join(tests)}</or>\n"
    return tests[0]


def _tests_of(value: str, question: Question, names: Names) -> Iterator[str]:
    for part in _parts_with(value, question):
        yield from _tests_of(value, part, names.part(part.key))
    if question.parts:
        return
    type_ = _type(question)
    wanted = _base(type_, names.of(value) if type_ == "identifier" else value)
    if _CARDINALITY.get(question.kind, "single") == "single":
        test = "match"
    else:
        test = "member"
    for gap in names.responses():
        yield f'<{test}>\n{wanted}<variable identifier="{names.response(gap)}"/>\n</{test}>\n'
