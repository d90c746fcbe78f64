"""Charts of the report, drawn as SVG that is the same every time. Matplotlib is imported only here."""

from __future__ import annotations

import gc
import io
from typing import Any

_LEAST = 2  # years
MOVED, LEFT = "#3f6b4f", "#d9a441"


def by_year(years: dict[str, tuple[int, int]]) -> str:
    """Entries of each year, those that move and those that are left out, as an SVG element.

    Empty for fewer than two years: one bar says nothing that the counts do not say.
    """
    if len(years) < _LEAST:
        return ""
    import matplotlib
    from matplotlib.figure import (
        Figure,
    )  # not pyplot, which takes three times as long to import
    from matplotlib.ticker import MaxNLocator

    gc.collect()  # an import that fails in there keeps the callers' frames, and the files that they hold open

    # The salt and the missing date keep the bytes the same; text stays text, in the reader's own font.
    style: Any = {
        "svg.hashsalt": "newburrow",
        "svg.fonttype": "none",
        "font.family": "sans-serif",
        "font.size": 11,
    }
    with matplotlib.rc_context(style):
        figure = Figure(figsize=(5.6, 3.3))
        axes = figure.subplots()
        names = list(years)
        moved, left = [years[name][0] for name in names], [years[name][1] for name in names]
        axes.bar(names, moved, color=MOVED, label="moved", width=0.62)
        axes.bar(names, left, bottom=moved, color=LEFT, label="left out", width=0.62)
        axes.yaxis.set_major_locator(MaxNLocator(integer=True, nbins=5))
        axes.set_axisbelow(True)
        axes.grid(axis="y", color="#e3e0d6")
        axes.tick_params(length=0, labelcolor="#4b4a44")
        for side in ("top", "right", "left", "bottom"):
            axes.spines[side].set_visible(False)
        axes.legend(
            frameon=False,
            loc="upper center",
            bbox_to_anchor=(0.5, 1.17),
            ncols=2,
            handlelength=1,
            handleheight=1,
        )
        buffer = io.StringIO()
        figure.savefig(
            buffer,
            format="svg",
            metadata={"Date": None, "Creator": None},
            bbox_inches="tight",
            transparent=True,
        )
    svg = buffer.getvalue()
    return svg[svg.index("<svg") :]
