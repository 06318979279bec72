"""All checks. Importing the modules declares their kinds in the registry."""

from kymaton.core.checks import audibility, doubling, feedback, own_voice, processing
from kymaton.core.checks.registry import KINDS, SEVERITIES, Evidence, Finding, Key, Severity, find_all

__all__ = [
    "KINDS",
    "SEVERITIES",
    "Evidence",
    "Finding",
    "Key",
    "Severity",
    "audibility",
    "doubling",
    "feedback",
    "find_all",
    "own_voice",
    "processing",
]
