"""Converting: one module for each step. `steps` holds their order; `plan` comes before, `run` drives both."""
