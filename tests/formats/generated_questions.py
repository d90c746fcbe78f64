"""Questions of every kind for property tests, as a reader could have made them."""

from hypothesis import strategies as st
from msgspec.structs import replace

from newburrow.model import Answer, Body, Choice, Feedback, Question

_WORDS = st.text(
    st.characters(
        codec="utf-8",
        exclude_categories=("Cs", "Cc", "Zs", "Zl", "Zp"),
        exclude_characters="⟦⟧\ufffe\uffff",
    ),
    min_size=1,
    max_size=12,
)


@st.composite
def html(draw: st.DrawFn) -> Body:
    words = draw(_WORDS).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    form = draw(
        st.sampled_from(
            [
                "<p>{0}</p>",
                "{0}",
                "<p>{0} <em>x</em></p><ul><li>{0}</li></ul>",
                "<p>a<br>{0}</p>",
                '<pre>size="5" lang="{0}"</pre>',
            ]
        )
    )
    return Body(form.format(words))


def names(many: int) -> list[str]:
    return [
        ["A", "1", "choice two", "ünï", "b.c", "4501", "x" * 40, "A_"][number]
        for number in range(many)
    ]


@st.composite
def questions(draw: st.DrawFn, kinds: tuple[str, ...]) -> Question:
    kind = draw(st.sampled_from(kinds))
    made = draw(_KINDS[kind]) if kind in _KINDS else {}
    shown_on = ["any", "right", "wrong"]
    if kind in ("choice", "multiple-choice"):
        shown_on += [choice.name for choice in made["choices"]]
    on = (
        draw(st.lists(st.sampled_from(shown_on), max_size=3, unique=True))
        if kind in _KINDS
        else []
    )
    feedback = [Feedback(draw(html()), on_one) for on_one in on]
    if kind in _KINDS and draw(st.booleans()):
        feedback.append(Feedback(draw(html()), is_hint=True))
    return Question(
        key="q",
        kind=kind,
        title=draw(st.sampled_from(["", "Ladder & <rope>"])),
        prompt=made.pop("prompt", None) or draw(html()),
        points=draw(st.sampled_from([1.0, 2.5, 10.0, 0.1, 0.0, None])),
        feedback=tuple(feedback),
        rubric=draw(html()) if kind == "essay" and draw(st.booleans()) else Body(),
        **made,
    )


@st.composite
def _choices(draw: st.DrawFn) -> tuple[Choice, ...]:
    many = draw(st.integers(2, 6))
    return tuple(Choice(name, draw(html())) for name in names(many))


@st.composite
def _single(draw: st.DrawFn) -> dict[str, object]:
    choices = draw(_choices())
    answers = [Answer(draw(st.sampled_from(choices)).name)]
    others = [choice.name for choice in choices if choice.name != answers[0].value]
    if draw(st.booleans()):
        answers.append(Answer(others[0], share=draw(st.sampled_from([0.5, 0.25, -0.5, 1.0]))))
    return {"choices": choices, "answers": tuple(answers), "shuffle": draw(st.booleans())}


@st.composite
def _multiple(draw: st.DrawFn) -> dict[str, object]:
    choices = draw(_choices())
    right = draw(
        st.lists(st.sampled_from(choices), min_size=1, unique_by=lambda choice: choice.name)
    )
    is_partial = draw(st.booleans()) and len(right) in (2, 4)
    share = draw(st.sampled_from([1 / len(right), 0.7, 1.5])) if is_partial else 1.0
    return {
        "choices": choices,
        "answers": tuple(Answer(choice.name, share=share) for choice in right),
        "is_partial": is_partial,
    }


@st.composite
def _text(draw: st.DrawFn, is_pattern: bool = False) -> dict[str, object]:
    values = draw(st.lists(_WORDS, min_size=1, max_size=3, unique_by=str.casefold))
    values = [
        value
        for n, value in enumerate(values)
        if not any(
            value.casefold() in o.casefold() or o.casefold() in value.casefold()
            for o in values[:n]
        )
    ]
    case = draw(st.booleans())
    answers = [Answer(value, case_sensitive=case, is_pattern=is_pattern) for value in values]
    other = values[0].swapcase()
    if case and not is_pattern and other not in values:
        answers.append(Answer(other, share=0.5, case_sensitive=True))
    return {"answers": tuple(answers)}


@st.composite
def _numbers(draw: st.DrawFn) -> dict[str, object]:
    low = draw(st.integers(-50, 50))
    high = low + draw(st.sampled_from([0, 1, 10]))
    answers = [Answer(f"{(low + high) / 2:g}", lower=float(low), upper=float(high))]
    if draw(st.booleans()):  # whatever is greater counts too
        share = draw(st.sampled_from([0.5, 1.0]))
        answers.append(Answer(f"{high}", lower=float(low), share=share))
    return {"answers": tuple(answers)}


@st.composite
def _pairs(draw: st.DrawFn) -> dict[str, object]:
    many = draw(st.integers(2, 4))
    sources = [Choice(f"s{n}", draw(html()), "source") for n in range(many)]
    targets = [Choice(f"t{n}", draw(html()), "target", most=0) for n in range(many)]
    share = {2: 0.5, 3: 1 / 3, 4: 0.25}[many]
    answers = tuple(Answer(f"s{n}", f"t{n}", share=round(share, 9)) for n in range(many))
    return {"choices": (*sources, *targets), "answers": answers, "is_partial": True}


@st.composite
def _ordered(draw: st.DrawFn) -> dict[str, object]:
    choices = draw(_choices())
    order = draw(st.permutations([choice.name for choice in choices]))
    return {"choices": choices, "answers": tuple(Answer(name) for name in order)}


@st.composite
def _gaps(draw: st.DrawFn) -> dict[str, object]:
    answers = tuple(Answer(draw(_WORDS), gap=gap, share=0.5) for gap in ("g1", "gap 2"))
    return {
        "prompt": Body("<p>One ⟦g1⟧ and ⟦gap 2⟧ end.</p>"),
        "answers": answers,
        "is_partial": True,
    }


@st.composite
def _inline(draw: st.DrawFn) -> dict[str, object]:
    choices = tuple(
        Choice(f"{gap}{n}", Body(draw(st.sampled_from(["red", "a &amp; b"]))), gap)
        for gap in ("g1", "g2")
        for n in (1, 2)
    )
    answers = tuple(Answer(f"{gap}1", gap=gap, share=0.5) for gap in ("g1", "g2"))
    return {
        "prompt": Body("<p>One ⟦g1⟧ and ⟦g2⟧ end.</p>"),
        "choices": choices,
        "answers": answers,
        "is_partial": True,
    }


_PARTS = (
    "choice",
    "multiple-choice",
    "text-entry",
    "pattern-match",
    "numerical",
    "match",
    "order",
    "essay",
)


@st.composite
def composites(draw: st.DrawFn) -> Question:
    """A question with parts of different kinds, which count one by one or only all together."""
    is_partial = draw(st.booleans())
    parts = draw(st.lists(questions(_PARTS), min_size=2, max_size=4))
    if {part.kind for part in parts} <= {
        "essay",
        "text-entry",
        "pattern-match",
    }:  # these are the gaps of a text
        parts.append(draw(questions(("choice",))))
    named = []
    for part, key in zip(parts, ["p1", "part 2", "A", "Ü", "5"], strict=False):
        is_scored = part.kind != "essay"
        points = (
            (draw(st.sampled_from([1.0, 0.5, 3.0])) if is_scored else 0.0)
            if is_partial
            else None
        )
        words = Body(
            draw(st.sampled_from(["", "Which <em>one</em>?"]))
            if part.kind in ("choice", "match", "essay")
            else ""
        )
        answers = part.answers
        if not is_partial and part.kind in ("choice", "multiple-choice", "match", "numerical"):
            answers = tuple(
                replace(answer, share=1.0) for answer in answers if answer.share > 0
            )
            answers = answers[:1] if part.kind == "choice" else answers
        if is_partial and part.is_partial and part.kind == "multiple-choice":
            answers = tuple(replace(answer, share=1 / len(answers)) for answer in answers)
        own = replace(
            part,
            key=key,
            title="",
            feedback=(),
            rubric=Body(),
            prompt=words,
            points=points,
            answers=answers,
        )
        named.append(own if is_partial else replace(own, is_partial=False))
    form = draw(
        st.sampled_from(
            ["<p>Do {0} and then {1}.</p>", "<p>Do</p>{0}<ul><li>x <em>y {1} z</em></li></ul>"]
        )
    )
    gaps = [f"⟦{part.key}⟧" for part in named]
    prompt = form.format(gaps[0], " ".join(gaps[1:]))
    points = sum(part.points or 0 for part in named) if is_partial else 2.0
    on = [choice.name for part in named for choice in part.choices][:1]
    told = [
        Feedback(draw(html()), shown)
        for shown in draw(
            st.lists(st.sampled_from(["any", "right", *on]), max_size=2, unique=True)
        )
    ]
    return Question(
        key="q",
        kind="composite",
        feedback=tuple(told),
        prompt=Body(prompt),
        points=points,
        is_partial=is_partial,
        parts=tuple(named),
    )


_KINDS = {
    "choice": _single(),
    "multiple-choice": _multiple(),
    "text-entry": _text(),
    "pattern-match": _text(is_pattern=True),
    "numerical": _numbers(),
    "match": _pairs(),
    "order": _ordered(),
    "gaps": _gaps(),
    "inline-choice": _inline(),
}
