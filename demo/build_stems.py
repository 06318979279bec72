"""Synthesises the demo stems: speech by a speech synthesiser, music and effects by arithmetic. No recording of anyone.

Run with `make demo-stems`; it needs the program espeak-ng. The talkers take turns, so that in an audition of *Guest
talk* everything made between 4.8 and 10.3 s comes from Ilse's voice.
"""

import subprocess
import tempfile
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

RATE_HZ = 48_000
SECONDS = 20
LEVEL_DBFS = -23.0
BEAT_S = 0.6  # 100 beats a minute
FOLDER = Path(__file__).parent / "stems"
Audio = NDArray[np.float64]
SPEECH = {
    "maren": (
        "en-gb+f3",
        172,
        48,
        0.15,
        "Ilse, from the bridge of a pilot boat: how do you see a wave before it arrives?",
    ),
    "ilse": (
        "en-gb-scotland+f4",
        172,
        62,
        4.85,
        "You watch the colour of the water. Dark lines first, then the boat lifts.",
    ),
    "nadir": ("en-us+m7", 160, 30, 10.4, "We measure the same thing with a buoy. It is late by about one wave."),
    "teo-voice": ("en-gb+m3", 150, 40, 14.6, "And I play it in six eight. Listen."),
    "quill": ("en-gb-x-rp+m1", 190, 55, 10.6, "Two minutes to the song."),
}


def silence() -> Audio:
    return np.zeros(SECONDS * RATE_HZ)


def speech(voice: str, speed: int, pitch: int, start_s: float, text: str) -> Audio:
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        subprocess.run(
            ["espeak-ng", "-v", voice, "-s", str(speed), "-p", str(pitch), "-w", file.name, text], check=True
        )
        samples, rate = soundfile.read(file.name)
    voice_samples = soxr.resample(samples, rate, RATE_HZ)
    loud = np.flatnonzero(np.abs(voice_samples) > 1e-3)
    return placed(silence(), voice_samples[loud[0] : loud[-1]], start_s)


def placed(track: Audio, samples: Audio, start_s: float, gain: float = 1.0) -> Audio:
    start = round(start_s * RATE_HZ)
    end = min(len(track), start + len(samples))
    if end > start:
        track[start:end] += gain * samples[: end - start]
    return track


def levelled(track: Audio) -> Audio:
    """RMS of the part that sounds, brought to LEVEL_DBFS; both channels of a pair by the same gain."""
    mono = np.sqrt(np.mean(np.atleast_2d(track.T) ** 2, axis=0))
    blocks = mono[: len(mono) // 960 * 960].reshape(-1, 960)
    power = (blocks**2).mean(axis=1)
    active = power > power.max() * 1e-4
    rms = np.sqrt(power[active].mean()) * np.sqrt(2.0)  # AES17: a full-scale sine is 0 dBFS
    result = track * (10 ** (LEVEL_DBFS / 20) / rms)
    return np.clip(result, -0.99, 0.99)


def time_of(seconds: float) -> Audio:
    return np.arange(round(seconds * RATE_HZ)) / RATE_HZ


def shaped(samples: Audio, attack_s: float, release_s: float) -> Audio:
    n = len(samples)
    rise, fall = max(1, round(attack_s * RATE_HZ)), max(1, round(release_s * RATE_HZ))
    shape = np.minimum(1.0, np.minimum(np.arange(n) / rise, np.arange(n)[::-1] / fall))
    return samples * shape


def pitch_hz(note: int) -> float:
    return 440.0 * 2 ** ((note - 69) / 12)


def reed(note: int, seconds: float) -> Audio:
    """Two reeds a few cents apart, rich in overtones."""
    t, f = time_of(seconds), pitch_hz(note)
    sound = sum(np.sin(2 * np.pi * f * k * detune * t + k) / k**1.1 for k in range(1, 13) for detune in (1.0, 1.0035))
    return shaped(np.asarray(sound), 0.03, 0.05)


TUNE = (
    (62, 1.5), (66, 0.5), (69, 1.0), (71, 1.5), (69, 0.5), (66, 1.0), (67, 1.5), (64, 0.5), (62, 1.0), (64, 3.0),
    (69, 1.5), (71, 0.5), (74, 1.0), (73, 1.5), (71, 0.5), (69, 1.0), (67, 1.5), (66, 0.5), (64, 1.0), (62, 3.0),
)  # fmt: skip
CHORDS = ((50, 57, 62, 66), (47, 54, 59, 66), (43, 55, 59, 62), (45, 52, 57, 61))


def concertina() -> Audio:
    track, beat = silence(), 0.0
    while beat * BEAT_S < SECONDS - 2:
        for note, length in TUNE:
            placed(track, reed(note, length * BEAT_S * 0.95), beat * BEAT_S)
            beat += length
    return track


def backing() -> Audio:
    left, right = silence(), silence()
    generator = np.random.default_rng(5)
    beats = int((SECONDS - 1) / BEAT_S)
    for beat in range(beats):
        start = beat * BEAT_S
        chord = CHORDS[beat // 3 % len(CHORDS)]
        if beat % 3 == 0:
            t = time_of(3 * BEAT_S)
            for number, note in enumerate(chord):
                pad = shaped(
                    np.sin(2 * np.pi * pitch_hz(note) * t) + 0.3 * np.sin(4 * np.pi * pitch_hz(note) * t), 0.2, 0.3
                )
                placed(left if number % 2 else right, pad, start, 0.5)
                placed(right if number % 2 else left, pad, start, 0.2)
            t = time_of(0.9)
            bass = np.sin(2 * np.pi * pitch_hz(chord[0] - 12) * t) * np.exp(-3 * t)
            placed(left, bass, start, 1.4)
            placed(right, bass, start, 1.4)
        t = time_of(0.08)
        brush = generator.normal(size=len(t)) * np.exp(-60 * t)
        placed(right, brush, start, 0.3)
        placed(left, brush, start + BEAT_S / 2, 0.15)
    return np.stack([left, right], axis=1)


def click() -> Audio:
    track = silence()
    for beat in range(int(SECONDS / BEAT_S)):
        t = time_of(0.03)
        tone = np.sin(2 * np.pi * (1600 if beat % 3 == 0 else 1200) * t) * np.exp(-90 * t)
        placed(track, tone, beat * BEAT_S)
    return track


def gull(length_s: float, top_hz: float) -> Audio:
    t = time_of(length_s)
    bend = top_hz * (1 - 0.35 * (t / length_s) ** 1.5)
    phase = 2 * np.pi * np.cumsum(bend) / RATE_HZ
    return shaped(np.sin(phase) + 0.4 * np.sin(2 * phase) + 0.2 * np.sin(3 * phase), 0.03, 0.1)


def effects() -> Audio:
    left, right = silence(), silence()
    for start, top, side in ((0.6, 1900, 0.8), (1.1, 2100, 0.7), (1.7, 1800, 0.3), (2.6, 2000, 0.2), (3.3, 1750, 0.6)):
        cry = gull(0.42, top)
        placed(left, cry, start, side)
        placed(right, cry, start, 1 - side)
    t = time_of(2.6)
    horn = shaped(sum(np.sin(2 * np.pi * 98 * k * t + 0.3 * k) / k for k in range(1, 9)), 0.25, 0.5)  # type: ignore[arg-type]
    placed(left, horn, 16.9, 0.8)
    placed(right, horn, 16.9, 0.8)
    return np.stack([left, right], axis=1)


def phone() -> Audio:
    track = silence()
    for start in (14.2, 16.2):
        t = time_of(0.9)
        ring = (np.sin(2 * np.pi * 440 * t) + np.sin(2 * np.pi * 480 * t)) * (np.sin(2 * np.pi * 20 * t) > 0)
        placed(track, shaped(ring, 0.01, 0.02), start, 0.5)
    voice = speech("en-gb+f1", 175, 60, 18.0, "Hello? Am I on the air?")
    band = butter(2, (300, 3400), "bandpass", fs=RATE_HZ, output="sos")
    return track + 2.0 * np.asarray(sosfilt(band, voice))


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    tracks = {name: speech(*line) for name, line in SPEECH.items()}
    tracks |= {
        "concertina": concertina(),
        "backing": backing(),
        "click": click(),
        "effects": effects(),
        "phone": phone(),
    }
    for name, track in tracks.items():
        soundfile.write(FOLDER / f"{name}.flac", levelled(track), RATE_HZ, subtype="PCM_16")


if __name__ == "__main__":
    main()
