"""Load-in: whether it will all run, reach, fit and arrive."""
