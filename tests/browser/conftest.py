"""One server with the demo project and one browser for all browser tests."""

from __future__ import annotations

import fcntl
import os
import shutil
import tempfile

import pytest

from tests.browser.page import Page, open_browser
from tests.serving import Server


@pytest.fixture(scope="session")
def demo_data(tmp_path_factory):
    """A data folder with the demo project built. Browsers beside each other have it made once."""
    above = tmp_path_factory.getbasetemp()
    shared = above.parent if "PYTEST_XDIST_WORKER" in os.environ else above
    data = shared / "demo" / "data"
    data.parent.mkdir(exist_ok=True)
    with (shared / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (data.parent / "ready").exists():
            Server(data, "demo").stop()
            (data.parent / "ready").touch()
    return data


@pytest.fixture(scope="session")
def server(tmp_path_factory, demo_data):
    data = tmp_path_factory.mktemp("browser") / "data"
    shutil.copytree(demo_data, data)
    server = Server(data)
    yield server
    server.stop()


@pytest.fixture(scope="session")
def downloads(tmp_path_factory):
    return tmp_path_factory.mktemp("downloads")


@pytest.fixture(scope="session")
def driver(server, downloads):
    driver = open_browser(downloads)
    # Where the processor draws, soft shadows take time that no test but their own looks at.
    driver.get(f"{server.base}/api/shelf")
    driver.execute_script("localStorage.setItem('vireo-habits', '{\"shading\": false}')")
    yield driver
    driver.quit()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item):
    """Keep a picture of the screen where a test failed."""
    report = yield
    page = item.funcargs.get("page") if hasattr(item, "funcargs") else None
    if report.when == "call" and report.failed and page is not None:
        path = f"{tempfile.gettempdir()}/vireo-{item.name}.png"
        page.shot(path)
        report.sections.append(("picture of the screen", path))
    return report


@pytest.fixture
def page(server, driver):
    page = Page(driver, server.base)
    page.complaints()  # what an earlier test left
    yield page
    assert page.complaints() == []


@pytest.fixture
def demo(server):
    """Ids of the demo documents by name."""
    shelf = server.call("GET", "/api/shelf")[1]["projects"]
    return {d["name"]: d["id"] for p in shelf for d in p["documents"]}
