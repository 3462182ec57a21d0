"""Timecode, and lengths as people type them.

Drop-frame counting after SMPTE ST 12-1: at rates over 1001 the labels of the
first frames of each minute are skipped, except in every tenth minute, so that
labels keep step with the clock on the wall. No frame is dropped.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

from vexel.core.errors import Mistake
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.core.typed_number import read_number

_CODE = re.compile(r"(\d{1,2}):([0-5]?\d):([0-5]?\d)([:;])(\d{1,3})")
_WALL = re.compile(r"(?:(\d+):)?(\d+):([0-5]?\d(?:\.\d+)?)")
_AMOUNT = re.compile(r"(\d[\d,]*(?:\.\d*)?|\.\d+|\d+/\d+)\s*([a-z]*)")
_SECONDS = {"": 1, "s": 1, "sec": 1, "second": 1, "seconds": 1, "min": 60, "m": 60, "minutes": 60, "h": 3600}


@dataclass(frozen=True)
class Length:
    """A typed length: in frames, or in seconds; the other is None."""

    frames: int | None = None
    seconds: Fraction | None = None


def timecode(frame: int, rate: Rate) -> str:
    """The label of a frame, drop-frame where the rate has it.

    Returns
    -------
    str
        ``hh:mm:ss:ff``, or ``hh:mm:ss;ff`` in drop-frame counting.

    Raises
    ------
    Mistake
        When the rate has no timecode.
    """
    nominal, dropped = _counting(rate)
    if dropped:
        # Ten minutes skip labels nine times: the first minute of them is whole.
        tens, rest = divmod(frame, nominal * 600 - 9 * dropped)
        frame += 9 * dropped * tens
        if rest >= nominal * 60:
            frame += dropped * ((rest - nominal * 60) // (nominal * 60 - dropped) + 1)
    seconds, left = divmod(frame, nominal)
    minutes, second = divmod(seconds, 60)
    hour, minute = divmod(minutes, 60)
    digits = max(2, len(str(nominal - 1)))
    return f"{hour:02d}:{minute:02d}:{second:02d}{';' if dropped else ':'}{left:0{digits}d}"


def frame_of(text: str, rate: Rate) -> int:
    """The frame that a timecode labels.

    Raises
    ------
    Mistake
        When it is no timecode, or labels no frame at this rate.
    """
    form = _CODE.fullmatch(text.strip())
    if form is None:
        raise Mistake(f"{text.strip()!r} is not a timecode: write hours:minutes:seconds:frames, such as 00:01:30:12")
    nominal, dropped = _counting(rate)
    hour, minute, second, left = (int(form[n]) for n in (1, 2, 3, 5))
    if left >= nominal:
        raise Mistake(f"timecode {text.strip()} has frame {left}, but at {rate.label} they go from 0 to {nominal - 1}")
    frame = ((hour * 60 + minute) * 60 + second) * nominal + left
    if form[4] == ":":
        return frame
    if not dropped:
        raise Mistake(f"timecode {text.strip()} drops frames, which {rate.label} does not: write a colon for the ;")
    if second == 0 and left < dropped and minute % 10:
        raise Mistake(f"timecode {text.strip()} labels no frame: ;00 to ;{dropped - 1:02d} are skipped at that minute")
    minutes = hour * 60 + minute
    return frame - dropped * (minutes - minutes // 10)


def read_length(text: str, rate: Rate) -> Length:
    """A length as people type it: ``12s``, ``1:30``, ``450f`` or ``00:00:05;00``.

    A bare number is in seconds.

    Raises
    ------
    Mistake
        When it is none of these.
    """
    code = text.strip().lower().replace("\u2009", "")
    if _CODE.fullmatch(code):
        return Length(frames=frame_of(code, rate))
    if wall := _WALL.fullmatch(code):
        return Length(seconds=int(wall[1] or 0) * 3600 + int(wall[2]) * 60 + Fraction(wall[3]))
    amount = _AMOUNT.fullmatch(code)
    if amount is not None and amount[2] in _SECONDS:
        return Length(seconds=read_number(amount[1]) * _SECONDS[amount[2]])
    if amount is not None and amount[2] in ("f", "fr", "frame", "frames"):
        frames = read_number(amount[1])
        if frames.denominator != 1:
            raise Mistake(f"{decimal(frames)} frames is not a whole number of frames")
        return Length(frames=frames.numerator)
    raise Mistake(f"{text.strip()!r} is not a length: write seconds (12s), minutes (1:30), frames (450f) or a timecode")


def has_timecode(rate: Rate) -> bool:
    """Whether frames of this rate can be labelled with timecode."""
    return rate.fps.denominator in (1, 1001)


def _counting(rate: Rate) -> tuple[int, int]:
    """Frames that are counted a second, and labels skipped a minute."""
    if not has_timecode(rate):
        raise Mistake(f"{rate.label} has no timecode, which counts whole frames per second: use seconds or frames")
    nominal = round(rate.fps)
    dropped = nominal // 15 if rate.fps.denominator == 1001 and nominal % 30 == 0 else 0
    return nominal, dropped
