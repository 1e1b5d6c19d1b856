"""What is sent compressed: text, never sound."""

import gzip
import json

import pytest

pytestmark = pytest.mark.django_db


def test_a_list_is_sent_compressed_and_says_the_same(client):
    plain = client.get("/api/v1/drills")
    packed = client.get("/api/v1/drills", headers={"accept-encoding": "gzip"})
    assert packed["Content-Encoding"] == "gzip"
    assert json.loads(gzip.decompress(packed.content)) == plain.json()
    assert len(packed.content) < len(plain.content) / 3


def test_the_same_answer_has_another_length_each_time(client):
    """Padding of random length: what is guessed into an answer does not show in its size (BREACH, 2013)."""
    asked = {client.get("/api/v1/drills", headers={"accept-encoding": "gzip"})["Content-Length"] for _ in range(12)}
    assert len(asked) > 1


def test_sound_is_sent_as_it_is(client, make_take, flac):
    sent = client.get(f"/api/v1/takes/{make_take().pk}/original", headers={"accept-encoding": "gzip"})
    assert "Content-Encoding" not in sent and sent["Content-Length"] == str(len(flac))
    assert b"".join(sent.streaming_content) == flac
