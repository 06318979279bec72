"""What is loaded late, so that the window opens at once, and yet before several threads need it."""


def load_scipy() -> None:
    """SciPy itself, whole. Threads that load different parts of it as the first thing find each other's halves."""
    import scipy  # noqa: F401
