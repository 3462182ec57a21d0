"""Clips: exact counts against ffprobe, every frame against Debian's ffmpeg, odd rates and colours told."""

import json
import os
import random
import subprocess
import unittest
from fractions import Fraction

import av
import numpy as np

from tests.helpers import asked, scratch, shot_document
from vexel.core.checks.preflight import source_findings
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.shot import Shot
from vexel.core.errors import SourceError, VexelError
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.imaging.light import mixed
from vexel.output.proving.readback import video_facts
from vexel.output.writers.sound import decoded
from vexel.sources.kinds.clip import ClipFile

BARS = "testsrc2=s=160x120:r={rate}:d={seconds}"


def ffmpeg(*arguments):
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, arguments)], check=True)


PLAIN = "scale=flags=bicubic+accurate_rnd+full_chroma_int"
LEFT = PLAIN + ":in_h_chr_pos=0:in_v_chr_pos=128"
"""Chroma of 4:2:0 lies to the left in H.264, HEVC and MPEG-2 (ITU-T H.264 E.2.1); ffmpeg 5 takes the middle."""


def frames_of(file, height=120, width=160, filters=LEFT, pixels="rgba"):
    """All frames, decoded from the start by Debian's ffmpeg as an outside reader."""
    raw = subprocess.run(
        ["ffmpeg", "-v", "quiet", "-i", file, "-map", "0:v:0", "-vf", filters, "-f", "rawvideo", "-pix_fmt", pixels,
         "-fps_mode", "passthrough", "-"],
        capture_output=True, check=True,
    ).stdout  # fmt: skip
    return np.frombuffer(raw, np.uint8).reshape(-1, height, width, *([4] if pixels == "rgba" else []))


def count_of(file):
    told = subprocess.run(
        ["ffprobe", "-v", "error", "-count_frames", "-select_streams", "v", "-show_streams", "-of", "json", file],
        capture_output=True, check=True,
    ).stdout  # fmt: skip
    return int(json.loads(told)["streams"][0]["nb_read_frames"])


class ClipTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def frame(self, source, number):
        return source.show(asked({"slot": number}))

    def make(self, name, *arguments, rate=25, seconds=2):
        file = self.folder / name
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=rate, seconds=seconds) + ",format=yuv420p", *arguments, file)
        return file

    def test_any_frame_of_any_container_is_that_of_decoding_from_the_start(self):
        x264 = ("-c:v", "libx264", "-g", "12", "-bf", "3")
        mpeg2 = ("-c:v", "mpeg2video", "-g", "12", "-bf", "2")
        interlaced = ("-flags", "+ildct+ilme", "-c:v", "libx264", "-x264-params", "tff=1")
        for name, *arguments in (
            ("a.mp4", *x264), ("a.ts", *x264), ("a.avi", *x264), ("a.h264", *x264), ("a.flv", *x264),
            ("b.ts", *mpeg2), ("b.mpg", *mpeg2), ("b.mxf", *mpeg2), ("c.avi", "-c:v", "mpeg4", "-g", "12", "-bf", "2"),
            ("d.ts", *interlaced), ("e.mkv", "-c:v", "libx264", "-x264-params", "keyint=12:open-gop=1:bframes=3"),
            ("f.mp4", "-c:v", "libx264", "-x264-params", "intra-refresh=1:keyint=10"), ("g.webm", "-c:v", "libvpx-vp9"),
            ("h.265", "-c:v", "libx265", "-x265-params", "log-level=error:keyint=12"), ("i.mov", "-c:v", "prores_ks"),
            ("j.gif",), ("k.ogv", "-c:v", "libtheora"), ("l.wmv", "-c:v", "wmv2"),
        ):  # fmt: skip
            with self.subTest(name, arguments=arguments):
                file = self.make(name, *arguments)
                facts, expected = ClipFile(file).facts, frames_of(file)
                self.assertEqual((facts.source_frames.count, facts.source_frames.rate), (len(expected), "25"))
                self.assertEqual(count_of(file), len(expected))
                run = ClipFile(file)
                in_order = [self.frame(run, number) for number in range(len(expected))]
                for number, picture in enumerate(in_order):
                    near = range(max(number - 3, 0), min(number + 4, len(expected)))
                    others = {n: np.abs(picture.astype(int) - expected[n])[..., :3].mean() for n in near}
                    self.assertEqual(min(others, key=others.get), number)
                    self.assertLess(others[number], 6, "colours are those that ffmpeg gives")
                any_order = random.Random(7).sample(range(len(expected)), 20)
                jumping = ClipFile(file)
                for number in any_order:
                    np.testing.assert_array_equal(self.frame(jumping, number), in_order[number])
                for number in any_order[:2]:
                    np.testing.assert_array_equal(self.frame(ClipFile(file), number), in_order[number])

    def test_colours_of_a_clip_are_exactly_those_of_the_standard(self):
        file = self.make("a.mp4", "-c:v", "libx264", "-bf", "3")
        for number, expected in enumerate(frames_of(file)):
            self.assertLessEqual(np.abs(self.frame(ClipFile(file), number).astype(int) - expected).max(), 1)
            if number == 3:
                break

    def test_a_stream_that_was_cut_anywhere_gives_the_frames_that_can_be_decoded(self):
        for name, codec in (("a.ts", "libx264"), ("a.mpg", "mpeg2video")):
            with self.subTest(name):
                file = self.make(name, "-c:v", codec, "-g", "12", "-bf", "2")
                file.write_bytes(file.read_bytes()[30001:])
                source, expected = ClipFile(file), frames_of(file)
                self.assertEqual(source.facts.source_frames.count, len(expected))
                last = self.frame(source, len(expected) - 1)
                self.assertLess(np.abs(last.astype(int) - expected[-1]).mean(), 6)

    def test_a_stream_without_times_says_which_rate_is_assumed(self):
        facts = ClipFile(self.make("a.h264", "-c:v", "libx264", rate=30)).facts
        self.assertEqual(facts.source_frames.rate, "30", "as its own header says")
        self.assertEqual(
            source_sentence(facts.findings[0]), "the file does not say when its frames are shown: 30 fps is assumed"
        )

    def test_a_rate_is_steady_only_where_each_frame_comes_at_its_time(self):
        # Never half a frame from an even row, and yet each second frame lasts twice as long.
        uneven = self.folder / "uneven.mkv"
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=25, seconds=2), "-vf",
               "setpts='(N+floor((N+1)/2))*40/1000/TB'", "-fps_mode", "vfr", "-c:v", "ffv1", uneven)  # fmt: skip
        facts = ClipFile(uneven).facts
        self.assertEqual(facts.source_frames.times[:4], ("0", "2/25", "3/25", "1/5"))
        self.assertEqual([finding.code for finding in facts.findings], ["uneven-frames"])
        for rate in ("30000/1001", "24000/1001", "60", "12.5"):
            for name, codec in (("a.mkv", "ffv1"), ("a.webm", "libvpx"), ("a.flv", "flv1"), ("a.gif", "gif")):
                file = self.folder / name
                ffmpeg("-f", "lavfi", "-i", BARS.format(rate=rate, seconds=3), "-c:v", codec, file)
                self.assertEqual(ClipFile(file).facts.source_frames.times, (), (rate, name))

    def test_rounded_times_of_an_uneven_clip_lose_no_frame(self):
        """Matroska counts whole milliseconds: at its own rate every frame of the quick part is seen once."""
        for name, codec in (("a.mkv", "libx264"), ("a.webm", "libvpx-vp9"), ("a.mp4", "libx264")):
            with self.subTest(name):
                pace = "setpts='if(lt(N,40),N,40+(N-40)*3)/(30000/1001*TB)'"
                file = self.make(name, "-vf", pace, "-fps_mode", "vfr", "-c:v", codec, rate="30000/1001")
                frames = ClipFile(file).facts.source_frames
                each = Fraction(1001, 30000)
                shown = [frames.at(Fraction(n), n * each)[0] for n in range(100)]
                self.assertEqual(shown, [n if n < 40 else 40 + (n - 40) // 3 for n in range(100)])
                self.assertEqual(frames.fit(Clock(Rate.parse("30000/1001"), motion=100)).dropped, 0)
                self.assertAlmostEqual(float(frames.seconds), 100 * float(each), delta=0.07)

    def test_a_shot_that_outlasts_an_uneven_clip_is_told(self):
        pace = "setpts='if(lt(N,10),N,10+(N-10)*3)/(25*TB)'"
        file = self.make("v.mkv", "-vf", pace, "-fps_mode", "vfr", "-c:v", "libx264", seconds=1)
        facts = ClipFile(file).facts
        for count, words in ((80, "The source ends after 53 frames"), (30, "The shot ends with picture 17 of 25")):
            shot = Shot.model_validate(
                shot_document({"kind": "clip", "file": "v.mkv"}, count) | {"clock": {"rate": "25", "frames": count}}
            )
            told = {finding.name: finding.what for finding in source_findings(shot, facts)}
            self.assertIn(words, told["other-length"])

    def test_pixels_that_are_not_square_are_stretched_and_said(self):
        for aspect, size in (("16/11", (233, 120)), ("8/9", (160, 135))):
            file = self.make(f"{aspect[:1]}.mp4", "-vf", f"setsar={aspect}", "-c:v", "libx264", seconds=0.2)
            source = ClipFile(file)
            expected = frames_of(file, size[1], size[0], LEFT.replace("scale=", f"scale={size[0]}:{size[1]}:"))
            self.assertEqual(source.facts.size, size)
            self.assertLess(np.abs(self.frame(source, 2).astype(int) - expected[2]).mean(), 1.5)
            self.assertIn(f"stretched to {size[0]} × {size[1]}", source_sentence(source.facts.findings[0]))

    def test_interlaced_frames_are_told_and_made_whole_as_ffmpeg_does(self):
        weave = ("-vf", "tinterlace=interleave_top,fieldorder=tff,format=yuv420p", "-flags", "+ildct+ilme")
        file = self.make("i.mp4", *weave, "-c:v", "libx264", "-x264-params", "tff=1", rate=50)
        self.assertEqual([odd.code for odd in ClipFile(file).facts.findings], ["interlaced"])
        whole = ClipFile(file, fields="deinterlace")
        self.assertEqual(whole.facts.findings, ())
        expected = frames_of(file, filters="bwdif=mode=send_frame:deint=all," + LEFT)
        for number in (len(expected) - 1, 7, 1):
            self.assertLessEqual(np.abs(self.frame(whole, number).astype(int) - expected[number]).max(), 1)

    def test_bright_and_wide_colours_are_told_and_converted(self):
        """Against ffmpeg's zimg and tone curve; 203 cd/m² is 58 % of PQ and 75 % of HLG (ITU-R BT.2408)."""
        for number, trc, code in ((16, "smpte2084", 0.58), (18, "arib-std-b67", 0.75)):
            tags = f"color_primaries=bt2020:color_trc={trc}:colorspace=bt2020nc"
            plain = f"colorprim=bt2020:transfer={trc}:colormatrix=bt2020nc:log-level=error:lossless=1"
            levels = [round(64 + 876 * level) for level in (0, 0.2, 0.4, code, 1)]
            ramp = "+".join(f"{level}*between(X,{32 * n},{32 * n + 31})" for n, level in enumerate(levels))
            file = self.folder / f"{trc}.mp4"
            ffmpeg(
                "-f", "lavfi", "-i", "color=s=160x120:r=10:d=0.2,format=yuv420p10le",
                "-vf", f"geq=lum='{ramp}':cb=512:cr=512,setparams={tags}",
                "-c:v", "libx265", "-x265-params", plain, file,
            )  # fmt: skip
            self.assertEqual([odd.code for odd in ClipFile(file).facts.findings], ["bright-colours"])
            got = self.frame(ClipFile(file, colours="srgb"), 1)[60, 16::32, :3].astype(int)
            light = "zscale=t=linear:npl=203,format=gbrpf32le,tonemap=mobius:param=0.3:peak=4.92611:desat=0"
            expected = frames_of(file, filters=light + ",zscale=p=bt709:t=iec61966-2-1:m=gbr")[1][60, 16::32, :3]
            self.assertLessEqual(np.abs(got - expected).max(), 2, (number, got, expected))
            self.assertGreater(got[3].min(), 205, "paper white stays bright")

    def test_between_two_frames_both_are_seen(self):
        file = self.folder / "a.mp4"
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate="24", seconds=1), "-c:v", "libx264", file)
        plain, blend = ClipFile(file), ClipFile(file, between="blend")
        self.assertEqual((plain.facts.source_frames.mixed, blend.facts.source_frames.mixed), (False, True))
        for slot in (3, 4, 9, 4):
            half = blend.show(asked({"slot": slot, "part": Fraction(1, 2)}))
            expected = mixed([(self.frame(plain, slot), 0.5), (self.frame(plain, slot + 1), 0.5)])
            np.testing.assert_array_equal(half, expected)

    def test_a_variable_rate_is_found_and_said(self):
        file = self.folder / "v.mp4"
        pace = "setpts='if(lt(N,10),N,10+(N-10)*3)/(25*TB)'"
        ffmpeg(
            "-f",
            "lavfi",
            "-i",
            BARS.format(rate=25, seconds=1),
            "-vf",
            pace,
            "-fps_mode",
            "vfr",
            "-c:v",
            "libx264",
            file,
        )
        facts = ClipFile(file).facts
        self.assertEqual((facts.source_frames.count, len(facts.source_frames.times)), (25, 25))
        self.assertIn("durations vary, from 0.04 to 0.12 s", source_sentence(facts.findings[0]))

    def test_alpha_comes_along(self):
        file = self.folder / "a.webm"
        half = "geq=r=200:g=40:b=40:a='if(lt(X,80),255,0)'"
        ffmpeg(
            "-f",
            "lavfi",
            "-i",
            "color=c=red:s=160x120:r=10:d=0.5,format=rgba",
            "-vf",
            half,
            "-c:v",
            "libvpx-vp9",
            "-pix_fmt",
            "yuva420p",
            file,
        )
        alpha = self.frame(ClipFile(file), 2)[60, :, 3]
        self.assertGreater(alpha[20], 240)
        self.assertLess(alpha[140], 15)

    def test_a_turned_clip_stands_upright(self):
        plain, turned = self.folder / "p.mp4", self.folder / "t.mp4"
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=10, seconds=0.5), "-c:v", "libx264", plain)
        ffmpeg("-i", plain, "-c", "copy", "-metadata:s:v:0", "rotate=90", turned)
        source = ClipFile(turned)
        picture = self.frame(source, 0)
        self.assertEqual(picture.shape, (160, 120, 4))
        raw = subprocess.run(
            ["ffmpeg", "-v", "error", "-i", turned, "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "rgba", "-"],
            capture_output=True, check=True,
        ).stdout  # fmt: skip
        expected = np.frombuffer(raw, np.uint8).reshape(160, 120, 4).astype(int)
        self.assertLess(np.abs(picture - expected)[..., :3].mean(), 7, "as ffmpeg turns it")
        self.assertEqual(source.facts.findings[0].code, "rotated")

    def test_what_is_no_video_is_a_sentence(self):
        file = self.folder / "a.mp4"
        sound = self.folder / "s.m4a"
        ffmpeg("-f", "lavfi", "-i", "sine=d=0.2", sound)
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=10, seconds=1), "-c:v", "libx264", file)
        whole = file.read_bytes()
        for data, words in (
            (b"", "a.mp4 cannot be read as a video"),
            (b"hello" * 99, "a.mp4 cannot be read as a video"),
            (whole[:900], "a.mp4 cannot be read as a video"),
            (sound.read_bytes(), "holds no picture stream"),
        ):
            file.write_bytes(data)
            with self.assertRaisesRegex(SourceError, words):
                ClipFile(file)

    def test_a_file_that_names_another_shows_nothing_of_it(self):
        """Each of these, by its content, is opened by FFmpeg's own reader as the clip that it names."""
        secret = self.folder / "secret.ts"
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=10, seconds=1), "-f", "lavfi", "-i", "sine=d=1", secret)
        playlist = f"#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile://{secret}\n#EXT-X-ENDLIST\n"
        for name, text in (("a.m3u8", playlist), ("a.mp4", "ffconcat version 1.0\nfile secret.ts\n")):
            with self.subTest(name):
                file = self.folder / name
                file.write_text(text)
                with av.open(str(file)) as followed:
                    self.assertEqual(sum(1 for _ in followed.decode(video=0)), 10)
                for reads in (ClipFile, decoded, video_facts):
                    with self.assertRaisesRegex(VexelError, f"{name} is a list that names other files"):
                        reads(file)
        # Their text hidden from the first look: the reader itself is none of those that are allowed.
        (self.folder / "b.mp4").write_text("\n" * 80 + playlist)
        with self.assertRaises(VexelError):
            ClipFile(self.folder / "b.mp4")
        pipe = self.folder / "pipe.mp4"
        os.mkfifo(pipe)
        with self.assertRaises(VexelError):
            ClipFile(pipe)
        odd = self.folder / "concat:secret.ts|x.mp4"
        ffmpeg("-i", secret, self.folder / "c.mp4")
        (self.folder / "c.mp4").rename(odd)
        self.assertEqual(ClipFile(odd).facts.source_frames.count, 10)


if __name__ == "__main__":
    unittest.main()
