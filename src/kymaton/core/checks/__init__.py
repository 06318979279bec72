"""All checks. Importing the modules declares their kinds in the registry."""

from kymaton.core.checks import (
    audibility,
    computers,
    doubling,
    feedback,
    lasting,
    own_voice,
    pictures,
    processing,
    rigging,
    stagecraft,
    wiring,
)
from kymaton.core.checks.registry import (
    KINDS,
    RIG_KINDS,
    SEVERITIES,
    Evidence,
    Finding,
    Key,
    Severity,
    find_all,
    find_in_rig,
)

__all__ = [
    "KINDS",
    "RIG_KINDS",
    "SEVERITIES",
    "Evidence",
    "Finding",
    "Key",
    "Severity",
    "audibility",
    "computers",
    "doubling",
    "feedback",
    "find_all",
    "find_in_rig",
    "lasting",
    "own_voice",
    "pictures",
    "processing",
    "rigging",
    "stagecraft",
    "wiring",
]
