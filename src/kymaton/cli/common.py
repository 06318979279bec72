"""What all commands share."""

import json


class Usage(Exception):
    """One sentence about words that the command does not know."""


def print_json(content: object) -> None:
    print(json.dumps(content, ensure_ascii=False, indent=1, allow_nan=False))
