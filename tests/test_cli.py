"""The command line as scripts see it: what goes to which stream, and the exit status."""

import json
import os
import pty
import re
import signal
import subprocess
import sys
import time
import unittest
from contextlib import suppress

from tests.helpers import HEADER, scratch, shot_document, vexel, vexel_process, write_shot
from vexel.cli import main
from vexel.core.merge_patch import merged
from vexel.workers.bounds.isolation import OFF

LANES = [{"drive": "dial:size", "keys": [[0, 1], [1, 2]]}]
ELSEWHERE = {OFF: "off"}
"""So that code which runs against the rules can leave its mark."""
MODEL = "@model\ndef thing(size=dial(1, low=0.5, high=2)):\n    return pv.Cone(height=size)\n"


def interrupted(case, take, *arguments):
    """Exit status, output and errors of a call that is interrupted when two frames of its take are there."""
    command = [sys.executable, "-m", "vexel", *map(str, arguments)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    case.addCleanup(process.kill)
    end = time.monotonic() + 60
    while len(list(take.glob("trial*"))) < 2 and time.monotonic() < end:
        time.sleep(0.1)
    os.kill(process.pid, signal.SIGINT)
    out, err = process.communicate(timeout=60)
    return process.returncode, out, err


class PlanCommandTest(unittest.TestCase):
    def test_a_shot_is_planned_without_running_its_code(self):
        shot = write_shot(scratch(self), "raise SystemExit('ran')\n", frames=48, lanes=LANES)
        told = vexel("plan", shot)
        self.assertEqual((told.returncode, told.stderr), (0, ""))
        self.assertIn("48 frames, 4 s, 12 fps", told.stdout)
        self.assertIn("1 × 360° ÷ 48 steps = 7.5° per frame", told.stdout)
        self.assertIn("finding: Lane size ends at 2 but begins at 1, 1 away. The loop will jump", told.stdout)

    def test_the_older_name_of_the_command_works(self):
        shot = write_shot(scratch(self), MODEL, frames=48)
        self.assertEqual(vexel("reckon", shot).stdout, vexel("plan", shot).stdout)
        self.assertNotIn("reckon", vexel("--help").stdout)

    def test_each_command_has_an_example_that_its_options_allow(self):
        for name, command in main.commands.items():
            if command.hidden:
                continue
            with self.subTest(name):
                example = command.epilog.removeprefix("Example: ").split(" > ")[0].split()
                self.assertEqual(example[:2], ["vexel", name])
                command.make_context(name, example[2:], resilient_parsing=False)

    def test_json_is_one_object_with_the_findings(self):
        shot = write_shot(scratch(self), MODEL, frames=48, lanes=LANES)
        told = json.loads(vexel_process("plan", shot, "--json").stdout)
        self.assertEqual([finding["name"] for finding in told["findings"]], ["choppy", "lane-does-not-close"])

    def test_the_help_of_a_command_is_whole(self):
        text = " ".join(vexel("--help").stdout.split())
        for name, command in main.commands.items():
            if not command.hidden:
                first = " ".join(command.help.split("\n\n")[0].split()).rstrip(".")
                self.assertIn(f"{name} {first}", text)

    def test_json_is_one_object_also_of_a_failure_and_of_timelines(self):
        folder = scratch(self)
        shot = write_shot(folder, MODEL, frames=4)
        reel = folder / "reel.json"
        reel.write_text(json.dumps({"title": "Hall", "rate": "24", "items": [{"kind": "gap", "frames": 4}]}))
        for status, key, words in (
            (2, "error", ["plan", folder / "no.json"]),
            (2, "error", ["inspect", folder / "no.mp4"]),
            (2, "error", ["plan", "--span", "round"]),
            (2, "error", ["inspect"]),
            (2, "error", ["check", folder]),
            (2, "error", ["compile", folder, "-o", folder / "a.mp4", "--windows"]),
            (2, "error", ["make", shot, "-o", folder / "a.mp4", "--recipe", "none"]),
            (0, "files", ["reel", reel, "-o", folder / "a.csv"]),
            (0, "files", ["reel", reel, "-o", folder / "b.csv", "-o", folder / "b.mp4"]),
            (0, "recipes", ["recipes"]),
        ):
            with self.subTest(words[0]):
                done = vexel(*words, "--json")
                self.assertEqual((done.returncode, set(json.loads(done.stdout))), (status, {key}), done.stderr)
                if status:
                    self.assertIn(json.loads(done.stdout)["error"], done.stderr)

    def test_the_older_way_to_start_it_works(self):
        done = subprocess.run([sys.executable, "-m", "vexel.cli", "recipes"], capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stdout), (0, vexel("recipes").stdout))

    def test_documents_in_the_encodings_of_editors(self):
        shot = write_shot(scratch(self), MODEL, frames=48)
        text, planned = shot.read_text().replace('"trial"', '"Größe 東"'), vexel("plan", shot).stdout
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-32"):
            shot.write_bytes(text.encode(encoding))
            self.assertEqual(vexel("plan", shot).stdout, planned, encoding)
        shot.write_bytes(b'{"title": "Gr\xf6\xdfe"}')
        self.assertIn("shot.json is not a text in UTF-8 (byte 13): save it as UTF-8", vexel("plan", shot).stderr)

    def test_any_terms_that_suffice(self):
        for terms, expected in (
            (("--rate", "24", "--seconds", "15"), "360 frames, 15 s, 24 fps"),
            (("--rate", "24", "--degrees", "1", "--turns", "1", "--span", "ends"), "361 frames, 15.0417 s, 24 fps"),
            (("--rate", "29.97", "--seconds", "00:00:10;00"), "300 frames, 10.01 s, 29.97 fps"),
            (("--frames", "250", "--seconds", "0:10"), "250 frames, 10 s, 25 fps"),
            (("--rate", "24", "--seconds", "12.51"), "24 fps × 12.51 s = 300.24, rounded to 300 frames"),
            (("--rate", "24", "--turns", "2.5", "--degrees", "7"), "one frame a step: 128.5714, rounded to 129 frames"),
            (("--rate", "24", "--frames", "1"), "1 frame, 0.0417 s, 24 fps"),
        ):
            with self.subTest(terms):
                told = vexel("plan", *terms)
                self.assertEqual((told.returncode, told.stderr), (0, ""))
                self.assertIn(expected, told.stdout)
        for terms, words in (
            (("--rate", "24", "--seconds", "10", "--frames", "250"), "250 frames and 10 s disagree"),
            (("--rate", "24", "--turns", "2"), "do not give the frames"),
            (("--seconds", "soon", "--rate", "24"), "'soon' is not a length"),
            (("--rate", "24", "--frames", "1000001"), "1,000,001 frames are more than the 1,000,000 a shot may have"),
            (("--rate", "24", "--seconds", "24:00:00:00"), "2,073,600 frames are more than"),
            (("--rate", "24", "--seconds", "1/0"), "1/0 divides by 0"),
            (("--rate", "24", "--seconds", "9", "--turns", "1/0"), "turns: 1/0 divides by 0"),
            (("--rate", "24", "--seconds", "9", "--turns", "2,500"), "turns: 2,500 could be 2500 or 2.500"),
        ):
            with self.subTest(terms):
                told = vexel("plan", *terms)
                self.assertEqual((told.returncode, told.stdout), (2, ""))
                self.assertIn(words, told.stderr)

    def test_a_shot_may_have_the_clock_of_another(self):
        folder = scratch(self)
        write_shot(folder, frames=48).rename(folder / "first.json")
        shot = write_shot(folder, clock={"rate": "24", "frames": 50, "like": "first.json"})
        (finding, *_) = json.loads(vexel("plan", shot, "--json").stdout)["findings"]
        self.assertEqual(finding["what"], "50 frames, but Trial has 48")
        document = merged(json.loads(shot.read_text()), finding["fixes"][0]["patch"])
        shot.write_text(json.dumps(document))
        told = json.loads(vexel("plan", shot, "--json").stdout)
        self.assertNotIn("clock-differs", [found["name"] for found in told["findings"]])
        self.assertEqual((told["frames"], told["rate"]), (48, "12"))
        (folder / "first.json").unlink()
        self.assertIn("first.json, whose clock this shot shares, is not there", vexel("plan", shot).stdout)

    def test_a_term_is_given_once(self):
        shot = write_shot(scratch(self))
        told = vexel("plan", shot, "--rate", "24")
        self.assertEqual((told.returncode, told.stdout), (2, ""))
        self.assertIn("not both", told.stderr)

    def test_spans_of_common_practice(self):
        # Common practice: a turn of 360 steps has 360 frames as a loop, 361 with both ends.
        for span, step in (("loop", 1.0), ("ends", 360 / 359)):
            shot = write_shot(scratch(self), clock={"rate": "24", "frames": 360, "span": span})
            self.assertAlmostEqual(json.loads(vexel("plan", shot, "--json").stdout)["degrees_a_frame"], step)


class WholeWayTest(unittest.TestCase):
    def test_the_count_is_the_same_from_the_timing_to_the_file(self):
        # 5 s at 30000/1001 are 150 frames of motion; of 10 to 149 every third is shown, 47, and 3 are held.
        folder = scratch(self)
        clock = {"rate": "29.97", "seconds": 5.005, "first": 10, "every": 3, "hold_end": 3, "shutter": "180°"}
        shot = write_shot(folder, MODEL, clock=clock | {"span": "ends"}, lanes=LANES)
        told = json.loads(vexel("plan", shot, "--json").stdout)
        self.assertEqual((told["motion"], told["frames"], told["playback"]), (150, 50, "10000/1001"))
        captured = vexel("capture", shot, "--to", folder / "out")
        self.assertEqual(captured.returncode, 0, captured.stderr)
        self.assertIn("of 50 frames", captured.stderr)
        take = json.loads((folder / "out/take.json").read_text())
        self.assertEqual(len(take["frames"]), 50)
        compiled = vexel("compile", folder / "out", "-o", folder / "a.mp4", "--json")
        receipt = json.loads(compiled.stdout)
        self.assertTrue(receipt["holds"], receipt)
        frames = next(check for check in receipt["checks"] if check["what"] == "frames")
        self.assertEqual((frames["planned"], frames["found"]), ("50", "50"))
        probed = subprocess.run(
            ["ffprobe", "-v", "error", "-count_frames", "-select_streams", "v", "-show_entries",
             "stream=nb_read_frames,r_frame_rate", "-of", "csv=p=0", folder / "a.mp4"],
            capture_output=True, text=True, check=True,
        ).stdout.strip()  # fmt: skip
        self.assertEqual(probed, "10000/1001,50", "ffprobe, as a reader from outside")


class MakeTest(unittest.TestCase):
    def test_from_a_shot_to_its_file_and_on_after_a_stop(self):
        folder = scratch(self)
        slow = "import time\n" + MODEL.replace("    return", "    time.sleep(0.2)\n    return")
        back = [{"drive": "dial:size", "keys": [[0, 1], [1, 2]], "back": True}]
        shot = write_shot(folder, slow, frames=24, lanes=back)
        status, out, err = interrupted(self, folder / "film.take", "make", shot, "-o", folder / "film.mp4")
        self.assertEqual((status, out), (1, ""))
        self.assertIn("Stopped. Run the same command to continue.", err)
        self.assertFalse((folder / "film.mp4").exists())
        there = len(list(folder.glob("film.take/trial*")))
        told = vexel("make", shot, "-o", folder / "film.mp4", "--json")
        self.assertEqual(told.returncode, 0, told.stderr)
        made, kept = map(int, re.search(r"(\d+) made, (\d+) reused, 0 failed, 0 waiting", told.stderr).groups())
        self.assertEqual(made + kept, 24)
        self.assertGreaterEqual(kept, there, "what was there is not made again")
        (file,) = json.loads(told.stdout)["files"]
        self.assertTrue(file["holds"])
        film = (folder / "film.mp4").read_bytes()
        self.assertIn("is there already", vexel("make", shot, "-o", folder / "film.mp4").stderr)
        self.assertEqual((folder / "film.mp4").read_bytes(), film)
        again = vexel("make", shot, "-o", folder / "film.mp4", "--overwrite")
        self.assertIn("0 made, 24 reused", again.stderr)
        self.assertIn("as planned", again.stdout)
        wrong = vexel("make", shot, "-o", folder / "film.txt")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("name the output with one of .apng, .gif", wrong.stderr)


class CaptureTest(unittest.TestCase):
    def test_a_capture_to_a_folder_does_not_wait_for_the_libraries_of_a_database(self):
        folder = scratch(self)
        shot, take = write_shot(folder), folder / "take"
        vexel("capture", shot, "--to", take)
        code = (
            "import sys\nfrom vexel.cli import main\n"
            f"main(['capture', {str(shot)!r}, '--to', {str(take)!r}, '--resume'], standalone_mode=False)\n"
            "print({'sqlalchemy', 'alembic', 'flask', 'vtkmodules', 'distributed'} & set(sys.modules))"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertRegex(done.stdout, r"6 reused.*\nset\(\)\n$")

    def test_progress_goes_to_standard_error(self):
        folder = scratch(self)
        rig = {"kind": "path", "keys": [{"position": [4, -4, 1]}, {"position": [4, 4, 1]}]}
        shot = write_shot(folder, clock={"rate": "12", "frames": 3}, camera={"rig": rig})
        told = vexel("capture", shot, "--to", folder / "out", "--workers", "1")
        self.assertEqual(told.returncode, 0, told.stderr)
        seam = r"finding: The camera ends \S+ away from where it began.* Play it once, with both ends\."
        self.assertRegex(told.stderr.split("0 of 3")[0], seam, "what only the source tells, before the first frame")
        self.assertIn("3 made, 0 reused, 0 failed, 0 waiting", told.stdout)
        self.assertIn("3 of 3 frames", told.stderr)
        self.assertNotIn("WARN", told.stderr)
        names = sorted(path.name for path in (folder / "out").iterdir())
        self.assertEqual(names, ["take.json", *(f"trial.shaded.000{n}.png" for n in range(3))])

    def test_an_interrupt_stops_and_says_how_to_go_on(self):
        folder = scratch(self)
        slow = "import time\n" + MODEL.replace("    return", "    time.sleep(0.3)\n    return")
        shot = write_shot(folder, slow, frames=60, lanes=LANES)
        status, out, err = interrupted(self, folder / "out", "capture", shot, "--to", folder / "out")
        self.assertEqual(status, 1)
        self.assertIn("Stopped. Add --resume to continue.", err)
        self.assertRegex(out, r"[1-9]\d* made, 0 reused, 0 failed, [1-9]\d* waiting")
        self.assertEqual(list(folder.glob("out/.*")), [], "no half written file is left")

    def test_on_a_terminal_an_interrupt_ends_the_line_and_shows_no_traceback(self):
        folder = scratch(self)
        slow = "import time\n" + MODEL.replace("    return", "    time.sleep(0.2)\n    return")
        shot = write_shot(folder, slow, frames=200, lanes=LANES)
        # Set before the fork: Python's own handler in the child would swallow an interrupt that comes before exec.
        self.addCleanup(signal.signal, signal.SIGINT, signal.signal(signal.SIGINT, signal.SIG_DFL))
        for mark, said in (("", ""), ("frames", "Stopped. Add --resume to continue.")):
            process, screen = pty.fork()
            if process == 0:
                os.environ["TERM"] = "xterm"
                words = ["capture", str(shot), "--to", str(folder / f"take{said[:1]}")]
                os.execv(sys.executable, [sys.executable, "-m", "vexel", *words])
            told = ""
            while os.tcgetpgrp(screen) != process:
                time.sleep(0.01)  # before that the terminal has nobody to interrupt
            while mark not in told:
                told += os.read(screen, 4096).decode()
            os.write(screen, b"\x03")
            with suppress(OSError):
                while data := os.read(screen, 4096):
                    told += data.decode()
            os.waitpid(process, 0)
            os.close(screen)
            self.assertNotIn("Traceback", told)
            if said:
                self.assertRegex(told, rf"\r\n(\^C)?vexel: {said}\r\n$")

    def test_a_frame_that_compiling_finds_damaged_is_made_again_by_resuming(self):
        folder = scratch(self)
        shot = write_shot(folder, MODEL, frames=3, lanes=LANES)
        take = folder / "take"
        self.assertEqual(vexel("capture", shot, "--to", take).returncode, 0)
        frame = sorted(take.glob("*.png"))[1]
        whole, stat = frame.read_bytes(), frame.stat()
        frame.write_bytes(whole[:-9] + bytes([whole[-9] ^ 1]) + whole[-8:])
        os.utime(frame, ns=(stat.st_atime_ns, stat.st_mtime_ns))
        told = vexel("compile", take, "-o", folder / "a.mp4")
        self.assertEqual(told.returncode, 1)
        self.assertIn("is no longer the frame that was made: it is set aside", told.stderr)
        self.assertEqual([path.name for path in (take / "damaged").iterdir()], [frame.name])
        self.assertEqual(vexel("capture", shot, "--to", take, "--resume").returncode, 0)
        self.assertEqual(frame.read_bytes(), whole)
        self.assertEqual(vexel("compile", take, "-o", folder / "a.mp4").returncode, 0)

    def test_code_of_a_project_from_elsewhere_waits_to_be_trusted(self):
        folder = scratch(self)
        (folder / "theirs/shots").mkdir(parents=True)
        (folder / "theirs/.project").write_text("made on another machine")
        ran, state = folder / "ran", ELSEWHERE | {"XDG_STATE_HOME": str(folder / "state")}
        code = f"open({str(ran)!r}, 'w')\n{MODEL}"
        shot = write_shot(folder / "theirs/shots", code, frames=2)
        for order in (("capture", shot, "--to", folder / "take"), ("path", shot, "-o", folder / "way.csv")):
            told = vexel(*order, **state)
            self.assertEqual(told.returncode, 1, told.stderr)
            self.assertIn("thing.py came with a project that you received", told.stderr)
        told = vexel("trust", folder / "theirs", **state)
        self.assertIn("nothing was trusted", told.stdout + told.stderr)
        self.assertFalse(ran.exists())
        self.assertEqual(vexel("trust", folder / "theirs", "--yes", **state).returncode, 0)
        told = vexel("capture", shot, "--to", folder / "take", "--resume", **state)
        self.assertEqual((told.returncode, ran.exists()), (0, True), told.stderr)
        write_shot(folder / "theirs/shots", code + "# changed\n", frames=2)
        self.assertEqual(vexel("capture", shot, "--to", folder / "other", **state).returncode, 1)
        told = vexel("capture", shot, "--to", folder / "other", "--resume", "--trust", **state)
        self.assertEqual(told.returncode, 0, told.stderr)

    def test_a_reel_leads_to_no_code_that_was_not_reviewed(self):
        folder = scratch(self)
        theirs, ran, state = folder / "theirs", folder / "ran", ELSEWHERE | {"XDG_STATE_HOME": str(folder / "state")}
        for part in ("shots/sub", "reels", "x", "sources"):
            (theirs / part).mkdir(parents=True)
        code = f"open({str(ran)!r}, 'w')\n{HEADER}{MODEL}"
        for place in ("x", "sources", "."):
            (theirs / place / "thing.py").write_text(code)
        for place, source in (("x/evil", "thing.py"), ("shots/evil2", "../sources/thing.py"), ("evil3", "thing.py")):
            (theirs / f"{place}.json").write_text(json.dumps(shot_document({"kind": "model", "file": source}, 2)))
        inner = {"title": "I", "items": [{"kind": "shot", "shot": "../x/evil.json"}]}
        (theirs / "reels/inner.json").write_text(json.dumps(inner))
        for number, (reel, item) in enumerate((
            ("theirs/reels/out.json", {"kind": "shot", "shot": "../x/evil.json"}),
            ("theirs/reels/out.json", {"kind": "shot", "shot": "../shots/sub/../evil2.json"}),
            ("theirs/reels/out.json", {"kind": "shot", "shot": "../evil3.json"}),
            ("loose.json", {"kind": "shot", "shot": "theirs/shots/evil2.json"}),
            ("loose.json", {"kind": "reel", "reel": "theirs/reels/inner.json"}),
        )):  # fmt: skip
            with self.subTest(item):
                document = {"title": "R", "rate": "12", "width": 96, "height": 64, "items": [item]}
                (folder / reel).write_text(json.dumps(document))
                told = vexel("reel", folder / reel, "-o", folder / f"r{number}.mp4", **state)
                self.assertIn("thing.py came with a project that you received", told.stderr)
                self.assertFalse(ran.exists())
        told = vexel("reel", folder / "loose.json", "-o", folder / "r.mp4", "--trust", **state)
        self.assertEqual((told.returncode, ran.exists()), (0, True), told.stderr)

    def test_no_scheduler_answers(self):
        folder = scratch(self)
        told = vexel("capture", write_shot(folder), "--to", folder / "o", "--scheduler", "tcp://127.0.0.1:9")
        self.assertEqual(told.returncode, 2, told.stderr)
        self.assertIn("no Dask scheduler answers at tcp://127.0.0.1:9", told.stderr)


class WrongCallTest(unittest.TestCase):
    def test_the_call_is_wrong(self):
        for arguments, words in (
            (("captur",), "No such command"),
            (("capture", "a.json"), "--to"),
            (("serve", "--port", "99999"), "99999"),
            (("inspect", "/nowhere/at/all"), "there is nothing at /nowhere/at/all"),
            (("compile", "/nowhere/at/all", "-o", "a.mp4", "--rate", "0"), "rate 0 gives no frames"),
        ):
            told = vexel(*arguments)
            self.assertEqual((told.returncode, told.stdout), (2, ""), arguments)
            self.assertIn(words, told.stderr)
            self.assertNotIn("Traceback", told.stderr)

    def test_a_taken_port_is_a_sentence(self):
        import socket

        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            for by_make, other in (("", f"--port {port + 1}"), ("1", f"PORT={port + 1} make demo")):
                told = vexel("serve", "--home", scratch(self) / "home", "--port", port, MAKELEVEL=by_make)
                sentence = f"vexel: port {port} is taken: choose another, such as {other}\n"
                self.assertEqual((told.returncode, told.stderr), (2, sentence))


if __name__ == "__main__":
    unittest.main()
