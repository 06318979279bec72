"""What is played: passages go round and takes are changed without a gap."""

import numpy as np

from kymaton.app.tape import FRAME_BYTES, Tape


def ramp(start: float, many: int = 100) -> np.ndarray:
    return np.repeat(np.arange(start, start + many, dtype=np.float32)[:, None], 2, axis=1)


def test_it_plays_to_the_end_and_no_further():
    tape = Tape([ramp(0)], 10)
    assert (tape.frames(60)[:, 0] == np.arange(60)).all() and not tape.atEnd()
    assert (tape.frames(60)[:, 1] == np.arange(60, 100)).all() and tape.atEnd()
    assert len(tape.frames(5)) == 0 and tape.at_s == 10.0


def test_a_passage_goes_round_without_a_gap():
    tape = Tape([ramp(0)], 10)
    tape.set_passage(2.0, 3.0)
    tape.loop = True
    assert tape.frames(25)[:, 0].tolist() == [*range(20, 30), *range(20, 30), *range(20, 25)]
    tape.set_passage(9.0, 5.0)  # the other way round, and elsewhere than it stands
    assert tape.frames(3)[:, 0].tolist() == [50, 51, 52]
    tape.set_passage(4.0, 4.0)
    assert tape.passage == (0, 100)


def test_takes_are_changed_where_it_stands_and_a_shorter_one_ends_in_silence():
    tape = Tape([ramp(0), ramp(1000, 50)], 10)
    assert tape.frames(30)[-1, 0] == 29
    tape.take = 1
    told = tape.frames(40)[:, 0]
    assert told[:20].tolist() == list(range(1030, 1050)) and not told[20:].any()
    tape.take = 0
    assert tape.frames(1)[0, 0] == 70


def test_the_output_reads_it_as_frames_of_32_bit_floats():
    tape = Tape([ramp(0)], 10)
    data = tape.read(10 * FRAME_BYTES)
    assert np.frombuffer(bytes(data), "<f4").reshape(-1, 2)[:10, 0].tolist() == list(range(10))
