"""Stand-ins for devices outside: each runs without hardware."""
