"""The step Sync: sound against picture."""
