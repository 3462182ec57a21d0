"""Pages: all of their time moves by exact steps, and nothing of them reaches outside."""

import subprocess
import unittest
import zipfile
from fractions import Fraction
from pathlib import Path

import numpy as np

from tests.helpers import asked, scratch
from vexel.core.lanes.easing import Easing
from vexel.sources.archive import unpack
from vexel.sources.browser.chromium import browser
from vexel.sources.kinds.page import PageFile
from vexel.sources.protocols import SourceError

BAR = "<style>body{margin:0;background:#000}#b{width:10px;height:64px;background:#fff;%s}</style><div id=b></div>%s"


CANVAS = (
    "<body style='margin:0'><canvas id=c width=200 height=64></canvas><script>const g=c.getContext('%s');%s</script>"
)


class PageCase(unittest.TestCase):
    def open(self, html, name="page.html", **options):
        self.folder = scratch(self)
        (self.folder / name).write_text(html)
        return PageFile(self.folder / name, **options)

    def at(self, page, frame, rate=Fraction(10), **how):
        return page.show(asked({"frame": frame, "rate": rate}, size=how.pop("size", (200, 64)), **how))

    def left(self, picture):
        """Where the white bar begins, to a fraction of a pixel by its share of the edge pixels."""
        row = picture[32, :, 0].astype(float) / 255
        return float((np.arange(len(row)) * row).sum() / row.sum() - (row.sum() - 1) / 2)


class PageTest(PageCase):
    def test_css_easing_is_the_published_curve(self):
        # CSS Easing Functions, W3C: as core.ease computes it; here the browser's own, seen in pixels.
        for ease in ("linear", "ease", "cubic-bezier(0.2, -0.1, 0.7, 1)", "steps(4)"):
            move = f"animation:m 1s {ease}" + "}@keyframes m{to{transform:translateX(160px)}"
            page = self.open(BAR % (move, ""))
            for frame in (0, 3, 5, 9):
                expected = 160 * Easing.parse(ease)(np.array([frame / 10]))[0]
                self.assertAlmostEqual(self.left(self.at(page, frame)), expected, delta=0.6, msg=f"{ease} {frame}")

    def test_every_clock_of_a_page_moves_alike(self):
        move = "<animate attributeName=x to=160 dur=1s fill=freeze />"
        svg = f"<svg width=200 height=64><rect width=10 height=64 fill=white>{move}</rect></svg>"
        place = "b.style.marginLeft=`${%s}px`"
        for name, html in (
            (
                "performance.now",
                BAR
                % (
                    "",
                    "<script>(function f(){%s;requestAnimationFrame(f)})()</script>"
                    % (place % "performance.now()*.16"),
                ),
            ),
            (
                "animation frame",
                BAR
                % (
                    "",
                    "<script>requestAnimationFrame(function f(t){%s;requestAnimationFrame(f)})</script>"
                    % (place % "t*.16"),
                ),
            ),
            (
                "Date",
                BAR
                % ("", "<script>const s=Date.now();setInterval(()=>{%s},10)</script>" % (place % "(Date.now()-s)*.16")),
            ),
            (
                "new Date",
                BAR
                % (
                    "",
                    "<script>const s=+new Date();setInterval(()=>{%s},10)</script>" % (place % "(new Date()-s)*.16"),
                ),
            ),
            (
                "timeout",
                BAR
                % (
                    "",
                    "<script>let n=0;setTimeout(function f(){n+=1.6;%s;setTimeout(f,10)},10)</script>" % (place % "n"),
                ),
            ),
            (
                "Web Animations",
                BAR
                % ("", "<script>b.animate([{marginLeft:0},{marginLeft:'160px'}],{duration:1000,fill:'both'})</script>"),
            ),
            (
                "transition",
                BAR
                % (
                    "transition:margin-left 1s linear",
                    "<script>requestAnimationFrame(()=>{b.offsetLeft;b.style.marginLeft='160px'})</script>",
                ),
            ),
            ("SVG", f"<style>body{{margin:0;background:#000}}</style>{svg}"),
        ):
            with self.subTest(name):
                page = self.open(html)
                seen = [self.left(self.at(page, frame)) for frame in (0, 2, 5)]
                np.testing.assert_allclose(seen, [0, 32, 80], atol=1.7)

    def test_any_order_gives_the_same_bytes(self):
        draw = "g.fillStyle=`hsl(${360*Math.random()} 80% 50%)`;g.fillRect(200*Math.random(),64*Math.random(),30,30)"
        html = CANVAS % ("2d", f"(function f(){{{draw};requestAnimationFrame(f)}})()")
        page = self.open(html, seed=5)
        through = [self.at(page, frame).copy() for frame in range(6)]
        again = PageFile(self.folder / "page.html", seed=5)
        for frame in (4, 1, 5, 0):
            np.testing.assert_array_equal(self.at(again, frame), through[frame])
        self.assertGreater(np.abs(through[5].astype(int) - through[2]).max(), 0)
        other = self.at(PageFile(self.folder / "page.html", seed=6), 5)
        self.assertGreater(np.abs(other.astype(int) - through[5]).max(), 0)

    def test_webgl_is_drawn(self):
        draw = "g.clearColor(0,t/1000,0,1);g.clear(g.COLOR_BUFFER_BIT)"
        html = CANVAS % ("webgl2", f"requestAnimationFrame(function f(t){{{draw};requestAnimationFrame(f)}})")
        page = self.open(html)
        for frame in (5, 10, 2):
            np.testing.assert_allclose(self.at(page, frame)[30, 100, :3], (0, 25.5 * frame, 0), atol=1)

    def test_video_stands_still_between_frames(self):
        # Ten seconds of grey that rises by 20 codes a second, made by Debian's ffmpeg.
        page = self.open("<body style='margin:0;background:#000'><video src=v.webm autoplay muted width=200></video>")
        grey = "geq=lum='20+20*T':cb=128:cr=128"
        make = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", f"color=s=64x64:r=10:d=10,format=yuv420p,{grey}"]
        subprocess.run([*make, "-c:v", "libvpx", "-crf", "4", "-b:v", "4M", self.folder / "v.webm"], check=True)
        levels = [float(self.at(page, frame)[30, 100, 0]) for frame in (5, 40, 41, 80, 20)]
        # A picture that is late by one is 2.3 codes off.
        np.testing.assert_allclose(np.diff(levels[:4]), np.array([70, 2, 78]) * 255 / 219, atol=1.5)
        self.assertAlmostEqual(levels[4] - levels[0], 30 * 255 / 219, delta=1.5)

    def test_video_at_the_rate_of_the_page_shows_every_picture_once(self):
        # Debian's ffmpeg makes the pictures: each of a grey of its own, far from that of its neighbours.
        grey = r"geq=lum='16+mod(N*37\,200)':cb=128:cr=128"
        for rate, file, how in (
            (Fraction(30), "v.webm", ["-c:v", "libvpx-vp9", "-b:v", "2M"]),
            (Fraction(24000, 1001), "v.mp4", ["-c:v", "libx264", "-g", "12", "-bf", "2", "-crf", "10"]),
        ):
            with self.subTest(file):
                page = self.open(f"<body style='margin:0;background:#000'><video src={file} autoplay muted width=200>")
                plain = ["-f", "lavfi", "-i", f"color=s=64x64:r={rate}:d=1,format=yuv420p,{grey}"]
                subprocess.run(["ffmpeg", "-v", "error", *plain, *how, self.folder / file], check=True)
                levels = [float(self.at(page, frame, rate)[30, 100, 0]) for frame in range(20)]
                np.testing.assert_allclose(levels, np.arange(20) * 37 % 200 * 255 / 219, atol=4)

    def test_a_page_may_seek_by_itself(self):
        page = self.open(BAR % ("", "<script>window.vexelSeek=(s,frame)=>{b.style.marginLeft=`${s*160}px`}</script>"))
        self.assertEqual([round(self.left(self.at(page, frame))) for frame in (9, 2, 5)], [144, 32, 80])

    def test_size_sampling_and_background(self):
        page = self.open("<body style='margin:0'><div style='width:100px;height:32px;background:#f00'></div>")
        large = self.at(page, 0, size=(400, 128), layout=(200, 64), background="#0000ff")
        self.assertEqual(
            (large.shape, large[63, 199].tolist(), large[65, 199].tolist()),
            ((128, 400, 4), [255, 0, 0, 255], [0, 0, 255, 255]),
        )
        self.assertEqual(self.at(page, 0, background="transparent")[50, 150].tolist(), [0, 0, 0, 0])

    def test_dials_are_declared_in_the_page(self):
        block = '<script type=application/json id=vexel-dials>\n{"at": %s}</script>'
        move = "<script>b.style.marginLeft = `${vexelDials.at}px`</script>"
        page = self.open(BAR % ("", block % '{"default": 20, "low": 0, "high": 90, "unit": "px"}' + move))
        (dial,) = page.facts.dials
        self.assertEqual(
            (dial.name, dial.default, dial.high, dial.unit, page.facts.settings), ("at", 20, 90, "px", ("at",))
        )
        self.assertEqual([self.left(self.at(page, 1, dials={"at": at})) for at in (20.0, 61.0)], [20, 61])
        for told, words in (
            ('{"default": 2}', "line 1: the dials: at needs default, low and high"),
            ('{"default": 2, "low": 3, "high": 4}', "the default lies outside low to high"),
            ('{"default": "2", "low": 0, "high": 4}', "must be numbers"),
            ("{default: 2}", "page.html, line 2: the dials are not valid JSON"),
        ):
            with self.subTest(told), self.assertRaisesRegex(SourceError, words):
                self.open(BAR % ("", block % told))

    def test_a_browser_that_ended_is_started_anew(self):
        page = self.open(BAR % ("", ""))
        before = self.at(page, 0)
        browser(by_frames=True).tell("Browser.crash")
        with self.assertRaisesRegex(SourceError, "page.html: the browser could not show it: the browser has ended"):
            self.at(page, 1)
        np.testing.assert_array_equal(self.at(page, 0), before)

    def test_more_pixels_than_the_browser_paints(self):
        page = self.open(BAR % ("", ""))
        with self.assertRaisesRegex(SourceError, "at most 16,384 pixels along a side, and 16,400 × 64"):
            self.at(page, 0, size=(16_400, 64))

    def test_what_a_page_may_not_is_named(self):
        for html, words in (
            ("<script>null.x</script>", "page.html, line 1: TypeError"),
            ("<script>\n\nundefinedName()</script>", "page.html, line 3: ReferenceError: undefinedName is not defined"),
            ("<script>setTimeout(()=>{throw new Error('late')},50)</script>", "Error: late"),
            ("<script>Promise.reject(new Error('quiet'))</script>", "Error: quiet"),
            ("<img src=gone.png>", "it needs gone.png, which is not beside it: add that file too"),
            (
                "<link rel=stylesheet href=https://a.example/x.css>",
                "it asks for https://a.example/x.css, but a page has no network",
            ),
            ("<img src=../../etc/hostname>", "it needs etc/hostname, which is not beside it"),
            ("<script>alert('hello')</script>", 'it opens a dialog: alert("hello")'),
            ("<script>window.open('https://a.example')</script>", "it opens another window: https://a.example"),
            ("<script>location.href='other.html'</script>", "other.html"),
            ("<a id=a download=x.txt href='data:text/plain,hi'></a><script>a.click()</script>", "it downloads x.txt"),
            ("<script>function f(){setTimeout(f,0)};f()</script>", "its timers never settle"),
        ):
            with self.subTest(words), self.assertRaises(SourceError) as caught:
                self.at(self.open(html), 2)
            self.assertIn(words, str(caught.exception))

    def test_a_zipped_folder(self):
        folder = scratch(self)
        with zipfile.ZipFile(folder / "site.zip", "w") as held:
            held.writestr("site/index.html", "<body style='margin:0;background:#000'><script src=js/main.js></script>")
            held.writestr("site/js/main.js", "document.body.style.background = '#0f0'")
        self.assertEqual(self.at(PageFile(folder / "site.zip"), 0)[5, 5].tolist(), [0, 255, 0, 255])


class LibrariesTest(PageCase):
    """General animation libraries of the npm registry, development dependencies of ui/, at known instants."""

    MODULES = Path(__file__).parents[2] / "ui/node_modules"

    def with_library(self, file, script):
        page = self.open(BAR % ("position:absolute;left:0", f"<script type=module>{script}</script>"))
        for source in (self.MODULES / file).parent.glob("*.js"):
            (self.folder / source.name).write_bytes(source.read_bytes())
        return page

    def test_anime(self):
        script = (
            "import {animate} from './anime.esm.js';"
            "animate('#b', {translateX: [0, 160], duration: 1000, ease: 'linear'})"
        )
        page = self.with_library("animejs/dist/bundles/anime.esm.js", script)
        seen = [self.left(self.at(page, frame)) for frame in (2, 5, 9)]
        np.testing.assert_allclose(np.diff(seen), [48, 64], atol=0.6)
        # The library begins ahead by less than a step of a 60 Hz screen, 16.7 ms.
        self.assertTrue(0 <= seen[0] - 32 < 160 * 0.0167, seen)

    def test_tween(self):
        script = (
            "import {Tween, Easing} from './tween.esm.js'; const p = {x: 0};"
            "const t = new Tween(p).to({x: 160}, 1000).easing(Easing.Quadratic.In).start(0);"
            "requestAnimationFrame(function f(time)"
            " {t.update(time); b.style.left = p.x + 'px'; requestAnimationFrame(f)})"
        )
        page = self.with_library("@tweenjs/tween.js/dist/tween.esm.js", script)
        for frame in (0, 3, 5, 10):
            self.assertAlmostEqual(self.left(self.at(page, frame)), 160 * (frame / 10) ** 2, delta=0.6)

    def test_three_draws_by_webgl(self):
        script = (
            "import * as T from './three.module.js';"
            "const r = new T.WebGLRenderer(); r.setSize(200, 64); document.body.prepend(r.domElement); b.remove();"
            "const s = new T.Scene(), c = new T.OrthographicCamera(0, 200, 64, 0, -1, 1);"
            "const m = new T.Mesh(new T.PlaneGeometry(10, 128), new T.MeshBasicMaterial({color: 0xffffff})); s.add(m);"
            "r.setAnimationLoop(t => {m.position.x = 5 + t * .16; r.render(s, c)})"
        )
        page = self.with_library("three/build/three.module.js", script)
        for frame in (2, 5, 8):
            self.assertAlmostEqual(self.left(self.at(page, frame)), 16 * frame, delta=0.6)


class ArchiveTest(unittest.TestCase):
    def packed(self, **members):
        self.folder = scratch(self)
        with zipfile.ZipFile(self.folder / "a.zip", "w", zipfile.ZIP_DEFLATED) as held:
            for name, data in members.items():
                held.writestr(name, data)
        return self.folder / "a.zip"

    def test_traps_are_refused_before_a_byte_is_written(self):
        for members, words in (
            ({"../out.html": b"x"}, "'../out.html', a path that leaves the folder"),
            ({"/etc/x": b"x"}, "a path that leaves the folder"),
            ({"..\\out.html": b"x"}, "a path that leaves the folder"),
            ({"bomb": bytes(60_000_000)}, "would unpack to 60 MB from"),
            ({f"{n}": b"" for n in range(20_001)}, "holds 20,001 files, more than the 20,000"),
        ):
            archive = self.packed(**members)
            with self.subTest(words), self.assertRaisesRegex(SourceError, words):
                unpack(archive, self.folder / "to")
            self.assertFalse((self.folder / "to").exists())
        archive = self.packed(a=b"x" * 1000)
        archive.write_bytes(archive.read_bytes()[:40])
        with self.assertRaisesRegex(SourceError, "a.zip is damaged or locked"):
            unpack(archive, self.folder / "to")


if __name__ == "__main__":
    unittest.main()
