"""Every confirmed edit survives kills of workers, front, database, or all (VELAMEN_LONG=1 for sixty of them)."""

import contextlib
import os
import random
import signal
import threading

from ops.shop import Served, until
from velamen.ops import kept as kept_module

KILLS = 60 if os.environ.get("VELAMEN_LONG") else 3
CALM = (0.15, 0.6)  # seconds between kills, once all answer again
BLANKET = 4


def children(pid):
    try:
        with open(f"/proc/{pid}/task/{pid}/children") as found:
            return [int(one) for one in found.read().split()]
    except OSError:  # it has been killed and is not begun again yet
        return []


def killed(served, what):
    """Kills by force: the database, the front, a worker's master, the worker itself, or all of them."""
    by_name = {one.name: one.process.pid for one in served.kept}
    worker = by_name["worker 1"]
    pids = {
        "database": [by_name["database"]], "front": [by_name["web server"]], "master": [worker],
        "worker": children(worker), "all": [*by_name.values(), *children(worker)],
    }[what]  # fmt: skip
    for pid in pids:
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)


def test_kills_lose_no_confirmed_edit(tmp_path, monkeypatch):
    monkeypatch.setattr(kept_module, "FIRST", 0.05)
    monkeypatch.setattr(kept_module, "LONGEST", 0.3)
    chance = random.Random(7)
    confirmed = {}
    with Served(tmp_path, monkeypatch) as served:
        person = until(served.person)
        stop = threading.Event()

        def works():
            number, nth = 1, 0
            while not stop.is_set():
                nth += 1
                value = f"{2.5 + (nth % 300) / 100:.2f}"
                try:
                    number = person.edit(BLANKET, number, value)
                    confirmed[number] = value
                except (OSError, TypeError):  # cut off, or a page that says to wait
                    number = until(lambda: person.revision(person.get(f"/jobs/{BLANKET}/build/")))

        worker = threading.Thread(target=works)
        worker.start()
        for nth in range(KILLS):
            stop.wait(chance.uniform(*CALM))
            killed(served, ["worker", "database", "all", "front", "master"][nth % 5])
            count = len(confirmed)
            for _ in range(600):
                if len(confirmed) > count or not worker.is_alive():
                    break
                stop.wait(0.1)
        stop.set()
        worker.join(90)
        kept = until(lambda: rows(served))
        sheet = ended_meanwhile(served, person)
    lost = {number: value for number, value in confirmed.items() if kept.get(number) != f"cover width {value}"}
    assert lost == {} and len(confirmed) > KILLS
    assert sheet.startswith("%PDF")
    print(f"{KILLS} kills, {len(confirmed)} confirmed edits, none lost")


def ended_meanwhile(served, person):
    """A long answer that is under way when the front is told to end: it is finished."""
    answers = []
    asks = threading.Thread(target=lambda: answers.append(person.get(f"/jobs/{BLANKET}/files/runsheet.pdf")))
    until(lambda: person.get(f"/jobs/{BLANKET}/build/"))
    asks.start()
    asks.join(0.15)
    assert asks.is_alive()
    served.resting = True
    served.web.end()
    asks.join(30)
    return answers[0] if answers else ""


def rows(served):
    import MySQLdb

    try:
        connection = MySQLdb.connect(
            host="127.0.0.1", port=served.database.port, user="velamen", password=served.database._password(),
            database="velamen",
        )  # fmt: skip
    except MySQLdb.OperationalError as error:
        raise OSError(str(error)) from None
    cursor = connection.cursor()
    cursor.execute("SELECT number, label FROM jobs_revision WHERE job_id = %s", [BLANKET])
    found = dict(cursor.fetchall())
    connection.close()
    return found
