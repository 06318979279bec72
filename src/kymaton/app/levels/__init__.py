"""The step Levels: the ladder of a sound, what comes to a listener or a device, and the gains to set."""
