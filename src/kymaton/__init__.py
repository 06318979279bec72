"""Kymaton: what every listener of a live stream will really hear."""

__version__ = "0.1.0"
