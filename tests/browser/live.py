"""A live server and its worker as processes of their own, and browsers, for the tests that drive the real interface."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from tests.server.helpers import person

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = [
    "--no-sandbox",
    "--disable-dev-shm-usage",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
AXE = settings.ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
AXE_ON_A_STILL_PAGE = """async () => {
    let drawn = 0
    const frame = () => new Promise(resolve => requestAnimationFrame(resolve))
    const observer = new MutationObserver(changes => { drawn += changes.length })
    observer.observe(document.body, {subtree: true, childList: true, attributeFilter: ['class', 'disabled', 'aria-disabled']})
    await frame()
    document.getAnimations().filter(a => a instanceof CSSTransition).forEach(a => a.finish())
    await frame()
    const found = await axe.run(document, {resultTypes: ['violations']})
    observer.disconnect()
    return [drawn, found.violations]
}"""
PASSWORD = "long-enough-1"
WAIT_MS = 90_000
expect.set_options(timeout=WAIT_MS)  # whichever test is run, alone or beside others


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _start(*command: str, environment: dict[str, str]) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [sys.executable, "-m", *command], cwd=settings.ROOT, env=environment, stdout=subprocess.DEVNULL
    )


def _stop(process: subprocess.Popen[bytes]) -> None:
    process.terminate()
    try:
        process.wait(15)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


class Served(TransactionTestCase):
    """One web server a class, on the test database; one worker a test."""

    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.port = _free_port()
        cls.url = f"http://127.0.0.1:{cls.port}"
        cls.environment = {
            **os.environ,
            "CLEAR_LENS_DB_NAME": str(connection.settings_dict["NAME"]),
            "CLEAR_LENS_DEMO": "1",
            "CLEAR_LENS_PUBLIC_URL": cls.url,
            "CLEAR_LENS_MEDIA": str(settings.MEDIA_ROOT),
        }
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        cls.start_server()

    @classmethod
    def start_server(cls) -> None:
        """On the same port as before."""
        web = (
            "uvicorn",
            "server.config.asgi:application",
            "--port",
            str(cls.port),
            "--log-level",
            "error",
            "--timeout-graceful-shutdown",
            "1",
        )
        cls.server = _start(*web, environment=cls.environment)
        end = time.monotonic() + 30
        while True:
            try:
                urllib.request.urlopen(f"{cls.url}/api/me", timeout=1)
                return
            except OSError:
                if time.monotonic() > end:
                    raise
                time.sleep(0.2)

    @classmethod
    def stop_server(cls) -> None:
        """At once, as a crash would."""
        cls.server.kill()
        cls.server.wait()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        _stop(cls.server)
        super().tearDownClass()

    def setUp(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("truncate procrastinate_jobs cascade")
        person("tech")
        self.worker = _start("server.manage", "work", environment=self.environment)

    def tearDown(self) -> None:
        _stop(self.worker)

    @contextmanager
    def page(self, signed_in: bool = True, **options: Any) -> Iterator[Page]:
        """A page of its own browser context; page errors fail the test."""
        context = self.browser.new_context(
            **{"viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce", **options}
        )
        page = context.new_page()
        page.set_default_timeout(WAIT_MS)
        errors: list[str] = []
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.on(
            "console", lambda m: errors.append(m.text) if m.type == "error" and "Content Security" in m.text else None
        )
        try:
            if signed_in:
                page.goto(f"{self.url}/jobs")
                page.get_by_label("Name").fill("tech")
                page.get_by_label("Password").fill(PASSWORD)
                page.get_by_role("button", name="Sign in").click()
                page.get_by_role("heading", name="Jobs").wait_for()
            yield page
            self.assertEqual(errors, [])
        finally:
            context.close()

    def assert_accessible(self, page: Page, where: str) -> None:
        """axe-core finds nothing serious or critical.

        It notes which controls are disabled when it begins and reads colours later, so only a run during which nothing was drawn anew counts. A
        transition begun just before stands at its first colour until the next frame, however short it is, and no frame comes while axe works: two
        frames go by first.
        """
        page.evaluate(AXE.read_text(encoding="utf-8") + "; undefined")
        for _ in range(20):
            drawn_anew, found = page.evaluate(AXE_ON_A_STILL_PAGE)
            if not drawn_anew:
                break
            page.wait_for_timeout(300)
        grave = [
            f"{v['id']}: {v['help']} {[n['html'][:120] for n in v['nodes'][:3]]}"
            for v in found
            if v["impact"] in ("serious", "critical")
        ]
        self.assertEqual(grave, [], where)
