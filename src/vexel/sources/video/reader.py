"""Any frame of a video file by its number: that which decoding from the start gives."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av

from vexel.core.errors import SourceError
from vexel.sources.video.index import VideoIndex, identity
from vexel.sources.video.opening import open_media

STEPS_ON = 12
"""This number of frames is decoded sooner than from a new start at an earlier point."""
_ALPHA_DECODERS = {"vp8": "libvpx", "vp9": "libvpx-vp9"}


class VideoReader:
    """A file whose frames are decoded by number, each held against its packet.

    A seek lands where its container likes. So packets are known by what is in
    them, and decoding begins at one that the index names, or at the start.

    Parameters
    ----------
    file : Path
    index : VideoIndex
    """

    def __init__(self, file: Path, index: VideoIndex) -> None:
        self._file, self._index = file, index
        self._open()
        self.keeps_alpha = self._separate is not None
        self._frames: Iterator[Any] | None = None
        self._reached = -1  # the last frame that was decoded
        self._unfit: set[int] = set()
        self._missing: set[int] = set()

    def frame(self, number: int) -> Any:
        """A decoded frame.

        Raises
        ------
        SourceError
            When it cannot be decoded.
        """
        frame = None if number in self._missing else self._go_on_to(number)
        restarts = iter(()) if number in self._missing else self._index.restarts_before(number)
        tried: list[int] = []
        while frame is None and (restart := next(restarts, None)) is not None:
            if restart in self._unfit:
                continue
            # Where the nearest two points do not lead there, only the start can.
            restart = restart if len(tried) < 2 else 0
            tried.append(restart)
            self._frames = self._decoding(restart)
            frame = self._reach(number)
            if restart == 0:
                break
        if frame is None:
            self._missing.add(number)
            raise SourceError(f"{self._file.name} is damaged: its frame {number:,} cannot be decoded; export it again")
        # Decoding gives something else from these points than from an earlier one, so they are none.
        self._unfit.update(tried[:-1])
        return frame

    def _go_on_to(self, number: int) -> Any:
        """The frame, where decoding onwards is not slower than a new start; else None."""
        if self._frames is None or not self._reached < number:
            return None
        restart = next(point for point in self._index.restarts_before(number) if point not in self._unfit)
        if number - self._reached < STEPS_ON or self._index.numbers.get(restart, 0) <= self._reached:
            return self._reach(number)
        return None

    def _reach(self, number: int) -> Any:
        """Decode as far as a frame; None, with an end to this decoding, where it does not come."""
        for frame in self._frames or ():
            self._reached = self._index.numbers.get(frame.pts, -1)
            if self._reached == number:
                return frame
            if self._reached > number:
                break
        self._frames = None
        return None

    def _decoding(self, first: int) -> Iterator[Any]:
        """Frames from a packet on, in the order in which they are shown, each with its packet's place as its time."""
        begun, numbers = first == 0, self._index.numbers
        for place, packet in self._packets(first):
            if packet is not None:
                packet.pts = place
            try:
                frames = self._decoder.decode(packet)
            except av.EOFError:
                return
            except av.FFmpegError:
                # What follows a packet that cannot be decoded may still be whole; the frame itself will be missed.
                continue
            for frame in frames:
                # Frames shown before the first packet's own lean on what came before it.
                begun = begun or (frame.pts == first and frame.key_frame)
                if begun:
                    yield frame
                elif numbers.get(frame.pts, -1) >= numbers[first]:
                    return

    def _packets(self, first: int) -> Iterator[tuple[int, Any]]:
        """Packets with their places, from one on; at the end None, which asks the decoder for what it holds back."""
        places = self._index.packets
        if first and self._seek(first):
            arrived = next(self._sent(), None)
            place = None if arrived is None else places.get(identity(arrived))
            if place is None or place > first:
                self._open()
            elif place == first:
                yield first, arrived
        else:
            self._open()
        at = None
        for packet in self._sent():
            at = places.get(identity(packet), None if at is None else at + 1)
            if at is not None and at >= first:
                yield at, packet
        yield -1, None

    def _seek(self, first: int) -> bool:
        pts, dts, *_ = next(known for known, place in self._index.packets.items() if place == first)
        time = pts if pts is not None else dts
        if time is None:
            return False
        try:
            self._container.seek(time, stream=self._stream, backward=True, any_frame=False)
        except av.FFmpegError:
            return False
        self._decoder.flush_buffers()
        return True

    def _sent(self) -> Iterator[Any]:
        try:
            yield from (packet for packet in self._container.demux(self._stream) if packet.size)
        except av.EOFError:
            return

    def _open(self) -> None:
        self._container = open_media(self._file)
        self._stream = self._container.streams.video[0]
        self._separate = self._alpha_decoder()
        self._decoder = self._separate or self._stream.codec_context

    @property
    def stream(self) -> Any:
        """The stream of pictures, with the file's values."""
        return self._stream

    def _alpha_decoder(self) -> Any:
        """A decoder that keeps alpha, where the usual one drops it."""
        name = _ALPHA_DECODERS.get(self._stream.codec_context.name)
        if name is None or self._stream.metadata.get("alpha_mode") != "1":
            return None
        decoder = av.CodecContext.create(name, "r")
        decoder.extradata = self._stream.codec_context.extradata
        return decoder
