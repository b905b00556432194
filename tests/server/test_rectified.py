"""Photos laid over the panel: made once by a worker, made again when they are gone, forgotten when nobody looks."""

import datetime as dt
import io

import numpy as np
from django.core.files.storage import default_storage
from django.utils import timezone
from PIL import Image

from server.inspections.models import Photo, RectifiedPhoto
from server.inspections.rectifying import KEPT
from tests.server.helpers import DEAD, InspectionCase, photo, work


class Rectified(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        self.bench.send(self.run.pk, photo(self.run, "white"), "w")
        work()

    def test_a_photo_is_laid_over_the_panel_in_tiles(self) -> None:
        stored = Photo.objects.get()
        asked = self.bench.ok("POST", f"/photos/{stored.pk}/rectified", {"view": "photo"})
        self.assertEqual((asked["state"], asked["scale"]), ("waiting", 2))
        self.assertEqual(self.bench.call("GET", f"/rectified/{asked['id']}/0/0/0")[1]["type"], "/problems/not-made")
        work()
        made = self.bench.ok("GET", f"/rectified/{asked['id']}")
        self.assertEqual((made["state"], made["problem"]), ("made", ""))
        size, (x, y) = made["tile_px"], (2 * DEAD[0].x + 0.5, 2 * DEAD[0].y + 0.5)
        answer = self.bench.client.get(f"/api/rectified/{made['id']}/0/{int(x // size)}/{int(y // size)}")
        self.assertEqual((answer["Content-Type"], "immutable" in answer["Cache-Control"]), ("image/jpeg", True))
        seen = np.asarray(Image.open(io.BytesIO(answer.content)).convert("L"), float)
        row, column = round(y % size), round(x % size)
        around = seen[row - 14 : row + 15, column - 14 : column + 15]
        darkest = np.unravel_index(int(around.argmin()), around.shape)
        self.assertLess(np.hypot(darkest[0] - 14, darkest[1] - 14), 2)  # the dead pixel, where it is on the panel
        self.assertLess(around.min(), np.median(around) - 20)
        for bad in ("9/0/0", "0/99/0"):
            self.assertEqual(self.bench.call("GET", f"/rectified/{made['id']}/{bad}")[1]["type"], "/problems/no-tile")

    def test_a_view_is_made_once_and_again_when_its_file_is_gone(self) -> None:
        stored = Photo.objects.get()
        first = self.bench.ok("POST", f"/photos/{stored.pk}/rectified", {"view": "difference"})
        work()
        again = self.bench.ok("POST", f"/photos/{stored.pk}/rectified", {"view": "difference"})
        self.assertEqual((again["id"], again["state"]), (first["id"], "made"))
        default_storage.delete(RectifiedPhoto.objects.get().file)  # as after a backup was put back
        self.assertEqual(self.bench.call("GET", f"/rectified/{first['id']}/0/0/0")[0], 422)
        self.assertEqual(
            self.bench.ok("POST", f"/photos/{stored.pk}/rectified", {"view": "difference"})["state"], "waiting"
        )
        work()
        self.assertEqual(self.bench.ok("GET", f"/rectified/{first['id']}")["state"], "made")
        RectifiedPhoto.objects.update(looked_at=timezone.now() - KEPT - dt.timedelta(hours=1))
        old = RectifiedPhoto.objects.get()
        self.bench.ok("POST", f"/photos/{stored.pk}/rectified", {"view": "photo"})
        self.assertEqual([one.view for one in RectifiedPhoto.objects.all()], ["photo"])
        self.assertFalse(default_storage.exists(old.file))

    def test_a_photo_that_is_not_on_the_panel_says_so(self) -> None:
        stored = Photo.objects.get()
        Photo.objects.update(report=None)
        told = self.bench.call("POST", f"/photos/{stored.pk}/rectified", {"view": "photo"})
        self.assertEqual((told[0], told[1]["type"]), (422, "/problems/not-registered"))
        self.assertIn("not registered", told[1]["detail"])
