"""A page has no network, by whatever door it tries; it gets the errors of a machine without one."""

import socket
import threading
import time
import unittest
from unittest import mock

from tests.helpers import scratch
from vexel.sources.browser.chromium import SANDBOX, sandboxed
from vexel.sources.browser.site import ORIGIN, Site
from vexel.sources.browser.tab import Tab

SECONDS = 20
PAGE = """<!doctype html><body><script>
const there = "127.0.0.1:%d", told = {};
const fails = (name, promise) => promise.then(() => told[name] = "reached", error => told[name] = error.name);
const asked = (name, worker) => { worker.onmessage = event => told[name] = event.data };
const script = (say, from) => URL.createObjectURL(new Blob([
  `${from}fetch("http://${there}/w").then(() => ${say}("reached"), error => ${say}(error.name))`]));
fails("fetch", fetch(`http://${there}/fetch`));
fails("file", fetch("file:///etc/passwd"));
const socket = new WebSocket(`ws://${there}/`);
socket.onopen = () => told.socket = "reached"; socket.onerror = () => told.socket = "error";
const events = new EventSource(`http://${there}/events`);
events.onopen = () => told.events = "reached"; events.onerror = () => { told.events = "error"; events.close() };
asked("worker", new Worker(script("postMessage", "")));
const shared = new SharedWorker(script("event.ports[0].postMessage", "onconnect = event => "));
asked("shared", shared.port); shared.port.start();
navigator.sendBeacon(`http://${there}/beacon`, "x");
const link = Object.assign(document.createElement("a"), {href: "#here", ping: `http://${there}/ping`});
document.body.append(link); link.click();
for (const rel of ["dns-prefetch", "preconnect", "prefetch", "stylesheet", "modulepreload"])
  document.head.append(Object.assign(document.createElement("link"), {rel, href: `http://${there}/${rel}`}));
for (const kind of ["iframe", "img", "video", "embed"])
  document.body.append(Object.assign(document.createElement(kind), {src: `http://${there}/${kind}`}));
window.open(`http://${there}/window`);
const saved = Object.assign(document.createElement("a"), {href: "data:text/plain,x", download: "saved.txt"});
saved.click();
const found = [], account = {username: "a", credential: "b"};
const peer = new RTCPeerConnection({iceServers: [{urls: `stun:${there}`}, {urls: `turn:${there}`, ...account},
  {urls: `turn:${there}?transport=tcp`, ...account}]});
peer.createDataChannel("x");
peer.onicecandidate = event => event.candidate ? found.push(event.candidate.candidate) : told.peer = found.length;
peer.createOffer().then(offer => peer.setLocalDescription(offer));
const transport = from => `{const to = new WebTransport("https://${there}/"); to.closed.catch(() => 0);
  ${from}(to.ready)}`;
fails("transport", new Promise(opened => eval(transport("opened"))));
asked("apart", new Worker(URL.createObjectURL(new Blob([
  transport("const say = end => end.then(() => postMessage('reached'), error => postMessage(error.name)); say")]))));
fails("service", navigator.serviceWorker.register("page.html"));
fails("picker", showOpenFilePicker());
fails("usb", navigator.usb.getDevices());
fails("hid", navigator.hid.getDevices());
fails("serial", navigator.serial.getPorts());
</script>"""


class DoorsTest(unittest.TestCase):
    def listen(self, kind):
        """A socket that notes what reaches it."""
        listening = socket.socket(socket.AF_INET, kind)
        self.addCleanup(listening.close)
        listening.bind(("127.0.0.1", self.port))
        if kind == socket.SOCK_STREAM:
            self.port = listening.getsockname()[1]
            listening.listen(50)

        def take():
            try:
                while True:
                    self.reached.append(listening.accept() if kind == socket.SOCK_STREAM else listening.recv(99))
            except OSError:
                pass

        threading.Thread(target=take, daemon=True).start()

    def test_no_door_leads_out(self):
        self.port, self.reached = 0, []
        self.listen(socket.SOCK_STREAM)
        self.listen(socket.SOCK_DGRAM)
        folder = scratch(self)
        (folder / "page.html").write_text(PAGE % self.port)
        tab = Tab(320, 180, 2, Site(folder))
        self.addCleanup(tab.close)
        tab.go_to(f"{ORIGIN}/page.html", SECONDS)
        wanted = {
            **dict.fromkeys(("fetch", "file", "worker", "shared", "service"), "TypeError"),
            **dict.fromkeys(("socket", "events"), "error"),
            **dict.fromkeys(("transport", "apart"), "WebTransportError"),
            **dict.fromkeys(("picker", "usb", "hid", "serial"), "SecurityError"),
            "peer": 0,
        }
        end = time.monotonic() + SECONDS
        while not wanted.keys() <= (told := tab.evaluate("told", SECONDS)).keys() and time.monotonic() < end:
            time.sleep(0.05)
        self.assertEqual(told, wanted)
        time.sleep(1)
        self.assertEqual(self.reached, [])
        self.assertEqual(sorted(path.name for path in folder.iterdir()), ["page.html"])

    def test_the_browsers_own_sandbox_is_on_for_all_but_root(self):
        for user, said, on in ((0, "on", False), (1000, "on", True), (1000, "off", False)):
            with mock.patch("os.geteuid", return_value=user), mock.patch.dict("os.environ", {SANDBOX: said}):
                self.assertEqual(sandboxed(), on)


if __name__ == "__main__":
    unittest.main()
