"""Beats of music: where it sets in, and the even pulse that runs through that."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.reel.sound.loudness import RATE, Samples

HOP, WINDOW = 480, 2048
"""Samples from one look to the next: a hundredth of a second."""
LOOKS = RATE / HOP
USUAL, SPREAD = 0.5, 0.9
"""Seconds between beats that are most likely (120 a minute), and octaves around it (Ellis 2007)."""
TIGHT = 100.0
"""How much evenness counts against strong onsets (Ellis 2007)."""
FASTEST, SLOWEST = 0.25, 1.5
"""Seconds between beats."""
LEAST_ONSETS = 4
SHORTEST = 2 * RATE
"""Samples in which a pulse can be found."""
BANDS, LOWEST, HIGHEST = 40, 30.0, 16_000.0
"""Bands of hearing that are looked at, and Hz between which they lie."""
BLUR = 2
"""Looks by which onsets are spread where their distance is searched, since it is seldom a whole number of looks."""
EVEN = 0.2
"""Of an even pulse, how like it is to itself a beat later; noise comes to 0.08, music and clicks to 0.5 and more."""


def beats_of(samples: Samples) -> list[float]:
    """Seconds of the beats of a piece; empty where there is no pulse to be found.

    Parameters
    ----------
    samples : ndarray, shape (channels, n)
        At 48 kHz.

    Notes
    -----
    Onsets are where the bands of hearing grow louder, a deep drum as much as a bright one; the tempo is where they
    repeat most, after one beat and after two, near to what people tap; of all rows of beats the one is taken that
    meets strong onsets at even distances, by dynamic programming. A fast piece may be counted at half its tempo, and a
    slow one at twice: people differ there too.

    References
    ----------
    D. P. W. Ellis, "Beat Tracking by Dynamic Programming", Journal of New Music Research 36 (1), 2007.
    """
    onsets = _onsets(samples)
    if np.count_nonzero(onsets > 1) < LEAST_ONSETS:
        return []
    period = _period(onsets)
    return [] if period is None else [float(look / LOOKS) for look in _row(onsets, period)]


def _onsets(samples: Samples) -> NDArray[np.float64]:
    """How much the spectrum grows from look to look, in its own standard deviations."""
    mono = samples.mean(axis=0) if len(samples) else np.zeros(0, np.float32)
    if len(mono) < SHORTEST or not np.any(mono):
        return np.zeros(0)
    padded = np.concatenate([np.zeros(WINDOW // 2, np.float32), mono])
    # Here, as it takes a second to load.
    from scipy.signal import stft

    pitches, _, spectrum = stft(padded, RATE, nperseg=WINDOW, noverlap=WINDOW - HOP, boundary=None, padded=False)
    borders = np.unique(np.searchsorted(_mel(pitches), np.linspace(_mel(LOWEST), _mel(HIGHEST), BANDS + 1)))
    level = np.log1p(1000 * np.add.reduceat(np.abs(spectrum), borders[:-1], axis=0))
    grown = np.maximum(np.diff(level, axis=1, prepend=level[:, :1] * 0), 0).sum(axis=0)
    # Slow swells are no onsets.
    around = np.convolve(grown, np.ones(round(LOOKS)) / round(LOOKS), "same")
    rises = np.maximum(grown - around, 0)
    spread = rises.std()
    return np.asarray(rises / spread if spread > 0 else rises)


def _mel(hertz: Any) -> Any:
    """Pitch on the mel scale (O'Shaughnessy 1987)."""
    return 2595 * np.log10(1 + hertz / 700)


def _period(onsets: NDArray[np.float64]) -> float | None:
    """Looks from beat to beat; None where nothing repeats."""
    spread = np.exp(-0.5 * (np.arange(-4 * BLUR, 4 * BLUR + 1) / BLUR) ** 2)
    blurred = np.convolve(onsets, spread / spread.sum(), "same")
    size = 1 << int(np.ceil(np.log2(2 * len(onsets))))
    repeats = np.fft.irfft(np.abs(np.fft.rfft(blurred - blurred.mean(), size)) ** 2)[: len(onsets)]
    # Of a long distance there are fewer pairs.
    repeats *= len(onsets) / np.maximum(len(onsets) - np.arange(len(onsets)), len(onsets) / 4)
    lags = np.arange(round(FASTEST * LOOKS), min(round(SLOWEST * LOOKS), len(onsets) // 2) - 1)
    if not len(lags):
        return None
    octaves = np.log2(lags / LOOKS / USUAL) / SPREAD
    after_two = np.maximum.reduce([repeats[2 * lags + near] for near in (-1, 0, 1)])
    weighed = (repeats[lags] + after_two / 2) * np.exp(-0.5 * octaves**2)
    best = int(np.argmax(weighed))
    if repeats[lags[best]] < EVEN * repeats[0]:
        return None
    # The true period lies between two looks: the top of a parabola through the neighbours.
    if 0 < best < len(lags) - 1:
        before, here, after = weighed[best - 1 : best + 2]
        curve = before - 2 * here + after
        return float(lags[best] + (0.5 * (before - after) / curve if curve else 0))
    return float(lags[best])


def _row(onsets: NDArray[np.float64], period: float) -> list[int]:
    """The beats, as looks."""
    count = len(onsets)
    reach = np.arange(-round(2 * period), -round(period / 2) + 1)
    cost = -TIGHT * np.log(-reach / period) ** 2
    score, back = onsets.copy(), np.full(count, -1)
    first = True
    for look in range(count):
        places = look + reach
        inside = places >= 0
        if not inside.any():
            continue
        found = cost[inside] + score[places[inside]]
        best = int(np.argmax(found))
        # Silence before the first onset is no beat.
        if first and onsets[look] < 0.01 * onsets.max():
            continue
        first = False
        score[look] += found[best]
        back[look] = places[inside][best]
    beats = [int(np.argmax(score[-max(round(period), 1) :])) + max(count - max(round(period), 1), 0)]
    while back[beats[-1]] >= 0:
        beats.append(int(back[beats[-1]]))
    return beats[::-1]
