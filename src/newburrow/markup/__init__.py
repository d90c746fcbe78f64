"""Markups of bodies, each to HTML and from it. The HTML parser itself stands behind `html`."""
