"""Parts of the brief: the shot as one sentence, each value with the sheet that edits it."""

from dataclasses import dataclass
from typing import Literal

Topic = Literal["", "source", "clock", "camera", "lens", "lanes", "picture", "sweep"]


@dataclass(frozen=True)
class BriefPart:
    """A few words of the brief.

    Attributes
    ----------
    text : str
    topic : str
        The sheet that edits it; empty for the words between values.
    name : str
        What the value is.
    only : {"", "camera", "picture"}
        Whether it appears only where a camera looks at the source, or only where the source gives pictures.
    colours : tuple of str
        Colours that are shown beside it, from above to below.
    """

    text: str
    topic: Topic = ""
    name: str = ""
    only: Literal["", "camera", "picture"] = ""
    colours: tuple[str, ...] = ()


def listed(words: list[str]) -> str:
    """Words as a list: ``a, b and c``."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def turns_in_words(turns: float) -> str:
    """How many times something turns."""
    named = {0.5: "half a turn", 1: "once", 2: "twice"}
    return named.get(turns) or f"{turns:.6g} times"


def elevation_in_words(degrees: float) -> str:
    """How high a camera is."""
    return f"{degrees:.6g}° elevation".replace("-", "−")


def article_of(number: str) -> str:
    """The indefinite article before a number that is read aloud, such as ``an 85 mm lens``."""
    whole = number.partition(".")[0]
    return "an" if whole.startswith("8") or whole in ("11", "18") else "a"
