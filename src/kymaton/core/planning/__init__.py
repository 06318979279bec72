"""What would make it right: fixes, mix-minus, delays; each proved by solving the show again."""
