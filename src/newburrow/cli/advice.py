"""What `newburrow redirects --advise` prints: the permalink patterns that the new host can have, the best first."""

from __future__ import annotations

from newburrow.cli.screen import Screen, cell, table
from newburrow.commands.advise import advise
from newburrow.decide.move_folder import MoveFolder
from newburrow.store.journal.rows import REDIRECTED


def run(folder: MoveFolder, screen: Screen, as_json: bool) -> int:
    """Compare the patterns, and print what each would come to."""
    with screen.progress() as listener:
        found = advise(folder, listener)
    if as_json:
        screen.json("advice", found)
        return 0
    weighed = any(pattern.visits for pattern in found.patterns)
    numbers = ["unchanged", "redirected", "visits", "rules", "one by one", "collisions"]
    if not weighed:
        numbers.remove("visits")
    shown = table("kind", "pattern", *numbers, numbers=tuple(numbers))
    for advised in found.patterns:
        if weighed:
            visits = [advised.visits.get(REDIRECTED, 0)]
        else:
            visits = []
        counts = [
            advised.unchanged,
            advised.redirected,
            *visits,
            advised.rules,
            advised.one_by_one,
            advised.collisions,
        ]
        pattern = cell(advised.pattern) + (" (now)" if advised.chosen else "")
        shown.add_row(advised.kind, pattern, *(f"{n:,}" for n in counts))
    screen.line(
        "Old addresses for each permalink pattern of a kind, with all else as decided (now: the decided pattern),\n"
        "the best first:\n"
    )
    screen.out.print(shown)
    if weighed:
        screen.line("\nVisits are those to redirected addresses, from the files in old.known.")
    screen.line(f"\n{found.ids}")
    screen.line(
        f"To use another: change [addresses] in {folder.path / 'move.toml'}, and run newburrow move."
    )
    return 0
