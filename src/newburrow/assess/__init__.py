"""Looking at what there is and at what became of it."""
