"""Markups of bodies, each to HTML and from it. The HTML parser itself is behind `html`."""
