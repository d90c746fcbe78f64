"""All SQL: the content store, building it, merging, and the journal of a move."""
