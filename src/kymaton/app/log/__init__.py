"""The step Log: what was measured, set and made."""
