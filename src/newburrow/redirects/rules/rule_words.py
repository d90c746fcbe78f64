"""Rules in words, for a person."""

from __future__ import annotations

from collections import Counter

from newburrow.redirects.rules.redirect_rule import RedirectRule


def in_words(rule: RedirectRule) -> str:
    """What a rule does, in a sentence."""
    used = {part for part in rule.new if isinstance(part, int)}
    dropped = [part.kind for n, part in enumerate(rule.parts) if part.kind and n not in used]
    fixed = [part.word for part in rule.parts if not part.kind]
    text = "".join(part for part in rule.new if isinstance(part, str))
    changes = []
    dates = [kind for kind in dropped if kind in ("year", "month", "day")]
    if dates:
        changes.append(
            f"the {' and the '.join(dates)} {'is' if len(dates) == 1 else 'are'} dropped from the date"
        )
    for kind, many in Counter(kind for kind in dropped if kind not in dates).items():
        changes.append(f"the {kind} is dropped" if many == 1 else f"{many} {kind}s are dropped")
    new_words = [
        word
        for word in text.split("/")
        if word.strip("-") and not word.startswith(".") and word not in fixed
    ]
    old_words = [word for word in fixed if word not in text]
    if len(new_words) == len(old_words) == 1:
        changes.append(f"“{old_words[0]}” becomes “{new_words[0]}”")
    else:
        changes += [f"“{word}” is dropped" for word in old_words] + [
            f"“{word}” is added" for word in new_words
        ]
    last = rule.new[-1] if rule.new else ""
    ending = ""
    if isinstance(last, str) and last.startswith("."):
        ending = last
    if rule.extension != ending:
        if rule.extension:
            changes += [f"{rule.extension} is dropped"]
        if ending:
            changes += [f"{ending} is added"]
    if rule.lowers:
        changes.append("capitals become lowercase")
    order = [part for part in rule.new if isinstance(part, int)]
    if order != sorted(order):
        changes.append("the parts change their order")
    return ", ".join(changes) or "the path stays, the host changes"
