"""What a proxy says of a request (whose it is, over what) counts where the settings name it; from
anybody else it is nothing but a header that they wrote."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from wsgiref.types import StartResponse, WSGIApplication, WSGIEnvironment

from werkzeug.middleware.proxy_fix import ProxyFix


class Forwarded:
    """The application behind proxies with these addresses, one of them in the way."""

    def __init__(self, app: WSGIApplication, trusted: Collection[str]) -> None:
        self.trusted = trusted
        self.plain = app
        self.behind = ProxyFix(app, x_for=1, x_proto=1, x_host=1)

    def __call__(self, environ: WSGIEnvironment, start: StartResponse) -> Iterable[bytes]:
        known = environ.get("REMOTE_ADDR") in self.trusted
        return self.behind(environ, start) if known else self.plain(environ, start)
