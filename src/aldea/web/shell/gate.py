"""The gate: what every request passes on its way in, and every answer on its way out.

Outermost of what is ours, so that an answer to an error has its page and its headers too.
"""

import logging
import re
from http import HTTPStatus

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from aldea.core.base.errors import AldeaError, NotFoundError
from aldea.web.shell.problems import BadRequestError, answer_of, failure_answer, too_large_answer

log = logging.getLogger("aldea.web")
CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}
ONLY_TLS = "max-age=31536000"  # a year: what was reached by TLS is not asked for without it
HOST = re.compile(r"(\[[0-9A-Fa-f:.]+\]|[A-Za-z0-9._-]+)(:[0-9]{1,5})?")
CONTROL = re.compile(r"[\x00-\x1f\x7f]")


class Gate:
    """Refuses what is no request, answers HEAD, and puts the headers on every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on; whatever comes of it, the answer is whole."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        answering = _Answering(scope, receive, send)
        refused = _refusal(scope)
        if refused is not None:
            if isinstance(refused, BadRequestError):  # no address of one's own can be made from it
                scope["headers"] = [pair for pair in scope["headers"] if pair[0] != b"host"]
            await answer_of(Request(scope), refused)(scope, receive, answering)
            return
        if answering.head:
            scope = {**scope, "method": "GET"}  # the server's own scope goes on saying HEAD
        try:
            await self.app(scope, receive, answering)
        except Exception:
            if answering.begun:
                raise
            log.exception("%s %s", scope["method"], scope["path"])
            await failure_answer(Request(scope))(scope, receive, answering)


def _refusal(scope: Scope) -> AldeaError | None:
    host = Headers(scope=scope).getlist("host")
    if scope.get("http_version") != "1.0" and (len(host) != 1 or not HOST.fullmatch(host[0])):
        return BadRequestError(
            "request", got=f"the host {', '.join(host)!r}", allowed="one host, by name or address"
        )
    if CONTROL.search(scope["path"]):
        return NotFoundError("address", got=repr(scope["path"]), allowed="a page of Aldea")
    return None


class _Answering:
    """An answer on its way out: with its headers, without a body where HEAD asked."""

    def __init__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self.scope, self.receive, self.send = scope, receive, send
        self.head = scope["method"] == "HEAD"
        self.begun = False
        self._replaced = False

    async def __call__(self, message: Message) -> None:
        if self._replaced:
            return
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            if self._is_bare_refusal(message, headers):
                self._replaced = True
                answer = too_large_answer(Request(self.scope))
                own = _Answering(self.scope, self.receive, self.send)
                own.head = self.head
                await answer(self.scope, self.receive, own)
                return
            self.begun = True
            headers.update(HEADERS)
            if self.scope.get("scheme") == "https":
                headers["Strict-Transport-Security"] = ONLY_TLS
            if not self.scope["path"].startswith("/static/"):
                headers.setdefault("Cache-Control", "no-store")
        elif self.head and message["type"] == "http.response.body":
            if message.get("more_body"):
                return
            message = {"type": "http.response.body", "body": b""}
        await self.send(message)

    def _is_bare_refusal(self, message: Message, headers: MutableHeaders) -> bool:
        bare = headers.get("content-type", "").startswith("text/plain")
        return bare and message["status"] == HTTPStatus.REQUEST_ENTITY_TOO_LARGE
