"""A browser, and a page on which maren of the Ormsel Loft is signed in."""

import os
import shutil

import pytest
from playwright.sync_api import expect, sync_playwright

from browser.pages import PATIENCE

# Playwright keeps an event loop; the database is only reached from the server's threads.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

expect.set_options(timeout=1000 * PATIENCE)


@pytest.fixture(scope="session")
def chromium():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
        )
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def visits(chromium, live_server):
    """One window for all tests: what never changes, as its scripts and styles, is read once."""
    context = chromium.new_context(
        viewport={"width": 1280, "height": 800}, base_url=live_server.url, reduced_motion="reduce"
    )
    context.set_default_timeout(1000 * PATIENCE)
    yield context
    context.close()


@pytest.fixture
def page(visits, live_server, client, maren):
    client.force_login(maren)
    visits.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": live_server.url}])
    page = visits.new_page()
    faults = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda line: line.type == "error" and faults.append(line.text))
    page.faults = faults
    yield page
    kept = {"origin": live_server.url, "storageTypes": "local_storage,indexeddb,cache_storage,service_workers"}
    visits.new_cdp_session(page).send("Storage.clearDataForOrigin", kept)
    for opened in visits.pages:
        opened.close()
    visits.clear_cookies()
