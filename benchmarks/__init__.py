import kymaton  # noqa: F401  # before NumPy: it says how many threads that may take
