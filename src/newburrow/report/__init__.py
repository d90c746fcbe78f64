"""The report of a move: one self-contained HTML file."""
