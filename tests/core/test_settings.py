"""Settings are data: each with a unit in its name or none to have, a meaning, a source; and an experiment shows in
the digest.
"""

import dataclasses
import json
import os
import subprocess
import sys

import pytest
from fortimetra.hear.settings import ONSETS
from fortimetra.pipeline.versions import SETTINGS_DIGEST, settings

ROWS = list(settings())


def test_every_setting_says_what_it_means_and_where_it_comes_from():
    assert len(ROWS) > 300
    for row in ROWS:
        assert row.meaning.endswith(".") and row.meaning[0].isupper(), row
        assert row.source, row


def test_no_name_comes_twice():
    assert len({row.name for row in ROWS}) == len(ROWS)


def test_settings_cannot_be_changed_in_passing():
    with pytest.raises(dataclasses.FrozenInstanceError):
        ONSETS.rise_db = 1.0


DIGEST = "from fortimetra.pipeline.versions import SETTINGS_DIGEST; print(SETTINGS_DIGEST)"


def digest_with(values: dict[str, object], code: str = DIGEST) -> str:
    """The digest in a process of its own, with other values."""
    given = os.environ | {"FORTIMETRA_SETTINGS": json.dumps(values)}
    return subprocess.run(
        [sys.executable, "-c", code], env=given, capture_output=True, text=True, check=True
    ).stdout.strip()


def test_another_value_has_another_digest():
    assert digest_with({}) == SETTINGS_DIGEST
    assert digest_with({"hear.onsets.rise_db": ONSETS.rise_db * 1.25}) != SETTINGS_DIGEST


def test_what_was_kept_with_other_values_is_not_taken_for_what_these_give():
    code = "from tests.kept import digest; print(digest('a take'))"
    usual, *others = (digest_with({"hear.onsets.rise_db": value}, code) for value in (2.2, 2.2, 2.75))
    assert others[0] == usual
    assert others[1] != usual


def test_a_setting_that_is_not_there_is_refused():
    with pytest.raises(subprocess.CalledProcessError):
        digest_with({"hear.onsets.nothing_db": 1.0})
