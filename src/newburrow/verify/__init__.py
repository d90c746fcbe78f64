"""Reading the result of a move back, and holding it against what was to be written."""
