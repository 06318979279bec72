"""Where Kymaton keeps what is a person's own (XDG Base Directory Specification 0.8).

A library for this takes as long to load as everything that the first picture of the window needs.
"""

import os
from pathlib import Path


def config_folder() -> Path:
    """What a person has chosen: settings, device kinds of their own."""
    return _folder("XDG_CONFIG_HOME", ".config")


def data_folder() -> Path:
    """What is to be kept: the logbook."""
    return _folder("XDG_DATA_HOME", ".local/share")


def state_folder() -> Path:
    """What can be lost without harm: unsaved work that was kept, the last verdicts."""
    return _folder("XDG_STATE_HOME", ".local/state")


def _folder(variable: str, usual: str) -> Path:
    named = Path(os.environ.get(variable, ""))
    return (named if named.is_absolute() else Path.home() / usual) / "kymaton"  # relative ones are to be ignored
