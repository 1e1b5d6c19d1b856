"""Stored files go out whole or in parts, from this machine or from a bucket, and only by the application's word."""

from __future__ import annotations

import socket
import threading

import boto3
import pytest
from apps.measuring import tasks
from apps.takes import services
from config.bucket import Bucket
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage, storages
from django.core.management import call_command
from moto.server import ThreadedMotoServer

from tests.server.conftest import client_of

pytestmark = pytest.mark.django_db
NAME = "recordings"


@pytest.fixture(scope="module")
def server():
    """A server that speaks S3, on loopback."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    running = ThreadedMotoServer(ip_address="127.0.0.1", port=port, verbose=False)
    running.start()
    yield f"http://127.0.0.1:{port}"
    running.stop()


def s3(server):
    return boto3.client(
        "s3", endpoint_url=server, region_name="eu-west-1", aws_access_key_id="x", aws_secret_access_key="y"
    )


@pytest.fixture
def bucket(server, settings):
    """The application's store is a bucket of its own, in a folder of that."""
    client = s3(server)
    client.create_bucket(Bucket=NAME, CreateBucketConfiguration={"LocationConstraint": "eu-west-1"})
    options = {
        "bucket_name": NAME, "endpoint_url": server, "region_name": "eu-west-1", "access_key": "x", "secret_key": "y",
        "location": "school", "file_overwrite": False, "default_acl": None,
        "object_parameters": {"ServerSideEncryption": "AES256"},
    }  # fmt: skip
    settings.STORAGES = settings.STORAGES | {"default": {"BACKEND": "config.bucket.Bucket", "OPTIONS": options}}
    settings.BEHIND_FRONT = True
    yield client
    for found in client.list_objects_v2(Bucket=NAME).get("Contents", ()):
        client.delete_object(Bucket=NAME, Key=found["Key"])
    client.delete_bucket(Bucket=NAME)


def names(client):
    return sorted(found["Key"] for found in client.list_objects_v2(Bucket=NAME).get("Contents", ()))


@pytest.fixture(params=["this machine", "a bucket"])
def store(request, settings):
    settings.BEHIND_FRONT = False
    if request.param == "a bucket":
        request.getfixturevalue("bucket")
    return storages["default"]


def sound(client, take, part=None):
    answer = client.get(f"/api/v1/takes/{take.pk}/original", headers={"Range": part} if part else {})
    return answer, b"".join(answer.streaming_content) if answer.streaming else answer.content


PARTS = {
    None: (200, slice(None)), "bytes=0-99": (206, slice(0, 100)), "bytes=100-": (206, slice(100, None)),
    "bytes=-50": (206, slice(-50, None)), "bytes=0-0": (206, slice(0, 1)),
    # Others than one part of bytes may be answered with the whole (RFC 9110, 14.2).
    "bytes=0-1,5-6": (200, slice(None)), "lines=1-2": (200, slice(None)), "bytes=x-": (200, slice(None)),
    "bytes=-": (200, slice(None)),
}  # fmt: skip


@pytest.mark.parametrize("part", PARTS)
def test_a_player_gets_the_part_it_asks_for(store, client, make_take, flac, part):
    status, expected = PARTS[part]
    answer, content = sound(client, make_take(), part)
    assert (answer.status_code, content) == (status, flac[expected])
    assert answer["Content-Length"] == str(len(content))
    assert answer["Accept-Ranges"] == "bytes"
    if status == 206:
        first = expected.indices(len(flac))[0]
        assert answer["Content-Range"] == f"bytes {first}-{first + len(content) - 1}/{len(flac)}"


def test_a_part_beyond_the_end_is_none(store, client, make_take, flac):
    answer, _ = sound(client, make_take(), f"bytes={len(flac)}-")
    assert (answer.status_code, answer["Content-Range"]) == (416, f"bytes */{len(flac)}")
    answer, content = sound(client, make_take(), f"bytes=10-{len(flac) * 9}")
    assert (answer.status_code, content) == (206, flac[10:])


def test_a_file_that_is_gone_from_the_store_is_said(store, client, make_take):
    take = make_take()
    take.upload.storage.delete(take.upload.name)
    answer, _ = sound(client, take)
    assert (answer.status_code, answer.json()["code"]) == (404, "not_found")


def test_a_take_lives_in_the_bucket_from_its_upload_to_its_end(
    bucket, client, make_take, teacher, stranger, django_capture_on_commit_callbacks
):
    take = make_take()
    assert names(bucket) == [f"school/{take.upload.name}"]
    head = bucket.head_object(Bucket=NAME, Key=f"school/{take.upload.name}")
    assert head["ServerSideEncryption"] == "AES256"
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert take.state == "measured"
    assert len(names(bucket)) == 3
    heard = client.get(f"/api/v1/takes/{take.pk}/sound", headers={"Range": "bytes=0-3"})
    assert (heard.status_code, b"".join(heard.streaming_content)) == (206, b"fLaC")
    # No address of an object leaves the application, and who may not hear it gets nothing.
    assert "X-Accel-Redirect" not in heard
    assert client_of(stranger).get(f"/api/v1/takes/{take.pk}/sound").status_code == 404
    assert client.get(f"/api/v1/takes/{take.pk}/curves").status_code == 200
    with django_capture_on_commit_callbacks(execute=True):
        services.delete(teacher, take)
    assert names(bucket) == []


def test_rows_and_objects_that_have_lost_each_other_are_named_and_mended(bucket, make_take, capsys, monkeypatch):
    take = make_take()
    default_storage.save("takes/zz/nobodys", ContentFile(b"x"))
    bucket.delete_object(Bucket=NAME, Key=f"school/{take.upload.name}")
    call_command("check_store", delete=True)
    told = capsys.readouterr().out
    assert f"not there: {take.upload.name}" in told
    assert "nobody’s: takes/zz/nobodys" in told  # young: it may be on its way to its row
    monkeypatch.setattr("apps.keeper.management.commands.check_store.YOUNG_S", -60.0)
    call_command("check_store", delete=True)
    assert "deleted: takes/zz/nobodys" in capsys.readouterr().out
    assert names(bucket) == []


def test_parts_of_a_bucket_come_one_after_the_other(bucket):
    store = storages["default"]
    assert isinstance(store, Bucket)
    name = store.save("x/large", ContentFile(bytes(range(256)) * 4096))
    part = store.part(name, 1000, 900_000)
    pieces = list(part.pieces)
    assert len(pieces) > 1
    assert b"".join(pieces) == (bytes(range(256)) * 4096)[1000:900_001]
    assert threading.active_count() < 50
