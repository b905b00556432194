"""A live server under uvicorn, its worker, and browsers, for the tests that drive the real interface."""

import os
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import uvicorn
from django.conf import settings
from django.db import connection, connections
from django.test import TransactionTestCase, override_settings
from playwright.sync_api import Browser, Page, Playwright, sync_playwright
from procrastinate.contrib.django import app

from server.config.asgi import application
from tests.server.helpers import person

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = [
    "--no-sandbox", "--disable-dev-shm-usage", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run",
]
AXE = settings.ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
PASSWORD = "long-enough-1"
WAIT_MS = 60_000


class Served(TransactionTestCase):
    """One uvicorn a class, on the test database; one worker thread a test."""

    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        listening = socket.socket()
        listening.bind(("127.0.0.1", 0))
        cls.url = f"http://127.0.0.1:{listening.getsockname()[1]}"
        cls.settings = override_settings(PUBLIC_URL=cls.url, DEMO=True, CSRF_TRUSTED_ORIGINS=[cls.url])
        cls.settings.enable()
        cls.server = uvicorn.Server(uvicorn.Config(application, log_level="error", timeout_graceful_shutdown=1))
        cls.thread = threading.Thread(target=cls.server.run, kwargs={"sockets": [listening]}, daemon=True)
        cls.thread.start()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        cls.server.should_exit = True
        cls.thread.join(10)
        cls.settings.disable()
        super().tearDownClass()

    def setUp(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("truncate procrastinate_jobs cascade")
        person("tech")
        self.stop_worker = threading.Event()
        self.worker = threading.Thread(target=self._work, daemon=True)
        self.worker.start()

    def tearDown(self) -> None:
        self.stop_worker.set()
        self.worker.join(60)

    def _work(self) -> None:
        try:
            while not self.stop_worker.wait(0.2):
                with app.replace_connector(app.connector.get_worker_connector()) as working:
                    working.run_worker(wait=False, install_signal_handlers=False, listen_notify=False)
        finally:
            connections.close_all()

    @contextmanager
    def page(self, signed_in: bool = True, **options: Any) -> Iterator[Page]:
        """A page of its own browser context; page errors fail the test."""
        context = self.browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **options})
        page = context.new_page()
        page.set_default_timeout(WAIT_MS)
        errors: list[str] = []
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.on("console", lambda m: errors.append(m.text) if m.type == "error" and "Content Security" in m.text else None)
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
        """axe-core finds nothing serious or critical."""
        page.evaluate(AXE.read_text(encoding="utf-8") + "; undefined")
        found = page.evaluate("axe.run(document, {resultTypes: ['violations']}).then(r => r.violations)")
        grave = [
            f"{v['id']}: {v['help']} {[n['html'][:120] for n in v['nodes'][:3]]}" for v in found if v["impact"] in ("serious", "critical")
        ]
        self.assertEqual(grave, [], where)


