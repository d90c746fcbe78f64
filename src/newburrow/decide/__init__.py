"""The administrator's decisions: the move folder, its tables, and what is proposed."""
