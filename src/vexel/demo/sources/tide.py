"""A week of the tide gauge at Tern Point, drawn as the week goes by.

The height is a sum of cosines, one for each constituent of the tide. Their
speeds are those of the IHO's constituent list; heights and lags are made up.
"""

import numpy as np
import skia

from vexel.author import dial, sketch, typeface

SPEED = {"M2": 28.9841042, "S2": 30.0, "N2": 28.4397295, "K1": 15.0410686, "O1": 13.9430356}  # degrees an hour
LAG = {"M2": 96.0, "S2": 138.0, "N2": 74.0, "K1": 31.0, "O1": 302.0}  # degrees, made up
HEIGHT = {"M2": 1.42, "S2": 0.51, "N2": 0.29, "K1": 0.17, "O1": 0.12}  # metres, made up
HOURS = 7 * 24
DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"]
PAPER, INK, WATER, QUIET = 0xFFF3EFE6, 0xFF1F2A33, 0xFF2F7F86, 0xFFB9B2A3


def tide(hours, swell=1.0):
    """Height above mean sea level in metres."""
    return swell * sum(HEIGHT[k] * np.cos(np.radians(SPEED[k] * hours - LAG[k])) for k in SPEED)


@sketch
def week(
    canvas,
    size,
    phase,
    swell=dial(1.0, low=0.2, high=1.4, about="how high the tides run"),
    width=dial(5.0, low=1, high=16, unit="px", about="of the trace"),
):
    wide, high = size
    left, right, top, bottom = 0.08 * wide, 0.95 * wide, 0.16 * high, 0.86 * high

    def x(hours):
        return left + (right - left) * hours / HOURS

    def y(metres):
        return (top + bottom) / 2 - metres * (bottom - top) / 7

    unit = high / 1080
    line = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=2 * unit, Color=QUIET)
    text = skia.Paint(AntiAlias=True, Color=INK)
    small, large = skia.Font(typeface(), 30 * unit), skia.Font(typeface(bold=True), 46 * unit)

    canvas.clear(PAPER)
    for metres in range(-3, 4):
        canvas.drawLine(left, y(metres), right, y(metres), line)
        canvas.drawString(f"{metres:+d} m" if metres else "0 m", left - 90 * unit, y(metres) + 10 * unit, small, text)
    for day, name in enumerate(DAYS):
        canvas.drawLine(x(24 * day), top, x(24 * day), bottom, line)
        canvas.drawString(name, x(24 * day + 12) - 28 * unit, bottom + 56 * unit, small, text)
    canvas.drawString("Tern Point, height of the tide", left, top - 46 * unit, large, text)

    now = HOURS * phase
    hours = np.append(np.arange(0, now, 0.2), now)
    points = [skia.Point(float(x(h)), float(y(m))) for h, m in zip(hours, tide(hours, swell), strict=True)]
    trace = skia.Path()
    trace.addPoly(points, False)
    filled = skia.Path()
    filled.addPoly([skia.Point(x(0), y(-3.5)), *points, skia.Point(x(now), y(-3.5))], True)
    canvas.drawPath(filled, skia.Paint(AntiAlias=True, Color=WATER & 0x2AFFFFFF))
    canvas.drawPath(
        trace,
        skia.Paint(
            AntiAlias=True,
            Style=skia.Paint.kStroke_Style,
            StrokeWidth=width * unit,
            StrokeJoin=skia.Paint.kRound_Join,
            Color=WATER,
        ),
    )
    canvas.drawCircle(points[-1], 13 * unit, skia.Paint(AntiAlias=True, Color=INK))
    label = f"{float(tide(now, swell)):+.2f} m"
    beside = min(points[-1].x() + 24 * unit, right - 150 * unit)
    canvas.drawString(label, beside, points[-1].y() - 24 * unit, large, text)
