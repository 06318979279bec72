"""Levels along the way: what comes to each socket, what it takes, the noise added, and the gains this asks for."""
