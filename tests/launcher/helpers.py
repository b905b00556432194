"""Instances in temporary folders, stopped and removed at the end."""

import shutil
import tempfile
from pathlib import Path
from unittest import TestCase

from benchmarks.shop import Shop


class ShopCase(TestCase):
    """A test with shops of its own."""

    def shop(self, port: int = 8700) -> Shop:
        # short, since PostgreSQL's sockets have short names, and passable for user postgres
        home = Path(tempfile.mkdtemp(prefix="cl-", dir="/var/tmp"))
        home.chmod(0o711)
        shop = Shop(home / "var", port)
        self.addCleanup(shutil.rmtree, home, ignore_errors=True)
        self.addCleanup(shop.run, "stop")
        self.addCleanup(shop.stop)
        return shop
