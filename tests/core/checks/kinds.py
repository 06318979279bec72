"""Which kinds of finding are tried in which module of tests."""

LEVELS = {
    "clips", "hot", "noisy", "loudness-off-goal", "apart-on-one-gain", "microphone-far", "monitors-loud", "late-gain",
}  # fmt: skip
