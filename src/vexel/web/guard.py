"""The session guard: a local server that runs code is a target for any page that is open.

A request must name an allowed Host and carry the session cookie; one that
changes something must come from the application's own origin.
"""

import hmac
import secrets
from urllib.parse import urlencode

from flask import Flask, Response, make_response, redirect, request
from werkzeug.wrappers import Response as BaseResponse

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; media-src 'self'; object-src 'none'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)


class Guard:
    """Admits the user of this machine, and no page of another origin.

    Parameters
    ----------
    secret : str
        What the cookie must hold.
    port : int
    push_key : str
        What the address for frames must hold.
    """

    def __init__(self, secret: str, port: int, push_key: str = "") -> None:
        self._secret = secret
        self._push_key = push_key
        self._port = port
        self._token = secrets.token_urlsafe(24)
        self.hosts = {f"{name}:{port}" for name in ("127.0.0.1", "localhost", "[::1]")}
        # Browsers share cookies between the ports of a host: two projects that are open would overwrite each other's.
        self.cookie = f"vexel_{port}"

    @property
    def start_url(self) -> str:
        """The address that lets a browser in, once."""
        return f"http://127.0.0.1:{self._port}/?{urlencode({'token': self._token})}"

    def watch(self, app: Flask) -> None:
        """Put the guard before every request, and its headers on every answer."""
        app.before_request(self._admit)
        app.after_request(self._mark)

    def _admit(self) -> BaseResponse | None:
        # A page of another name that is made to resolve to this machine (DNS rebinding) still names itself here.
        if request.host not in self.hosts:
            return _refusal("This address is not one of Vexel's own: open the start address that Vexel printed.")
        if request.path.startswith("/push/"):
            return self._admit_program()
        origin = request.headers.get("Origin")
        own = {f"http://{host}" for host in self.hosts}
        if request.method not in SAFE_METHODS and origin not in own:
            return _refusal("A change must come from Vexel's own pages, with their Origin.")
        if origin is not None and origin not in own:
            return _refusal("Pages of another origin may not ask Vexel anything.")
        token = request.args.get("token")
        if token is not None and request.path == "/" and self._spend(token):
            entered = redirect("/", 303)
            entered.set_cookie(self.cookie, self._secret, httponly=True, samesite="Strict", max_age=31_536_000)
            return entered
        cookie = request.cookies.get(self.cookie, "")
        # In constant time: the duration must not reveal how much of a guess is right.
        if not cookie or not hmac.compare_digest(cookie.encode(), self._secret.encode()):
            return _refusal(
                "This browser has not been let in: open the start address that Vexel printed. "
                "It works once; start Vexel again for a new one."
            )
        return None

    def _admit_program(self) -> BaseResponse | None:
        """The user's own program sends no cookie and no Origin, but the key; a page would send an Origin."""
        key = request.path.split("/")[2]
        known = bool(self._push_key) and hmac.compare_digest(key.encode(), self._push_key.encode())
        if known and "Origin" not in request.headers:
            return None
        return _refusal("This is not the address for frames: copy it from New shot, or from what Vexel printed.")

    def _spend(self, token: str) -> bool:
        if not hmac.compare_digest(token.encode(), self._token.encode()):
            return False
        self._token = secrets.token_urlsafe(24)
        return True

    def _mark(self, response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        return response


def _refusal(sentence: str) -> Response:
    if request.path.startswith(("/api", "/push")):
        return make_response({"error": sentence}, 403)
    return Response(sentence, 403, mimetype="text/plain")
