"""Loudness of sound and its true peak (ITU-R BS.1770-5, EBU R 128)."""

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]
"""Shape (channels, n), from -1 to 1, at 48 kHz."""
RATE = 48_000
PEAK_DB = -1.0
"""dBTP that programmes do not exceed (EBU R 128)."""
# Coefficients at 48 kHz (BS.1770-5, annex 1, tables 1 and 2): the head, and what is heard of low frequencies.
_HEAD = ([1.53512485958697, -2.69169618940638, 1.19839281085285], [1.0, -1.69065929318241, 0.73248077421585])
_LOW = ([1.0, -2.0, 1.0], [1.0, -1.99004745483398, 0.99007225036621])
_BLOCK, _STEP = RATE * 4 // 10, RATE // 10
_PART, _AROUND = 10 * RATE, 256
"""Samples that are worked on at once, and those around them that the filter of `true_peak` reaches."""
_ABSOLUTE, _RELATIVE = -70.0, -10.0


def loudness(samples: Samples) -> float | None:
    """Integrated loudness in LUFS; None where nothing is above the absolute gate."""
    count = samples.shape[1]
    if count == 0:
        return None
    # What is shorter than a block is one block.
    steps = max((count - _BLOCK) // _STEP, 0) + _BLOCK // _STEP
    sums = np.zeros(steps + 1)
    for channel in samples:
        sums[1:] += np.cumsum(_energies(channel, steps))
    reach = _BLOCK // _STEP
    powers = (sums[reach:] - sums[:-reach]) / min(_BLOCK, count)
    powers = powers[_units(powers) > _ABSOLUTE]
    if not len(powers):
        return None
    gate = float(_units(powers.mean())) + _RELATIVE
    return float(_units(powers[_units(powers) > gate].mean()))


def _energies(channel: NDArray[np.float32], steps: int) -> NDArray[np.float64]:
    """Sum of squares of what is heard of a channel, step by step of a tenth of a second; worked out part by part."""
    # Here, as it takes a second to load, which reels without sound would wait for too.
    from scipy.signal import lfilter

    found = np.zeros(steps)
    after_head, after_low = (np.zeros(max(len(a), len(b)) - 1) for b, a in (_HEAD, _LOW))
    for begin in range(0, steps * _STEP, _PART):
        part = channel[begin : min(begin + _PART, steps * _STEP)].astype(np.float64)
        head, after_head = lfilter(*_HEAD, part, zi=after_head)
        heard, after_low = lfilter(*_LOW, head, zi=after_low)
        heard = np.pad(heard, (0, -len(heard) % _STEP))
        energies = (heard.reshape(-1, _STEP) ** 2).sum(axis=1)
        found[begin // _STEP : begin // _STEP + len(energies)] = energies
    return found


def true_peak(samples: Samples) -> float:
    """Highest level between samples too, in dBTP, by four times as many samples (annex 2)."""
    from scipy.signal import resample_poly

    count = samples.shape[1]
    # Parts overlap by more than the filter's length, so that none of their ends is heard as a click.
    parts = (
        resample_poly(channel[max(begin - _AROUND, 0) : begin + _PART + _AROUND], 4, 1)[
            4 * min(begin, _AROUND) : 4 * (min(begin, _AROUND) + min(_PART, count - begin))
        ]
        for channel in samples
        for begin in range(0, count, _PART)
    )
    peak = max((float(np.abs(part).max(initial=0)) for part in parts), default=0.0)
    return 20 * float(np.log10(max(peak, 1e-10)))


def gain_to(samples: Samples, target: float) -> tuple[float, str]:
    """Gain in dB that brings sound to a loudness, and what prevents it; 0 dB for silence."""
    found = loudness(samples)
    if found is None:
        return 0.0, "the sound is silent, so its loudness is left"
    wanted, room = target - found, PEAK_DB - true_peak(samples)
    if wanted > room:
        return room, f"{target:g} LUFS would lift peaks above {PEAK_DB:g} dBTP: it is {found + room:.1f} LUFS"
    return wanted, ""


def _units(power: NDArray[np.float64] | float) -> NDArray[np.float64]:
    return np.asarray(-0.691 + 10 * np.log10(np.maximum(power, 1e-20)))
