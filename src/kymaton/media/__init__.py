"""Sound files: stems in, auditions out."""
