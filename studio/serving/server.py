"""The studio's server: one process, a loop that receives requests and threads that answer whole ones."""

from __future__ import annotations

import logging
import signal
import time
from functools import partial
from typing import Any

from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.server import TcpWSGIServer

from studio.serving.door import Parser, with_files
from studio.serving.turns import FairDispatcher

THREADS = 8
# A request's head has to be there after so many seconds; its body so fast from then on (bytes a
# second), measured from so many seconds on.
HEAD_S, BODY_RATE, BODY_GRACE_S = 15.0, 20_000, 20.0
# Open connections in all and of one address; a window has a few.
CONNECTIONS, OF_ONE_ADDRESS = 500, 100
# Kept open without a request for so long, looked at every so many seconds.
IDLE_S, LOOK_S = 75, 5
_HEAD_BYTES = 32_768
# Answers wait for slow readers on disk, not in a thread.
_OUT_BYTES = 1 << 31


class Channel(HTTPChannel):
    """One connection."""

    def __init__(self, server: Any, sock: Any, addr: Any, adj: Any, map: Any = None) -> None:  # noqa: A002
        super().__init__(server, sock, addr, adj, map=map)
        self._address = str(addr[0])
        self.parser_class: Any = partial(Parser, address=self._address)
        self._begun: float | None = None

    @property
    def whose(self) -> tuple[str, bool]:
        """Whose turn this is, and whether it is about files (`Turns`)."""
        asked = self.requests[0] if self.requests else None
        return self._who, asked is not None and with_files(asked.command, asked.path, asked.query)

    @property
    def _who(self) -> str:
        """The address; a proxy tells whose requests it passes on."""
        if self._address == self.adj.trusted_proxy and self.requests:
            told = self.requests[0].headers.get("X_FORWARDED_FOR", "")
            return told.rsplit(",", 1)[-1].strip() or self._address
        return self._address

    def received(self, data: bytes) -> bool:
        if self._begun is None:
            self._begun = time.monotonic()
        out = super().received(data)
        if self.request is None:
            self._begun = None
        return bool(out)

    def too_slow(self, now: float) -> bool:
        """Whether the request that arrives takes longer than one may."""
        if self.requests:
            return False
        if self._begun is None or self.request is None:
            return False
        spent = now - self._begun
        if not self.request.headers_finished:
            return spent > HEAD_S
        return spent > BODY_GRACE_S and self.request.body_bytes_received < BODY_RATE * spent


class Server(TcpWSGIServer):
    """Waitress, with limits on time and on connections of one address."""

    channel_class = Channel

    def handle_accept(self) -> None:
        before = set(self.active_channels)
        super().handle_accept()
        for number in set(self.active_channels) - before:
            channel = self.active_channels[number]
            own = [c for c in self.active_channels.values() if c._address == channel._address]
            if channel._address != self.adj.trusted_proxy and len(own) > OF_ONE_ADDRESS:
                channel.will_close = True

    def maintenance(self, now: float) -> None:
        super().maintenance(now)
        for channel in self.active_channels.values():
            if channel.too_slow(time.monotonic()):
                channel.will_close = True


def serve(application: Any, host: str, port: int, proxy: str = "") -> None:
    """Serve until the process is told to end.

    Parameters
    ----------
    proxy : str
        Address of a web server in front, whose words on who asks and how are believed.
    """
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    more: dict[str, Any] = {}
    if proxy:
        more = {
            "trusted_proxy": proxy, "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
            "trusted_proxy_count": 1,
        }  # fmt: skip
    adj = Adjustments(
        host=host, port=port, threads=THREADS, ident=None, connection_limit=CONNECTIONS,
        cleanup_interval=LOOK_S, channel_timeout=IDLE_S, channel_request_lookahead=1,
        max_request_header_size=_HEAD_BYTES, outbuf_high_watermark=_OUT_BYTES,
        log_socket_errors=False, asyncore_use_poll=True, **more,
    )  # fmt: skip
    server = Server(
        application, {}, dispatcher=FairDispatcher(THREADS), adj=adj, sockinfo=adj.listen[0]
    )

    def end(number: int, frame: Any) -> None:
        raise SystemExit(0)

    signal.signal(signal.SIGTERM, end)
    server.run()
