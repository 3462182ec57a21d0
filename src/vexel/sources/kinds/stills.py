"""Source kind ``stills``: a numbered image sequence, found by any one of its members."""

import tempfile
from bisect import bisect
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.fit import Fit
from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.time.rate import Rate
from vexel.core.time.source_frames import SourceFrames
from vexel.core.wording import spelled
from vexel.imaging.fitting import fitted_into, placed
from vexel.imaging.images import Header, picture_in
from vexel.imaging.light import Picture, encoded, mixed_light
from vexel.sources.archive import unpacked_stills
from vexel.sources.pictures.sequence_members import Member, members_of
from vexel.sources.pictures.sequence_report import headers_of, report, usual_header
from vexel.sources.protocols import FrameRequest


class StillsFolder:
    """A numbered image sequence.

    Parameters
    ----------
    file : Path
        Any one member, or a ZIP archive of them.
    rate : str
        Pictures a second; a sequence does not state it.
    reverse : bool
        From the last number to the first.
    gaps : str
        What a missing number shows: ``refuse``, ``hold`` the one before, ``blend`` its neighbours, or ``skip`` it.
    between : str
        What stands between two pictures: the one before, or ``blend`` for both.
    other_sizes : str
        A fit for pictures of another size than most, or ``skip`` to leave them out.
    layer : str
        Of layered EXR files; empty takes the main one.
    """

    def __init__(
        self,
        file: Path,
        rate: str,
        reverse: bool = False,
        gaps: str = "refuse",
        between: str = "nearest",
        other_sizes: Fit | Literal["skip"] = "contain",
        layer: str = "",
    ) -> None:
        if file.suffix.lower() == ".zip":
            self._unpacked = tempfile.TemporaryDirectory(prefix="vexel-stills-")
            file = unpacked_stills(file, Path(self._unpacked.name))
        self._folder, self._layer = file.parent, layer
        self._sequence, self._members = members_of(file)
        self._other_sizes = other_sizes
        skipped = self._odd if other_sizes == "skip" else set()
        members = [member for member in self._members if member.name not in skipped]
        self._by_number = {member.number: member for member in members}
        self._numbers = sorted(self._by_number)
        missing = self._sequence.missing
        if gaps in ("refuse", "skip"):
            self._shown: list[int] = [member.number for member in members]
        else:
            out = {member.number for member in self._members if member.name in skipped}
            self._shown = [n for n in range(members[0].number, members[-1].number + 1) if n not in out]
        if reverse:
            self._shown.reverse()
        self._blend = gaps == "blend"
        stamps = tuple(self._stamp(self._mix(number)) for number in self._shown)
        self._slots = SourceFrames(str(Rate.parse(rate).fps), len(stamps), stamps, mixed=between == "blend")
        self._refused = missing if gaps == "refuse" else []
        self._gaps = gaps

    @cached_property
    def _headers(self) -> dict[Header, list[str]]:
        return headers_of(self._folder, self._members)

    @cached_property
    def _usual(self) -> tuple[int, int]:
        """Width and height of most pictures."""
        usual = usual_header(self._headers)
        return usual.width, usual.height

    @cached_property
    def _odd(self) -> set[str]:
        """Names of pictures of another size."""
        readable = ((header, names) for header, names in self._headers.items() if header.width)
        return {name for header, names in readable if (header.width, header.height) != self._usual for name in names}

    @cached_property
    def facts(self) -> SourceFacts:
        """Facts and findings, for which every file's header is read."""
        size, about, findings = report(
            self._folder, self._sequence, self._members, self._headers, self._gaps, self._other_sizes, self._layer
        )
        return SourceFacts(
            time_inputs=("slot",), pictures=True, source_frames=self._slots, size=size, about=about, findings=findings
        )

    def show(self, asked: FrameRequest) -> Picture:
        """The picture of a slot; see `Source.show`."""
        if self._refused:
            raise SourceError(
                f"{self._sequence.pattern}: {len(self._refused):,} of its numbers are missing "
                f"({spelled(self._refused)}): add those files, or set the gaps to hold or blend"
            )
        members = self._members_at(asked)
        pictures = [(picture_in(self._folder / member.name, self._layer), weight) for member, weight in members]
        if self._other_sizes in ("cover", "none"):
            pictures = [(_resized(picture, self._usual, self._other_sizes), weight) for picture, weight in pictures]
        elif len({picture.shape for picture, _ in pictures}) > 1:
            high, wide = pictures[0][0].shape[:2]
            pictures = [(_resized(picture, (wide, high), "contain"), weight) for picture, weight in pictures]
        if len(pictures) == 1:
            return pictures[0][0]
        light = mixed_light((picture, float(weight)) for picture, weight in pictures)
        return light if any(picture.dtype == np.float32 for picture, _ in pictures) else encoded(light)

    def _members_at(self, asked: FrameRequest) -> list[tuple[Member, Fraction]]:
        """Members at a slot, or between it and the next, with their weights; unchanged since the plan."""
        slot, part = int(asked.time_inputs["slot"]), Fraction(asked.time_inputs.get("part", 0))
        shares = [(slot, 1 - part), ((slot + 1) % len(self._shown), part)] if part else [(slot, Fraction(1))]
        mixes = [(self._mix(self._shown[number]), share) for number, share in shares]
        now = "|".join(self._stamp([(self._now(member), weight) for member, weight in mix]) for mix, _ in mixes)
        if now != asked.stamp:
            raise SourceError(f"{mixes[0][0][0][0].name} has changed since this was planned: capture again")
        return [(member, weight * share) for mix, share in mixes for member, weight in mix]

    def _mix(self, number: int) -> list[tuple[Member, Fraction]]:
        """Members that a number shows, with their weights."""
        if number in self._by_number:
            return [(self._by_number[number], Fraction(1))]
        place = bisect(self._numbers, number)
        before, after = self._numbers[place - 1], self._numbers[place]
        if not self._blend:
            return [(self._by_number[before], Fraction(1))]
        share = Fraction(number - before, after - before)
        return [(self._by_number[before], 1 - share), (self._by_number[after], share)]

    def _now(self, member: Member) -> Member:
        """The member as its file is now."""
        try:
            stat = (self._folder / member.name).stat()
        except FileNotFoundError:
            raise SourceError(f"{member.name} is missing since this was planned: restore it") from None
        return Member(member.number, member.name, stat.st_size, stat.st_mtime)

    def _stamp(self, mixed: list[tuple[Member, Fraction]]) -> str:
        return "|".join(f"{member.stamp}*{weight}{self._fitted(member)}" for member, weight in mixed)

    def _fitted(self, member: Member) -> str:
        """The size that a picture is fitted into, which follows from the others."""
        if self._other_sizes not in ("cover", "none") or member.name not in self._odd:
            return ""
        return f"@{self._usual[0]}x{self._usual[1]}"


def _resized(picture: Picture, size: tuple[int, int], fit: Fit) -> Picture:
    """A picture in a size, with clear edges where it does not fill that."""
    pixels: NDArray[Any] = picture
    return placed(fitted_into(pixels, *size, fit), *size)
