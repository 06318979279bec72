"""Edits: each takes a Show and gives a new one."""
