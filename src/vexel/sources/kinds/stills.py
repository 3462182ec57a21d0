"""Source kind ``stills``: a numbered image sequence, found by any one of its members."""

import tempfile
from bisect import bisect
from fractions import Fraction
from functools import cached_property
from pathlib import Path

import numpy as np

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.time.rate import Rate
from vexel.core.time.source_frames import SourceFrames
from vexel.core.wording import spelled
from vexel.imaging.images import picture_in
from vexel.imaging.light import Picture, encoded, mixed_light
from vexel.sources.archive import unpacked_stills
from vexel.sources.pictures.sequence_members import Member, members_of
from vexel.sources.pictures.sequence_report import headers_of, report
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
        layer: str = "",
    ) -> None:
        if file.suffix.lower() == ".zip":
            self._unpacked = tempfile.TemporaryDirectory(prefix="vexel-stills-")
            file = unpacked_stills(file, Path(self._unpacked.name))
        self._folder, self._layer = file.parent, layer
        self._sequence, members = members_of(file)
        self._by_number = {member.number: member for member in members}
        self._numbers = sorted(self._by_number)
        missing = self._sequence.missing
        if gaps in ("refuse", "skip"):
            self._shown: list[int] = [member.number for member in members]
        else:
            self._shown = list(range(members[0].number, members[-1].number + 1))
        if reverse:
            self._shown.reverse()
        self._blend = gaps == "blend"
        stamps = tuple(_stamp(self._mix(number)) for number in self._shown)
        self._slots = SourceFrames(str(Rate.parse(rate).fps), len(stamps), stamps, mixed=between == "blend")
        self._refused = missing if gaps == "refuse" else []
        self._members, self._gaps = members, gaps

    @cached_property
    def facts(self) -> SourceFacts:
        """Facts and findings, for which every file's header is read."""
        headers = headers_of(self._folder, self._members)
        size, about, findings = report(self._folder, self._sequence, self._members, headers, self._gaps, self._layer)
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
        if len({picture.shape for picture, _ in pictures}) > 1:
            names = " and ".join(member.name for member, _ in members)
            raise SourceError(f"{names} differ in size, so they cannot be blended: hold instead")
        if len(pictures) == 1:
            return pictures[0][0]
        light = mixed_light((picture, float(weight)) for picture, weight in pictures)
        return light if any(picture.dtype == np.float32 for picture, _ in pictures) else encoded(light)

    def _members_at(self, asked: FrameRequest) -> list[tuple[Member, Fraction]]:
        """Members at a slot, or between it and the next, with their weights; unchanged since the plan."""
        slot, part = int(asked.time_inputs["slot"]), Fraction(asked.time_inputs.get("part", 0))
        shares = [(slot, 1 - part), ((slot + 1) % len(self._shown), part)] if part else [(slot, Fraction(1))]
        mixes = [(self._mix(self._shown[number]), share) for number, share in shares]
        now = "|".join(_stamp([(self._now(member), weight) for member, weight in mix]) for mix, _ in mixes)
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


def _stamp(mixed: list[tuple[Member, Fraction]]) -> str:
    return "|".join(f"{member.stamp}*{weight}" for member, weight in mixed)
