"""Measuring by hand: what the steps promise is what the estimate gives."""

import numpy as np

from kymaton.core.measuring.lead_estimate import Mark, lead_from_marks
from kymaton.core.measuring.marks_by_hand import CLAPS, steps, sure_ms
from kymaton.core.model import Show
from kymaton.core.model.show import Picture
from tests.core.measuring.recordings import filmed


def test_the_certainty_that_is_promised_is_what_marks_reach_in_the_middle():
    for many in (1, 3, CLAPS):
        reached = []
        for seed in range(200):
            flashes, beeps = filmed(0.1, many, 0.04, exposure=0.0, seed=seed)
            marks = [Mark(f.time_s, f.before_s, b.time_s) for f, b in zip(flashes, beeps, strict=True)]
            reached.append(lead_from_marks(marks).plus_minus_ms)
        assert abs(float(np.mean(reached)) - sure_ms(40.0, many)) < 0.12 * sure_ms(40.0, many)


def test_the_steps_name_the_frame_rate_of_the_show():
    slow, fast = steps(Show()), steps(Show(picture=Picture(rate="60/1")))
    assert len(slow) == 5 and slow[-1] != fast[-1] and f"Clap {CLAPS} times" in slow[1]
    assert "2.9 ms" in slow[0]  # a metre of air at 343 m/s
