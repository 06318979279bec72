"""What recordings tell: events in picture and sound, the lead between them, two recordings laid over each other."""
