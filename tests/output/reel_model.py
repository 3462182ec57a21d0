"""What a reel shows when, worked out from its document alone: an independent model, for tests.

It knows docs/guides/reel.md, and nothing of the product's code. Each item is a function from a time, in frames from its
beginning, to a picture of linear light; items are joined, repeated and paced as functions of functions.
"""

from fractions import Fraction
from math import ceil, floor

import numpy as np
from scipy.optimize import brentq

HALF = Fraction(1, 2)
EASES = {"linear": None, "ease-in": (0.42, 0, 1, 1), "ease-out": (0, 0, 0.58, 1), "ease-in-out": (0.42, 0, 0.58, 1)}
"""Control points as CSS Easing Functions names them."""


def light(codes):
    """sRGB codes to linear light (IEC 61966-2-1)."""
    share = np.asarray(codes, float) / 255
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)


def codes(linear):
    linear = np.clip(linear, 0, 1)
    return 255 * np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


def of_hex(text):
    return light([int(text[n : n + 2], 16) for n in (1, 3, 5)])


def eased(name, share):
    points = EASES[name]
    if points is None or share in (0, 1):
        return Fraction(share)
    x1, y1, x2, y2 = points

    def curve(s, a, b):
        return 3 * (1 - s) ** 2 * s * a + 3 * (1 - s) * s * s * b + s**3

    s = brentq(lambda s: curve(s, x1, x2) - float(share), 0, 1, xtol=1e-15)
    return Fraction(curve(s, y1, y2))


def nearest(value):
    """Round, halves up."""
    return floor(value + HALF)


class Model:
    """A reel's model.

    Parameters
    ----------
    document : dict
    media : dict of str to (int, callable)
        Frames of each folder of stills, and the code of a frame, shape (3,).
    reels : dict of str to dict
        Documents of the reels that items may name.
    size : (int, int)
    nudge : Fraction
        Added to what an easing gives, so that a rounded half may fall on either side.
    """

    def __init__(self, document, media, reels, size, nudge=Fraction(0)):
        self.media, self.reels, self.size, self.nudge = media, reels, size, nudge
        self.ground = of_hex(document.get("background", "#000000"))
        fps = Fraction(document["rate"])
        self.count, self.picture = self.row(document["items"], fps)
        fitted = self.length(document, fps)
        if fitted is not None and fitted != self.count:
            inner, pace = self.picture, Fraction(self.count, fitted)
            self.count, self.picture = fitted, lambda t: inner(t * pace)

    def plain(self, colour):
        return np.broadcast_to(colour, (self.size[1], self.size[0], 3))

    @staticmethod
    def length(item, fps):
        if item.get("frames") is not None:
            return item["frames"]
        return None if item.get("seconds") is None else max(nearest(Fraction(repr(item["seconds"])) * fps), 1)

    def row(self, items, fps):
        """Items one after another; of a transition each pair of neighbours shares some frames."""
        made = [self.item(item, fps) for item in items]
        starts, shared, at = [0], [], 0
        for n, item in enumerate(items[:-1]):
            wanted = item.get("transition", {}).get("frames", 0)
            left = made[n][0] - (shared[-1] if shared else 0)
            shared.append(max(min(wanted, left, made[n + 1][0]), 0))
            at += made[n][0] - shared[-1]
            starts.append(at)

        def picture(t):
            n = max(k for k, start in enumerate(starts) if start <= t)
            own = made[n][1](t - starts[n])
            if n and t - starts[n] < shared[n - 1]:
                transition = items[n - 1]["transition"]
                share = eased(transition.get("ease", "linear"), (t - starts[n] + 1) / (shared[n - 1] + 1))
                return self.joined(transition, made[n - 1][1](t - starts[n - 1]), own, float(share))
            return own

        return at + made[-1][0], picture

    def joined(self, transition, one, other, share):
        if transition["kind"] == "cross-dissolve":
            return one * (1 - share) + other * share
        if transition["kind"] == "dip-to-colour":
            colour = self.plain(of_hex(transition.get("colour", "#000000")))
            if share < 0.5:
                return one * (1 - 2 * share) + colour * 2 * share
            return colour * (2 - 2 * share) + other * (2 * share - 1)
        # Towards the left the next picture comes from the right; up, from below.
        towards = transition.get("towards", "left")
        axis, far = (1, towards == "left") if towards in ("left", "right") else (0, towards == "up")
        side = one.shape[axis]
        new = round(side * share)
        if transition["kind"] == "slide":
            whole = np.concatenate([one, other] if far else [other, one], axis=axis)
            begin = new if far else side - new
            return np.take(whole, range(begin, begin + side), axis=axis)
        place = np.arange(side)
        shown = place >= side - new if far else place < new
        return np.where(shown[None, :, None] if axis else shown[:, None, None], other, one)

    def item(self, item, fps):
        """Frames of an item and its function of time."""
        kind = item["kind"]
        if kind == "stills":
            return self.stills(item, fps)
        if kind == "gap":
            return self.length(item, fps) or nearest(3 * fps), lambda t: self.plain(self.ground)
        if kind == "title":
            colour = of_hex(item["background"])
            return self.length(item, fps) or nearest(3 * fps), lambda t: self.plain(colour)
        if kind == "reel":
            return self.nested(item, fps)
        count, picture = self.row(item["items"], fps)
        return self.paced(item, fps, count, picture, Fraction(1))

    def nested(self, item, fps):
        """Another reel, frame by frame at the times that its own rate gives."""
        document = self.reels[item["reel"]]
        own = Fraction(document["rate"])
        count, picture = self.row(document["items"], own)
        stated = self.length(document, own)
        if stated is not None and item.get("seconds") is None and item.get("frames") is None:
            lasts = stated * item.get("repeat", 1) / own / Fraction(repr(item.get("speed", 1)))
            item = {name: value for name, value in item.items() if name != "speed"} | {
                "frames": max(nearest(lasts * fps), 1)
            }
        elif item.get("seconds") is not None or item.get("frames") is not None:
            item = {name: value for name, value in item.items() if name != "speed"}
        return self.paced(item, fps, count, picture, own / fps)

    def paced(self, item, fps, count, picture, ratio):
        """A row again and again, faster or fitted."""
        whole = count * item.get("repeat", 1)
        stated = self.length(item, fps)
        pace = Fraction(repr(item.get("speed", 1))) * ratio if stated is None else Fraction(whole, stated)
        lasts = max(nearest(whole / pace), 1) if stated is None else stated
        ease = item.get("ease", "linear")

        def at(t):
            inner = t * pace if ease == "linear" else (eased(ease, t / lasts) + self.nudge) * whole
            # A last frame is rounded to a whole one: within it nothing comes after the end.
            return picture(inner % count if inner < whole else Fraction(count - 1))

        return lasts, at

    def stills(self, item, fps):
        """Frames in an order, repeated, held, at a speed or fitted from the first to the last."""
        count, code = self.media[item["file"]]
        first, last = item.get("first", 0), item.get("last", count - 1)
        numbers = list(range(first, last + 1))
        if item.get("order") == "backward":
            numbers = numbers[::-1]
        elif item.get("order") == "there-and-back":
            numbers = numbers + numbers[-2::-1]
        numbers = numbers * item.get("repeat", 1)
        stated = self.length(item, fps)
        rate = Fraction(item["rate"]) if item.get("rate") else fps
        if stated is None:
            pace = rate * Fraction(repr(item.get("speed", 1))) / fps
            moving = max(nearest(len(numbers) / pace), 1)
        else:
            moving = stated
            pace = Fraction(len(numbers) - 1, moving - 1) if moving > 1 else Fraction(len(numbers))
        before, after = item.get("hold_start", 0), item.get("hold_end", 0)

        def picture(t):
            place = min(max(t - before, Fraction(0)), Fraction(moving - 1)) * pace
            place = min(place, Fraction(len(numbers) - 1))
            if item.get("between") == "blend" and place.denominator > 1:
                low, part = floor(place), float(place % 1)
                return self.plain(light(code(numbers[low])) * (1 - part) + light(code(numbers[low + 1])) * part)
            # Of two that are equally near the earlier.
            return self.plain(light(code(numbers[ceil(place - HALF)])))

        return before + moving + after, picture
