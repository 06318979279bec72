"""Which files are films and which are sounds, by their names."""

FILMS = (".mp4", ".mov", ".mkv", ".webm", ".avi", ".ts")
SOUNDS = (".wav", ".flac", ".mp3", ".m4a", ".aac", ".opus", ".ogg", ".aif", ".aiff")


def chooser(word: str, *suffixes: str) -> str:
    """The line of a file dialog: `Films (*.mp4 *.mov)`."""
    return f"{word} ({' '.join(f'*{s}' for s in suffixes)})"
