"""The journal of one move: what is planned, what became of it, and the follow-ups."""
