"""The front leads each job to one worker, waits for no slow sender, and says so where no worker answers."""

import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from http.server import BaseHTTPRequestHandler
from socketserver import ThreadingUnixStreamServer

import pytest

from velamen.front import MOST, Front
from velamen.ops.process import end, free_port, listening

SLOW = 40  # connections that never finish sending


class Worker(ThreadingUnixStreamServer):
    """Answers with its own name and what it was sent."""

    daemon_threads = True

    def __init__(self, path):
        self.asked = []
        super().__init__(str(path), Answers)


class Answers(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"

    def do_GET(self):
        body = self.rfile.read(int(self.headers.get("Content-Length", 0)))
        self.server.asked.append((self.command, self.path, dict(self.headers), body))
        said = f"{self.server.server_address.rsplit('/', 1)[1]} {len(body)}".encode()
        self.send_response(200)
        self.send_header("Content-Length", str(len(said)))
        self.send_header("Set-Cookie", "one=1")
        self.send_header("Set-Cookie", "two=2")
        self.end_headers()
        self.wfile.write(said)

    do_POST = do_GET

    def address_string(self):
        return "front"

    def log_message(self, *_):
        pass


@pytest.fixture
def workers(tmp_path):
    made = [Worker(tmp_path / name) for name in ("a", "b")]
    for one in made:
        threading.Thread(target=one.serve_forever, daemon=True).start()
    yield made
    for one in made:
        one.shutdown()
        one.server_close()


@pytest.fixture
def front(workers):
    port = free_port()
    command = [sys.executable, "-m", "velamen.front", "--port", str(port)]
    process = subprocess.Popen([*command, *(one.server_address for one in workers)])
    until = time.monotonic() + 20
    while not listening(port) and time.monotonic() < until:
        time.sleep(0.05)
    yield f"http://127.0.0.1:{port}"
    end(process.pid, lambda: process.poll() is None)


def get(address, **more):
    with urllib.request.urlopen(urllib.request.Request(address, **more), timeout=10) as answer:
        return answer.read().decode(), answer


def test_a_job_always_goes_to_the_same_worker_and_jobs_to_all(front, workers):
    said = [get(f"{front}/jobs/{nth}/build/?piece=p%201&x=%2F")[0] for nth in (1, 2, 3, 4, 1, 2)]
    assert said == ["b 0", "a 0", "b 0", "a 0", "b 0", "a 0"]
    assert workers[0].asked[0][1] == "/jobs/2/build/?piece=p%201&x=%2F"  # to the letter


def test_what_is_sent_and_answered_passes_whole(front, workers):
    said, answer = get(
        f"{front}/jobs/2/x/", data=b"z" * 3_000_000, headers={"X-Real-IP": "1.2.3.4", "Host": "shop.example"}
    )
    assert said == "a 3000000" and answer.headers.get_all("Set-Cookie") == ["one=1", "two=2"]
    _, _, headers, body = workers[0].asked[0]
    assert body == b"z" * 3_000_000 and headers["Host"] == "shop.example"
    assert headers["X-Real-IP"] == "127.0.0.1"  # nobody tells it for another


def test_senders_that_never_finish_keep_nobody_waiting(front, workers):
    port = int(front.rsplit(":", 1)[1])
    slow = [socket.create_connection(("127.0.0.1", port)) for _ in range(SLOW)]
    for nth, one in enumerate(slow):
        one.send(b"POST /jobs/2/x/ HTTP/1.1\r\nHost: a\r\nContent-Length: 99\r\n\r\nabc" if nth % 2 else b"GET / HTT")
    assert get(f"{front}/jobs/2/x/")[0] == "a 0" and len(workers[0].asked) == 1
    for one in slow:
        one.close()


def test_what_is_too_large_is_refused_unread(front, workers):
    with pytest.raises(urllib.error.HTTPError) as found:
        get(f"{front}/jobs/2/x/", data=b"z" * (MOST + 1))
    assert found.value.code == 413 and not workers[0].asked


def test_where_a_worker_is_away_another_answers(front, workers):
    workers[0].shutdown()
    workers[0].server_close()
    assert get(f"{front}/jobs/2/x/")[0] == "b 0"
    assert get(f"{front}/jobs/2/x/", data=b"edit")[0] == "b 4"


def test_an_edit_that_a_worker_may_have_done_is_not_sent_twice(front, workers, monkeypatch):
    def falls(self):
        self.rfile.read(4)
        self.server.asked.append("begun")
        self.connection.shutdown(socket.SHUT_RDWR)

    monkeypatch.setattr(Answers, "do_POST", falls)
    with pytest.raises(urllib.error.HTTPError) as found:
        get(f"{front}/jobs/2/x/", data=b"edit")
    assert found.value.code == 503 and found.value.headers["Retry-After"] == "5"
    assert "Nothing saved is lost" in found.value.read().decode()
    assert len(workers[0].asked) + len(workers[1].asked) == 1


def test_pages_outside_of_jobs_go_by_person():
    front = Front(["a", "b", "c"], False)
    assert front.place_of("/", "me") == front.place_of("/library/", "me")
    assert {front.place_of("/", str(nth)) for nth in range(20)} == {0, 1, 2}
