"""What all commands share."""


class Usage(Exception):
    """One sentence about words that the command does not know."""
