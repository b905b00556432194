"""Photos in a store that speaks S3's protocol (moto's server stands in for one)."""

import os
import uuid
from typing import Any
from unittest import mock

import boto3
from django.conf import settings
from django.core.files.storage import default_storage
from django.test import override_settings
from moto.server import ThreadedMotoServer

from server.inspections import storage
from tests.server.helpers import InspectionCase, photo, work

KEYS = {"AWS_ACCESS_KEY_ID": "testing", "AWS_SECRET_ACCESS_KEY": "testing"}


class Elsewhere(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(mock.patch.dict(os.environ, KEYS))
        self.bucket = f"photos-{uuid.uuid4()}"
        self.server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
        self.server.start()
        self.addCleanup(self.server.stop)
        host, port = self.server.get_host_and_port()
        self.client = boto3.client("s3", endpoint_url=f"http://{host}:{port}", region_name="us-east-1")
        self.client.create_bucket(Bucket=self.bucket)
        options = {
            "bucket_name": self.bucket,
            "endpoint_url": f"http://{host}:{port}",
            "region_name": "us-east-1",
            "addressing_style": "path",
            "file_overwrite": True,
        }
        stores: dict[str, Any] = {
            **settings.STORAGES,
            "default": {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options},
        }
        self.enterContext(override_settings(STORAGES=stores, S3_BUCKET=self.bucket))

    def test_photos_are_kept_read_and_healed_there(self) -> None:
        data = photo(self.run, "white", seed=77)
        self.assertEqual(self.bench.send(self.run.pk, data, "k").status_code, 201)
        sha256 = self.run.photos.get().sha256
        self.assertEqual(
            [one["Key"] for one in self.client.list_objects_v2(Bucket=self.bucket)["Contents"]],
            [f"photos/{sha256[:2]}/{sha256}"],
        )
        work()
        self.assertEqual(self.bench.ok("GET", f"/runs/{self.run.pk}")["photos"][0]["status"], "read")
        self.client.put_object(Bucket=self.bucket, Key=f"photos/{sha256[:2]}/{sha256}", Body=b"broken")
        self.assertEqual(self.bench.send(self.run.pk, data, "k").status_code, 200)
        self.assertEqual(storage.hashlib.sha256(storage.load(sha256)).hexdigest(), sha256)

    def test_a_store_that_is_away_is_said_and_passes(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white", seed=78), "k")
        self.server.stop()
        from botocore.exceptions import EndpointConnectionError

        away = EndpointConnectionError(endpoint_url="http://store")
        with (
            mock.patch.object(type(default_storage._wrapped), "size", side_effect=away),
            self.assertLogs("clear_lens", "ERROR"),
        ):
            answer = self.bench.send(self.run.pk, photo(self.run, "white", seed=79), "k2")
        self.assertEqual((answer.status_code, answer.json()["type"]), (503, "/problems/store-away"))
        with (
            mock.patch.object(type(default_storage._wrapped), "open", side_effect=away),
            self.assertLogs("procrastinate", "ERROR"),
        ):
            work()
        self.assertNotEqual(self.bench.ok("GET", f"/runs/{self.run.pk}")["status"], "failed")
        self.server = ThreadedMotoServer(port=0)
        self.server.start()
