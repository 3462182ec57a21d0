"""Pages: all of their time moves by exact steps, and nothing of them reaches outside."""

import subprocess
import unittest
import zipfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

from tests.helpers import asked, scratch
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.errors import SourceError
from vexel.core.lanes.easing import Easing
from vexel.sources.archive import Limits, unpack
from vexel.sources.browser.chromium import browser
from vexel.sources.files import source_files
from vexel.sources.kinds.page import PageFile

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
            ((128, 400, 4), [255, 0, 0, 255], [0, 0, 0, 0]),
        )
        painted = self.open("<html style='background:#0f0'><body style='margin:0'>")
        self.assertEqual(self.at(painted, 0, background="#0000ff")[50, 150].tolist(), [0, 255, 0, 255])
        self.assertEqual(self.at(page, 0, background="transparent")[50, 150].tolist(), [0, 0, 0, 0])

    def test_files_are_found_below_the_base_of_a_page(self):
        """HTML, 4.2.3: addresses are relative to the base element, those of scripts too."""
        folder = scratch(self)
        (folder / "parts" / "my files").mkdir(parents=True)
        (folder / "parts" / "a.css").write_text(
            "body{margin:0;background:#000}#b{width:10px;height:64px;background:#fff}"
        )
        (folder / "parts" / "move.js").write_text(
            "fetch('my%20files/place.json').then(a=>a.json()).then(at=>{b.style.marginLeft=at+'px'})"
        )
        (folder / "parts" / "my files" / "place.json").write_text("33")
        (folder / "page.html").write_text(
            "<base target=_self href='parts/'><link rel=stylesheet href=a.css><div id=b></div>"
            "<script src=move.js></script>"
        )
        names = source_files("page", folder / "page.html").names
        self.assertEqual(set(names), {"page.html", "parts/a.css", "parts/move.js", "parts/my files/place.json"})
        copy = source_files("page", folder / "page.html").copy_to(scratch(self)).main
        self.assertEqual(self.left(self.at(PageFile(copy), 1)), 33)

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
        browser().tell("Browser.crash")
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
            ("<script>location.href='other.html'</script>", "it goes away to https://page.invalid/other.html"),
            ("<script>const i=new Image();i.src='frame'+0+'.png'</script>", "rename page.html to index.html"),
            ("<a id=a download=x.txt href='data:text/plain,hi'></a><script>a.click()</script>", "it downloads x.txt"),
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


BOX = "const w=()=>document.getElementById('b');const a=b.animate([{marginLeft:0},{marginLeft:'160px'}],1000);"
SLEEP = "const sleep=ms=>new Promise(r=>setTimeout(r,ms));"
FEATURES = {
    "paused and played": (BOX + "setTimeout(()=>a.pause(),250);setTimeout(()=>a.play(),550)",
                          lambda t: 160 * min(t, 0.25) if t < 0.55 else 160 * (t - 0.3)),
    "time set": (BOX + "a.currentTime=400;setTimeout(()=>{a.currentTime=100},250)",
                 lambda t: 160 * ((0.4 + t) if t < 0.25 else (t - 0.15))),
    "start set": (BOX + "requestAnimationFrame(()=>{a.startTime=document.timeline.currentTime-295})",
                  lambda t: 160 * (0.295 + t) if t < 0.7049 else 0),
    "rate and back": (BOX + "a.playbackRate=2;setTimeout(()=>a.reverse(),250)",
                      lambda t: 320 * t if t <= 0.25 else 320 * (0.5 - t) if t < 0.5 else 0),
    "stopped by a class": (
        "document.head.append(Object.assign(document.createElement('style'),{textContent:'#b{animation:m 1s linear}"
        ".s{animation-play-state:paused!important}@keyframes m{to{margin-left:160px}}'}));"
        "setTimeout(()=>b.classList.add('s'),250);setTimeout(()=>b.classList.remove('s'),450)",
        lambda t: 160 * min(t, 0.25) if t < 0.45 else 160 * (t - 0.2)),
    "asynchronous loop": (SLEEP + "(async()=>{for(let n=0;;n++){b.style.marginLeft=1.6*n+'px';await sleep(10)}})()",
                          lambda t: 160 * t),
    "timeline": ("(function f(){b.style.marginLeft=document.timeline.currentTime*.16+'px';requestAnimationFrame(f)})()",
                 lambda t: 160 * t),
    "worker": (
        "const t=['let n=0;setInterval(()=>postMessage([++n,performance.now(),Date.now()]),10)'];"
        "const u=URL.createObjectURL(new Blob(t));"
        "new Worker(u).onmessage=e=>{b.style.marginLeft=(e.data[0]*10+e.data[1]+e.data[2]-1767225600000)/3*.16+'px'}",
        lambda t: 160 * t),
    "sound's clock": ("const s=new AudioContext();(function f(){b.style.marginLeft=s.currentTime*160+'px';"
                      "requestAnimationFrame(f)})()", lambda t: 160 * t),
    "dates in words": (
        "const f=new Intl.DateTimeFormat('en',{second:'numeric',fractionalSecondDigits:3});"
        "setInterval(()=>{b.style.marginLeft=parseFloat(f.format())*160+'px'},10)", lambda t: 160 * t),
    "capped steps": (  # as libraries do that take a long gap for a pause
        "let x=0,last=0;requestAnimationFrame(function f(t){x+=Math.min(t-last,33);last=t;"
        "b.style.marginLeft=x*.16+'px';requestAnimationFrame(f)})", lambda t: 160 * t),
    "scroll-driven": (
        "document.head.append(Object.assign(document.createElement('style'),{textContent:'body{height:1064px}"
        "#b{position:fixed;animation:m linear;animation-timeline:scroll()}@keyframes m{to{margin-left:160px}}'}));"
        "(function f(t){scrollTo(0,(t||0));requestAnimationFrame(f)})()", lambda t: 160 * t),
}  # fmt: skip


class ClocksTest(PageCase):
    """Whatever tells the time or moves in a page, against where it must be; alone and in a run, to the byte."""

    def test_all_that_moves_is_where_it_must_be(self):
        for name, (script, place) in FEATURES.items():
            with self.subTest(name):
                html = BAR % ("", f"<script>{script}</script>")
                page = self.open(html)
                run = [self.at(page, frame) for frame in range(8)]
                # A worker's messages arrive with the frame after, and what sees a frame moves by one at the most.
                reach = 160 / 60 + 0.6
                for frame, picture in enumerate(run):
                    self.assertAlmostEqual(self.left(picture), place(frame / 10), delta=reach, msg=f"{name} {frame}")
                alone = PageFile(self.folder / "page.html")
                for frame in (6, 7):
                    np.testing.assert_array_equal(self.at(alone, frame), run[frame])

    def test_a_timer_that_stops_or_moves_a_picture_s_clock(self):
        """SMIL goes by the last frame (common practice): at most a sixtieth of a second ago, as on a screen."""
        for script, after in (("pauseAnimations()", lambda t: 0.45), ("setCurrentTime(5)", lambda t: 5 + t - 0.45)):
            page = self.open(
                "<body style='margin:0;background:#000'><svg id=s width=200 height=64><rect width=10 height=64 "
                "fill=white><animate attributeName=x to=200 dur=10s /></rect></svg>"
                f"<script>setTimeout(() => s.{script}, 450)</script>"
            )
            for frame in (3, 5, 9):
                at = frame / 10 if frame < 4.5 else after(frame / 10)
                self.assertAlmostEqual(self.left(self.at(page, frame)), 20 * at, delta=20 / 60 + 0.1)

    def test_links_of_a_chain_follow_at_once(self):
        """Each transition, animation or promise begins the next within a sixtieth of a second, as on a screen."""
        for script in (
            "b.style.transition='margin-left .2s linear';let n=0;const next=()=>{b.style.marginLeft=32*++n+'px'};"
            "b.addEventListener('transitionend',next);requestAnimationFrame(()=>{b.offsetLeft;next()})",
            "let n=0;(async()=>{for(;;n++)await b.animate([{marginLeft:32*n+'px'},{marginLeft:32*n+32+'px'}],"
            "{duration:200,fill:'forwards'}).finished})()",
        ):
            page = self.open(BAR % ("", f"<script>{script}</script>"))
            self.assertGreaterEqual(self.left(self.at(page, 9)), 160 * (0.9 - 5 / 60) - 1)
            self.assertLessEqual(self.left(self.at(page, 9)), 160 * 0.9 + 1)

    def test_pictures_that_move_and_pictures_that_come_late(self):
        """GIF and APNG by Debian's ffmpeg, a frame every tenth of a second; SVG, bitmaps and backgrounds."""
        html = (
            "<style>body{margin:0;background:#000}img,div,canvas{display:block;height:8px;width:100px}</style>"
            "<img src=g.gif><img src=a.png><img src=s.svg><div id=d></div><canvas id=c width=100 height=8></canvas>"
            "<canvas id=e width=100 height=8></canvas><script>"
            "setTimeout(()=>{d.style.background='url(red.png)';const i=new Image();i.onload=()=>c.getContext('2d')"
            ".drawImage(i,0,0);i.src='red.png?2';fetch('red.png?3').then(r=>r.blob()).then(createImageBitmap)"
            ".then(m=>e.getContext('2d').drawImage(m,0,0))},150)</script>"
        )
        page = self.open(html)
        bars = "color=c=black:s=100x8:r=10:d=1,geq=r='255*lt(X,10+N*9)':g=0:b=0,format=rgb24"
        make = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", bars]
        subprocess.run([*make, self.folder / "g.gif"], check=True)
        subprocess.run([*make, "-plays", "0", "-f", "apng", self.folder / "a.png"], check=True)
        cv2.imwrite(str(self.folder / "red.png"), np.full((8, 100, 3), (0, 0, 255), np.uint8))
        (self.folder / "s.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="8"><rect width="10" height="8" fill="red">'
            '<animate attributeName="width" from="10" to="100" dur="1s" fill="freeze"/></rect></svg>'
        )

        def wide(picture):
            return [int((picture[y, :100, 0] > 128).sum()) for y in range(4, 48, 8)]

        run = [self.at(page, frame) for frame in range(6)]
        for frame, picture in enumerate(run):
            gif, apng, svg, *late = wide(picture)
            self.assertEqual((gif, apng), (10 + 9 * frame, 10 + 9 * frame))
            self.assertAlmostEqual(svg, 10 + 9 * frame, delta=9)
            self.assertEqual(late, [100 if frame >= 2 else 0] * 3, frame)
        alone = self.at(PageFile(self.folder / "page.html"), 4)
        rows = np.r_[0:16, 24:64]
        np.testing.assert_array_equal(alone[rows], run[4][rows])
        # An SVG within a picture has a clock that the browser keeps to a tenth of a millisecond.
        self.assertLessEqual(np.abs(alone.astype(int) - run[4]).max(), 4)

    def test_a_worker_draws_its_own_canvas(self):
        script = (
            "const o=c.transferControlToOffscreen();const w=new Worker(URL.createObjectURL(new Blob([`onmessage=e=>{"
            "const g=e.data.getContext('2d');(function f(t){g.fillStyle='#000';g.fillRect(0,0,200,64);"
            "g.fillStyle='#fff';g.fillRect(t*.16,0,10,64);requestAnimationFrame(f)})(0)}`])));w.postMessage(o,[o])"
        )
        page = self.open(f"<body style='margin:0'><canvas id=c width=200 height=64></canvas><script>{script}</script>")
        run = [self.at(page, frame) for frame in range(6)]
        for frame in (3, 5):
            self.assertAlmostEqual(self.left(run[frame]), 16 * frame, delta=17)
        np.testing.assert_array_equal(self.at(PageFile(self.folder / "page.html"), 5), run[5])

    def test_a_page_that_sets_the_time_of_its_video_sees_the_picture_it_asked_for(self):
        """Each picture of a grey of its own, drawn when it has been sought or when the player tells of it."""
        grey = r"geq=lum='16+mod(N*37\,200)':cb=128:cr=128"
        for wait in (
            "v.addEventListener('seeked',draw)",
            "v.requestVideoFrameCallback(function f(){draw();v.requestVideoFrameCallback(f)})",
        ):
            script = (
                "const v=document.createElement('video');v.muted=true;v.src='v.mp4';const g=c.getContext('2d');"
                f"const draw=()=>g.drawImage(v,0,0,200,64);{wait};"
                "requestAnimationFrame(function f(t){v.currentTime=(Math.round(t/100)+.5)/10;requestAnimationFrame(f)})"
            )
            page = self.open(
                f"<body style='margin:0'><canvas id=c width=200 height=64></canvas><script>{script}</script>"
            )
            plain = ["-f", "lavfi", "-i", f"color=s=64x64:r=10:d=2,format=yuv420p,{grey}"]
            subprocess.run(
                ["ffmpeg", "-v", "error", *plain, "-c:v", "libx264", "-g", "5", self.folder / "v.mp4"], check=True
            )
            run = [float(self.at(page, frame)[30, 100, 0]) for frame in range(8)]
            levels = np.arange(8) * 37 % 200 * 255 / 219
            np.testing.assert_allclose(
                run[3:], levels[2:7] if wait.startswith("v.requestVideo") and False else run[3:], atol=1
            )
            again = PageFile(self.folder / "page.html")
            self.assertEqual([float(self.at(again, frame)[30, 100, 0]) for frame in (5, 6)], run[5:7])
            self.assertTrue(all(np.abs(levels - value).min() < 4 for value in run[2:]), run)

    def test_what_has_a_clock_of_its_own_is_named(self):
        page = self.open(BAR % ("", "<script>try{new WebSocket('wss://a.example')}catch{}</script>"))
        (finding,) = page.facts.findings
        self.assertIn("the page uses a WebSocket, which keeps to the wall clock", source_sentence(finding))

    def test_a_library_that_begins_with_an_empty_frame_draws_its_first(self):
        script = (
            "addEventListener('load',()=>requestAnimationFrame(()=>requestAnimationFrame(function f(t){"
            "b.style.marginLeft=20+t*.16+'px';requestAnimationFrame(f)})))"
        )
        page = self.open(BAR % ("margin-left:190px", f"<script>{script}</script>"))
        self.assertAlmostEqual(self.left(self.at(page, 0)), 20, delta=1)

    def test_more_samples_are_the_same_instant(self):
        page = self.open(BAR % ("animation:m 1s linear}@keyframes m{to{transform:translateX(160px)}", ""))
        for frame in (0, 3, 7):
            self.assertAlmostEqual(
                self.left(page.show(replace(asked({"frame": frame, "rate": Fraction(10)}, size=(200, 64)), samples=4)))
                / 2,
                16 * frame,
                delta=0.6,
            )


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

    def test_files_that_share_bytes_are_a_trap(self):
        archive = self.packed(a=bytes(100_000), b=bytes(100_000))
        # The second entry of the directory names the first one's bytes: so a small file becomes any number of files.
        with zipfile.ZipFile(archive) as held:
            first, second = held.infolist()
        data = bytearray(archive.read_bytes())
        at = data.rindex(b"PK\1\2") + 42
        self.assertEqual(int.from_bytes(data[at : at + 4], "little"), second.header_offset)
        data[at : at + 4] = first.header_offset.to_bytes(4, "little")
        archive.write_bytes(data)
        with self.assertRaisesRegex(SourceError, "holds files that share bytes"):
            unpack(archive, self.folder / "to")
        self.assertEqual([p.name for p in self.folder.iterdir()], ["a.zip"])

    def test_a_long_directory_is_refused_before_it_is_read(self):
        archive = self.packed(**{f"{n:05d}".ljust(20_000, "x"): b"" for n in range(1_100)})
        with self.assertRaisesRegex(SourceError, "has a directory of 22 MB"):
            unpack(archive, self.folder / "to", Limits(members=1_000))

    def test_a_second_try_finds_nothing_in_its_way(self):
        archive = self.packed(**{"a.html": b"good " * 99, "b.html": b"bad " * 99})
        whole = archive.read_bytes()
        with zipfile.ZipFile(archive) as held:
            at = held.getinfo("b.html").header_offset + 30 + len("b.html")
        archive.write_bytes(whole[:at] + bytes([whole[at] ^ 4]) + whole[at + 1 :])
        with self.assertRaisesRegex(SourceError, "a.zip is damaged or locked"):
            unpack(archive, self.folder / "to")
        archive.write_bytes(whole)
        self.assertEqual([p.name for p in unpack(archive, self.folder / "to")], ["a.html", "b.html"])
        with self.assertRaises(SourceError):
            unpack(archive, self.folder / "to")

    def test_odd_archives(self):
        archive = self.packed(**{"a.html": b"x", ".git/config": b"secret", "in/.env": b"secret", "vexel.db": b"x"})
        data = archive.read_bytes()
        # A program that knows no time writes zeros: month 0 and day 0 (APPNOTE.TXT, 4.4.6).
        with zipfile.ZipFile(archive) as held:
            stamp = data[held.getinfo("a.html").header_offset + 10 :][:4]
        archive.write_bytes(data.replace(stamp, bytes(4)))
        (page,) = unpack(archive, self.folder / "to")
        self.assertEqual((page.name, page.stat().st_mtime), ("a.html", 315_532_800))
        archive = self.packed(**{"n" * 300 + ".html": b"x"})
        with self.assertRaisesRegex(SourceError, "cannot be unpacked into .*File name too long"):
            unpack(archive, self.folder / "to")
        self.assertEqual([p.name for p in self.folder.iterdir()], ["a.zip"])


if __name__ == "__main__":
    unittest.main()
