"""Many takes at once on the command line."""

from __future__ import annotations

import csv
import io
import os

import pytest
import soundfile
from fortimetra import batch
from fortimetra.cli import main
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.model.analysis import Analysis
from fortimetra.player.faults import Faults, NoteFault
from fortimetra.player.rendering import render


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """Two takes, a letter, and a second folder with a take of the same name."""
    at = tmp_path_factory.mktemp("evening")
    drill = fretted_then_bend(title="Quick", string=3, fret=7, repeats=1, bpm=120)
    (at / "drill.json").write_text(drill.model_dump_json(by_alias=True))
    (at / "second").mkdir()
    for name, cents in (("one.wav", -21.0), ("two.wav", 2.0), ("second/one.wav", 0.0)):
        sound, truth = render(drill, Faults(notes={"bend": NoteFault(cents=cents)}))
        soundfile.write(at / name, sound, truth.sample_rate_hz)
    (at / "letter.wav").write_bytes(b"Dear Ines, the dog ate my recording.")
    return at


def rows_of(text):
    return list(csv.DictReader(io.StringIO(text, newline=""), strict=True))


def test_a_folder_of_takes_becomes_one_table_and_a_result_each(folder, tmp_path, capsys):
    table, out = tmp_path / "table.csv", tmp_path / "out"
    status = main(
        [
            "batch",
            str(folder),
            "--drill",
            str(folder / "drill.json"),
            "--table",
            str(table),
            "--out",
            str(out),
            "--jobs",
            "2",
        ]
    )
    assert status == 1  # one could not be measured, and the table says so
    rows = {r["take"].removeprefix(f"{folder}/"): r for r in rows_of(table.read_bytes().decode())}
    assert set(rows) == {"one.wav", "two.wav", "second/one.wav", "letter.wav"}
    assert float(rows["one.wav"]["bend_error_cents"]) == pytest.approx(-21, abs=1)
    assert "not an audio file" in rows["letter.wav"]["problem"]
    assert rows["letter.wav"]["asked"] == ""
    assert sorted(f.name for f in out.iterdir()) == ["one-2.json", "one.json", "two.json"]
    assert Analysis.parse((out / "two.json").read_bytes()).summary.asked == int(rows["two.wav"]["asked"])
    assert "4/4" in capsys.readouterr().err


def test_a_list_says_which_take_was_played_to_which_drill(folder, capsys):
    (folder / "list.csv").write_text("take,drill\ntwo.wav,drill.json\n")
    assert main(["batch", "--list", str(folder / "list.csv")]) == 0
    printed = capsys.readouterr().out.splitlines()
    assert printed[0].split() == ["take", "clean", "of", "%", "bend", "¢", "bias", "ms", "jitter", "ms", "probably"]
    assert printed[1].startswith("two.wav")


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["batch"], "nothing to measure"),
        (["batch", "--list", "{}/drill.json"], "the columns are"),
        (["batch", "--list", "{}/none.csv"], "No such file"),
    ],
)
def test_a_batch_that_cannot_be_is_one_line(folder, capsys, arguments, says):
    assert main([a.format(folder) for a in arguments]) == 2
    error = capsys.readouterr().err
    assert says in error
    assert error.count("\n") == 1


def test_processes_beside_each_other_have_one_thread_each(monkeypatch):
    for name in batch.THREADS:
        monkeypatch.delenv(name, raising=False)
    monkeypatch.setenv("OPENBLAS_NUM_THREADS", "3")  # somebody has said so
    with batch._one_thread_each():
        assert [os.environ[name] for name in batch.THREADS] == ["1", "3", "1", "1"]
    assert [os.environ.get(name) for name in batch.THREADS] == [None, "3", None, None]


def test_a_drill_is_read_once_for_all_of_its_takes(folder, monkeypatch):
    read = []
    monkeypatch.setattr(batch.Drill, "read", lambda path: read.append(path))
    batch._drill.cache_clear()
    for _ in range(3):
        batch._drill(folder / "drill.json")
    assert read == [folder / "drill.json"]
    batch._drill.cache_clear()
