"""Several exports as one move: their keys kept apart, and what is the same in two of them made one."""
