"""The model and every computation: no interface, no files, no clock, no network."""
