"""Sound put into films: the picture copied bit for bit."""
