"""Some seconds of damaged files for each kind of input; `tests/security/fuzz.py` says how to run it for longer."""

import traceback

import numpy as np
import pytest

from tests.security import fuzz

KINDS = fuzz.kinds()


@pytest.mark.parametrize("kind", KINDS, ids=[k.name for k in KINDS])
def test_damaged_files_are_refused_with_our_own_errors(kind, tmp_path):
    good = tmp_path / "good"
    for content in kind.good:
        good.write_bytes(content)
        kind.read(good)
    found = fuzz.attack(kind, tmp_path)
    for number, (_error, content) in enumerate(found.broken):
        (tmp_path / f"broken{number}").write_bytes(content)
    told = ["".join(traceback.format_exception(error)[-3:]) for error, _ in found.broken]
    assert not told, f"{found.read} read, {found.refused} refused, files in {tmp_path}:\n" + "\n".join(told)
    assert found.refused


def test_the_same_seed_damages_alike_and_another_otherwise():
    content = KINDS[0].good[0]
    one, again, other = (fuzz.damaged(content, np.random.default_rng(seed)) for seed in (1, 1, 2))
    assert one == again != other


def test_what_is_not_an_error_of_ours_is_found(tmp_path):
    def read(path):
        if path.read_bytes() != b"good":
            raise KeyError("a fault of ours")

    found = fuzz.attack(fuzz.Kind("x", (b"good",), read), tmp_path, seconds=30.0)
    assert len(found.broken) == 5
    assert isinstance(found.broken[0][0], KeyError)
