"""Which mode for which fixture: modes side by side, advice for one, the best combination for
all."""
