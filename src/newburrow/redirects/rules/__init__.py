"""Rules learnt from the answers to old addresses."""
