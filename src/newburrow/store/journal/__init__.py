"""The journal of one move: a table each for the plan, old addresses, files, ids, ledger and follow-ups."""
