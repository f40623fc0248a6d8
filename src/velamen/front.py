"""The front: takes requests in whole before they reach the application, and leads each job to one worker always.

Slow senders keep a connection, never a thread. A worker knows the jobs it builds: an edit touches only what it must.
"""

from __future__ import annotations

import argparse
import asyncio
import os
import re
import zlib
from collections.abc import Sequence
from tempfile import SpooledTemporaryFile
from typing import IO

from aiohttp import (
    ClientConnectorError,
    ClientError,
    ClientResponse,
    ClientSession,
    ClientTimeout,
    DummyCookieJar,
    UnixConnector,
    web,
)
from yarl import URL

MOST = 25_000_000  # bytes of a request
IN_MEMORY = 1_000_000  # of them; the rest goes to a temporary file
SENT_WITHIN = 60.0  # seconds for all of a request
FINISHED_WITHIN = 30.0  # seconds for answers under way once it is ended
JOB = re.compile(r"/jobs/(\d{1,18})/")
NOT_PASSED = frozenset(
    ["connection", "keep-alive", "proxy-authenticate", "proxy-authorization", "te", "trailer", "transfer-encoding",
     "upgrade", "content-length", "expect", "x-real-ip", "x-forwarded-for", "x-forwarded-proto"]
)  # fmt: skip
TOO_LARGE = f"That is larger than {MOST // 1_000_000} MB: send less at once.\n"
TOO_SLOW = f"That took longer than {SENT_WITHIN:.0f} seconds to arrive: send it again.\n"
AWAY = "Velamen is being started again: try it in some seconds. Nothing saved is lost.\n"


class Front:
    """Leads requests to workers, each listening at a socket. behind: another server in front tells who asks."""

    def __init__(self, sockets: Sequence[str], behind: bool) -> None:
        self._sockets, self._behind = sockets, behind
        self._sessions: list[ClientSession] = []

    async def open(self, app: web.Application) -> None:
        """Makes ready to reach the workers."""
        self._sessions = [
            ClientSession(
                connector=UnixConnector(path, limit=0), timeout=ClientTimeout(total=None, sock_connect=5),
                auto_decompress=False, cookie_jar=DummyCookieJar(),
            )
            for path in self._sockets
        ]  # fmt: skip

    async def close(self, app: web.Application) -> None:
        """Lets go of the workers."""
        for session in self._sessions:
            await session.close()

    async def handle(self, request: web.Request) -> web.StreamResponse:
        """Answers a request with what a worker answers."""
        try:
            return await self._handled(request)
        except ConnectionError:
            raise asyncio.CancelledError from None  # whoever asked has gone

    async def _handled(self, request: web.Request) -> web.StreamResponse:
        with SpooledTemporaryFile(IN_MEMORY) as body:
            try:
                size = await asyncio.wait_for(_take(request, body), SENT_WITHIN)
            except TimeoutError:
                return web.Response(status=408, text=TOO_SLOW)
            if size > MOST:
                return web.Response(status=413, text=TOO_LARGE)
            cookies = request.cookies
            first = self.place_of(request.path, cookies.get("sessionid") or cookies.get("csrftoken", ""))
            for nth in range(len(self._sessions)):
                body.seek(0)
                session = self._sessions[(first + nth) % len(self._sessions)]
                address = URL(f"http://worker{request.raw_path}", encoded=True)
                asked = session.request(
                    request.method, address, headers=self._headers(request),
                    data=body.read() if size else None, allow_redirects=False,
                )  # fmt: skip
                try:
                    answer = await asked
                except ClientConnectorError:
                    continue  # it was not sent
                except (ClientError, OSError):
                    if request.method not in ("GET", "HEAD"):
                        break  # it may have been done
                    continue
                async with answer:
                    return await _given(request, answer)
        return web.Response(status=503, text=AWAY, headers={"Retry-After": "5"})

    def place_of(self, path: str, session: str) -> int:
        """Which worker a request goes to: by its job, by the person otherwise."""
        job = JOB.match(path)
        return (int(job[1]) if job else zlib.crc32(session.encode())) % len(self._sockets)

    def _headers(self, request: web.Request) -> list[tuple[str, str]]:
        passed = [(name, value) for name, value in request.headers.items() if name.lower() not in NOT_PASSED]
        told = request.headers.get("X-Forwarded-For", "").rpartition(",")[2].strip() if self._behind else ""
        passed.append(("X-Real-IP", told or request.remote or ""))
        if self._behind:
            passed.append(("X-Forwarded-Proto", request.headers.get("X-Forwarded-Proto", "http")))
        return passed


async def _take(request: web.Request, body: IO[bytes]) -> int:
    """Takes a request's body in, and how many bytes it has, as far as they may be."""
    size = 0
    async for part in request.content.iter_any():
        size += len(part)
        if size > MOST:
            break
        body.write(part)
    return size


async def _given(request: web.Request, answer: ClientResponse) -> web.StreamResponse:
    """Hands an answer on as it comes."""
    given = web.StreamResponse(status=answer.status, reason=answer.reason)
    for name, value in answer.headers.items():
        if name.lower() not in NOT_PASSED or name.lower() == "content-length":
            given.headers.add(name, value)
    await given.prepare(request)
    async for part in answer.content.iter_any():
        await given.write(part)
    await given.write_eof()
    return given


def main() -> None:
    """Serves until it is ended; answers under way are finished."""
    reader = argparse.ArgumentParser()
    reader.add_argument("--port", type=int, required=True)
    reader.add_argument("sockets", nargs="+")
    asked = reader.parse_args()
    front = Front(asked.sockets, os.environ.get("VELAMEN_TLS") == "1")
    app = web.Application(client_max_size=MOST)
    app.on_startup.append(front.open)
    app.on_cleanup.append(front.close)
    app.router.add_route("*", "/{path:.*}", front.handle)
    web.run_app(
        app, host="127.0.0.1", port=asked.port, print=None, access_log=None, shutdown_timeout=FINISHED_WITHIN,
        handler_cancellation=False,
    )  # fmt: skip


if __name__ == "__main__":
    main()
