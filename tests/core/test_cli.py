"""The command line, as a person or a script meets it."""

import json
import subprocess
import sys

import pytest
import soundfile
from fortimetra import Analysis, Drill, Setup
from fortimetra.cli import main
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS
from fortimetra.drills.set_up import set_up
from fortimetra.formats.schemas import schemas
from fortimetra.model.guitar import preset
from fortimetra.player.faults import Faults, Truth
from fortimetra.player.rendering import render


@pytest.fixture(scope="module")
def folder(tmp_path_factory, pytestconfig):
    folder = tmp_path_factory.mktemp("cli")
    drill = pytestconfig.rootpath / "docs/formats/examples/drill.example.json"
    (folder / "drill.json").write_bytes(drill.read_bytes())
    (folder / "faults.json").write_text(json.dumps({"notes": {"e2": {"cents": -20}}}))
    (folder / "bad.wav").write_text("no sound")
    status = main(
        ["play", str(folder / "drill.json"), "--faults", str(folder / "faults.json"),
         "--out", str(folder / "take.wav"), "--truth", str(folder / "truth.json")]
    )  # fmt: skip
    assert status == 0
    return folder


def test_play_writes_a_take_and_its_truth(folder):
    truth = Truth.parse((folder / "truth.json").read_bytes())
    assert truth.invented is True
    assert next(n for n in truth.notes if n.id == "e2").reached_cents == 180.0


def test_analyse_prints_the_contracts_json(folder, capsys):
    assert main(["analyse", str(folder / "take.wav"), "--drill", str(folder / "drill.json")]) == 0
    found = Analysis.parse(capsys.readouterr().out)
    assert next(n for n in found.notes if n.id == "e2").bend.error_cents == pytest.approx(-20.0, abs=1.0)


def test_outputs_go_to_files_and_progress_to_standard_error(folder, capsys):
    out, csv, jams_file = folder / "r.json", folder / "c.csv", folder / "o.jams"
    arguments = ["analyse", str(folder / "take.wav"), "--drill", str(folder / "drill.json"), "--progress"]
    assert main([*arguments, "--out", str(out), "--contour", str(csv), "--jams", str(jams_file)]) == 0
    printed = capsys.readouterr()
    assert printed.out == ""
    assert printed.err.splitlines()[0] == "decode 0.00"
    found = Analysis.parse(out.read_bytes())
    rows = csv.read_text().splitlines()
    assert rows[0] == "time_s,f0_hz,cents_from_expected,confidence,level_dbfs,note_id,repeat"
    bend = next(n for n in found.notes if n.id == "e2" and n.repeat == 0)
    middle = rows[1 + round(sum(bend.bend.plateau) / 2 / 0.005)].split(",")
    assert float(middle[2]) == pytest.approx(-20.0, abs=1.5)
    assert middle[5:] == ["e2", "0"]
    import jams

    document = jams.load(str(jams_file), validate=True)
    assert {a.namespace for a in document.annotations} == {"note_hz", "pitch_contour"}
    assert len(document.annotations["note_hz"][0].data) == len(found.notes)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["analyse", "{}/bad.wav"], "not an audio file"),
        (["analyse", "{}/none.wav"], "cannot be opened"),
        (["analyse", "{}/take.wav", "--drill", "{}/bad.wav"], "not valid"),
        (["analyse", "{}/take.wav", "--out", "{}/no/such/folder.json"], "No such file"),
        (["play", "{}/drill.json", "--out", "{}/take.mp3"], "name a .wav or .flac file"),
        (["play", "{}/drill.json", "--faults", "{}/f2.json", "--out", "{}/x.wav"], "no event e9"),
    ],
)
def test_what_cannot_be_used_is_one_line_and_status_2(folder, capsys, arguments, says):
    (folder / "f2.json").write_text(json.dumps({"notes": {"e9": {"cents": 1}}}))
    before = sorted(p.name for p in folder.iterdir())
    assert main([a.replace("{}", str(folder)) for a in arguments]) == 2
    printed = capsys.readouterr()
    assert printed.out == ""
    assert printed.err.startswith("fortimetra: error: ")
    assert says in printed.err
    assert printed.err.count("\n") == 1
    assert sorted(p.name for p in folder.iterdir()) == before


def test_wrong_drill_is_status_2_and_leaves_no_result(folder, capsys):
    other = Drill.read(folder / "drill.json").model_copy(update={"tuning": (30, 31, 32, 33, 34, 35)})
    (folder / "other.json").write_text(other.model_dump_json(by_alias=True))
    out = folder / "never.json"
    assert main(["analyse", str(folder / "take.wav"), "--drill", str(folder / "other.json"), "--out", str(out)]) == 2
    assert "does not look like the drill" in capsys.readouterr().err
    assert not out.exists()


def test_a_reader_that_stops_reading_is_no_error(folder):
    command = f"{sys.executable} -m fortimetra.cli analyse {folder / 'take.wav'} | head -c 10"
    done = subprocess.run(["bash", "-o", "pipefail", "-c", command], capture_output=True, text=True)
    assert "Traceback" not in done.stderr


def test_schemas_are_valid_and_accept_the_examples(pytestconfig):
    import jsonschema

    examples = pytestconfig.rootpath / "docs/formats/examples"
    for name, text in schemas().items():
        schema = json.loads(text)
        jsonschema.Draft202012Validator.check_schema(schema)
        example = examples / name.replace(".schema.", ".example.")
        if example.exists():
            jsonschema.validate(json.loads(example.read_text()), schema)


def test_a_set_up_take_becomes_a_setup_file_that_later_takes_are_read_against(folder, capsys):
    drill, take, setup, guitar = (folder / name for name in ("up.json", "up.wav", "setup.json", "guitar.json"))
    drill.write_text(set_up().model_dump_json())
    guitar.write_text(preset("solid").model_dump_json())
    sound, truth = render(set_up(), Faults(tuning_offset_cents=(0, 9.0, 0, 0, 0, 0)))
    soundfile.write(take, sound, truth.sample_rate_hz, subtype="PCM_24")
    analyse = ["analyse", str(take), "--drill", str(drill), "--guitar", str(guitar), "--write-setup", str(setup)]
    assert main(analyse) == 0
    assert Analysis.parse(capsys.readouterr().out).setup.usable == "yes"
    assert Setup.read(setup).string_offset_cents[1] == pytest.approx(9.0, abs=1.0)
    later = ["analyse", str(folder / "take.wav"), "--drill", str(folder / "drill.json"), "--setup", str(setup)]
    assert main(later) == 0
    assert Analysis.parse(capsys.readouterr().out).reference.offset_source == "setup"
    assert main([*later, "--write-setup", str(folder / "no.json")]) == 2
    assert "no set-up take" in capsys.readouterr().err
    assert not (folder / "no.json").exists()


@pytest.mark.parametrize("kind", ["musicxml", "mid"])
def test_a_drill_goes_round_the_formats(folder, capsys, kind):
    drill, score, back, text = (folder / n for n in ("drill.json", f"d.{kind}", "back.json", "d.txt"))
    assert main(["convert", str(drill), str(score)]) == 0
    assert main(["convert", str(score), str(back)]) == 0
    assert capsys.readouterr().err == ""
    one, two = Drill.read(drill), Drill.read(back)
    assert [(n.midi, n.note.string) for n in one.asked()] == [(n.midi, n.note.string) for n in two.asked()]
    assert main(["convert", str(back), str(text)]) == 0
    assert "|" in text.read_text()


def test_what_a_conversion_does_not_keep_or_cannot_do_is_said(folder, capsys):
    muted = folder / "muted.json"
    muted.write_text(generate(GENERATORS["mute_check"], {}).model_dump_json(by_alias=True))
    assert main(["convert", str(muted), str(folder / "m.mid")]) == 0
    assert "note: Muted strings" in capsys.readouterr().err
    assert main(["convert", str(muted), str(folder / "m.pdf")]) == 2
    (folder / "x.xml").write_text("<html/>")
    assert main(["convert", str(folder / "x.xml"), str(folder / "x.json")]) == 2
    assert "not a MusicXML score" in capsys.readouterr().err
    assert not (folder / "x.json").exists()
